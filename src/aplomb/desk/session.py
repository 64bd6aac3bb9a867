"""The session: the open book, the formula in hand, what follows from it, and undo.

Widgets send an intention; the session makes the next value, works it out, announces it and sees
that it reaches the book within a second. Widgets hold no truth and do no arithmetic.
"""

import os
import sys
from collections.abc import Callable, Collection, Sequence
from contextlib import suppress
from pathlib import Path

import msgspec
from msgspec.structs import replace
from PySide6.QtCore import QObject, QTimer, Signal

from aplomb.book.book import Book, BookError, DiskError, GoneError, Refused, new_uid, now
from aplomb.book.changes import AnyChange, Change, Kept, Revision, StoreChange
from aplomb.book.entry import Entry
from aplomb.book.paths import home
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import set_measures
from aplomb.core.base.house import House, check_house
from aplomb.core.batch.record import BatchRecord, check_record
from aplomb.core.batch.stock import Demand, Stock, check_demand, check_stock
from aplomb.core.paste.formula import Formula, check
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Item, Pack, check_item
from aplomb.core.study.study import Reference, Study, make_study
from aplomb.desk.kit.mid_event import Later
from aplomb.work.store import (
    ASIDE,
    DEMAND,
    HOUSE,
    RECORD,
    STOCK,
    Kitchen,
    kitchen_of,
    reference_changed,
    row_of_item,
    users_of,
)

READ_AT_ONCE = 200
"""So many formulas are read when a book is opened, to tell which cannot be [-]."""
LONGEST_STEM = 80
"""What of a book's name goes into that of one made of it [signs]."""
WRITE_AFTER_MS = 300
"""A change waits this long for the next before both are written [ms]."""


def first_formula(name: str) -> Formula:
    """Give the formula that a new one starts from: the usual parts, with water and salt in
    common proportion, so that every figure has a value at once."""
    return Formula(
        name=name,
        dough=(Line("plain_flour", 1000), Line("water", 500), Line("salt", 18)),
        block=(Line("butter", 750),),
        dusting=(Line("plain_flour", 30),),
        turn_line="envelope 3 4 / 3 4 /",
    )


def _body(value: msgspec.Struct) -> str:
    return msgspec.json.encode(value).decode()


def _filled(path: Path, fill: Callable[[Book], object]) -> Book:
    """Open a book and fill it; one that cannot be filled is let go, and its lock with it."""
    book = Book(path)
    try:
        fill(book)
    except BaseException:
        book.close()
        raise
    return book


class Session(QObject):
    """What is open, and the one way to change it.

    Signals
    -------
    leaving
        Another formula or book is about to be in hand, or something to be undone: what is being
        typed must be taken now, for the formula that it was typed for.
    studied
        The formula in hand, or what follows from it, is another.
    shelf_changed
        A formula came, went, moved or was renamed.
    stocked
        The pantry or the house is another.
    trouble_changed
        `trouble` is another.
    said : str
        Something worth a line at the foot of the window.
    """

    leaving = Signal()
    studied = Signal()
    shelf_changed = Signal()
    reference_changed = Signal()
    trouble_changed = Signal()
    said = Signal(str)

    def __init__(self, book: Book, reference: Reference, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._shipped = reference
        self._reference = reference
        self.kitchen = Kitchen()
        self.book = book
        self.entries: dict[str, Entry] = {}
        self.uid = ""
        self.study: Study | None = None
        self.trouble = self.notice = ""
        self._closed = False
        self._unreadable: dict[str, str] = {}
        self._later = Later(self)
        self._pending: list[AnyChange] = []
        self._studies: dict[str, tuple[Formula, Study]] = {}
        self._timer = QTimer(self, singleShot=True, interval=WRITE_AFTER_MS)
        self._timer.timeout.connect(self.flush)
        self._take(book)

    @property
    def reference(self) -> Reference:
        """What studies of the formula in hand lean on."""
        self._reference = self._reference.of(self.uid)
        return self._reference

    def _take(self, book: Book) -> None:
        self.book = book
        self.entries = {entry.uid: entry for entry in book.entries()}
        self._pending.clear()
        self._revisions: dict[str, int] = {}  # last ones; asked with every edit, read once
        self._store = {kept.key: kept.body for kept in book.store() if kept.body is not None}
        self._stock()
        wanted = book.setting("open")
        self.uid = wanted if wanted in self.entries else next(iter(self.entries), "")
        self.trouble = book.read_only
        self.notice = self._set_aside_words()
        self._refresh()

    def _set_aside_words(self) -> str:
        """Say what of the book could not be read; a large shelf says so formula by formula."""
        aside = [*self.book.aside, *self._unreadable.values()]
        for entry in list(self.entries.values())[:READ_AT_ONCE]:
            try:
                _ = entry.formula
            except AplombError:
                aside.append(f"the formula “{entry.name[:60]}”")
        if not aside:
            return ""
        return (
            f"Set aside, because it cannot be read: {'; '.join(dict.fromkeys(aside))}. It stays in "
            "the file as it is."
        )

    def _stock(self, changed: Collection[str] | None = None) -> None:
        """Take the book's store: house, own materials, prices, batches; of some rows that have
        changed only what hangs on them."""
        before = self._reference if changed is not None else None
        self._reference, troubles = reference_changed(self._shipped, self._store, before, changed)
        house = self._reference.house
        set_measures(house.masses, house.lengths, house.temps)
        self.kitchen, more = kitchen_of(self._store)
        still = {k: words for k, words in self._unreadable.items() if k not in (changed or ())}
        self._unreadable = (still if changed is not None else {}) | troubles | more
        if self._reference is not before:
            self._studies.clear()

    def put_items(self, words: str, items: Sequence[Item]) -> None:
        """Put own materials and prices into the pantry; one change, however many.

        Parameters
        ----------
        words : str
            What is done, for undo: ``price of butter``.
        items : sequence of Item
            An item with neither material nor price is taken out.

        Raises
        ------
        AplombError
            When a figure cannot be used, or a formula needs a material that would go.
        """
        for item in items:
            check_item(item)
            if item.material is None and item.key not in self._shipped.pantry:
                self._refuse_if_used(item.key)
        rows = dict(row_of_item(item) for item in items)
        self._change_store(words, rows)

    def price(self, words: str, key: str, pack: Pack | None) -> None:
        """Give a material a price, or take it away; raises AplombError as `hold`."""
        pantry = self.reference.pantry
        self.put_items(words, [Item(key, pantry[key] if pantry.is_own(key) else None, pack)])

    def _refuse_if_used(self, key: str) -> None:
        if key in self.reference.pantry:
            users = users_of(key, self.entries.values(), self.reference.pantry)
            if users:
                some = ", ".join(f"“{name}”" for name in users[:3])
                raise AplombError(
                    f"{self.reference.pantry[key].name} is used by {some}; put another in its "
                    "place there first"
                )

    def set_house(self, words: str, house: House) -> None:
        """Change how the bakery measures and how warm its places are.

        Raises
        ------
        AplombError
            When a figure cannot be used.
        """
        check_house(house)
        self._change_store(words, {HOUSE: msgspec.json.encode(house).decode()})

    def put_stock(self, words: str, stock: Stock) -> None:
        """Change what is on the shelf and in the freezer; raises AplombError as `settle`."""
        self._change_store(words, {STOCK: _body(check_stock(stock))})

    def put_demand(self, words: str, demand: Demand) -> None:
        """Change what the day wants; raises AplombError as `settle`."""
        self._change_store(words, {DEMAND: _body(check_demand(demand))})

    def put_record(self, words: str, record: BatchRecord, stock: Stock | None = None) -> None:
        """Keep what was done and measured of a batch, and with it the stock that is left when one
        is given; raises AplombError as `settle`."""
        rows: dict[str, str | None] = {RECORD + record.key: _body(check_record(record))}
        if stock is not None:
            rows[STOCK] = _body(check_stock(stock))
        self._change_store(words, rows)

    def drop_record(self, words: str, key: str) -> None:
        """Take a batch out of the book; undo brings it back."""
        self._change_store(words, {RECORD + key: None})

    def _change_store(self, words: str, rows: dict[str, str | None]) -> None:
        changed = {key: body for key, body in rows.items() if self._store.get(key) != body}
        if not changed:
            return
        for key in list(changed):  # what could not be read is kept beside what takes its place
            if key in self._unreadable and key in self._store:
                changed[f"{ASIDE}{key}"] = self._store[key]
        before = tuple(Kept(key, self._store.get(key)) for key in changed)
        after = tuple(Kept(key, body) for key, body in changed.items())
        self._note(StoreChange(words, before, after))
        self._put_store(after)
        self._restudy()

    def _put_store(self, rows: tuple[Kept, ...]) -> None:
        for kept in rows:
            if kept.body is None:
                self._store.pop(kept.key, None)
            else:
                self._store[kept.key] = kept.body
        self._stock([kept.key for kept in rows])

    def _restudy(self) -> None:
        self._refresh()
        self._later.tell(self.reference_changed.emit, self.studied.emit)

    def revisions(self) -> list[Revision]:
        """Read the revisions of the formula in hand, the first one first."""
        return self.book.revisions(self.uid) if self.uid else []

    @property
    def revision(self) -> int:
        """Number of the last revision of the formula in hand; 0 without any."""
        if self.uid not in self._revisions:
            self._revisions[self.uid] = self.book.last_revision(self.uid)
        return self._revisions[self.uid]

    def keep_revision(self, name: str) -> int:
        """Keep the formula in hand as a revision; gives its number.

        Raises
        ------
        BookError
            When the book refuses.
        """
        self.leaving.emit()
        if self.formula is None:
            return 0
        number = self._revisions[self.uid] = self.book.keep_revision(self.uid, name, self.formula)
        self.said.emit(f"Revision {number} kept" + (f": {name}" if name else ""))
        self._later.tell(self.studied.emit)
        return number

    @property
    def formula(self) -> Formula | None:
        """The formula in hand."""
        return self.study.formula if self.study else None

    def open_book(self, path: Path) -> None:
        """Open another book; when that fails, the one that is open stays.

        Raises
        ------
        BookError
            When the book cannot be opened, or the open one still has unwritten changes.
        """
        self.leaving.emit()
        if not self.flush():
            raise BookError("The open book has changes that are not written yet; see the notice.")
        if path.absolute() == self.book.path.absolute():
            return
        book = Book(path)
        try:
            book.entries()
        except AplombError:
            book.close()
            raise
        self.book.close()
        self._take(book)
        self._announce()

    def _in_new_file(self, path: Path) -> Book:
        """Put all that is here into a new file: a copy of the book with its history, or, when that
        is not sound or no longer there, what this window holds."""
        if not self.book.rebuild:
            try:
                self.book.copy_to(path)
            except GoneError:
                pass
            else:
                return _filled(path, lambda book: book.record(self._pending))
        if os.path.lexists(path):
            raise BookError(f"{path.name} is there already; choose another name.")
        entries = list(self.entries.values())
        store = [Kept(*row) for row in self._store.items()]
        return _filled(path, lambda book: book.fill(entries, store, self.book.revision_rows()))

    def rescue(self) -> Path:
        """Keep everything in a new book beside this one, or in the own folder, and go on there.

        Returns
        -------
        Path
            Of the new book.

        Raises
        ------
        BookError
            When neither place takes it; nothing is lost here.
        """
        self.leaving.emit()
        stem = self.book.path.stem[:LONGEST_STEM]
        refused: BookError | None = None
        with suppress(OSError):
            home().mkdir(parents=True, exist_ok=True)
        for folder in (self.book.path.parent, home()):
            for number in range(1, 100):
                path = folder / f"{stem}, kept{f' {number}' if number > 1 else ''}.aplomb"
                if os.path.lexists(path):
                    continue
                try:
                    self._go_on_in(self._in_new_file(path))
                except BookError as error:
                    refused = refused or error
                    break
                return path
        raise refused or BookError("There is no free name for a new book; keep a copy elsewhere.")

    def _go_on_in(self, book: Book) -> None:
        uid = self.uid
        self.book.close()
        self._take(book)
        if uid in self.entries:
            self.uid = uid
            self._refresh()
        self._announce()

    def keep_copy(self, path: Path) -> None:
        """Write the book with all changes to another file and go on there.

        Raises
        ------
        BookError
            When it cannot be written; nothing is lost here.
        """
        self.leaving.emit()
        self._go_on_in(self._in_new_file(path))

    def close(self) -> bool:
        """Write what is left and close; False when something could not be written."""
        if self._closed:
            return True
        self.leaving.emit()
        done = self.flush()
        if done:
            self._closed = True
            self.book.close()
        return done

    def select(self, uid: str) -> None:
        """Take another formula in hand."""
        if uid == self.uid or uid not in self.entries:
            return
        self.leaving.emit()
        self.uid = uid
        self._refresh()
        try:
            self.book.set_setting("open", uid)
        except BookError:
            self.said.emit("The book did not keep which formula was open.")
        self._later.tell(self.studied.emit)

    def change(self, words: str, formula: Formula) -> None:
        """Make the formula in hand another value.

        Parameters
        ----------
        words : str
            What is done, for undo: ``change salt``.
        formula : Formula

        Raises
        ------
        AplombError
            When the value cannot be used; nothing is changed then.
        """
        entry = self.entries.get(self.uid)
        if entry is None or formula == entry.formula:
            return
        check(formula, self.reference.pantry)
        study = self._worked_out(formula, self.uid)
        renamed = (formula.name, formula.purpose) != (entry.name, entry.purpose)
        after = entry.with_formula(formula, now())
        self._note(Change(words, self.uid, entry, after))
        self.entries[self.uid] = after
        self.study = study
        self._studies[self.uid] = (formula, study)
        self._later.tell(self.studied.emit, *([self.shelf_changed.emit] if renamed else []))

    def _worked_out(self, formula: Formula, uid: str) -> Study:
        """Work a formula out; a fault of ours refuses the change, and the old value stays."""
        try:
            return make_study(formula, self._reference.of(uid))
        except AplombError:
            raise
        except Exception as error:
            sys.excepthook(type(error), error, error.__traceback__)
            raise AplombError(
                "This change cannot be worked out, through a mistake in Aplomb; it was not made."
            ) from error

    def edit(self, words: str, make: Callable[[Formula], Formula]) -> None:
        """Change the formula in hand by a function of it; as `change`."""
        self.leaving.emit()
        if self.formula is not None:
            self.change(words, make(self.formula))

    def add(self, formula: Formula, words: str, after_uid: str = "") -> str:
        """Put a formula on the shelf and take it in hand.

        Parameters
        ----------
        formula : Formula
        words : str
            What is done, for undo.
        after_uid : str
            The formula it stands behind; empty for the end.

        Returns
        -------
        str
            Its identity.
        """
        self.leaving.emit()
        check(formula, self.reference.pantry)
        uid = new_uid()
        entry = Entry(uid, self._place(after_uid), now(), formula)
        self._note(Change(words, uid, None, entry))
        self.entries[uid] = entry
        self.uid = uid
        self._sort()
        self._refresh()
        self._announce()
        return uid

    def _place(self, after_uid: str) -> float:
        places = sorted(entry.place for entry in self.entries.values())
        if after_uid in self.entries:
            here = self.entries[after_uid].place
            above = [place for place in places if place > here]
            return (here + above[0]) / 2 if above else here + 1
        return places[-1] + 1 if places else 0.0

    def new(self) -> str:
        """Put a new formula on the shelf."""
        return self.add(first_formula(self._free_name("New paste")), "new formula")

    def copy(self) -> None:
        """Put a copy of the formula in hand behind it."""
        self.leaving.emit()
        formula = self.formula
        if formula is not None:
            name = self._free_name(f"{formula.name[:100]}, copy")
            self.add(replace(formula, name=name), f"copy {formula.name}", self.uid)

    def delete(self) -> None:
        """Take the formula in hand off the shelf; undo brings it back."""
        self.leaving.emit()
        entry = self.entries.get(self.uid)
        if entry is None:
            return
        order = list(self.entries)
        at = order.index(self.uid)
        self._note(Change(f"delete {entry.name}", self.uid, entry, None))
        del self.entries[self.uid]
        self._studies.pop(self.uid, None)
        rest = order[:at] + order[at + 1 :]
        self.uid = rest[min(at, len(rest) - 1)] if rest else ""
        self._refresh()
        self._announce()
        self.said.emit(f"“{entry.name}” deleted. Ctrl+Z brings it back.")

    def _free_name(self, name: str) -> str:
        names = {entry.name for entry in self.entries.values()}
        number, free = 2, name
        while free in names:
            free, number = f"{name} {number}", number + 1
        return free

    def next_words(self) -> tuple[str, str]:
        """Say what undo and redo would do, as ``: salt 20 g``; empty for nothing."""
        back, on = self.book.next_words()
        if self._pending:
            back, on = self._pending[-1].words, ""
        return (f": {back[:40]}" if back else "", f": {on[:40]}" if on else "")

    def undo(self) -> None:
        """Take the last change back, of whatever formula it was."""
        self.leaving.emit()
        if not self.flush():
            change = self._pending.pop()
            self._apply(change, f"Undone: {change.words}", back=True)
            if not self._pending:  # nothing waits any more: the window shows what is kept
                self._set_trouble(self.book.read_only)
            return
        self._wind(self.book.undo, back=True)

    def redo(self) -> None:
        """Make the last undone change again."""
        self.leaving.emit()
        if self.flush():
            self._wind(self.book.redo, back=False)

    def _wind(self, step: Callable[[], AnyChange | None], *, back: bool) -> None:
        try:
            change = step()
        except DiskError as error:
            self._set_trouble(str(error))
            return
        except BookError as error:
            self.said.emit(str(error))
            return
        if change is None:
            self.said.emit("Nothing to undo." if back else "Nothing to redo.")
            return
        word = "Undone" if back else "Done again"
        self._apply(change, f"{word}: {change.words}", back=back)

    def _apply(self, change: AnyChange, words: str, *, back: bool) -> None:
        if isinstance(change, StoreChange):
            self._put_store(change.before if back else change.after)
            self._restudy()
            self.said.emit(words)
            return
        entry = change.before if back else change.after
        if entry is None:
            self.entries.pop(change.uid, None)
            if self.uid == change.uid:
                self.uid = next(iter(self.entries), "")
        else:
            self.entries[change.uid] = entry
            self.uid = change.uid
            self._sort()
        self._refresh()
        self._announce()
        self.said.emit(words)

    def _sort(self) -> None:
        self.entries = dict(sorted(self.entries.items(), key=lambda item: item[1].place))

    def _note(self, change: AnyChange) -> None:
        if self._closed:  # the window is going; nothing more is kept
            return
        self._pending.append(change)
        if not self._timer.isActive():
            self._timer.start()

    def flush(self) -> bool:
        """Write what waits to be written.

        Returns
        -------
        bool
            False when the book refused; `trouble` says why, and the changes still wait.
        """
        self._timer.stop()
        if self._closed:
            return True
        if not self._pending and self.trouble == self.book.read_only:
            return True
        try:
            if not self._pending:
                self.book.probe()
            refused = self.book.record(self._pending)
        except BookError as error:
            self._set_trouble(f"{error} Your changes are kept in this window meanwhile.")
            return not self._pending
        self._pending.clear()
        self._set_trouble("")
        if refused:
            self._give_back(refused)
        return True

    def _give_back(self, refused: Sequence[Refused]) -> None:
        """Show again what is kept in place of changes that no book can hold."""
        for each in refused:
            if isinstance(each.change, Change):
                kept = self.book.entry(each.change.uid)
                if kept is None:
                    self.entries.pop(each.change.uid, None)
                else:
                    self.entries[kept.uid] = kept
            else:
                self._store = {kept.key: kept.body or "" for kept in self.book.store()}
                self._stock()
        if self.uid not in self.entries:
            self.uid = next(iter(self.entries), "")
        self._sort()
        self._refresh()
        self._announce()
        self.said.emit(
            f"“{refused[0].change.words}” could not be kept and was taken back: {refused[0].why}"
        )

    @property
    def unwritten(self) -> int:
        """Changes that wait to be written [-]."""
        return len(self._pending)

    def _set_trouble(self, words: str) -> None:
        if words != self.trouble:
            self.trouble = words
            self._later.tell(self.trouble_changed.emit)

    def _refresh(self) -> None:
        self.study = self.study_of(self.uid) if self.uid else None

    def study_of(self, uid: str) -> Study | None:
        """Work out a formula of the shelf; None when its materials are not in the pantry."""
        entry = self.entries[uid]
        kept = self._studies.get(uid)
        try:
            formula = entry.formula
            if kept is not None and kept[0] is formula:
                return kept[1]
            study = self._worked_out(formula, uid)
        except AplombError as error:
            self.said.emit(f"“{entry.name}” cannot be worked out: {error}")
            return None
        self._studies[uid] = (formula, study)
        return study

    def _announce(self) -> None:
        self._later.tell(
            self.reference_changed.emit, self.shelf_changed.emit, self.studied.emit,
            self.trouble_changed.emit,
        )  # fmt: skip
