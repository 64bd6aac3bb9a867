"""The oven in words: a setting for each oven and in every way, what physics says, cautions."""

from msgspec import Struct

from aplomb.core.base.figures import celsius_text, num, temp_unit
from aplomb.core.base.ovens import Oven
from aplomb.core.batch.keeping import REFRESH_C, REFRESH_MIN
from aplomb.core.kitchen.baking import LoadCost, LoadHeat, Range
from aplomb.core.oven.programme import BakeStep, Programme, Usual, programme_line
from aplomb.core.oven.setting import FAN_K, dial_text, of_conventional

CAUTIONS = (
    "Hot sugar burns deep: turn caramelised pieces with a palette knife, never with fingers.",
    (
        "Fat dripping on the element can catch fire: put a tray underneath; if it burns, "
        "keep the door shut and switch the oven off."
    ),
    "Steam rushes out first when you open the door: stand to one side.",
    (
        "Raw meat filling needs its own boards and must reach the core temperature set "
        "by your local food law: measure it in the thickest piece."
    ),
    "Frying has dangers of its own: use guards and gloves, and follow the maker’s instructions.",
)
"""The usual caution; local codes and the maker's instructions come first."""
RESCUES = (
    ("pale but dry", "hotter and shorter"),
    ("brown but raw", "cooler and longer"),
    (
        "fat runs out",
        "leaves broken, block too warm or oven not hot enough: chill more, and use a hotter oven",
    ),
    ("middle puffed up", "dock it, or slit it"),
    (
        "leans",
        "cut square, keep the wash off the edges, and go straight from the cold into a hot oven",
    ),
)
"""What is seen, and what is done about it; common practice."""
AFTER = (
    "Leave 5 to 10 min on the tray, then on a rack until cold; only then pack. Baked "
    "pieces stay crisp for about a day; "
)


def refresh_words() -> str:
    """Say how baked pieces are refreshed."""
    low, high = REFRESH_MIN
    return (
        f"refresh them in the oven at {celsius_text(REFRESH_C)} without a fan for "
        f"{low} to {high} min"
    )


def setting_text(conventional_c: float, oven: Oven | None = None) -> str:
    """Write a setting: as an oven's dial is set, or without a fan; in the unit of the house.

    Parameters
    ----------
    conventional_c : float
        Without a fan [°C].

    Returns
    -------
    str
        As `read_setting` reads it.
    """
    shown = conventional_c if oven is None else conventional_c - (FAN_K if oven.fan else 0.0)
    if temp_unit() == "°F":
        text = f"{num(round(shown * 9 / 5 + 32))} F"
    else:
        text = f"{num(round(shown, 1))} C"
    return f"{text} fan" if oven is not None and oven.fan else text


def line_text(programme: Programme, oven: Oven) -> str:
    """Write a programme as it is typed for an oven, before the oven's own correction."""
    return programme_line(programme, lambda c: setting_text(c, oven))


class StepRow(Struct, frozen=True):
    """A step in every way it is said; the dial of each oven in the order of the ovens."""

    minutes: str
    still: str
    fan: str
    fahrenheit: str
    gas: str
    dials: tuple[str, ...]


def step_rows(programme: Programme, ovens: tuple[Oven, ...]) -> tuple[StepRow, ...]:
    """Give every step in every way it is said."""
    made = []
    for step in programme.steps:
        setting = of_conventional(step.conventional_c, "")
        dials = tuple(dial_text(oven, step.conventional_c) for oven in ovens)
        made.append(
            StepRow(
                f"{step.minutes_text} min",
                f"{setting.conventional_c:.0f} °C",
                f"{setting.fan_c:.0f} °C",
                f"{setting.fahrenheit:.0f} °F",
                setting.gas or "–",
                dials,
            )
        )
    return tuple(made)


def usual_words(usual: Usual, oven: Oven) -> str:
    """Say what is usual, and how much that is worth.

    Parameters
    ----------
    oven : Oven
        How its settings are written.
    """
    line = line_text(Programme(usual.steps), oven)
    low, high = usual.range_min
    return (
        f"Usual for {usual.words}: {line}. Bakers use {num(low)} to {num(high)} min "
        "(common practice, not a rule)."
    )


def range_words(found: Range | None, never: str) -> str:
    """Write a range of minutes.

    Parameters
    ----------
    never : str
        What stands for None.
    """
    if found is None:
        return never
    low, high = round(found.low), round(found.high)
    return f"{low} min" if low == high else f"{low} to {high} min"


def load_words(load: LoadHeat, cost: LoadCost, price: float, money: str) -> tuple[str, ...]:
    """Say what a load takes, and what a half-empty oven costs.

    Parameters
    ----------
    price : float
        A kilowatt-hour in the book's currency; 0 for not known.
    money : str
        The currency's sign.
    """
    mass, first, mean = (num(v, ".2g") for v in (load.mass_g / 1000, load.first_kw, load.mean_kw))
    kwh, each = num(cost.kwh, ".2g"), num(cost.a_kg_kwh, ".2g")
    lines = [
        f"a full load of {mass} kg takes up {first} kW at first, {mean} kW on average",
        (
            f"all loads: {num(cost.minutes, '.0f')} min and {kwh} kWh including heating up; "
            f"{each} kWh per kg"
        ),
        f"half-full loads: {num(100 * cost.half_empty, '.0f')} % more energy per kilogram",
    ]
    if price > 0:
        lines[1] += f", {num(cost.kwh * price, '.2f')} {money}"
    if load.too_much:
        lines.insert(
            1,
            (
                "that is more than the oven can draw, so its temperature drops until the "
                "trays are warm; heat it for longer, or load fewer trays"
            ),
        )
    return tuple(lines)


def step_words_of(step: BakeStep, at: int) -> str:
    """Say a step: until which sign, and what is done at its end.

    Parameters
    ----------
    at : int
        1 for the first [-].
    """
    parts = [f"{at}."]
    if step.until:
        parts.append(f"until {step.until}")
    if step.then:
        parts.append(f"then {step.then}")
    return " ".join(parts) if len(parts) > 1 else ""
