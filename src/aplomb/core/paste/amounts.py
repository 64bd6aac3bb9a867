"""What an amount as typed means for a material: grams, how sure, and whether it contradicts."""

from msgspec import Struct

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import DecimalSign
from aplomb.core.base.quantity import Amount, parse_amount
from aplomb.core.base.units import Kind, Measures
from aplomb.core.paste.ingredient import Ingredient, to_grams

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
    packed = material.bulk_spread if amount.kind is Kind.VOLUME else 0.0
    low = grams * (1 - amount.spread) * (1 - packed)
    high = grams * (1 + amount.spread) * (1 + packed)
    return Understood(grams, low, high, amount.said)


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
    allowed = (
        (WEIGHED_ROUNDING_PCT if weighed else ROUNDING_PCT) + taken.spread_pct + other.spread_pct
    )
    return Disagreement(taken.grams, other.grams, apart) if apart > allowed else None
