"""Paste from stock, as it is typed on Batch: blocks, what one weighs, its turns, where it lies."""

import re
from typing import Any

from aplomb.core.base.errors import AmountError, refuse_endless
from aplomb.core.base.figures import mass_text
from aplomb.core.paste.formula import Batch
from aplomb.work.figures.typed import LONGEST, read_mass, read_whole

_TURNS = re.compile(r"\b(\d+)\s*turns?\b", re.IGNORECASE)
_WHERE = re.compile(r"\b(freezer|frozen|fridge|cold)\b", re.IGNORECASE)
_MANY = re.compile(r"^\s*(\d+)\s*(?:×|x|\*|blocks?\s+of)\s*(.+)$", re.IGNORECASE)
NOTHING = {"frozen_g": 0.0, "frozen_blocks": 1, "frozen_turns": None, "frozen_where": "freezer"}


def read_from_stock(text: str) -> dict[str, Any]:
    """Read what of a batch comes out of stock; gives the fields of the batch.

    Parameters
    ----------
    text : str
        ``1.5 kg``, ``2 × 1.45 kg``, ``3 x 900 g, 4 turns, fridge``; nothing for none.

    Raises
    ------
    AmountError
        With the reason in words.

    Examples
    --------
    >>> found = read_from_stock("2 x 1.45 kg, 3 turns, fridge")
    >>> found["frozen_g"], found["frozen_blocks"], found["frozen_turns"], found["frozen_where"]
    (2900.0, 2, 3, 'fridge')
    """
    refuse_endless(text, LONGEST)
    if text.strip() in ("", "0"):
        return dict(NOTHING)
    left = text
    turns, where = _TURNS.search(left), _WHERE.search(left)
    for found in (turns, where):
        if found is not None:
            left = left.replace(found[0], " ", 1)
    left = re.sub(r"\b(from|in|the|with|done)\b", " ", left, flags=re.IGNORECASE).strip(" ,;·")
    many = _MANY.match(left)
    blocks = read_whole(many[1]) if many else 1
    if not 1 <= blocks <= 10_000:
        raise AmountError("enter 1 to 10000 blocks, e.g. 2 × 1.45 kg", text, 0, len(text))
    return {
        "frozen_g": blocks * read_mass(many[2] if many else left),
        "frozen_blocks": blocks,
        "frozen_turns": int(turns[1]) if turns else None,
        "frozen_where": "fridge" if where and where[1].lower() in ("fridge", "cold") else "freezer",
    }


def from_stock_text(batch: Batch) -> str:
    """Write what of a batch comes out of stock, as it is typed; empty for nothing."""
    if batch.frozen_g <= 0:
        return ""
    blocks = batch.frozen_blocks
    found = [mass_text(batch.frozen_g / blocks)]
    if blocks > 1:
        found = [f"{blocks} × {found[0]}"]
    if batch.frozen_turns is not None:
        found.append("1 turn" if batch.frozen_turns == 1 else f"{batch.frozen_turns} turns")
    if batch.frozen_where != "freezer":
        found.append(batch.frozen_where)
    return ", ".join(found)
