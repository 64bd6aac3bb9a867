"""The record of a run as CSV, for whoever keeps one: times, temperatures, corrective actions."""

import csv
import io
from collections.abc import Iterable
from datetime import datetime

from aplomb.exchange.cells import safe

COLUMNS = (
    "number",
    "time",
    "block",
    "what",
    "value",
    "who",
    "was",
    "why",
    "undone",
    "corrective",
)
OUT_COLUMNS = ("block", "out of the cold", "back", "minutes", "temperatures")


def log_csv(lines: Iterable[tuple[object, ...]], out: Iterable[tuple[object, ...]]) -> bytes:
    """Write a record, and below it every time a block lay out of the cold.

    UTF-8 with a byte order mark; two tables with a blank line between them.

    Parameters
    ----------
    lines : iterable of tuple
        By `COLUMNS`.
    out : iterable of tuple
        By `OUT_COLUMNS`.
    """
    made = io.StringIO()
    rows = csv.writer(made, lineterminator="\r\n")
    rows.writerow(COLUMNS)
    rows.writerows([[_cell(each) for each in line] for line in lines])
    rows.writerow([])
    rows.writerow(OUT_COLUMNS)
    rows.writerows([[_cell(each) for each in row] for row in out])
    return b"\xef\xbb\xbf" + made.getvalue().encode()


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "yes" if value else ""
    if isinstance(value, datetime):
        return value.isoformat(timespec="seconds")
    if isinstance(value, float):
        return f"{value:.1f}"
    return safe(str(value))
