"""What a place of the world writes its own way: money and days. The locale is given as a value.

Decimal signs and the measures of the house are in `aplomb.core.base.figures`, because the core's
sentences need them too.
"""

from datetime import date, datetime

from msgspec import Struct

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import decimal_sign
from aplomb.core.base.quantity import parse_amount


class Local(Struct, frozen=True):
    """How money and days are written.

    Attributes
    ----------
    currency : str
        Sign of the place's own money; empty when it names none.
    before, after : str
        Round a price, with ``¤`` where the sign stands.
    group : str
        Between groups of three digits of a price.
    months, weekdays : tuple of str
        Short names, from January and from Monday.
    """

    currency: str = "€"
    before: str = "¤"
    after: str = ""
    group: str = ","
    months: tuple[str, ...] = (
        "Jan",
        "Feb",
        "Mar",
        "Apr",
        "May",
        "Jun",
        "Jul",
        "Aug",
        "Sep",
        "Oct",
        "Nov",
        "Dec",
    )
    weekdays: tuple[str, ...] = ("Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun")


_local: list[Local] = [Local()]


def set_local(local: Local) -> None:
    """Write money and days so from now on."""
    _local[0] = local


def money_text(price: float) -> str:
    """Write a price without its currency: always two places.

    Parameters
    ----------
    price : float
        In the book’s currency.

    Examples
    --------
    >>> money_text(8.5)
    '8.50'
    """
    return f"{price:,.2f}".replace(",", "\u2009").replace(".", decimal_sign())


def currency_sign(currency: str) -> str:
    """Give the book's currency, or the place's own when it has chosen none."""
    return currency or _local[0].currency or "€"


def currency_text(price: float, currency: str, digits: int = 2) -> str:
    """Write a price with its currency, where and as the place puts it.

    Parameters
    ----------
    price : float
        In the book’s currency.

    Examples
    --------
    >>> currency_text(1234.5, "£")
    '£1,234.50'
    """
    local = _local[0]
    number = f"{abs(price):,.{digits}f}".replace(",", "\n").replace(".", decimal_sign())
    around = f"{local.before}\r{local.after}".replace("¤", currency_sign(currency))
    return ("−" if price < 0 else "") + around.replace("\r", number.replace("\n", local.group))


def read_price(text: str, currency: str) -> float:
    """Read a price with or without its currency.

    Parameters
    ----------
    text : str
        As typed.

    Raises
    ------
    AmountError
        For anything else.
    """
    bare = text.strip()
    for sign in (currency_sign(currency), _local[0].currency):
        bare = bare.removeprefix(sign).removesuffix(sign).strip() if sign else bare
    try:
        amount = parse_amount(bare, decimal_sign())
    except AmountError:
        amount = None
    if amount is None or not amount.bare or amount.also is not None:
        raise AmountError(f"enter a price, e.g. {money_text(8.5)}", text, 0, len(text))
    return amount.value


def date_text(day: date, *, weekday: bool = False) -> str:
    """Write a day.

    Examples
    --------
    >>> date_text(date(2026, 11, 3), weekday=True)
    'Tue 3 Nov 2026'
    """
    local = _local[0]
    name = f"{local.weekdays[day.weekday()]} " if weekday else ""
    return f"{name}{day.day} {local.months[day.month - 1]} {day.year}"


def kitchen_day() -> date:
    """Give the day that it is in the kitchen, by its own clock."""
    return datetime.now().astimezone().date()


def day_text(iso: str) -> str:
    """Write a day or moment in ISO 8601 as a day, in local time; what is none stays as it is.

    Examples
    --------
    >>> day_text("2026-11-03"), day_text("soon"), day_text("")
    ('3 Nov 2026', 'soon', '–')
    """
    try:
        moment = datetime.fromisoformat(iso)
    except ValueError:
        return iso or "–"
    return date_text((moment.astimezone() if moment.tzinfo else moment).date())


def begun_text(iso: str) -> str:
    """Write when a run was begun; what is no moment is shown as it is."""
    try:
        moment = datetime.fromisoformat(iso)
    except ValueError:
        return iso[:20] or "–"
    return f"{date_text(moment.date())} {moment:%H:%M}"


def moment_text(moment: datetime) -> str:
    """Write a day with its hour.

    Examples
    --------
    >>> moment_text(datetime(2026, 11, 3, 6, 5))
    'Tue 3 Nov 2026, 06:05'
    """
    return f"{date_text(moment, weekday=True)}, {moment:%H:%M}"
