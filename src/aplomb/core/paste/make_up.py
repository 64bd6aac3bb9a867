"""How a product is made up from the sheet, and what its filling is when it goes in."""

from typing import Literal, get_args

MakeUp = Literal["", "flat", "two_parts", "folded", "border", "lining", "log", "stacked", "offcuts"]
"""Empty for what is usual for its shape."""
MAKE_UPS: tuple[MakeUp, ...] = get_args(MakeUp)
MAKE_UP_WORDS: dict[MakeUp, str] = {
    "": "as usual for its shape",
    "flat": "flat pieces",
    "two_parts": "two parts: base with ring or lid",
    "folded": "folded over a filling",
    "border": "strip or sheet with a folded edge",
    "lining": "lining of a tin or ring",
    "log": "log, cut in slices",
    "stacked": "stacked and cut",
    "offcuts": "of offcuts",
}

FillingIs = Literal["", "raw", "cooked", "bought"]
"""What a filling is when it goes in; empty for cooked, the slower way."""
FILLING_WORDS: dict[FillingIs, str] = {
    "": "cooked, and cold",
    "raw": "raw",
    "cooked": "cooked, and cold",
    "bought": "bought ready",
}


def usual_make_up(shape: str, *, filled: bool, parts: bool, of_offcuts: bool) -> MakeUp:
    """Give how a product is made up when nothing is said.

    Parameters
    ----------
    filled : bool
        It has a filling of its own.
    parts : bool
        Something else is cut for it.

    Examples
    --------
    >>> usual_make_up("rectangle", filled=True, parts=False, of_offcuts=False)
    'folded'
    """
    if of_offcuts:
        return "offcuts"
    if shape == "case" or parts:
        return "two_parts"
    by_shape: dict[str, MakeUp] = {"lining": "lining", "slice": "log", "frame": "two_parts"}
    if shape in by_shape:
        return by_shape[shape]
    return "folded" if filled and shape in ("rectangle", "round", "triangle") else "flat"
