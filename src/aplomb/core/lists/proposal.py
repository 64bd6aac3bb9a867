"""One line of a list as it is understood so far."""

from msgspec import Struct

from aplomb.core.base.errors import AmountError
from aplomb.core.base.quantity import Amount
from aplomb.core.paste.amounts import Understood, understand
from aplomb.core.paste.formula import Part
from aplomb.core.paste.ingredient import Ingredient

FLOUR_OF_A_PERCENT_LIST_G = 1000.0
"""Flour taken when a list gives nothing but percentages [g]."""


class Proposal(Struct, frozen=True):
    """One line of a list, as far as it was understood.

    Attributes
    ----------
    raw : str
        The line as it stands in the list.
    amount_text : str
        The part of it that is the amount; empty when there is none.
    candidates : tuple of str
        Keys of materials that could be meant, the likeliest first.
    part : Part
        Where it probably belongs.
    note : str
        What else the line says.
    doubts : tuple of str
        Why it should be looked at before it is accepted; empty when it is certain.
    placed : bool
        The line, or the heading above it, says where it goes.
    """

    raw: str
    amount_text: str
    amount: Amount | None
    candidates: tuple[str, ...]
    part: Part
    note: str
    doubts: tuple[str, ...]
    placed: bool = False

    @property
    def sure(self) -> bool:
        """True when nothing about it is in doubt."""
        return not self.doubts


def understood(
    proposal: Proposal, material: Ingredient, flour_g: float | None
) -> Understood | None:
    """Turn a proposal into grams of the material that was chosen; None when that cannot be."""
    if proposal.amount is None:
        return None
    try:
        return understand(proposal.amount, material, flour_g, proposal.amount_text)
    except AmountError:
        return None
