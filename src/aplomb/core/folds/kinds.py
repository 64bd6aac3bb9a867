"""The kinds of turn: one table. A new one is an entry here, its motion, and how it is drawn folded.

Whatever names, reads, offers, teaches or tells a kind of turn takes it from here; how its panels
move is in `motion`, how it looks when it is folded in the desk's `drawings/folded`.
"""

from msgspec import Struct

from aplomb.core.folds.step import Step, Way


class TurnKind(Struct, frozen=True):
    """One kind of turn.

    Attributes
    ----------
    step : Step
        As it is usual.
    name : str
        The trade's; of what is done in any number of parts, with ``{panels}``.
    letter : str
        By which the turn line knows it; empty where it is a number of panels, or begins with one
        of ``s`` and ``+``.
    told : str
        How it is done, within a sentence.
    about : str
        What it is good for, in its lesson; empty for what follows from its number of panels.
    offered, key : str
        What the ribbon's menu calls it, and its key there; empty where it has a button.
    """

    step: Step
    name: str
    letter: str = ""
    told: str = ""
    about: str = ""
    offered: str = ""
    key: str = ""


def _fold(panels: int, name: str, offered: str = "", key: str = "") -> TurnKind:
    step = Step(Way.FOLD, panels)
    return TurnKind(step, f"{name}, {panels} panels", "", f"fold in {panels}", "", offered, key)


KINDS: tuple[TurnKind, ...] = (
    _fold(2, "half fold"),
    _fold(3, "single"),
    _fold(4, "double"),
    TurnKind(
        Step(Way.FOLD, 4, off_centre=True),
        "double, off centre",
        told="fold both ends in to meet off centre, then close",
        about="Four panels; the seam is in the flat, not in the bend.",
        offered="Double, ends meeting off centre",
        key="O",
    ),
    _fold(5, "five-fold", "Five-fold", "5"),
    _fold(6, "six-fold", "Six-fold", "6"),
    TurnKind(
        Step(Way.QUARTER, 4),
        "quarter fold, 4 panels",
        letter="q",
        told="fold in half, then in half the other way",
        about="Four panels without a long sheet: start from a square.",
        offered="Quarter fold",
        key="Q",
    ),
    TurnKind(
        Step(Way.STACK, 4),
        "cut into {panels}, stacked",
        told="cut into {panels} and stack",
        about="Panels without creases; every edge is open.",
        offered="Cut into four and stack",
        key="S",
    ),
    TurnKind(
        Step(Way.PORTION, 3),
        "portion, fold in {panels}",
        told="fold in {panels}",
        about=(
            "Fat is spread, then folded in: this adds fat leaves and multiplies them "
            "at the same time."
        ),
    ),
    TurnKind(
        Step(Way.ROLL, 1),
        "rolled up",
        letter="r",
        told="roll up tight, seam underneath",
        about="A spiral: any cut through the log shows leaves.",
        offered="Roll up",
        key="R",
    ),
)
"""In the order in which they are taught."""

BY_LETTER = {kind.letter: kind for kind in KINDS if kind.letter}
"""Kinds that the turn line knows by a letter."""


def kind_of(step: Step) -> TurnKind:
    """Give the kind of a turn; raises KeyError for a rest and a trim."""
    near = [kind for kind in KINDS if kind.step.way is step.way]
    for kind in near:
        same = kind.step.panels == step.panels and kind.step.off_centre == step.off_centre
        if same or "{panels}" in kind.name:
            return kind
    raise KeyError(step.way)
