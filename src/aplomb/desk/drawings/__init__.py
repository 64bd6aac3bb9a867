"""Painters over plain data, alike on screen and paper."""
