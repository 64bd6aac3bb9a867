"""What the locale that Qt has found says, handed to those who know of no Qt."""

from collections.abc import Callable

from PySide6.QtCore import QLocale

from aplomb.assets.shipped import reference
from aplomb.book.book import Book, OnShelf
from aplomb.core.base.figures import set_decimal
from aplomb.core.base.house import House
from aplomb.core.base.units import Measures
from aplomb.work.figures.local import Local, set_local
from aplomb.work.open_book.announcing import Announcements
from aplomb.work.open_book.workbench import Workbench


def measures_of(locale: QLocale) -> Measures:
    """Give the cups and spoons that are usual where a locale of Qt is."""
    us = locale.measurementSystem() == QLocale.MeasurementSystem.ImperialUSSystem
    return "us" if us else "metric"


def local_of(locale: QLocale) -> Local:
    """Give what a locale of Qt says of money and days."""
    own = locale.currencySymbol()
    if locale.language() == QLocale.Language.C:  # names no place for the sign: as in British use
        locale = QLocale(QLocale.Language.English, QLocale.Country.UnitedKingdom)
    before, _, after = locale.toCurrencyString(1.0, "¤", 0).partition("1")
    short = QLocale.FormatType.ShortFormat
    return Local(
        own,
        before,
        after,
        locale.groupSeparator(),
        tuple(locale.monthName(n, short) for n in range(1, 13)),
        tuple(locale.dayName(n, short) for n in range(1, 8)),
    )


def take_money_and_days() -> None:
    """Write money and days as the locale has them from now on."""
    set_local(local_of(QLocale()))


def take_locale() -> None:
    """Write and read numbers, money and days as the locale has them from now on."""
    take_money_and_days()
    set_decimal("," if QLocale().decimalPoint() == "," else ".")


def usual_house() -> House:
    """Give the house of a new book: its cups and spoons are the place's."""
    return House(measures=measures_of(QLocale()))


def work_on(
    book: Book, read: OnShelf | None, tell: Callable[..., object], write_soon: Callable[[], object]
) -> Workbench:
    """Make the workbench as it is where the locale is.

    Numbers, money and days are written and read its way from now on, and the house of a new book
    has its cups and spoons.

    Parameters
    ----------
    read : OnShelf or None
        What `Book.on_shelf` gave, where it was read already.
    tell : callable
        As for `aplomb.work.open_book.announcing.Announcements`.
    write_soon : callable
        As for `Workbench`.
    """
    take_locale()
    return Workbench(book, reference(), usual_house(), Announcements(tell), write_soon, read)
