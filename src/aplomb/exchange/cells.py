"""Cells of a table that goes out."""

from aplomb.core.base.texts import tidied_text

_LEADING = ("=", "+", "-", "@", "\uff1d", "\uff0b", "\uff0d", "\uff20")


def safe(text: str) -> str:
    """Keep a spreadsheet from taking a text for a sum, and signs out that its files cannot hold."""
    plain = tidied_text(text)
    return "'" + plain if plain.lstrip().startswith(_LEADING) else plain


def taken_back(cell: str) -> str:
    """Give a text as it was before `safe` wrote it; any other text comes back as it is."""
    plain = cell[1:]
    return plain if cell[:1] == "'" and plain.lstrip().startswith(_LEADING) else cell
