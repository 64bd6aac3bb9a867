"""Solid fat over temperature; firmness by cone penetration."""
