"""What the core raises when a value cannot be used."""

import math

from aplomb.core.base.figures import bare_text, house_unit


class AplombError(Exception):
    """Something is wrong that the user can put right; the text says what, where, what to do."""


def as_sentence(error: Exception) -> str:
    """Write what was raised as a sentence: a capital first, one full stop last.

    Examples
    --------
    >>> as_sentence(AplombError('the file is empty'))
    'The file is empty.'
    """
    words = str(error)
    return f"{words[:1].upper()}{words[1:].removesuffix('.')}."


class TextError(AplombError):
    """A typed text cannot be used.

    Attributes
    ----------
    text : str
        The whole text as typed.
    start, end : int
        The half-open range of characters that is wrong.
    """

    def __init__(self, message: str, text: str, start: int, end: int) -> None:
        super().__init__(message)
        self.message = message
        self.text = text
        self.start = start
        self.end = max(end, start + 1)

    def pointed(self) -> str:
        """Give the text with a row of carets below the place that is wrong (two lines)."""
        shown = self.text.replace("\n", " ").replace("\t", " ")
        start, end = self.start, min(self.end, len(shown) + 1)
        if len(shown) > 70:
            cut = max(0, min(start - 20, len(shown) - 60))
            shown = ("… " if cut else "") + shown[cut : cut + 60]
            start, end = start - cut + (2 if cut else 0), end - cut + (2 if cut else 0)
            end = min(end, 64)
        return f"{shown}\n{' ' * start}{'^' * max(1, end - start)}"


def refuse_endless(text: str, longest: int) -> None:
    """Raise TextError for a text too long to be what it should be: no pattern tries all of it."""
    if len(text) > longest:
        raise TextError(
            f"{len(text)} characters are too many; use at most {longest}", text, longest, len(text)
        )


class AmountError(TextError):
    """An amount as typed cannot be read or turned into grams or millimetres."""


class TurnLineError(TextError):
    """A turn line cannot be read."""


LARGEST_SHOWN = 10**18
"""A whole number beyond this is not written out [-]."""
MOST_TOLD = 20
"""So many problems are told at once [-]."""
LONGEST_TOLD = 180
"""Of each problem so much is told [signs]; a name or number in it may have no end."""


class FormulaError(AplombError):
    """A formula holds a value that cannot be used; every such value is listed.

    Attributes
    ----------
    problems : tuple of str
        One sentence a problem, each naming the place.
    """

    def __init__(self, problems: tuple[str, ...]) -> None:
        more = len(problems) - MOST_TOLD
        told = [p if len(p) <= LONGEST_TOLD else f"{p[:LONGEST_TOLD]} …" for p in problems]
        told = [*told[:MOST_TOLD], *([f"And {more} more."] if more > 0 else [])]
        super().__init__(" ".join(told))
        self.problems = problems


class Problems:
    """Collects all that is wrong with a value, each with its place and what is wanted."""

    def __init__(self) -> None:
        self.told: list[str] = []

    def add(self, words: str) -> None:
        """Take a problem, as a sentence."""
        self.told.append(words)

    def number(self, place: str, value: float, low: float, high: float, unit: str) -> None:
        """Take a number that is outside its range, infinite or none at all."""
        if isinstance(value, int) and abs(value) > LARGEST_SHOWN:
            value = math.inf if value > 0 else -math.inf  # hundreds of digits are none
        if not math.isfinite(value) or not low <= value <= high:
            shown, least, most = (bare_text(n, unit, ".10g") for n in (value, low, high))
            most = f"{most} {house_unit(unit)}".rstrip()
            self.add(f"{place}: {shown} cannot be used; use {least} to {most}.")

    def check(self) -> None:
        """Raise FormulaError with all that was found, if anything was."""
        if self.told:
            raise FormulaError(tuple(self.told))
