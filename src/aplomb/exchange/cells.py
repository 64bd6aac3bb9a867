"""Cells of a table that goes out."""

from collections.abc import Sequence
from decimal import Decimal

from aplomb.core.base.texts import tidied_text

_LEADING = ("=", "+", "-", "@", "\uff1d", "\uff0b", "\uff0d", "\uff20")


def plain_number(value: float | None, spec: str = "") -> str:
    """Write a number as any table reads it: never as 6e-05; empty for None."""
    return "" if value is None else format(Decimal(format(value, spec)), "f")


def safe(text: str) -> str:
    """Keep a spreadsheet from taking a text for a sum, and signs out that its files cannot hold."""
    plain = tidied_text(text)
    return "'" + plain if _is_a_sum(plain) else plain


def _is_a_sum(text: str) -> bool:
    """Tell whether a spreadsheet might take a text for a sum, or it was kept from that."""
    return text.lstrip(" '").startswith(_LEADING)


def too_many(cells: Sequence[str], columns: int, separator: str) -> str:
    """Say when a line has more cells than the first one: its figures would stand a column along.

    Empty when it has not; empty cells at its end do not count.
    """
    if not any(cell.strip() for cell in cells[columns:]):
        return ""
    return (
        f"{len(cells)} cells, but the first line has {columns}: put a cell that contains "
        f"the separator, like 12{separator}50, in quotes"
    )


def taken_back(cell: str) -> str:
    """Give a text as it was before `safe` wrote it; any other text comes back as it is."""
    plain = cell[1:]
    return plain if cell[:1] == "'" and _is_a_sum(plain) else cell
