"""The search of everything: what people call things is found, the best first."""

from pathlib import Path

import pytest

from aplomb.assets.shipped import glossary, reference
from aplomb.book.book import Book
from aplomb.work.commands import COMMANDS
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench
from aplomb.work.searching import Result, everything
from tables import wrong_rows

SOUGHT = Path(__file__).with_name("sought.txt")
"""What people call things, and what must be among the first three: written before it was run."""


@pytest.fixture(scope="module")
def among(tmp_path_factory):
    work = Workbench(Book(tmp_path_factory.mktemp("found") / "demo.aplomb"), reference())
    fill_with_demo(work)
    yield everything(work)
    work.close()


def cases() -> list[tuple[str, tuple[str, ...]]]:
    rows = SOUGHT.read_text(encoding="utf-8").splitlines()
    found = [row.split(" | ") for row in rows if row and not row.startswith("#")]
    return [(said, tuple(meant.split("; "))) for said, meant in found]


def fits(found: Result, meant: str) -> bool:
    """Tell whether a result is what was meant."""
    if meant.startswith("kind"):
        return found.key == "kind" and meant in ("kind", f"kind {found.about}")
    if meant == "formula":
        return found.key == "open formula"
    if meant == "material":
        return found.key == "pantry" and found.about is not None
    if meant == "glossary":
        return any(found.line.startswith(f"{word}: ") for word in glossary())
    return found.key == meant and (found.about is None or meant == "unit")


def test_what_people_call_things_is_found(among):
    def is_found(said, meant):
        found = among.search(said)[:3]
        if meant != ("-",):  # that may find nothing; it must only be asked
            lines = [each.line for each in found]
            assert any(fits(each, one) for each in found for one in meant), lines

    assert wrong_rows(cases(), is_found) == []


def test_every_command_is_found_by_its_own_words_first(among):
    for each in COMMANDS.values():
        assert among.search(each.words)[0].key == each.key


def test_every_formula_material_and_word_is_found_by_its_name(among):
    for each in among.results:
        if each.key in ("open formula", "pantry") and each.about is not None:
            name = each.line.removeprefix("Formula: ").removesuffix(", in the pantry")
            assert each in among.search(name)[:2], name


def test_without_a_word_the_commands_stand_and_for_nonsense_nothing(among):
    assert {each.rank for each in among.search("")} == {0}
    assert among.search("xyzzy") == ()
    assert among.search("  ?? !") == among.search("")
