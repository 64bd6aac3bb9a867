"""The places of a house where paste lies: how cold they are, and how heat gets at it there."""

from typing import Literal, get_args

from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.base.sound import check_sound

PlaceKind = Literal["fridge", "freezer", "blast", "room", "oven"]
KINDS: tuple[PlaceKind, ...] = get_args(PlaceKind)
KIND_WORDS: dict[PlaceKind, str] = {
    "fridge": "Fridge", "freezer": "Freezer", "blast": "Blast chiller", "room": "Room",
    "oven": "Oven room",
}  # fmt: skip
Under = Literal["wire", "tray", "stone", "wood", "steel"]
UNDERS: tuple[Under, ...] = get_args(Under)
UNDER_WORDS: dict[Under, str] = {
    "wire": "wire shelf",
    "tray": "tray",
    "stone": "stone",
    "wood": "wood",
    "steel": "steel table",
}
MOST_PLACES = 40
SURE = {"calc": 0.2, "memory": 0.35}
"""Likely relative error of a coefficient that was worked out, and of one recalled [-]."""
CONDENSING = 0.42
"""What moist air that condenses on a cold block can add to the coefficient at most [-]."""


class Place(Struct, frozen=True, forbid_unknown_fields=True):
    """A place where a block, a sheet or a tray lies.

    Attributes
    ----------
    name : str
        As the bakery calls it; each of the house has its own.
    temp_c : float or None
        Temperature of its air [°C]. None: what the house says of its fridge and its shop.
    moving : bool
        True where a fan moves the air.
    under : {'wire', 'tray', 'stone', 'wood', 'steel'}
        What lies below. Stone, wood and steel are bodies of their own.
    wrapped : bool
        True when what lies there is wrapped in film.
    spaces : int
        Blocks or trays that it takes at one time [-].
    own_w_m2_k, own_low_w_m2_k, own_high_w_m2_k : float or None
        The house's own coefficient, wrap included, fitted from a probe, and the ends between
        which it lies in 95 of 100 cases [W/(m²·K)]. None: what is usual.
    own_from : str
        What it was fitted from, in words.
    """

    name: str
    kind: PlaceKind
    temp_c: float | None = None
    moving: bool = False
    under: Under = "wire"
    wrapped: bool = True
    spaces: int = 6
    own_w_m2_k: float | None = None
    own_low_w_m2_k: float | None = None
    own_high_w_m2_k: float | None = None
    own_from: str = ""

    @property
    def is_cold(self) -> bool:
        """True for a fridge, a freezer and a blast chiller."""
        return self.kind in ("fridge", "freezer", "blast")


USUAL_TEMPS: dict[PlaceKind, float] = {
    "fridge": 4.0,
    "freezer": -18.0,
    "blast": -30.0,
    "room": 21.0,
    "oven": 28.0,
}
"""Where neither the place nor the house says it [°C], recalled."""

PLACES: tuple[Place, ...] = (
    Place("Fridge", "fridge", spaces=8),
    Place("Freezer", "freezer", -18.0, spaces=4),
    Place("Bench", "room", under="wood", wrapped=False, spaces=2),
)
"""What a house has until it says more."""


class Coefficient(Struct, frozen=True):
    """How readily heat passes a face.

    Attributes
    ----------
    above, below : float
        Upper face, and lower face on a wire shelf, without a wrap [W/(m²·K)].
    less, more : float
        Likely relative error downwards and upwards [-].
    """

    above: float
    below: float
    less: float
    more: float
    standing: Literal["calc", "memory"]


def usual_coefficient(kind: PlaceKind, *, moving: bool) -> Coefficient:
    """Give the usual surface coefficient of a kind of place.

    Natural convection and radiation worked out for still air; recalled for moving air.

    Parameters
    ----------
    moving : bool
        Whether a fan moves the air.

    Examples
    --------
    >>> usual_coefficient("fridge", moving=False).above
    8.0
    """
    calc, recalled = SURE["calc"], SURE["memory"]
    if kind == "blast":
        return Coefficient(22.5, 20.0, recalled, recalled, "memory")
    if moving:
        return Coefficient(12.0, 10.0, recalled, recalled, "memory")
    if kind == "freezer":
        return Coefficient(9.0, 7.5, calc, calc, "calc")
    if kind == "fridge":
        return Coefficient(8.0, 6.5, calc, calc, "calc")
    return Coefficient(8.0, 6.5, calc, CONDENSING, "calc")


def check_places(places: tuple[Place, ...], wrong: Problems) -> None:
    """Add to the problems what cannot be used of the places of a house."""
    if len(places) > MOST_PLACES:
        wrong.add(f"places: {len(places)} is too many; up to {MOST_PLACES} fit.")
    names: set[str] = set()
    for place in places[:MOST_PLACES]:
        name = place.name.strip()
        if not name or len(name) > 60:
            wrong.add("place: use 1 to 60 characters for its name.")
        if name.casefold() in names:
            wrong.add(f"place {name}: there is another of that name.")
        names.add(name.casefold())
        if place.temp_c is not None:
            wrong.number(f"{name}, temperature", place.temp_c, -40, 60, "°C")
        wrong.number(f"{name}, spaces", place.spaces, 0, 10_000, "")
        for value in (place.own_w_m2_k, place.own_low_w_m2_k, place.own_high_w_m2_k):
            if value is not None:
                wrong.number(f"{name}, your own coefficient", value, 0.1, 2000, "W/m²K")
        check_sound(place, wrong)
    if not any(place.kind == "fridge" for place in places):
        wrong.add("places: keep at least one fridge.")
