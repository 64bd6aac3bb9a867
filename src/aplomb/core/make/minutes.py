"""How long hands take over a step: so much for a start, and so much a block, line, piece or tray.

All recalled from practice; a bakery's own runs take their place.
"""

from typing import NamedTuple


class Hands(NamedTuple):
    """Hands' time of one kind of step [min].

    Attributes
    ----------
    start : float
        Once for all units that are done one after the other.
    each : float
        For each unit.
    per : float
        For each piece, line or tray of it.
    """

    start: float
    each: float = 0.0
    per: float = 0.0


WORK: dict[str, Hands] = {
    "weigh": Hands(3, 0, 1),
    "mix": Hands(0, 12),
    "gather": Hands(2, 3),
    "temper": Hands(1),
    "soften": Hands(1),
    "mix_fat": Hands(2, 1),
    "cut_fat": Hands(6, 2),
    "press": Hands(4, 3),
    "enclose": Hands(2, 4),
    "spread": Hands(0, 2),
    "add": Hands(0, 1),
    "turn": Hands(2, 5),
    "roll_up": Hands(2, 5),
    "trim": Hands(0, 1),
    "move": Hands(0, 1),
    "thaw": Hands(2),
    "stand": Hands(0, 1),
    "divide": Hands(0, 1),
    "sheet": Hands(2, 6),
    "relax": Hands(0),
    "cut": Hands(2, 2, 0.05),
    "cook": Hands(25),
    "fill": Hands(3, 0, 0.4),
    "line": Hands(3, 0, 0.7),
    "slice": Hands(2, 0, 0.05),
    "shape": Hands(2, 0, 0.1),
    "dock": Hands(1, 0, 0.01),
    "wash": Hands(1, 0, 0.03),
    "tray": Hands(1, 0, 0.04),
    "load_in": Hands(0, 3),
    "load_out": Hands(0, 3),
    "heat": Hands(0),
    "bake": Hands(0),
    "cool": Hands(0),
    "pack": Hands(3, 0, 0.05),
    "wrap": Hands(1, 1),
    "store": Hands(0, 1),
}
ON_A_SHEETER_MIN = 2.0
"""What a sheeter saves of each turn or sheet [min]."""
BAKE_MIN = 25.0
"""A load in the oven where nothing is said [min], common practice."""
RELAX_MIN = 10.0
"""A sheet draws back before it is cut; 5 to 20 in use [min], common practice."""
COOL_FILLING_MIN, FILLING_MOST_MIN = 60.0, 1440.0
"""A cooked filling is cold before it is used [min], common practice."""
TEMPER_MIN, SOFTEN_MIN = 10.0, 30.0
"""Fat comes from the fridge to where it is plastic, or soft [min], common practice."""
THAW_MIN, THAW_MORE_MIN = 480.0, 720.0
"""A block thaws in the fridge, a night, where nothing is calculated [min], common practice."""
STAND_MIN = 15.0
"""What lay over its most stands so long before it goes on; 5 to 20 in use [min], from memory."""
LOG_CHILL_MIN = 30.0
"""A filled log is chilled until it cuts [min], common practice."""
RACK_MIN, RACK_MOST_MIN = 30.0, 360.0
"""Cooling on a rack until it may be packed [min], common practice."""
WRITTEN_REST_MIN = 30.0
"""A rest whose minutes nothing says [min], common practice."""
USUAL_DOUGH_MIN, USUAL_FAT_MIN, USUAL_SHAPED_MIN = 20.0, 15.0, 20.0
USUAL_MOST_MIN = 120.0
"""Rests of dough, fat and pieces where nothing is calculated [min], common practice."""


def hands_min(kind: str, units: int = 1, pieces: float = 0.0, *, sheeter: bool = False) -> float:
    """Hands' time of one unit of several that are done one after the other [min].

    Parameters
    ----------
    units : int
        How many are done so, which share the start [-].
    pieces : float
        Pieces, lines or trays of this unit [-].
    sheeter : bool
        A machine rolls it.

    Examples
    --------
    >>> hands_min("turn", 2)
    6.0
    """
    start, each, per = WORK[kind]
    if sheeter and kind in ("turn", "sheet"):
        each -= ON_A_SHEETER_MIN
    return start / max(1, units) + each + per * pieces
