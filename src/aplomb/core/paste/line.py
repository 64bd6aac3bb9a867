"""One material in a part of a formula or on a product."""

from msgspec import Struct
from msgspec.structs import replace


class Line(Struct, frozen=True, forbid_unknown_fields=True):
    """One material in a part.

    Attributes
    ----------
    material : str
        Key in the pantry.
    grams : float
        Mass [g]; in a filling or topping of one piece.
    note : str
        What is done with it, as ``rubbed in``.
    typed : str
        How the amount was written, when it was not written in grams.
    turn : int
        Between the folds: the turn it is strewn at, 1 for the first; 0 for the last.
    """

    material: str
    grams: float
    note: str = ""
    typed: str = ""
    turn: int = 0


def noted(line: Line, words: str) -> Line:
    """Give a line with words added to its note."""
    return replace(line, note=f"{line.note}, {words}" if line.note else words)
