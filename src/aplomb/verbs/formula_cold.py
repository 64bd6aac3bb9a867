"""What a script asks of the cold for one formula: ready from when to when, and how long out."""

from msgspec import Struct

from aplomb.core.base.errors import AplombError, Problems
from aplomb.core.base.house import House
from aplomb.core.base.places import KINDS, UNDERS, Place, Under
from aplomb.core.cold.material import Mixture
from aplomb.core.cold.readiness import Band, FirstCold, Ready, first_then, out_of_cold, ready
from aplomb.core.cold.stay import DAY_MIN, Stay, body_of
from aplomb.core.paste.bodies import Bodies, bodies_of
from aplomb.core.study.study import Study
from aplomb.work.figures.typed import read_length, read_temp
from aplomb.work.open_book.sources import study_from

THICK_MM = (1.0, 300.0)


class ColdResult(Struct, frozen=True):
    """``chill`` of a formula.

    Attributes
    ----------
    formula, body, place : str
        What lies where.
    thickness_mm, from_c : float
        [mm], [°C].
    range_c : tuple of two floats
        Where its fat is enclosed and rolled [°C].
    ready : dict or None
        `from_min` and `to_min`, with the usual coefficient [min]; None: never so here.
    band, band_to : tuple of two, or None
        Between which the beginning and the end are likely [min]; a second of None: perhaps never.
    mean_c, skin_c, core_c : float or None
        When it is ready [°C].
    instead : dict or None
        Where it is never ready: `first`, `minutes`, `then`, `from_min`, `to_min`.
    """

    formula: str
    body: str
    place: str
    thickness_mm: float
    from_c: float
    range_c: tuple[float, float]
    ready: dict[str, float] | None
    band: tuple[float, float | None] | None
    band_to: tuple[float, float | None] | None
    mean_c: float | None
    skin_c: float | None
    core_c: float | None
    instead: dict[str, float | str] | None


class OutResult(Struct, frozen=True):
    """``out`` of a formula.

    Attributes
    ----------
    formula, bench : str
        What lies on what.
    thickness_mm, from_c, room_c, limit_c : float
        [mm], [°C]; the limit is the mean at which it must go back.
    minutes : float or None
        Until then [min]; None: it can stay.
    band : tuple of two, or None
        Between which that is likely [min].
    """

    formula: str
    bench: str
    thickness_mm: float
    from_c: float
    room_c: float
    limit_c: float
    minutes: float | None
    band: tuple[float, float | None] | None


def place_named(word: str, house: House) -> Place:
    """Give a place of the house by its name or kind; a kind that it has none of as is usual.

    Raises
    ------
    AplombError
        Naming what there is.
    """
    found = house.place(word.strip().lower()) or house.place(word.strip())
    if found is not None:
        return found
    for kind in KINDS:
        if word.strip().lower() == kind:
            return Place(kind, kind, under="wire")
    names = ", ".join([*KINDS, *(place.name for place in house.places)])
    raise AplombError(f"place: “{word}” is not known; use {names}")


def _body(study: Study, bodies: Bodies, which: str) -> tuple[Mixture, tuple[float, float]]:
    material: Mixture | None = getattr(bodies, which)
    if material is None:
        raise AplombError(f"{study.formula.name}: it has no {which} to cool")
    if bodies.range_c is None:
        raise AplombError(
            f"{study.formula.name}: the temperatures at which its fat can be rolled are "
            "not known; enter a working range for the block’s fat in the pantry"
        )
    return material, bodies.range_c


def _asked(thick: str, start: str) -> tuple[float, float]:
    wrong = Problems()
    thick_mm, start_c = read_length(thick), read_temp(start)
    wrong.number("thick", thick_mm, *THICK_MM, "mm")
    wrong.number("from", start_c, -35, 40, "°C")
    wrong.check()
    return thick_mm, start_c


def _ends(band: Band) -> tuple[float, float | None] | None:
    return None if band.low is None else (band.low, band.high)


def chill_formula(source: str, thick: str, start: str, place: str, body: str) -> ColdResult:
    """Work out when a block of a formula can be rolled.

    Parameters
    ----------
    source : str
        A formula's file, or BOOK.aplomb#NAME.
    thick, start : str
        As typed: thickness, and temperature throughout at the start.
    place : str
        Of the house, by name or kind.

    Raises
    ------
    AplombError
        Naming what cannot be used.
    """
    study, known = study_from(source)
    house = known.house
    thick_mm, start_c = _asked(thick, start)
    where = place_named(place, house)
    material, range_c = _body(study, bodies_of(study.formula, known.pantry), body)
    block = body_of(material, thick_mm, 0.0, 0.0)
    found = ready(block, start_c, [Stay(where, DAY_MIN)], house, *range_c)
    instead: FirstCold | None = None
    if found.never and start_c > range_c[0]:
        fridge = place_named("fridge", house)
        freezer = place_named("freezer", house)
        instead = first_then(block, start_c, freezer, fridge, house, *range_c)
    return ColdResult(
        formula=study.formula.name,
        body=body,
        place=where.name,
        thickness_mm=thick_mm,
        from_c=start_c,
        range_c=range_c,
        ready=_window(found),
        band=_ends(found.start),
        band_to=_ends(found.end),
        mean_c=found.mean_c,
        skin_c=found.skin_c,
        core_c=found.core_c,
        instead=None
        if instead is None
        else {
            "first": instead.first.name,
            "minutes": instead.first_min,
            "then": instead.then.name,
            "from_min": instead.start_min,
            "to_min": instead.end_min,
        },
    )


def _window(found: Ready) -> dict[str, float] | None:
    if found.start.usual is None or found.end.usual is None:
        return None
    return {"from_min": found.start.usual, "to_min": found.end.usual}


def chill_formula_words(found: ColdResult) -> str:
    """Say it in plain words."""
    low, high = found.range_c
    head = (
        f"{found.formula}: {found.body}, {found.thickness_mm:g} mm from {found.from_c:g} °C, "
        f"{found.place}; rolled at {low:g} to {high:g} °C\n"
    )
    if found.ready is None:
        told = "never ready this way: the outside gets too cold before the middle is ready"
        if found.instead is not None:
            i = found.instead
            told += (
                f"\ninstead: {i['minutes']:.0f} min in {i['first']}, then {i['then']}: "
                f"ready from {i['from_min']:.0f} to {i['to_min']:.0f} min"
            )
        return head + told
    assert found.band is not None
    last = "or more" if found.band[1] is None else f"to {found.band[1]:.0f}"
    return head + (
        f"ready from {found.ready['from_min']:.0f} min (probably {found.band[0]:.0f} "
        f"{last}) to {found.ready['to_min']:.0f} min; then middle {found.core_c:.1f} °C, "
        f"average {found.mean_c:.1f}, skin {found.skin_c:.1f}"
    )


def out_formula(source: str, thick: str, start: str, room: str, bench: str) -> OutResult:
    """Work out how long a sheet of a formula may stay out of the cold.

    Parameters
    ----------
    source : str
        A formula's file, or BOOK.aplomb#NAME.
    thick, start, room : str
        As typed: thickness, temperature at the start, and of the room; empty for the house's shop.

    Raises
    ------
    AplombError
        Naming what cannot be used.
    """
    study, known = study_from(source)
    thick_mm, start_c = _asked(thick, start)
    room_c = read_temp(room) if room else known.house.shop_c
    wrong = Problems()
    wrong.number("room", room_c, -5, 50, "°C")
    wrong.check()
    under: list[Under] = [each for each in UNDERS if each == bench.strip().lower()]
    if not under:
        raise AplombError(f"bench: “{bench}” is not known; use {', '.join(UNDERS)}")
    material, (_, high) = _body(study, bodies_of(study.formula, known.pantry), "paste")
    place = Place("bench", "room", room_c, under=under[0], wrapped=False)
    found = out_of_cold(body_of(material, thick_mm, 0, 0), start_c, place, known.house, high)
    return OutResult(
        study.formula.name,
        under[0],
        thick_mm,
        start_c,
        room_c,
        high,
        found.minutes.usual,
        _ends(found.minutes),
    )


def out_formula_words(found: OutResult) -> str:
    """Say it in plain words."""
    head = (
        f"{found.formula}: {found.thickness_mm:g} mm from {found.from_c:g} °C on {found.bench} at "
        f"{found.room_c:g} °C\n"
    )
    if found.minutes is None:
        return head + f"it does not average {found.limit_c:g} °C at any time; it can stay out"
    assert found.band is not None
    last = "or more" if found.band[1] is None else f"to {found.band[1]:.0f}"
    return head + (
        f"back into the cold after {found.minutes:.0f} min (probably {found.band[0]:.0f} "
        f"{last}), when it averages {found.limit_c:g} °C"
    )
