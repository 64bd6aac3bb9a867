"""Undo and redo against a plain model: any order of edits, undos, redos and reopenings."""

import tempfile
from pathlib import Path

from hypothesis import settings
from hypothesis import strategies as st
from hypothesis.stateful import RuleBasedStateMachine, initialize, invariant, precondition, rule
from msgspec.structs import replace

from aplomb.book.book import Book, new_uid, now
from aplomb.book.changes import Change, Kept, StoreChange, Together
from aplomb.book.entry import Entry
from aplomb.core.paste.formula import Formula

Shelf = dict[str, str]


class BookMachine(RuleBasedStateMachine):
    """The book beside a list of the states it should have gone through."""

    @initialize()
    def open(self):
        self.folder = tempfile.TemporaryDirectory()
        self.path = Path(self.folder.name) / "a.aplomb"
        self.book = Book(self.path)
        self.states: list[Shelf] = [{}]
        self.at = 0
        self.stored: dict[int, frozenset[str]] = {}
        self.keys = 0

    def _did(self, changes: list[Change], after: Shelf) -> None:
        self.book.record(changes)
        del self.states[self.at + 1 :]
        self.states.append(after)
        self.at += 1
        self.stored[self.at] = self.stored.get(self.at - 1, frozenset())

    @property
    def shelf(self) -> Shelf:
        return self.states[self.at]

    @rule(name=st.sampled_from(["Kiosk", "Regatta", "Crew"]))
    def add(self, name):
        entry = Entry(new_uid(), float(len(self.states)), now(), Formula(name))
        self._did([Change("add", entry.uid, None, entry)], {**self.shelf, entry.uid: name})

    @precondition(lambda self: self.shelf)
    @rule(data=st.data(), name=st.text("abc", min_size=1, max_size=4))
    def rename(self, data, name):
        entry = self._entry(data)
        after = entry.with_formula(replace(entry.formula, name=name), now())
        self._did([Change("name", entry.uid, entry, after)], {**self.shelf, entry.uid: name})

    @precondition(lambda self: self.shelf)
    @rule(data=st.data())
    def delete(self, data):
        entry = self._entry(data)
        rest = {uid: name for uid, name in self.shelf.items() if uid != entry.uid}
        self._did([Change("delete", entry.uid, entry, None)], rest)

    @rule(data=st.data(), many=st.integers(1, 3))
    def several_at_once(self, data, many):
        """Formulas come, one goes, and the store is written to, all by one command."""
        shelf, parts = dict(self.shelf), []
        if shelf:
            gone = self._entry(data)
            parts.append(Change("delete", gone.uid, gone, None))
            del shelf[gone.uid]
        self.keys += 1  # a key never comes again, whatever was undone meanwhile
        key = f"item/{self.keys}"
        parts.append(StoreChange("price", (Kept(key, None),), (Kept(key, "{}"),)))
        for _ in range(many):
            entry = Entry(new_uid(), float(len(self.states)), now(), Formula("Laid out"))
            parts.append(Change("add", entry.uid, None, entry))
            shelf[entry.uid] = "Laid out"
        self._did([Together("lay out", tuple(parts))], shelf)
        self.stored[self.at] = self.stored.get(self.at - 1, frozenset()) | {key}

    def _entry(self, data) -> Entry:
        uid = data.draw(st.sampled_from(sorted(self.shelf)))
        return next(entry for entry in self.book.entries() if entry.uid == uid)

    @rule()
    def undo(self):
        done = self.book.undo()
        assert (done is None) == (self.at == 0)
        self.at = max(0, self.at - 1)

    @rule()
    def redo(self):
        done = self.book.redo()
        assert (done is None) == (self.at == len(self.states) - 1)
        self.at = min(len(self.states) - 1, self.at + 1)

    @rule()
    def reopen(self):
        self.book.close()
        self.book = Book(self.path)

    @invariant()
    def the_book_is_as_the_model(self):
        if hasattr(self, "book"):
            assert {e.uid: e.formula.name for e in self.book.entries()} == self.shelf
            assert {kept.key for kept in self.book.store()} == self.stored.get(self.at, set())
            back, on = self.book.history.next_words()
            assert bool(back) == (self.at > 0)
            assert bool(on) == (self.at < len(self.states) - 1)

    def teardown(self):
        if hasattr(self, "book"):
            self.book.close()
            self.folder.cleanup()


BookMachine.TestCase.settings = settings(max_examples=25, stateful_step_count=20)
TestBookMachine = BookMachine.TestCase
