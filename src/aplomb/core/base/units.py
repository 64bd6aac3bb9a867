"""Units that can be typed, in two systems of measures."""

from enum import Enum
from typing import Literal

from msgspec import Struct

from aplomb.core.base import constants as c

Measures = Literal["metric", "us"]
"""Which cup, spoon, pint and fluid ounce are meant when nothing is said."""

MEASURES_WORDS: dict[Measures, str] = {
    "metric": "metric cup 250 mL, spoons 15 and 5 mL, imperial pint",
    "us": "US cup 236.6 mL, spoons 14.8 and 4.9 mL, US pint",
}


MEASURES_SHORT: dict[Measures, str] = {
    "metric": "Metric cups and spoons",
    "us": "US cups and spoons",
}


class Kind(Enum):
    """What a unit measures."""

    MASS = "mass"
    VOLUME = "volume"
    LENGTH = "length"
    PERCENT = "percent"


class Unit(Struct, frozen=True):
    """A unit that can be typed.

    Attributes
    ----------
    name : str
        As shown.
    size : float
        In the base unit of the kind: g, mL, mm, or percent [-].
    spread : float
        Half of what one may be over what it is taken for [-]: a pinch is no measure.
    """

    name: str
    kind: Kind
    size: float
    spread: float = 0.0


_Table = list[tuple[str, Kind, float, str]]

_COMMON: _Table = [
    ("g", Kind.MASS, 1.0, "g gr gm gms gram grams gramme grammes"),
    ("kg", Kind.MASS, 1000.0, "kg kgs kilo kilos kilogram kilograms"),
    ("mg", Kind.MASS, 0.001, "mg"),
    ("oz", Kind.MASS, c.GRAMS_PER_OUNCE, "oz ozs ounce ounces"),
    ("lb", Kind.MASS, c.GRAMS_PER_POUND, "lb lbs pound pounds"),
    ("stick", Kind.MASS, c.GRAMS_PER_STICK, "stick sticks"),
    ("mL", Kind.VOLUME, 1.0, "ml mls millilitre millilitres milliliter milliliters cc"),
    ("cL", Kind.VOLUME, 10.0, "cl"),
    ("dL", Kind.VOLUME, 100.0, "dl"),
    ("L", Kind.VOLUME, 1000.0, "l ltr ltrs litre litres liter liters"),
    ("mm", Kind.LENGTH, 1.0, "mm millimetre millimetres millimeter millimeters"),
    ("cm", Kind.LENGTH, 10.0, "cm centimetre centimetres centimeter centimeters"),
    ("m", Kind.LENGTH, 1000.0, "m metre metres meter meters"),
    ("in", Kind.LENGTH, c.MM_PER_INCH, 'in inch inches " ″'),
    ("%", Kind.PERCENT, 1.0, "% percent pct"),
]
_ABROAD: _Table = [
    (
        "spoon of 15 mL",
        Kind.VOLUME,
        15.0,
        (
            "el esslöffel essl cucharada cucharadas cda cdas cucchiaio cucchiai càs càsoupe càs "
            "cuilàsoupe cuillàsoupe cuillèreàsoupe cuillèresàsoupe cuillereàsoupe eetlepel "
            "eetlepels msk matsked matskedar spsk spiseskje colherdesopa colheresdesopa łyżka łyżki"
        ),
    ),
    (
        "spoon of 5 mL",
        Kind.VOLUME,
        5.0,
        (
            "tl teelöffel teel cucharadita cucharaditas cdta cdtas cdita cucchiaino "
            "cucchiaini càc càcafé càthé cuilàcafé cuilàthé cuillàcafé cuillèreàcafé "
            "cuillèresàcafé cuillèreàthé cuillereàcafé theelepel theelepels tsk tesked "
            "teskedar teske colherdechá colheresdechá łyżeczka łyżeczki"
        ),
    ),
]
"""Spoons in other languages, 15 and 5 mL (common practice)."""

_CUP, _SPOON, _TEA = (
    "cup cups c cupful cupfuls",
    "tbsp tbsps tablespoon tablespoons tbs tablespoonful tablespoonfuls tbl tbls",
    "tsp tsps teaspoon teaspoons teaspoonful teaspoonfuls",
)
_FLUID, _PINT, _QUART, _GALLON = (
    "floz fluidounce fluidounces fluidoz",
    "pint pints pt pts",
    "quart quarts qt qts",
    "gallon gallons gal",
)
_VOLUMES: dict[Measures, _Table] = {
    "us": [
        ("US cup", Kind.VOLUME, c.ML_PER_US_CUP, _CUP),
        ("US tbsp", Kind.VOLUME, c.ML_PER_US_TABLESPOON, _SPOON),
        ("US tsp", Kind.VOLUME, c.ML_PER_US_TEASPOON, _TEA),
        ("US fl oz", Kind.VOLUME, c.ML_PER_US_FLUID_OUNCE, _FLUID),
        ("US pint", Kind.VOLUME, c.ML_PER_US_PINT, _PINT),
        ("US quart", Kind.VOLUME, c.ML_PER_US_QUART, _QUART),
        ("US gallon", Kind.VOLUME, c.ML_PER_US_GALLON, _GALLON),
    ],
    "metric": [
        ("metric cup", Kind.VOLUME, c.ML_PER_METRIC_CUP, _CUP),
        ("metric tbsp", Kind.VOLUME, c.ML_PER_METRIC_TABLESPOON, _SPOON),
        ("metric tsp", Kind.VOLUME, c.ML_PER_METRIC_TEASPOON, _TEA),
        ("imperial fl oz", Kind.VOLUME, c.ML_PER_IMPERIAL_GALLON / 160, _FLUID),
        ("imperial pint", Kind.VOLUME, c.ML_PER_IMPERIAL_GALLON / 8, _PINT),
        ("imperial quart", Kind.VOLUME, c.ML_PER_IMPERIAL_GALLON / 4, _QUART),
        ("imperial gallon", Kind.VOLUME, c.ML_PER_IMPERIAL_GALLON, _GALLON),
    ],
}


_PINCHES: tuple[tuple[str, float, str], ...] = (
    ("pinch", 1 / 16, "pinch pinches prise prisen pincée pincées pizzico pizzichi pizca pizcas"),
    ("dash", 1 / 8, "dash dashes"),
    ("handful", 10, "handful handfuls"),
    ("knob", 3, "knob knobs"),
    ("splash", 1, "splash splashes"),
    ("squeeze", 1, "squeeze squeezes"),
    ("drop", 1 / 100, "drop drops"),
)
"""What the hand measures, in teaspoons, from memory."""
PINCH_SPREAD = 0.5
"""How far a pinch may be from what it is taken for [-], from memory."""


def _units(measures: Measures) -> dict[str, Unit]:
    made = {
        word: Unit(name, kind, size)
        for name, kind, size, words in (*_COMMON, *_VOLUMES[measures], *_ABROAD)
        for word in words.split()
    }
    made.update(
        dict.fromkeys(
            ["dessertspoon", "dessertspoons", "dessertspoonful", "dsp", "dstspn"],
            Unit("dessertspoon", Kind.VOLUME, 2 * c.ML_PER_METRIC_TEASPOON),
        )
    )
    for name, share, words in _PINCHES:
        pinch = Unit(name, Kind.VOLUME, share * c.ML_PER_METRIC_TEASPOON, PINCH_SPREAD)
        made.update(dict.fromkeys(words.split(), pinch))
    return made


UNITS: dict[Measures, dict[str, Unit]] = {"us": _units("us"), "metric": _units("metric")}
"""Every word that may stand as a unit, in lower case, by system of measures."""

SYSTEM_WORDS: dict[str, Measures] = {
    "us": "us", "u.s.": "us", "american": "us",
    "metric": "metric", "imperial": "metric", "uk": "metric", "british": "metric",
}  # fmt: skip
"""Words before a unit that say which system is meant."""
