"""Two formulas side by side: line by line, reading by reading, and what changes at the bench."""

from msgspec import Struct

from aplomb.core.base.figures import (
    bare_text,
    celsius_range,
    celsius_text,
    degrees,
    g_text,
    house_unit,
    num,
)
from aplomb.core.base.house import House
from aplomb.core.paste.fat_profile import FatProfile
from aplomb.core.paste.formula import Part, allergens
from aplomb.core.paste.pantry import Pantry
from aplomb.core.readings.readings import READING_WORDS
from aplomb.core.study.study import Study


class Pair(Struct, frozen=True):
    """A figure before and after; None when it is not there."""

    before: float | None
    after: float | None

    @property
    def difference(self) -> float | None:
        """After less before; None when one is not there."""
        if self.before is None or self.after is None:
            return None
        return self.after - self.before

    @property
    def ratio(self) -> float | None:
        """After over before [-]; None when one is not there or before is nothing."""
        if self.before is None or self.after is None or self.before == 0:
            return None
        return self.after / self.before

    @property
    def same(self) -> bool:
        """True when nothing that could be shown has changed."""
        if self.before is None or self.after is None:
            return self.before is self.after
        return abs(self.after - self.before) <= 1e-9 * max(abs(self.before), abs(self.after), 1e-9)


class LinePair(Struct, frozen=True):
    """A material in a part of two formulas: grams, and percent on each one's flour."""

    part: Part
    material: str
    grams: Pair
    percent: Pair


class ReadingPair(Struct, frozen=True):
    """A reading of two formulas."""

    key: str
    words: str
    unit: str
    value: Pair


class Comparison(Struct, frozen=True):
    """Two formulas side by side.

    Attributes
    ----------
    lines : tuple of LinePair
        In the order of the parts; what is in one only has None for the other.
    readings : tuple of ReadingPair
        Those that one of them has.
    claims_gained, claims_lost : tuple of str
        Opinions that one has and the other has not.
    """

    lines: tuple[LinePair, ...]
    readings: tuple[ReadingPair, ...]
    turn_lines: tuple[str, str]
    allergens_gained: tuple[str, ...]
    allergens_lost: tuple[str, ...]
    claims_gained: tuple[str, ...]
    claims_lost: tuple[str, ...]


def compare(before: Study, after: Study, pantry: Pantry) -> Comparison:
    """Put two formulas side by side.

    A material that stands several times in a part is taken together.

    Parameters
    ----------
    pantry : Pantry
        Holding the materials of both.
    """
    lines = []
    for part in Part:
        one, two = _sums(before, part), _sums(after, part)
        for key in {**one, **two}:
            grams = Pair(one.get(key), two.get(key))
            percent = Pair(_percent(before, grams.before), _percent(after, grams.after))
            lines.append(LinePair(part, key, grams, percent))
    readings = []
    for key, (words, unit) in READING_WORDS.items():
        value = Pair(getattr(before.readings, key), getattr(after.readings, key))
        if value.before is not None or value.after is not None:
            readings.append(ReadingPair(key, words, unit, value))
    had, has = (set(allergens(s.formula, pantry)) for s in (before, after))
    said, says = ({o.key: o.claim for o in s.opinions} for s in (before, after))
    return Comparison(
        lines=tuple(lines),
        readings=tuple(readings),
        turn_lines=(before.plan.line(), after.plan.line()),
        allergens_gained=tuple(sorted(has - had)),
        allergens_lost=tuple(sorted(had - has)),
        claims_gained=tuple(claim for key, claim in says.items() if key not in said),
        claims_lost=tuple(claim for key, claim in said.items() if key not in says),
    )


def _sums(study: Study, part: Part) -> dict[str, float]:
    found: dict[str, float] = {}
    for line in study.formula.lines(part):
        found[line.material] = found.get(line.material, 0.0) + line.grams
    return found


def _percent(study: Study, grams: float | None) -> float | None:
    flour = study.accounts.flour_g
    return None if grams is None or flour <= 0 else 100 * grams / flour


WORTH_G = 0.5
"""Water or salt that is worth a word at the bench [g a kilogram of flour], our choice."""


def at_the_bench(before: Study, after: Study, pantry: Pantry, house: House) -> tuple[str, ...]:
    """Say what whoever makes it will notice.

    Sentences, the weightier first; empty when nothing changes.

    Parameters
    ----------
    house : House
        Temperatures of shop and fridge.
    """
    words: list[str] = []
    one, two = before.fat, after.fat
    if one and two and one.enclose_c and two.enclose_c and one.enclose_c != two.enclose_c:
        shift = sum(two.enclose_c) / 2 - sum(one.enclose_c) / 2
        by = f"{bare_text(abs(shift), 'K', '.1f')} {house_unit('K')}"
        words.append(
            f"Enclose and roll at {celsius_range(*two.enclose_c, '–')} instead of "
            f"{degrees(one.enclose_c[0], '.0f')}–{degrees(one.enclose_c[1], '.0f')}: "
            + (f"{by} warmer." if shift > 0 else f"{by} colder.")
        )
    if two and one and two.sfc and one.sfc:
        words += _feel_words(one, two, house)
    milk_was, milk_now = _milk_fat(before, pantry), _milk_fat(after, pantry)
    if abs(milk_now - milk_was) >= 0.1:
        fat = f"{100 * milk_now:.0f} % of the fat is milk fat, not {100 * milk_was:.0f}"
        words.append(
            f"Less butter flavour: {fat}."
            if milk_now < milk_was
            else f"More butter flavour: {fat}."
        )
    flour = max(after.accounts.flour_g, 1.0)
    for more, less, change in (
        (
            "{} more water in the dough.",
            "{} less water in the dough.",
            after.accounts.dough_water_g - before.accounts.dough_water_g,
        ),
        (
            "Weigh {} more salt into the dough.",
            "Weigh {} less salt into the dough.",
            after.accounts.salt_added_g - before.accounts.salt_added_g,
        ),
    ):
        if abs(change) * 1000 / flour >= WORTH_G and abs(change) >= 0.1:
            words.append((more if change > 0 else less).format(g_text(abs(change), ".3g")))
    milk = (after.readings.milk_solids_pct or 0) - (before.readings.milk_solids_pct or 0)
    if abs(milk) >= 0.3:
        solids = f"{_signed(milk)} % milk solids"
        words.append(f"It browns sooner: {solids}." if milk > 0 else f"It browns later: {solids}.")
    if before.readings.flour_protein_pct and after.readings.flour_protein_pct:
        protein = after.readings.flour_protein_pct - before.readings.flour_protein_pct
        if abs(protein) >= 0.5:
            more = f"{_signed(protein)} % protein in the flour"
            words.append(
                f"The dough stretches further and pulls back: {more}."
                if protein > 0
                else f"The dough tears sooner and bakes tender: {more}."
            )
    if before.plan != after.plan:
        words.append(f"The turns are {after.plan.line()}.")
    return tuple(words)


def _feel_words(one: FatProfile, two: FatProfile, house: House) -> list[str]:
    """Say what another fat does under the hand and in the mouth."""
    words: list[str] = []
    for said, temp in (
        ("In the fridge at {} the fat is {}, not {}.", house.fridge_c),
        ("In the bakery at {} the fat is {}, not {}.", house.shop_c),
    ):
        was, now = one.feel(temp), two.feel(temp)
        if was != now:
            words.append(said.format(celsius_text(temp), now, was))
    film_was, film_now = one.film_sfc or 0.0, two.film_sfc or 0.0
    if abs(film_now - film_was) >= 2:
        solid = f"{film_now:.0f} % solid at {celsius_text(35)}, not {film_was:.0f}"
        words.append(
            f"More film in the mouth: {solid}."
            if film_now > film_was
            else f"Less film in the mouth: {solid}."
        )
    if two.is_blend and not one.is_blend:
        words.append(f"A blend may come out softer than calculated; try {g_text(200)} first.")
    return words


def _signed(value: float) -> str:
    return num(value, "+.1f").replace("-", "−")


def _milk_fat(study: Study, pantry: Pantry) -> float:
    lines = [(n.grams, pantry[n.material]) for _, _, n in study.formula.all_lines()]
    fats = [(g * m.composition.fat, m) for g, m in lines if m.is_fat]
    whole = sum(fat for fat, _ in fats)
    milk = sum(fat for fat, m in fats if "milk" in m.allergens and m.key.startswith("butter"))
    return milk / whole if whole > 0 else 0.0
