"""Amounts of a list that say more together than each alone: percents beside, fats enclosed."""

import re

from msgspec.structs import replace

from aplomb.core.base.figures import g_text, num
from aplomb.core.base.quantity import Amount
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
            fat_pct = 100 * pantry[each.candidates[0]].composition.fat
            if fat_pct >= RICH_PCT and abs(percent - fat_pct) <= OWN_FAT_PCT:
                made.append(each)  # butter 82 %
                continue
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


RICH_PCT, OWN_FAT_PCT = 10.0, 3.0
"""A percentage this near to the fat of a rich material says what it is [%], our choice."""


def _percent_beside(proposal: Proposal) -> float | None:
    """A percentage that stands in a line beside its weight."""
    if proposal.amount is None or proposal.amount.kind is Kind.PERCENT:
        return None
    without = OWN_SHARE.sub(" ", proposal.raw)
    found = re.search(r"(\d+(?:[.,]\d+)?)\s*%", without)
    return float(found[1].replace(",", ".")) if found else None


BASE_WORDS = {"dough": "the dough", "paste": "all the paste", "fat": "the fat"}


def with_shares_weighed(found: tuple[Proposal, ...], pantry: Pantry) -> tuple[Proposal, ...]:
    """Weigh percentages that are said to be of the dough, of the paste or of the fat.

    Of the dough and of the fat: of all other lines of it; of the paste: of all that is together.
    """
    flour = flour_of(found, pantry)
    weighed = [_weighed(each, pantry, flour) for each in found]
    made = []
    for i, each in enumerate(found):
        of = each.amount.of if each.amount is not None else ""
        if each.amount is None or of not in BASE_WORDS:
            made.append(each)
            continue
        base = sum(
            grams
            for j, (other, grams) in enumerate(zip(found, weighed, strict=True))
            if j != i and _is_of(other, of, pantry)
        )
        share = each.amount.value / 100
        if of == "paste" and share < 1:
            base /= 1 - share
        if base <= 0:
            words = f"{num(100 * share)} % of {BASE_WORDS[of]}, which has no weight yet"
            made.append(replace(each, amount=None, doubts=(*each.doubts, words)))
            continue
        said = f"{num(100 * share)} % of {BASE_WORDS[of]}"
        grams = round(share * base, 1)
        made.append(
            replace(each, amount=Amount(Kind.MASS, grams, said), amount_text=g_text(grams, ".5g"))
        )
    return tuple(made)


def _weighed(each: Proposal, pantry: Pantry, flour: float | None) -> float:
    if not each.candidates or (each.amount is not None and each.amount.of in BASE_WORDS):
        return 0.0
    known = understood(each, pantry[each.candidates[0]], flour)
    return known.grams if known else 0.0


def _is_of(each: Proposal, of: str, pantry: Pantry) -> bool:
    if of == "dough":
        return each.part is Part.DOUGH
    if of == "fat":
        return bool(each.candidates) and pantry[each.candidates[0]].enclose_c is not None
    return each.part in (Part.DOUGH, Part.BLOCK)


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
