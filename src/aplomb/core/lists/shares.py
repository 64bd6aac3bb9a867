"""Amounts of a list that say more together than each alone: percents beside, fats enclosed."""

import re

from msgspec.structs import replace

from aplomb.core.base.figures import g_text, num
from aplomb.core.base.units import Kind
from aplomb.core.lists.amounts import OWN_SHARE
from aplomb.core.lists.proposal import FLOUR_OF_A_PERCENT_LIST_G, Proposal, understood
from aplomb.core.paste.formula import Part
from aplomb.core.paste.pantry import Pantry


def with_percents_checked(found: tuple[Proposal, ...], pantry: Pantry) -> tuple[Proposal, ...]:
    """Doubt a percent beside a weight that is not that weight on the list's flour."""
    flour = flour_of(found, pantry)
    made = []
    for each in found:
        percent = _percent_beside(each)
        if percent is not None and each.candidates:
            known = understood(each, pantry[each.candidates[0]], flour)
            share = 100 * known.grams / flour if known and flour else None
            if share is None or abs(share - percent) > max(PERCENT_APART, 0.02 * percent):
                words = f"“{num(percent)} %” was not used"
                if share is not None and known is not None:
                    words += f"; {g_text(known.grams, '.4g')} is {num(share, '.3g')} % of the flour"
                made.append(replace(each, doubts=(*each.doubts, words)))
                continue
        made.append(each)
    return tuple(made)


PERCENT_APART = 0.6
"""How far a percent may be from the weight beside it, as it is rounded [% on flour], our choice."""


def _percent_beside(proposal: Proposal) -> float | None:
    """A percentage that stands in a line beside its weight."""
    if proposal.amount is None or proposal.amount.kind is Kind.PERCENT:
        return None
    without = OWN_SHARE.sub(" ", proposal.raw)
    found = re.search(r"(\d+(?:[.,]\d+)?)\s*%", without)
    return float(found[1].replace(",", ".")) if found else None


ENCLOSED_FROM = 0.15
"""Fat in the dough is up to so much of the flour [-], common practice: more of it is enclosed."""


def with_fats_enclosed(found: tuple[Proposal, ...], pantry: Pantry) -> tuple[Proposal, ...]:
    """Without words for it, fats that are too much for the dough are the block's.

    All of them that are over 15 % of the flour, so that a block of two fats stays together; and at
    least the heaviest. What a line or a heading says stands.
    """
    if any(p.part is Part.BLOCK for p in found):
        return found
    fats = {
        i: _grams(p, pantry)
        for i, p in enumerate(found)
        if p.candidates
        and not p.placed
        and p.part is Part.DOUGH
        and pantry[p.candidates[0]].enclose_c is not None
    }
    if not fats:
        return found
    flour = flour_of(found, pantry) or 0.0
    heaviest = max(fats, key=lambda i: (fats[i], i))
    enclosed = {i for i, grams in fats.items() if flour and grams > ENCLOSED_FROM * flour}
    return tuple(
        replace(p, part=Part.BLOCK) if i in enclosed | {heaviest} else p
        for i, p in enumerate(found)
    )


def _grams(proposal: Proposal, pantry: Pantry) -> float:
    known = understood(proposal, pantry[proposal.candidates[0]], FLOUR_OF_A_PERCENT_LIST_G)
    return known.grams if known else 0.0


def flour_of(found: tuple[Proposal, ...], pantry: Pantry) -> float | None:
    """Flour of a list for its percentages [g]; None when it has no flour.

    A list that gives its flour in percent is taken at 1000 g.
    """
    flours = [
        p
        for p in found
        if p.candidates and pantry[p.candidates[0]].is_flour and p.part in (Part.DOUGH, Part.BLOCK)
    ]
    weighed = [
        known.grams
        for p in flours
        if p.amount is not None
        and p.amount.kind is not Kind.PERCENT
        and (known := understood(p, pantry[p.candidates[0]], None)) is not None
    ]
    if weighed:
        return sum(weighed)
    return FLOUR_OF_A_PERCENT_LIST_G if flours else None
