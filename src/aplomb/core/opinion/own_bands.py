"""Bands learned from a bakery's own trials, in the place of recalled ones until put back."""

from collections.abc import Mapping
from typing import get_args

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import Problems
from aplomb.core.base.sound import check_sound
from aplomb.core.opinion.opinion import Band, SchoolBands
from aplomb.core.paste.formula import School

MOST_OWN = 60


class OwnBand(Struct, frozen=True, forbid_unknown_fields=True):
    """A band of the bakery's own.

    Attributes
    ----------
    reading : str
        A key of that school's bands.
    low, high : float
        In the reading's unit.
    words : str
        Where it comes from: from how many trials, how sure its ends are.
    n : int
        Trials it was learned from [-].
    at : str
        When it was taken, ISO 8601.
    """

    school: School
    reading: str
    low: float
    high: float
    words: str
    n: int
    at: str


class OwnBands(Struct, frozen=True, forbid_unknown_fields=True):
    """All bands of the bakery's own."""

    bands: tuple[OwnBand, ...] = ()

    def of(self, school: str, reading: str) -> OwnBand | None:
        """Give the own band of a school's reading; None where the recalled one stands."""
        return next((b for b in self.bands if (b.school, b.reading) == (school, reading)), None)

    def with_band(self, band: OwnBand) -> "OwnBands":
        """Give the same with a band in the place of that of the same reading."""
        return OwnBands((*self.without(band.school, band.reading).bands, band))

    def without(self, school: str, reading: str) -> "OwnBands":
        """Give the same with the recalled band of a reading put back."""
        return OwnBands(tuple(b for b in self.bands if (b.school, b.reading) != (school, reading)))


def check_own_bands(own: OwnBands) -> OwnBands:
    """Give the bands back if they can be used.

    Raises
    ------
    FormulaError
        Listing all that cannot be used.
    """
    wrong = Problems()
    if len(own.bands) > MOST_OWN:
        wrong.add(f"your ranges: {len(own.bands)} are too many; use up to {MOST_OWN}.")
    for band in own.bands[:MOST_OWN]:
        place = f"your range for {band.reading[:40]}"
        if band.school not in get_args(School):
            wrong.add(f"{place}: unknown school.")
        wrong.number(f"{place}, from", band.low, 0, 1e6, "")
        wrong.number(f"{place}, to", band.high, 0, 1e6, "")
        if not wrong.told and band.low >= band.high:
            wrong.add(f"{place}: the upper end must be above the lower end.")
    check_sound(own, wrong)
    wrong.check()
    return own


def with_own_bands(schools: Mapping[str, SchoolBands], own: OwnBands) -> dict[str, SchoolBands]:
    """Put own bands in the place of recalled ones.

    Parameters
    ----------
    own : OwnBands
        One of a reading that has no band is passed over.
    """
    made = dict(schools)
    for each in own.bands:
        school = made.get(each.school)
        if school is None or each.reading not in school.bands:
            continue
        was = school.bands[each.reading]
        band = Band(
            each.low,
            each.high,
            min(was.axis_low, each.low),
            max(was.axis_high, each.high),
            "trials",
            each.words,
            was.log,
        )
        made[each.school] = replace(school, bands={**school.bands, each.reading: band})
    return made
