"""What an amount as typed means for a material: grams, how sure, and whether it contradicts."""

from functools import lru_cache

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import DecimalSign, decimal_sign, num
from aplomb.core.base.quantity import Amount, parse_amount
from aplomb.core.base.span import Span
from aplomb.core.base.units import Kind, Measures
from aplomb.core.paste.ingredient import Ingredient, to_grams
from aplomb.core.paste.line import Line
from aplomb.core.paste.measured import PIECE_G

ROUNDING_PCT, WEIGHED_ROUNDING_PCT = 3.0, 1.0
"""Two statements this near are one amount, rounded [%], our choice: of a measure, 240 mL for a cup;
of two weights, 8 oz for 225 g. 12 oz and 345 g are further apart."""


class Understood(Struct, frozen=True):
    """An amount of a material.

    Attributes
    ----------
    grams : float
        Mass taken [g].
    low_g, high_g : float
        Between these it likely lies [g]; both `grams` when it was weighed.
    said : str
        What was understood, in words.
    """

    grams: float
    low_g: float
    high_g: float
    said: str

    @property
    def spread_pct(self) -> float:
        """Half of what lies between, on the mass [%]."""
        return 50 * (self.high_g - self.low_g) / self.grams if self.grams > 0 else 0.0


def understand(
    amount: Amount, material: Ingredient, flour_g: float | None, text: str
) -> Understood:
    """Turn an amount into grams of a material with its likely spread.

    Parameters
    ----------
    amount : Amount
        Of `text`.
    flour_g : float or None
        Flour of the formula [g], for a percentage.
    text : str
        As typed.

    Raises
    ------
    AmountError
        As `aplomb.core.paste.ingredient.to_grams`.
    """
    grams = to_grams(amount, material, flour_g, text)
    alone = replace(amount, plus=(), minus=())
    low, high = _ends(alone, material, flour_g, text)
    for each in amount.plus:
        least, most = _ends(each, material, flour_g, text)
        low, high = low + least, high + most
    for each in amount.minus:
        least, most = _ends(each, material, flour_g, text)
        low, high = low - most, high - least
    return Understood(grams, low, high, amount.said)


def typed_as(line: Line, material: Ingredient) -> Understood | None:
    """Read what was typed for a line once more, for its spread; the grams that were taken stand.

    None for a line in grams, or in words that mean nothing without the rest of the formula.
    """
    known, _ = _typed(line.typed, material, decimal_sign()) if line.typed else (None, False)
    return known


def typed_span(line: Line, material: Ingredient) -> Span | None:
    """Give both ends of the range that was typed for a line [g]; None where none was.

    How full a cup or spoon may be is no range: nobody can choose it.
    """
    if not line.typed or line.grams <= 0:
        return None
    known, ranged = _typed(line.typed, replace(material, bulk_spread=0.0), decimal_sign())
    if known is None or not ranged or not known.high_g > known.low_g or not known.grams > 0:
        return None
    times = line.grams / known.grams
    return Span(known.low_g * times, known.high_g * times)


@lru_cache(maxsize=2_000)
def _typed(
    typed: str, material: Ingredient, decimal: DecimalSign
) -> tuple[Understood | None, bool]:
    """Read an amount as typed, and tell whether it is a range; a pinch has a spread and is none."""
    try:
        amount = parse_amount(typed, decimal)
        known = understand(counted(amount, typed, material), material, FLOUR_OF_A_SHARE_G, typed)
    except AplombError:
        return None, False
    return known, "–" in amount.said


FLOUR_OF_A_SHARE_G = 100.0
"""Taken where only how far a share of the flour may lie from its middle is asked [g]."""


PIECE_SPREAD = 0.15
"""How far one of a thing that is counted may be from what it is taken for [-], recalled."""


def counted(amount: Amount, text: str, material: Ingredient) -> Amount:
    """Take a bare number in words as so many pieces: half a dozen eggs are no six grams.

    Raises
    ------
    AmountError
        For a number in words, without a unit, of what is not counted.
    """
    if not amount.bare or any(sign.isdigit() for sign in text):
        return amount
    each = PIECE_G.get(material.key)
    if each is None:
        raise AmountError("give the unit, e.g. two cups", text, 0, len(text))
    return pieces(amount, each)


def pieces(count: Amount, each_g: float) -> Amount:
    """Give the mass of so many pieces, with how far they may be from what they are taken for.

    Parameters
    ----------
    count : Amount
        A bare number, or a range of two.
    each_g : float
        What one of them weighs [g].
    """
    return Amount(
        Kind.MASS,
        count.value * each_g,
        f"{num(count.value)} × {num(each_g, '.3g')} g",
        low=(count.low or count.value) * each_g * (1 - PIECE_SPREAD),
        high=(count.high or count.value) * each_g * (1 + PIECE_SPREAD),
    )


def _ends(
    amount: Amount, material: Ingredient, flour_g: float | None, text: str
) -> tuple[float, float]:
    """Between which masses an amount lies [g]: its range, and how a measure is filled."""
    grams = to_grams(amount, material, flour_g, text)
    packed = material.bulk_spread if amount.kind is Kind.VOLUME else 0.0
    least = most = 1.0
    if amount.high > amount.low and amount.value > 0:
        least, most = amount.low / amount.value, amount.high / amount.value
    return grams * least * (1 - packed), grams * most * (1 + packed)


def _rounding_pct(grams: float) -> float:
    """How far a weight may be from another that it is said to be [%].

    What is written in fives and tens is rounded to them; what is not, as 458 g, was meant exactly.
    """
    if abs(grams / 5 - round(grams / 5)) > 1e-6:
        return 100 * EXACTLY_G / grams + EXACTLY_PCT
    return max(WEIGHED_ROUNDING_PCT, 100 * FIVE_G / grams if grams < SMALL_G else 0.0)


EXACTLY_G, EXACTLY_PCT = 0.5, 0.2
HALF_OUNCE_G = 14.2
SPOONED_G, SPOON_PCT = 20.0, 20.0
"""So little said in spoons and in grams may differ by so much [g], [%], our choice."""
FIVE_G, SMALL_G = 3.5, 150.0
"""Below so much an ounce is written as 25 or 30 g, 4 oz as 110 or 115 [g], common practice."""


class Disagreement(Struct, frozen=True):
    """Two statements of one amount: what was taken, the other [g], how far apart [%]."""

    taken_g: float
    other_g: float
    apart_pct: float


def disagreement(
    text: str, material: Ingredient, measures: Measures, decimal: DecimalSign = "."
) -> Disagreement | None:
    """Find that an amount was stated twice and the two differ by more than rounding and packing.

    None when they agree, when it is stated once, or when it cannot be read.

    Parameters
    ----------
    text : str
        As typed.
    """
    try:
        amount = parse_amount(text, decimal, measures)
        if amount.also is None:
            return None
        taken = understand(amount, material, None, text)
        other = understand(amount.also, material, None, text)
    except AmountError:
        return None
    if taken.grams <= 0:
        return None
    apart = 100 * abs(other.grams - taken.grams) / taken.grams
    weighed = amount.kind is amount.also.kind is Kind.MASS
    allowed = ROUNDING_PCT
    if weighed:
        allowed = max(_rounding_pct(taken.grams), _rounding_pct(other.grams))
        if any(abs(g / 25 - round(g / 25)) < 1e-6 for g in (taken.grams, other.grams)):
            allowed = max(allowed, min(3.0, 100 * HALF_OUNCE_G / taken.grams))  # 1 lb 2 oz is 500 g
    elif min(taken.grams, other.grams) < SPOONED_G:
        allowed = SPOON_PCT  # nobody weighs out a spoon of salt to the gram
    allowed += taken.spread_pct + other.spread_pct
    if apart <= allowed:
        return None
    if not weighed and _agrees_elsewhere(text, material, measures, decimal):
        return None
    return Disagreement(taken.grams, other.grams, apart)


def _agrees_elsewhere(
    text: str, material: Ingredient, measures: Measures, decimal: DecimalSign
) -> bool:
    """Tell whether two statements are one in the other country's cups: 250 ml (1 cup)."""
    amount = parse_amount(text, decimal, "metric" if measures == "us" else "us")
    if amount.also is None:
        return False
    one, two = (to_grams(each, material, None, text) for each in (amount, amount.also))
    return one > 0 and 100 * abs(two - one) / one <= ROUNDING_PCT
