"""The house: how a bakery measures, and how warm its places are."""

from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import Problems
from aplomb.core.base.figures import LengthUnit, MassUnit, TempUnit, mm_text, num, sides_mm
from aplomb.core.base.ovens import Oven, check_ovens
from aplomb.core.base.places import PLACES, USUAL_TEMPS, Place, check_places
from aplomb.core.base.sound import check_sound
from aplomb.core.base.units import Measures


class Labels(Struct, frozen=True, forbid_unknown_fields=True):
    """A page of labels for wrapped blocks.

    Attributes
    ----------
    page_long_mm, page_wide_mm : float
        The page, upright [mm]; as large as one label for a roll of single ones.
    columns, rows : int
        Labels on a page [-].
    wide_mm, high_mm : float
        One label [mm].
    left_mm, top_mm : float
        Where the first one begins [mm].
    across_mm, down_mm : float
        From one label to the next [mm].
    """

    page_long_mm: float = 297.0
    page_wide_mm: float = 210.0
    columns: int = 2
    rows: int = 4
    wide_mm: float = 99.0
    high_mm: float = 67.5
    left_mm: float = 4.5
    top_mm: float = 13.5
    across_mm: float = 102.0
    down_mm: float = 67.5


LABEL_WORDS = {
    "page_wide_mm": "Page width",
    "page_long_mm": "Page height",
    "columns": "Labels across the page",
    "rows": "Labels down the page",
    "wide_mm": "Label width",
    "high_mm": "Label height",
    "left_mm": "Left edge to first label",
    "top_mm": "Top edge to first label",
    "across_mm": "Label to label, across",
    "down_mm": "Label to label, down",
}


def single_label(wide_mm: float, high_mm: float) -> Labels:
    """Give a page that is one label [mm]."""
    return Labels(high_mm, wide_mm, 1, 1, wide_mm, high_mm, 0.0, 0.0, wide_mm, high_mm)


Beside = Literal["", "cups"]
MOST_BAKERS, LONGEST_INITIALS = 12, 8


class Baker(Struct, frozen=True, forbid_unknown_fields=True):
    """One who works here.

    Attributes
    ----------
    name : str
        Initials, or a short name.
    hours : tuple of (from, to)
        When, each day [min from midnight]; empty for the bakery's hours.
    """

    name: str
    hours: tuple[tuple[int, int], ...] = ()


class House(Struct, frozen=True, forbid_unknown_fields=True):
    """What a book says of its bakery.

    Attributes
    ----------
    measures : {'metric', 'us'}
        Which cups and spoons are meant when nothing is said.
    masses : {'g', 'oz'}
        Grams and kilograms, or ounces and pounds, on every screen and paper.
    beside : {'', 'cups'}
        Whether cups, spoons, sticks and counts are said beside weights, to work without a scale.
    lengths : {'mm', 'in'}
        Millimetres and centimetres, or inches.
    currency : str
        Shown with a price; empty for the locale's own.
    shop_c, fridge_c : float
        Usual temperature of the room and of the fridge [°C].
    flour_c, tap_c, ice_c : float
        Temperature of flour, of water as it comes, and of ice [°C].
    mixing_k : float
        What mixing warms the dough by [K].
    bench_mm, shelf_mm : float
        Length of the bench and of a fridge shelf [mm].
    belt_mm : float
        Width of the sheeter's belt [mm]; 0 without a sheeter.
    pass_pct : float
        Most that one pass of the sheeter takes off [%].
    bench_deep_mm : float
        Depth of the bench [mm].
    bowl_least_g, bowl_most_g : float
        Least and most dough that the mixer takes [g].
    tray_long_mm, tray_wide_mm : float
        A baking tray inside its rim [mm].
    oven_trays : int
        Trays per oven load [-].
    block_most_g : float
        Heaviest block that is rolled [g].
    rack_spaces : int
        Tray spaces in the fridge [-].
    rolling_k : float
        What one turn warms the paste by: pin, friction, hands [K].
    places : tuple of Place
        Where paste lies.
    hours : tuple of (from, to)
        When the bakery works, every day, none overlapping [min from midnight].
    bakers, ovens : int
        Pairs of hands where nobody is named, and ovens [-].
    people : tuple of Baker
        Who works here, by name; empty for `bakers` pairs of hands.
    benches, mixers : int
        Benches to roll on, and mixers or bowls that can be in use at one time [-].
    oven_list : tuple of Oven
        What is known of each oven; the first stands for those of which nothing is.
    energy_price : float
        A kilowatt-hour, in the book's currency; 0 for not known.
    counts_enclosing : bool
        Whether the enclosing counts as the first turn.
    water_spoon_g, flour_spoon_g, dust_spoon_g : float
        What a spoon of held-back water, of flour into the dough, and a spoon or handful of dusting
        flour weigh [g].
    """

    measures: Measures = "metric"
    masses: MassUnit = "g"
    beside: Beside = ""
    lengths: LengthUnit = "mm"
    temps: TempUnit = "°C"
    currency: str = ""
    shop_c: float = 21.0
    fridge_c: float = 4.0
    flour_c: float = 20.0
    tap_c: float = 13.0
    ice_c: float = -2.0
    mixing_k: float = 2.0
    bench_mm: float = 1800.0
    shelf_mm: float = 600.0
    belt_mm: float = 0.0
    pass_pct: float = 40.0
    bench_deep_mm: float = 700.0
    bowl_least_g: float = 500.0
    bowl_most_g: float = 8000.0
    tray_long_mm: float = 580.0
    tray_wide_mm: float = 380.0
    oven_trays: int = 4
    block_most_g: float = 5000.0
    rack_spaces: int = 18
    rolling_k: float = 0.7
    places: tuple[Place, ...] = PLACES
    hours: tuple[tuple[int, int], ...] = ((300, 840),)
    bakers: int = 1
    people: tuple[Baker, ...] = ()
    ovens: int = 1
    benches: int = 1
    mixers: int = 1
    oven_list: tuple[Oven, ...] = ()
    energy_price: float = 0.0
    counts_enclosing: bool = False
    water_spoon_g: float = 15.0
    flour_spoon_g: float = 8.0
    dust_spoon_g: float = 10.0
    labels: Labels = Labels()

    @property
    def sheet_wide_mm(self) -> float:
        """How wide a sheet may be: the belt, or the bench across [mm]."""
        return min(self.belt_mm or self.bench_deep_mm, self.bench_deep_mm)

    @property
    def hands(self) -> int:
        """Pairs of hands [-]."""
        return len(self.people) or self.bakers

    def oven(self, number: int = 0) -> Oven:
        """Give what is known of an oven; what is usual, with the house's trays, of others."""
        if number < len(self.oven_list):
            return self.oven_list[number]
        if self.oven_list:
            return replace(self.oven_list[0], name=f"Oven {number + 1}")
        return Oven(f"Oven {number + 1}", trays=self.oven_trays)

    @property
    def all_ovens(self) -> tuple[Oven, ...]:
        """All ovens of the house, whatever is known of them."""
        return tuple(self.oven(i) for i in range(max(self.ovens, len(self.oven_list))))

    def temp_in(self, place: Place) -> float:
        """Temperature of the air in a place [°C]."""
        if place.temp_c is not None:
            return place.temp_c
        own = {"fridge": self.fridge_c, "room": self.shop_c}
        return own.get(place.kind, USUAL_TEMPS[place.kind])

    def place(self, word: str) -> Place | None:
        """Give a place by its name, or by its kind and number; None when there is none.

        Parameters
        ----------
        word : str
            “fridge” for the first fridge, “fridge2” for the second; empty for the first fridge.
        """
        named = [place for place in self.places if place.name.casefold() == word.casefold()]
        kind = word.rstrip("0123456789") or "fridge"
        number = int(word[len(kind) :] or 1) if word else 1
        alike = [place for place in self.places if place.kind == kind]
        if named:
            return named[0]
        return alike[number - 1] if 0 < number <= len(alike) else None


LIMITS: dict[str, tuple[str, float, float, str]] = {
    "shop_c": ("Room", -5, 45, "°C"),
    "fridge_c": ("Fridge", -5, 15, "°C"),
    "flour_c": ("Flour", -20, 45, "°C"),
    "tap_c": ("Tap water", 0, 40, "°C"),
    "ice_c": ("Ice", -30, 0, "°C"),
    "mixing_k": ("Temperature rise in mixing", 0, 20, "K"),
    "rolling_k": ("Temperature rise per turn", 0, 10, "K"),
    "bench_mm": ("Bench length", 200, 20_000, "mm"),
    "shelf_mm": ("Fridge shelf length", 100, 5_000, "mm"),
    "belt_mm": ("Sheeter belt width; 0 for none", 0, 3_000, "mm"),
    "pass_pct": ("Largest reduction per pass", 5, 80, "%"),
    "bench_deep_mm": ("Bench depth", 200, 5_000, "mm"),
    "bowl_least_g": ("Mixer bowl, minimum dough", 0, 500_000, "g"),
    "bowl_most_g": ("Mixer bowl, maximum dough", 10, 500_000, "g"),
    "block_most_g": ("Heaviest block to roll", 200, 50_000, "g"),
    "tray_long_mm": ("Tray inside length", 50, 3_000, "mm"),
    "tray_wide_mm": ("Tray inside width", 50, 3_000, "mm"),
    "oven_trays": ("Trays per oven load", 1, 1_000, ""),
    "bakers": ("Pairs of hands", 1, 50, ""),
    "ovens": ("Ovens", 0, 50, ""),
    "benches": ("Benches", 1, 50, ""),
    "mixers": ("Mixers", 1, 50, ""),
    "rack_spaces": ("Tray spaces in the fridge", 0, 10_000, ""),
    "water_spoon_g": ("A spoon of water", 0.5, 200, "g"),
    "flour_spoon_g": ("A spoon of flour", 0.5, 200, "g"),
    "dust_spoon_g": ("Dusting flour each time", 0.5, 500, "g"),
}
"""Words and limits of each figure of the house."""

WARM = ("shop_c", "fridge_c", "flour_c", "tap_c", "ice_c", "mixing_k")
COLD = ("rolling_k",)
HANDS = ("ovens", "benches", "mixers")
SPOONS = ("water_spoon_g", "flour_spoon_g", "dust_spoon_g")
ROOM = tuple(name for name in LIMITS if name not in (*WARM, *COLD, "bakers", *HANDS, *SPOONS))
"""Figures of the house: how warm its places are, and how large."""


def check_house(house: House) -> House:
    """Give the house back if every figure in it can be used; raises FormulaError otherwise.

    Raises
    ------
    FormulaError
        With the reason in words.
    """
    wrong = Problems()
    for name, (words, low, high, unit) in LIMITS.items():
        wrong.number(words, getattr(house, name), low, high, unit)
    if not wrong.told and house.bowl_least_g > house.bowl_most_g:
        wrong.add("mixer bowl: the minimum dough is more than the maximum.")
    _check_labels(house.labels, wrong)
    check_places(house.places, wrong)
    check_ovens(house.oven_list, wrong)
    wrong.number("price per kilowatt-hour", house.energy_price, 0, 1e6, "")
    _check_hours(house.hours, wrong)
    _check_bakers(house.people, wrong)
    if len(house.currency) > 8:
        wrong.add("currency: use at most 8 characters.")
    check_sound(house, wrong)
    wrong.check()
    return house


def _check_hours(hours: tuple[tuple[int, int], ...], wrong: Problems) -> None:
    last = 0
    for begin, end in hours:
        if not 0 <= begin < end <= 1440:
            wrong.add("hours: each must start before it ends, on the same day.")
        elif begin < last:
            wrong.add("hours: give them in order and without overlaps.")
        last = max(last, end)
    if len(hours) > 6:
        wrong.add("hours: use up to 6 shifts a day.")


def _check_bakers(people: tuple[Baker, ...], wrong: Problems) -> None:
    if len(people) > MOST_BAKERS:
        wrong.add(f"bakers: {len(people)} are too many; up to {MOST_BAKERS} fit.")
    names = [each.name.casefold() for each in people]
    for each in people[:MOST_BAKERS]:
        if not 1 <= len(each.name.strip()) <= LONGEST_INITIALS:
            wrong.add(f"bakers: use 1 to {LONGEST_INITIALS} characters for each name.")
        if names.count(each.name.casefold()) > 1:
            wrong.add(f"bakers: {each.name} is named twice.")
        _check_hours(each.hours, wrong)


def _check_labels(labels: Labels, wrong: Problems) -> None:
    for name, words in LABEL_WORDS.items():
        count = name in ("columns", "rows")
        least = 1 if count else 0 if name in ("left_mm", "top_mm") else 15
        wrong.number(words, getattr(labels, name), least, 100 if count else 2000, "")
    if wrong.told:
        return
    wide = labels.left_mm + (labels.columns - 1) * labels.across_mm + labels.wide_mm
    high = labels.top_mm + (labels.rows - 1) * labels.down_mm + labels.high_mm
    if wide > labels.page_wide_mm + 0.5 or high > labels.page_long_mm + 0.5:
        wrong.add(
            f"labels: they need {sides_mm(wide, high, 'g')}, and the page is "
            f"{num(labels.page_wide_mm)} × {mm_text(labels.page_long_mm)}; make them "
            "fewer or smaller."
        )
    if (labels.columns > 1 and labels.across_mm < labels.wide_mm) or (
        labels.rows > 1 and labels.down_mm < labels.high_mm
    ):
        wrong.add("labels: they overlap; make label to label at least the size of a label.")
