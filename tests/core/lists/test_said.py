"""A table of lines as bakers write them, answers beside: nothing silently wrong, little doubted.

The answers are common practice and arithmetic: cups and spoons as in `aplomb.core.base.units`
(published volumes), eggs and pinches with the spread of the hand.
"""

from pathlib import Path
from typing import NamedTuple

from aplomb.core.base.units import UNITS, Kind
from aplomb.core.lists.proposal import Proposal, understood
from aplomb.core.lists.reading import read_list
from aplomb.core.paste.formula import Part
from aplomb.core.paste.pantry import Pantry

TABLE = Path(__file__).with_name("said.txt")
PARTS = {part.value: part for part in Part}


class Said(NamedTuple):
    """A line, the material it means, grams between which the answer lies, and its mark."""

    line: str
    material: str
    amount: str
    mark: str
    part: str


def table() -> list[Said]:
    """Read the table; a line of it is one case."""
    rows = [
        [cell.strip(" ") for cell in row.split(" | ")]
        for row in TABLE.read_text(encoding="utf-8").splitlines()
        if row and not row.startswith("#")
    ]
    return [Said(*row, *([""] * (5 - len(row)))) for row in rows]


def wanted_g(amount: str, density: float | None) -> tuple[float, float] | None:
    """Grams that an answer allows: numbers and a unit, joined by + and -; None for no amount."""
    if amount == "-":
        return None
    low = high = 0.0
    sign = 1
    for term in amount.replace(" + ", "|+|").replace(" - ", "|-|").split("|"):
        if term in ("+", "-"):
            sign = 1 if term == "+" else -1
            continue
        *numbers, name = term.split()
        system = "metric" if name.startswith("metric_") else "us"
        unit = UNITS[system][name.removeprefix("metric_")]
        size = unit.size * ((density or 0.0) if unit.kind is Kind.VOLUME else 1.0)
        ends = [float(n) * size for n in numbers]
        low, high = (
            (low + ends[0], high + ends[-1]) if sign > 0 else (low - ends[-1], high - ends[0])
        )
    return low, high


def judge(case: Said, found: tuple[Proposal, ...], pantry: Pantry) -> str:
    """Tell how a line was read: right, doubted, wrong or silent (read wrongly and called sure)."""
    if len(found) != 1:
        return "right" if case.mark == "?" else "doubted"
    (read,) = found
    key = read.candidates[0] if read.candidates else ""
    right = case.material in ("-", key)
    if case.material == "-" and read.sure:
        return "silent"
    if key and case.material != "-" and case.amount.endswith("%"):
        right = right and read.amount is not None and read.amount.kind is Kind.PERCENT
        right = right and abs(read.amount.value - float(case.amount.split()[0])) < 1e-9
    elif case.material != "-":
        material = pantry[case.material]
        meant = wanted_g(case.amount, material.measure_g_ml)
        known = understood(read, material, 1000.0)
        if meant is None:
            right = right and (known is None or not read.sure)
        elif known is None:
            right = False
        else:
            slack = 0.022 * known.grams  # said twice, rounded
            right = right and meant[0] - slack <= known.grams <= meant[1] + slack
            if meant[0] < meant[1] and read.sure:  # a range is kept as two ends
                right = right and known.high_g > known.low_g
    if case.part:
        right = right and read.part is PARTS[case.part]
    if not right:
        return "silent" if read.sure else ("right" if case.mark in "?~" else "wrong")
    if case.mark == "?":
        return "right" if not read.sure else "silent"
    return "right" if read.sure or case.mark == "~" else "doubted"


def test_lines_are_read_as_they_are_meant(pantry):
    found = [
        (judge(case, read_list(case.line, pantry, ".", "us"), pantry), case.line)
        for case in table()
    ]
    assert [each for each in found if each[0] != "right"] == []
    assert len(found) > 600
