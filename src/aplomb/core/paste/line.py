"""One material in a part of a formula or on a product."""

from msgspec import Struct


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
