"""The ovens of a house: fan, size, what their dial says, how long they heat, what they draw."""

from msgspec import Struct

from aplomb.core.base.errors import Problems

MOST_OVENS = 20
DIAL_MOST_K = 80.0


class Oven(Struct, frozen=True, forbid_unknown_fields=True):
    """An oven.

    Attributes
    ----------
    name : str
        As the bakery calls it; each of the house has its own.
    fan : bool
        Its dial is set for a fan.
    trays : int
        Trays that it takes at one time [-].
    dial_k : float
        What a thermometer in it shows over what its dial says [K].
    heat_min : float
        From cold until it is hot [min].
    rated_kw : float
        What it draws at most [kW].
    holding_kw : float
        What it draws on the mean while it is hot and empty [kW].
    """

    name: str
    fan: bool = True
    trays: int = 4
    dial_k: float = 0.0
    heat_min: float = 15.0
    rated_kw: float = 6.0
    holding_kw: float = 1.2

    def dial_c(self, conventional_c: float, fan_k: float) -> float:
        """Give what its dial is set to for a temperature without a fan [°C].

        Parameters
        ----------
        conventional_c : float
            What is wanted, without a fan [°C].
        fan_k : float
            So much lower a fan oven is set for the same bake [K].

        Examples
        --------
        >>> Oven("deck", fan=False, dial_k=10).dial_c(200, 20)
        190.0
        """
        return conventional_c - (fan_k if self.fan else 0.0) - self.dial_k


OVEN_LIMITS: dict[str, tuple[str, float, float, str]] = {
    "trays": ("Trays per load", 1, 1000, ""),
    "dial_k": ("Thermometer reads above dial", -DIAL_MOST_K, DIAL_MOST_K, "K"),
    "heat_min": ("Minutes to heat", 0, 240, "min"),
    "rated_kw": ("Maximum power", 0.2, 500, "kW"),
    "holding_kw": ("Power when hot and empty", 0.02, 500, "kW"),
}
"""Words, limits and unit of each figure of an oven."""


def check_ovens(ovens: tuple[Oven, ...], wrong: Problems) -> None:
    """Take down all that is wrong with the ovens of a house."""
    if len(ovens) > MOST_OVENS:
        wrong.add(f"ovens: {len(ovens)} are too many; up to {MOST_OVENS} fit.")
    names = [oven.name.strip().casefold() for oven in ovens]
    for oven in ovens[:MOST_OVENS]:
        if not oven.name.strip() or len(oven.name) > 40:
            wrong.add("oven: its name has 1 to 40 characters.")
        elif names.count(oven.name.strip().casefold()) > 1:
            wrong.add(f"oven {oven.name}: two ovens have this name; change one.")
        for field, (words, low, high, unit) in OVEN_LIMITS.items():
            wrong.number(
                f"{oven.name[:40]}, {words.lower()}", getattr(oven, field), low, high, unit
            )
        if oven.holding_kw > oven.rated_kw:
            wrong.add(
                f"{oven.name[:40]}: the power when hot and empty cannot be more "
                "than the maximum power."
            )
