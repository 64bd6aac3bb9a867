"""Shared by all tests: the shipped reference, the demo book, and a home of their own."""

import os
from contextlib import suppress
from itertools import count

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import hypothesis
import pytest
from msgspec.structs import replace

from aplomb.assets import shipped
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Reference

# A busy machine is no fault of the code: times are measured in benchmarks/. What an earlier run met
# is not kept, so that a run is the same for whoever makes it.
hypothesis.settings.register_profile("aplomb", deadline=None, max_examples=20, database=None)
hypothesis.settings.load_profile("aplomb")


HOMES = count()

with suppress(ImportError):  # the core's tests run where Qt is not installed
    from PySide6.QtCore import QLocale

    # Expectations are written with a point. Whoever tests a locale's own signs sets that locale;
    # what the process itself is started in may be any.
    QLocale.setDefault(QLocale.c())


@pytest.fixture(autouse=True)
def _own_home(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    """No test sees the user's own folders; its own is made by what writes there first."""
    home = tmp_path_factory.getbasetemp() / f"home-{next(HOMES)}"
    monkeypatch.setenv("APLOMB_HOME", str(home))


@pytest.fixture(scope="session")
def known() -> Reference:
    """Demo book's reference: the shipped pantry with its prices, and its house."""
    plain, book = shipped.reference(), shipped.demo()
    return replace(plain, pantry=plain.pantry.holding(book.items), house=book.house)


@pytest.fixture(scope="session")
def pantry(known: Reference) -> Pantry:
    return known.pantry


@pytest.fixture(scope="session")
def demo() -> list[Formula]:
    return list(shipped.demo().formulas)


@pytest.fixture
def plain() -> Formula:
    """1000 flour, 500 water, 20 salt; 1000 unsalted butter: full paste, easy to work by hand."""
    return Formula(
        name="Plain",
        dough=(Line("plain_flour", 1000), Line("water", 500), Line("salt", 20)),
        block=(Line("butter", 1000),),
        turn_line="envelope 3 4 / 3 4",
        sheet_mm=3.0,
    )
