"""What is typed into the lines of one part of a formula, made a change of it."""

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import decimal_sign, num, weight_text
from aplomb.core.base.quantity import parse_amount, parse_percent
from aplomb.core.base.units import Kind, Measures
from aplomb.core.paste.amounts import counted
from aplomb.core.paste.formula import Formula, Part, with_grams, with_percent
from aplomb.core.paste.ingredient import to_grams
from aplomb.core.paste.line import Line
from aplomb.work.figures.typed import bare_grams
from aplomb.work.open_book.workbench import Workbench

LONGEST_NOTE = 80
"""What of a note is kept [signs]."""


def measures_in(formula: Formula | None) -> Measures | None:
    """Tell whose cups and spoons a formula was written in; None where it does not say.

    A list of another country is kept in its own measures, so what is typed later is in them too.
    """
    for _, _, line in formula.all_lines() if formula is not None else ():
        for mark, measures in _MARKS:
            if mark in line.typed:
                return measures
    return None


_MARKS: tuple[tuple[str, Measures], ...] = (("US ", "us"), ("metric ", "metric"))
"""What stands before a cup or spoon that is not the house's own."""


class LineEdits:
    """Edits of the lines of a part; each raises AplombError when it cannot be used.

    A line is meant as it is shown: it is found in the formula in hand wherever it stands there now.

    Parameters
    ----------
    shown : callable
        Gives the lines that are shown, in their order.
    """

    def __init__(self, work: Workbench, part: Part, shown: Callable[[], Sequence[Line]]) -> None:
        self._work, self._part, self._shown = work, part, shown

    @property
    def formula(self) -> Formula:
        """The formula in hand."""
        formula = self._work.shelf.formula
        if formula is None:
            raise AplombError("No formula is open; nothing was changed.")
        return formula

    def place_of(self, line: Line) -> int:
        """Find a line that is shown in the formula in hand, wherever it stands there."""
        lines = self.formula.lines(self._part)
        same = [i for i, each in enumerate(lines) if each == line]
        for i, shown in enumerate(self._shown()):
            if shown is line and i in same:
                return i
        if len(same) != 1:
            raise AplombError("This line is no longer in the formula; nothing was changed.")
        return same[0]

    def grams(self, line: Line, text: str) -> None:
        """Take an amount."""
        formula, index = self.formula, self.place_of(line)
        reference = self._work.shelf.reference
        material = reference.pantry[line.material]
        study = self._work.shelf.study
        measures = measures_in(formula) or reference.house.measures
        amount = counted(parse_amount(text, decimal_sign(), measures), text, material)
        grams = to_grams(amount, material, study.accounts.flour_g if study else None, text)
        grams *= bare_grams() if amount.bare else 1.0
        plain = amount.bare or (amount.said.endswith(" g") and "+" not in amount.said)
        typed = "" if plain and amount.also is None and not amount.spread else text.strip()
        if typed and not any(sign.isdigit() for sign in text) and amount.kind is Kind.MASS:
            typed = amount.said
        if typed and measures != reference.house.measures:
            typed = amount.said_twice
        self._work.shelf.change(
            f"{material.name}: {weight_text(grams)}",
            with_grams(formula, self._part, index, grams, typed),
        )

    def percent(self, line: Line, text: str) -> None:
        """Take a percentage on flour."""
        formula, index = self.formula, self.place_of(line)
        pantry = self._work.shelf.reference.pantry
        percent = parse_percent(text, decimal_sign())
        self._work.shelf.change(
            f"{pantry[line.material].name}: {num(percent)} %",
            with_percent(formula, pantry, self._part, index, percent, text),
        )

    def add(self, key: str) -> None:
        """Put a line of a material at the end, of no weight yet."""
        self._change(f"add {self._name(key)}", lambda lines: lines.append(Line(key, 0.0)))

    def remove(self, line: Line) -> None:
        """Take a line out."""
        at = self.place_of(line)
        self._change(f"remove {self._name(line.material)}", lambda lines: lines.__delitem__(at))

    def swap_places(self, line: Line, other: Line) -> None:
        """Put a line where another is, and that where it was."""
        here, there = self.place_of(line), self.place_of(other)

        def swap(lines: list[Line]) -> None:
            lines[here], lines[there] = lines[there], lines[here]

        self._change(f"move {self._name(line.material)}", swap)

    def at_turn(self, line: Line, turn: int) -> None:
        """Sprinkle a line in at a turn; 0 for the last."""
        where = f"turn {turn}" if turn else "the last turn"
        self._put(line, f"{self._name(line.material).lower()} at {where}", turn=turn)

    def material(self, line: Line, key: str) -> None:
        """Put another material of the same weight into a line."""
        words = f"{self._name(key)} instead of {self._name(line.material).lower()}"
        self._put(line, words, material=key)

    def note(self, line: Line, words: str) -> None:
        """Give a line a note."""
        name = self._name(line.material).lower()
        self._put(line, f"note on {name}", note=words.strip()[:LONGEST_NOTE])

    def _put(self, line: Line, words: str, **changes: object) -> None:
        at = self.place_of(line)
        self._change(words, lambda lines: lines.__setitem__(at, replace(line, **changes)))

    def _name(self, key: str) -> str:
        return self._work.shelf.reference.pantry[key].name

    def _change(self, words: str, make: Callable[[list[Line]], None]) -> None:
        formula = self.formula
        lines = list(formula.lines(self._part))
        make(lines)
        self._work.shelf.change(words, formula.with_lines(self._part, tuple(lines)))
