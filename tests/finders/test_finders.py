"""A small share of every finder, with seeds of its own; the whole of each is one command:
``scripts/press_at_random.py`` and ``scripts/find_faults.py``."""

from types import SimpleNamespace

import pytest

from finders import books, devices, files, photographs, plans, press, studies, texts


def told(faults, first):
    return [f"{times} × {words}: {first[words]}" for words, times in faults.most_common()]


def test_formulas_at_the_ends_of_every_range_are_worked_out_or_refused():
    faults, first, worked = studies.find(80, 1_000_000)
    assert told(faults, first) == []
    assert worked > 45


@pytest.mark.parametrize(("kind", "cases", "taken"), [("json", 700, 20), ("csv", 200, 90)])
def test_files_of_others_are_read_whole_or_refused(kind, cases, taken):
    faults, first, many = files.find(kind, cases, 1_000_000)
    assert told(faults, first) == []
    assert many > taken


def test_texts_are_read_or_refused_at_a_place_and_soon():
    faults, first = texts.find(150, 1_000_000)
    assert told(faults, first) == []


def test_damaged_books_open_in_part_or_are_refused(qapp, tmp_path):
    faults, first = books.find(12, 1_000_000, tmp_path)
    assert told(faults, first) == []


@pytest.mark.qt_log_ignore(".")  # decoders say what they find
def test_broken_photographs_are_taken_whole_or_refused(qapp):
    assert told(*photographs.find(60, 1_000_000)) == []


def test_nonsense_of_every_device_is_refused_or_kept():
    faults, first, understood = devices.find(400, 1_000_000)
    assert told(faults, first) == []
    assert understood > 40


def test_made_up_plans_are_planned_run_and_printed(qapp):
    faults, first, made = plans.find(6, 1_000_000)
    assert told(faults, first) == []
    assert made > 2


def test_the_presser_finds_what_falls(qapp):
    """What it looks for is seen by it: a stray window, a change in another formula."""

    class Session:
        uid = "a"
        shelf = SimpleNamespace(entries={})
        store = SimpleNamespace(rows=list)

        class book:  # noqa: N801
            path = "x"

            class history:  # noqa: N801
                @staticmethod
                def position():
                    return 0

        @staticmethod
        def flush():
            return True

    class Held:
        def __init__(self, formula):
            self.formula = formula

    class Formula:
        def __init__(self, name, grams):
            self.name, self.grams = name, grams

        def __eq__(self, other):
            return (self.name, self.grams) == (other.name, other.grams)

        __hash__ = None

    class Window:
        session = Session()
        pages: dict = {}  # noqa: RUF012
        page = None

    Session.shelf.entries = {"a": Held(Formula("A", 1)), "b": Held(Formula("B", 2))}
    watch = press.Watch(Window())
    Session.shelf.entries = {"a": Held(Formula("A", 5)), "b": Held(Formula("B", 2))}
    watch._windows = lambda done: None
    watch.after("type 5")
    assert watch.faults == []
    Session.shelf.entries = {"a": Held(Formula("A", 5)), "b": Held(Formula("B", 777))}
    watch.after("type 777")
    assert watch.faults == ["type 777: “B” changed, which was not in hand"]
