"""Cells of a sheet that goes out."""

_LEADING = ("=", "+", "-", "@", "\t", "\r")


def safe(text: str) -> str:
    """Keep a spreadsheet from taking a text for a sum."""
    return "'" + text if text.startswith(_LEADING) else text
