"""Who works here, as it is typed on Day: a number, or names with their hours."""

import re

from msgspec.structs import replace

from aplomb.core.base.errors import AmountError, refuse_endless
from aplomb.core.base.house import LONGEST_INITIALS, MOST_BAKERS, Baker, House
from aplomb.work.figures.typed import LONGEST, clock_text, read_clock

_HOURS = re.compile(
    r"(\d{1,2}(?:[:.h]\d{2})?\s*(?:[ap]m)?)\s*(?:to|until|-|–|—)\s*"
    r"(\d{1,2}(?:[:.h]\d{2})?\s*(?:[ap]m)?)",
    re.IGNORECASE,
)
MOST_HANDS = 50


def read_bakers(house: House, text: str) -> House:
    """Read who works here.

    Parameters
    ----------
    text : str
        ``2``; or ``MA, RO``; or ``MA 5:00 to 13:00, RO 7 to 15``.

    Raises
    ------
    AmountError
        With the reason in words.
    """
    refuse_endless(text, LONGEST)
    bare = text.strip()
    if bare.isdigit():
        if not 1 <= int(bare) <= MOST_HANDS:
            raise AmountError(f"enter 1 to {MOST_HANDS} bakers, or their names", text, 0, len(text))
        return replace(house, bakers=int(bare), people=())
    people = tuple(_baker(part.strip(), text) for part in re.split(r"[,;]", bare) if part.strip())
    if not people:
        raise AmountError("enter how many bakers, or their names, e.g. MA, RO", text, 0, len(text))
    if len(people) > MOST_BAKERS:
        raise AmountError(f"up to {MOST_BAKERS} names fit", text, 0, len(text))
    return replace(house, people=people, bakers=len(people))


def _baker(part: str, text: str) -> Baker:
    spans = [(read_clock(a.strip()), read_clock(b.strip())) for a, b in _HOURS.findall(part)]
    name = _HOURS.sub(" ", part)
    name = re.sub(r"(?<!\w)and(?!\w)", " ", name, flags=re.IGNORECASE).strip(" :")
    if not name or len(name) > LONGEST_INITIALS or any(sign.isdigit() for sign in name):
        raise AmountError(
            f"enter up to {LONGEST_INITIALS} letters and the hours, e.g. MA 5:00 to 13:00",
            text,
            max(0, text.find(part)),
            max(0, text.find(part)) + len(part),
        )
    if any(end <= begin for begin, end in spans):
        raise AmountError(f"{name}: the hours must end later than they start", text, 0, len(text))
    return Baker(name, tuple(spans))


def bakers_text(house: House) -> str:
    """Write who works here as it is typed."""
    if not house.people:
        return str(house.bakers)
    return ", ".join(
        " and ".join(
            [each.name, *(f"{clock_text(a)} to {clock_text(b)}" for a, b in each.hours)]
        ).replace(" and ", " ", 1)
        for each in house.people
    )
