"""The shelf: all formulas of the open book, the one in hand, and what follows from it."""

import sys
from collections.abc import Callable, Sequence

from msgspec.structs import replace

from aplomb.book.book import Book, BookError, OnShelf, new_uid, now
from aplomb.book.changes import AnyChange, Change, Revision
from aplomb.book.entry import Entry
from aplomb.core.base.errors import AplombError
from aplomb.core.base.texts import free_name
from aplomb.core.opinion.opinion import Opinion
from aplomb.core.paste.checking import check
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.line import Line
from aplomb.core.study.study import Reference, Study, make_study
from aplomb.work.open_book.announcing import Announcements

READ_AT_ONCE = 200
"""So many formulas are read when a book is opened, to tell which cannot be [-]."""


def first_formula(name: str) -> Formula:
    """Give the formula that a new one starts from.

    The usual parts, with water and salt in common proportion, so that every figure has a value
    at once.
    """
    return Formula(
        name=name,
        dough=(Line("plain_flour", 1000), Line("water", 500), Line("salt", 18)),
        block=(Line("butter", 750),),
        dusting=(Line("plain_flour", 30),),
        turn_line="envelope 3 4 / 3 4 /",
    )


class Shelf:
    """The formulas of a book, and the one way to change them.

    Parameters
    ----------
    reference : callable
        Gives what studies lean on.
    note : callable
        Keeps a change.
    """

    def __init__(
        self,
        news: Announcements,
        reference: Callable[[], Reference],
        note: Callable[[AnyChange], object],
    ) -> None:
        self._book: Book
        self._news, self._note = news, note
        self._shared = reference
        self._base = self._lent = reference()
        self._studies: dict[str, tuple[Formula, Study]] = {}
        self._revisions: dict[str, int] = {}  # last ones; asked with every edit, read once
        self.entries: dict[str, Entry] = {}
        self.study: Study | None = None
        self.uid = ""

    def take(self, book: Book, read: OnShelf | None = None) -> None:
        """Take the formulas of another book, and in hand the one that was when it was closed."""
        self._book = book
        self._studies.clear()
        self._revisions.clear()
        self.entries, self.uid = read or book.on_shelf()

    @property
    def reference(self) -> Reference:
        """What studies of the formula in hand lean on."""
        self._lent = self._reference_of(self.uid)
        return self._lent

    def _reference_of(self, uid: str) -> Reference:
        shared = self._shared()
        if shared is not self._base:
            self._base = self._lent = shared
            self._studies.clear()
        return self._lent.of(uid)

    @property
    def formula(self) -> Formula | None:
        """The formula in hand."""
        return self.study.formula if self.study else None

    def set_aside(self) -> list[str]:
        """Name the formulas that cannot be read; a large shelf says so formula by formula."""
        found = []
        for entry in list(self.entries.values())[:READ_AT_ONCE]:
            try:
                _ = entry.formula
            except AplombError:
                found.append(f"the formula “{entry.name[:60]}”")
        return found

    def select(self, uid: str) -> None:
        """Take another formula in hand."""
        if uid == self.uid or uid not in self.entries:
            return
        self._news.leaving()
        self.uid = uid
        self.work_out()
        try:
            self._book.set_setting("open", uid)
        except BookError:
            self._news.said("The book could not remember which formula was open.")
        self._news.tell(self._news.studied)

    def change(self, words: str, formula: Formula) -> None:
        """Make the formula in hand another value.

        Parameters
        ----------
        words : str
            What is done, for undo: ``change salt``.

        Raises
        ------
        AplombError
            When the value cannot be used; nothing is changed then.
        """
        entry = self.entries.get(self.uid)
        if entry is None or formula == entry.formula:
            return
        check(formula, self.reference.pantry)
        study = self._worked_out(formula, self.uid, search=False)
        renamed = (formula.name, formula.purpose) != (entry.name, entry.purpose)
        after = entry.with_formula(formula, now())
        self._note(Change(words, self.uid, entry, after))
        self.entries[self.uid] = after
        self.study = study
        self._studies[self.uid] = (formula, study)
        self._news.tell(
            self._news.studied,
            *([self._news.shelf_changed] if renamed else []),
        )

    def edit(self, words: str, make: Callable[[Formula], Formula]) -> None:
        """Change the formula in hand by a function of it; as `change`."""
        self._news.leaving()
        if self.formula is not None:
            self.change(words, make(self.formula))

    def add(self, formula: Formula, words: str, after_uid: str = "") -> str:
        """Put a formula on the shelf and take it in hand.

        Its identity.

        Parameters
        ----------
        words : str
            What is done, for undo.
        after_uid : str
            The formula it stands behind; empty for the end.

        Raises
        ------
        AplombError
            When the value cannot be used.
        """
        self._news.leaving()
        check(formula, self.reference.pantry)
        uid = new_uid()
        entry = Entry(uid, self._place(after_uid), now(), formula)
        self._note(Change(words, uid, None, entry))
        self.put(entry)
        self.work_out()
        self._news.everything()
        return uid

    def _place(self, after_uid: str) -> float:
        places = sorted(entry.place for entry in self.entries.values())
        if after_uid in self.entries:
            here = self.entries[after_uid].place
            above = [place for place in places if place > here]
            return (here + above[0]) / 2 if above else here + 1
        return places[-1] + 1 if places else 0.0

    def new(self) -> str:
        """Put a new formula on the shelf; gives its identity."""
        return self.add(first_formula(self._free_name("New paste")), "new formula")

    def copy(self) -> None:
        """Put a copy of the formula in hand behind it."""
        self._news.leaving()
        formula = self.formula
        if formula is not None:
            name = self._free_name(f"{formula.name[:100]} (copy)")
            self.add(replace(formula, name=name), f"copy {formula.name}", self.uid)

    def delete(self) -> None:
        """Take the formula in hand off the shelf; undo brings it back."""
        self._news.leaving()
        entry = self.entries.get(self.uid)
        if entry is None:
            return
        order = list(self.entries)
        at = order.index(self.uid)
        self._note(Change(f"delete {entry.name}", self.uid, entry, None))
        self.drop(self.uid)
        rest = order[:at] + order[at + 1 :]
        self.uid = rest[min(at, len(rest) - 1)] if rest else ""
        self.work_out()
        self._news.everything()
        self._news.said(f"“{entry.name}” deleted. Ctrl+Z brings it back.")

    def _free_name(self, name: str) -> str:
        return free_name(name, {entry.name for entry in self.entries.values()})

    def put(self, entry: Entry) -> None:
        """Put a formula on the shelf that is kept already, and take it in hand."""
        self.entries[entry.uid] = entry
        self.uid = entry.uid
        self.entries = dict(sorted(self.entries.items(), key=lambda item: item[1].place))

    def drop(self, uid: str) -> None:
        """Take a formula off the shelf; in hand is the first then, when it was this."""
        self.entries.pop(uid, None)
        self._studies.pop(uid, None)
        if self.uid == uid:
            self.uid = next(iter(self.entries), "")

    def put_back(self, uids: Sequence[str]) -> None:
        """Show formulas again as the book has them."""
        for uid in uids:
            in_hand, kept = self.uid, self._book.entry(uid)
            if kept is None:
                self.drop(uid)
            else:
                self.put(kept)
                self.uid = in_hand

    def work_out(self) -> None:
        """Work out the formula in hand."""
        self.study = self.study_of(self.uid, search=False) if self.uid else None

    def study_of(self, uid: str, *, search: bool = True) -> Study | None:
        """Work out a formula of the shelf; None when its materials are not in the pantry.

        Parameters
        ----------
        search : bool
            False for a study whose cut plan may still wait: for lists and for each key press.
        """
        entry = self.entries[uid]
        self._reference_of(uid)
        kept = self._studies.get(uid)
        try:
            formula = entry.formula
            known = kept is not None and kept[0] is formula
            if kept is not None and known and not (search and kept[1].cut_waits):
                return kept[1]
            study = self._worked_out(formula, uid, search=search)
        except AplombError as error:
            self._news.said(f"“{entry.name}” cannot be calculated: {error}")
            return None
        self._studies[uid] = (formula, study)
        return study

    def take_cold(self, study: Study, opinions: Sequence[Opinion]) -> None:
        """Add what the cold says to the study it was worked out for; a later study lets it go."""
        if self.study is not study or study.cold_known:
            return
        told = (*study.opinions, *opinions)
        told = tuple(sorted(told, key=lambda opinion: opinion.mark != "wrong"))
        self.study = replace(study, opinions=told, cold_known=True)
        self._studies[self.uid] = (study.formula, self.study)
        self._news.tell(self._news.studied)

    def take_cut(self, study: Study, found: Study) -> None:
        """Put a study with its cut plan in the place of the one that waited for it."""
        if self.study is study:
            self.study = found
            self._studies[self.uid] = (found.formula, found)
            self._news.tell(self._news.studied)

    def _worked_out(self, formula: Formula, uid: str, *, search: bool) -> Study:
        """Work a formula out; a fault of ours refuses the change, and the old value stays."""
        reference, before = self._reference_of(uid), self._studies.get(uid)
        last = before[1].cut if before is not None else None
        try:
            return make_study(formula, reference, search=search, last=last)
        except AplombError:
            raise
        except Exception as error:
            sys.excepthook(type(error), error, error.__traceback__)
            raise AplombError(
                "This change was not made: Aplomb could not calculate it because of a "
                "fault of its own."
            ) from error

    def revisions(self) -> list[Revision]:
        """Read the revisions of the formula in hand, the first one first."""
        return self._book.revisions(self.uid) if self.uid else []

    @property
    def revision(self) -> int:
        """Number of the last revision of the formula in hand; 0 without any."""
        if self.uid not in self._revisions:
            self._revisions[self.uid] = self._book.last_revision(self.uid)
        return self._revisions[self.uid]

    def keep_revision(self, name: str) -> int:
        """Keep the formula in hand as a revision; gives its number.

        Raises
        ------
        BookError
            When the book refuses.
        """
        self._news.leaving()
        if self.formula is None:
            return 0
        return self._keep_revision(self.uid, name, self.formula)

    def revision_as_it_is(self, uid: str, name: str) -> int:
        """Give the revision that holds a formula as it is now; it is kept as one if none does.

        Raises
        ------
        BookError
            When the book refuses.
        """
        formula = self.entries[uid].formula
        kept = self._book.revisions(uid)
        if kept and kept[-1].formula == formula:
            return kept[-1].number
        return self._keep_revision(uid, name, formula)

    def _keep_revision(self, uid: str, name: str, formula: Formula) -> int:
        number = self._revisions[uid] = self._book.keep_revision(uid, name, formula)
        self._news.said(f"Revision {number} saved" + (f": {name}" if name else ""))
        self._news.tell(self._news.studied)
        return number
