"""Figures read and written in the reader's way."""
