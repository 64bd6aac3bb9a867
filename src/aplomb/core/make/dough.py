"""Dough and fat: weighed, mixed, and brought to where the fat can be enclosed or spread."""

from collections.abc import Sequence

from aplomb.core.base.errors import AplombError, as_sentence
from aplomb.core.folds.plan import Enclosure
from aplomb.core.make import minutes as usual
from aplomb.core.make import words
from aplomb.core.make.gathering import shared
from aplomb.core.make.making import Making
from aplomb.core.make.step import LineOf, RestAfter
from aplomb.core.paste.formula import Part

SPREAD = (Enclosure.PORTIONS, Enclosure.COIL)
"""Ways of enclosing for which the fat is softened and spread."""


class Dough:
    """Dough and fat of a make.

    Attributes
    ----------
    portions : tuple of float
        Share of the fat in each portion; none where it is not spread in portions.
    mixed : list of str
        Keys of the steps that end each mix.
    """

    def __init__(self, making: Making) -> None:
        self.making, self.gather = making, making.gather
        self.formula, self.plan = making.study.formula, making.study.plan
        self.fat = making.of(Part.BLOCK)
        self.portions = _portion_shares(making)
        self.mixed: list[str] = []
        portioned = self.plan.enclosure is Enclosure.PORTIONS
        self.in_pieces = self.plan.enclosure is Enclosure.PIECES
        self.is_mixed_in = not self.portions if portioned else self.plan.enclosure is Enclosure.NONE
        """True when the fat goes into the bowl: it is neither enclosed, spread nor in pieces."""

    def add(self) -> None:
        """Add every step up to dough and fat that can be brought together."""
        weighed = self._weigh("dough", Part.DOUGH, "Weigh the dough", self._raw())
        fat_weighed = self._weigh("fat", Part.BLOCK, "Weigh the fat") if self.fat else []
        self._mix(weighed, fat_weighed)
        self._temper(fat_weighed)

    def weigh_besides(self) -> tuple[str, ...]:
        """Weigh what is dusted with and strewn in; what goes on the pieces is weighed there.

        Returns
        -------
        tuple of str
            Key of the step; none without any.
        """
        weighs = self.making.weighed(Part.DUSTING, Part.BETWEEN)
        if not weighs:
            return ()
        self.gather.unit("bench", "dusting", _grams(self.making.of(Part.DUSTING)))
        told = "Weigh the dusting flour and what goes between the folds"
        at = self.gather.add("weigh", "bench", pieces=len(weighs), weighs=weighs, words=told)
        return (at,)

    def _weigh(self, unit: str, part: Part, told: str, cautions: tuple[str, ...] = ()) -> list[str]:
        """Weigh a part of the formula, mix by mix; gives the steps."""
        making, gather = self.making, self.gather
        gather.unit(unit, unit, _grams(making.of(part)))
        mixes = len(making.mix_shares)
        found = []
        for mix in range(mixes):
            weighs = making.weighed_for(mix, part)
            found.append(
                gather.add(
                    "weigh",
                    unit,
                    of=mixes,
                    pieces=len(weighs),
                    weighs=weighs,
                    words=_of_many(told, mix, mixes),
                    cautions=cautions,
                )
            )
        return found

    def _mix(self, weighed: Sequence[str], fat_weighed: Sequence[str]) -> None:
        making, gather, plan = self.making, self.gather, self.plan
        in_it = making.of(Part.DOUGH)
        fat = self.fat if self.in_pieces or self.is_mixed_in else []
        cut = self._cut_fat() if self.in_pieces and fat else ()
        rest = making.rest("dough", plan.dough_rest, usual_min=usual.USUAL_DOUGH_MIN)
        if self.in_pieces and plan.dough_rest is None:
            rest = RestAfter(rest.place, 0.0, rest.most_min, rest.stand_min)
        is_divided = len(making.block_shares) > 1
        many = len(making.mix_shares)
        for mix, share in enumerate(making.mix_shares):
            with_fat = fat_weighed[mix : mix + 1] if self.is_mixed_in else ()
            at = gather.add(
                "mix",
                "dough",
                after=(weighed[mix],),
                more_after=(*cut, *with_fat),
                lines=(*shared(in_it, share), *shared(fat, share)),
                rest=None if is_divided else rest,
                words=_of_many("Mix the dough", mix, many),
                sign=words.MIX_SIGNS[self.formula.mixing],
                cautions=self._raw(),
            )
            self.mixed.append(self._divide(at, mix, rest) if is_divided else at)

    def _cut_fat(self) -> tuple[str, ...]:
        size = f"{self.formula.piece_form} of {self.formula.piece_fat_mm:g} mm"
        at = self.gather.add(
            "cut_fat",
            "fat",
            words=f"Cut the cold fat to {size}",
            sign="the pieces are alike and still cold",
        )
        return (at,)

    def _divide(self, mixed: str, mix: int, rest: RestAfter) -> str:
        """Divide the dough of a mix to its blocks, which then rest."""
        told = "Divide the dough by weight, a piece for each block"
        if len(self.making.study.scaled.groups) == 1:
            blocks = self.making.mix_of.count(mix)
            told = f"Divide the dough into {blocks} pieces of equal weight"
        return self.gather.add("divide", "dough", of=1, after=(mixed,), rest=rest, words=told)

    def _temper(self, after: Sequence[str]) -> None:
        """Bring the fat to where it can be enclosed or spread."""
        gather, fat = self.gather, self.fat
        if not fat or self.in_pieces or self.is_mixed_in:
            return
        if self.plan.enclosure in SPREAD:
            gather.add("soften", "fat", after=after, alone_min=usual.SOFTEN_MIN)
        else:
            gather.add("temper", "fat", after=after, alone_min=usual.TEMPER_MIN)
        told = words.fat_mixed({n.material for n in fat}, self.making.pantry)
        if told:
            gather.add("mix_fat", "fat", pieces=0, words=told)

    def _raw(self) -> tuple[str, ...]:
        """Cautions for what is handled raw."""
        groups = self.making.groups_of(self.making.of(Part.DOUGH))
        found = [words.RAW_FLOUR] if groups & {"flour", "starch"} else []
        if "egg" in groups:
            found.append(words.RAW_EGG)
        return tuple(found)


def _grams(lines: Sequence[LineOf]) -> float:
    return sum(n.grams for n in lines)


def _of_many(told: str, at: int, many: int) -> str:
    return told if many < 2 else f"{told}, mix {at + 1} of {many}"


def _portion_shares(making: Making) -> tuple[float, ...]:
    """Share of the fat in each portion; none where it is not spread in portions."""
    plan = making.study.plan
    if plan.enclosure is not Enclosure.PORTIONS or not plan.portions:
        return ()
    try:
        return plan.portion_shares()
    except AplombError as error:
        making.trouble.append(as_sentence(error))
        return ()
