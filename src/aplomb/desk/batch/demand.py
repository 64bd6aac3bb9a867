"""The day's demand: what is wanted of every product, and the mixes and blocks that give it."""

from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QDate, Qt
from PySide6.QtWidgets import QCheckBox, QFrame, QGridLayout, QVBoxLayout

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import mass_text, number_text
from aplomb.core.base.texts import counted
from aplomb.core.batch.stock import Demand, Want
from aplomb.core.kitchen.day_steps import steps_of_make
from aplomb.core.kitchen.demand import PasteOfDay, plan_day
from aplomb.core.make.make import make_of
from aplomb.core.make.work import work_of
from aplomb.core.study.study import Study
from aplomb.desk.batch.can_be_made import CanBeMadeCard
from aplomb.desk.batch.order_card import OrderCard
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.fields import (
    button,
    card,
    clear,
    fix_width,
    give_checked,
    label,
    on_checked,
    row,
    wrapping,
)
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.find_field import FormulaField
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.day.words import long_text
from aplomb.work.figures.typed import read_whole
from aplomb.work.words.cold import time_text

KEEP = ":keep"
"""In place of a product: blocks of paste to keep."""
AT_ONCE = 2
"""So many cut plans are searched while the page is shown [-]; more are searched beside."""
MOST_LISTED = 12
"""Formulas of a book that are all listed; in a larger book they are looked for."""


class DemandPage(Page):
    """Products and numbers over all formulas of the book."""

    KEY = "demand"
    HINT = "How many of each product you need, and the blocks of paste to make for them."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.wants: dict[tuple[str, str], Field] = {}
        self._rows: object = None
        self._added: set[str] = set()
        self.planned: tuple[PasteOfDay, ...] = ()
        self._about: tuple[object, ...] = ()
        """What the plan that is shown was made of."""
        self.job = LatestJob(self._take_planned, self)
        left, right = QVBoxLayout(), QVBoxLayout()
        for side in (left, right):
            side.setSpacing(12)
        self.order = OrderCard(session, self.show_error)
        left.addWidget(self._wants_card())
        left.addWidget(self.order)
        left.addStretch(1)
        right.addWidget(self._blocks_card())
        self.back = CanBeMadeCard(session, self.show_error)
        right.addWidget(self.back)
        right.addStretch(1)
        self._body.addLayout(self.two_sides(left, right, (5, 6)))
        self._body.addStretch(1)
        self.refresh()

    def _wants_card(self) -> QFrame:
        frame, column = card()
        self._name = Field("Name of the day", self._take_name, self.show_error)
        self._name.setPlaceholderText("Name of the day")
        self._date = Field("Date", self._take_date, self.show_error)
        self._date.setPlaceholderText("2026-11-28")
        fix_width(self._date, 120)
        column.addLayout(row(self._name, self._date))
        self._grid = QGridLayout()
        self._grid.setColumnStretch(0, 1)
        self._grid.setVerticalSpacing(3)
        column.addLayout(self._grid)
        self.more = FormulaField(
            lambda: {uid: entry.name for uid, entry in self._session.shelf.entries.items()},
            "Add a formula",
        )
        self.more.chosen.connect(self._add)
        column.addWidget(self.more)
        self.frozen = QCheckBox("Use blocks from stock first")
        on_checked(self.frozen, self._take_frozen)
        column.addLayout(row(button("Clear the day", "", self._clear), None, self.frozen))
        return frame

    def _blocks_card(self) -> QFrame:
        frame, column = card()
        self._big = wrapping("", "big")
        self.table = FigureTable("Mixes and blocks", 4)
        self._notes = wrapping("", "second")
        self.take = button("Use in the batches", "main", self._take)
        self.take.setToolTip("Sets each formula’s batch to the day’s numbers and blocks")
        column.addWidget(self._big)
        column.addWidget(self.table)
        column.addWidget(self._notes)
        column.addLayout(row(self.take, None))
        return frame

    def _studies(self) -> dict[str, Study]:
        """The formulas that have a line each: all of a small book.

        Of a large one those wanted, those looked for, and the one in hand.
        """
        entries = self._session.shelf.entries
        uids = list(entries)
        self.more.setVisible(len(uids) > MOST_LISTED)
        if len(uids) > MOST_LISTED:
            wanted = {want.uid for want in self._session.kitchen.demand.wants}
            shown = wanted | self._added | {self._session.uid}
            uids = [uid for uid in uids if uid in shown]
        found = {uid: self._session.shelf.study_of(uid, search=False) for uid in uids}
        return {uid: study for uid, study in found.items() if study is not None}

    def _add(self, uid: str) -> None:
        self._added.add(uid)
        self.refresh()
        field = next((f for (of, _), f in self.wants.items() if of == uid), None)
        if field is not None:
            field.setFocus(Qt.FocusReason.TabFocusReason)

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(next(iter(self.wants.values()), self._name))

    def _look_changed(self) -> None:
        super()._look_changed()
        self._rows = None

    def refresh(self) -> None:
        """Show what is wanted, and work out the blocks."""
        studies = self._studies()
        demand = self._session.kitchen.demand
        self._show_wants(studies, demand)
        self._name.show_value(demand.name)
        self._date.show_value(demand.day)
        give_checked(self.frozen, demand.use_frozen)
        self.back.refresh(studies)
        kitchen, reference = self._session.kitchen, self._session.reference
        about = (kitchen, reference, *studies.values())
        if [id(each) for each in about] == [id(each) for each in self._about]:
            return  # shown again: nothing that it hangs on is another
        self._about = about
        asked = (demand, studies, reference, kitchen.stock.blocks())
        planned = plan_day(*asked, search=False)
        waiting = sum(p.study.cut_waits for p in planned)
        if waiting <= AT_ONCE:
            self.job.forget()
            self._take_planned(plan_day(*asked) if waiting else planned)
        else:
            self._take_planned(planned)
            self.job.ask(lambda: plan_day(*asked))

    def _take_planned(self, planned: "tuple[PasteOfDay, ...] | AplombError") -> None:
        if isinstance(planned, AplombError):
            self._about = ()
            self.show_error(str(planned))
            return
        self.planned = planned
        self._show_blocks()
        self.order.show_order([p.scaled for p in self.planned if not p.trouble])

    def _show_wants(self, studies: dict[str, Study], demand: Demand) -> None:
        rows = [
            (uid, study.formula.name, tuple(p.name for p in study.formula.products) or ("",))
            for uid, study in studies.items()
        ]
        if rows != self._rows:
            self._rows = rows
            self._rebuild(rows)
        wanted: dict[tuple[str, str], int] = {}
        for want in demand.wants:
            key = (want.uid, KEEP if want.keep else want.product)
            wanted[key] = wanted.get(key, 0) + want.pieces
        for key, field in self.wants.items():
            field.show_value(number_text(wanted[key], 0) if wanted.get(key) else "")

    def _rebuild(self, rows: list[tuple[str, str, tuple[str, ...]]]) -> None:
        clear(self._grid)
        self.wants = {}
        for column, words in ((1, "pieces"), (2, "blocks to keep")):
            self._grid.addWidget(label(words, "small"), 0, column)
        at = 1
        for uid, name, products in rows:
            own, first = products == ("",), at
            if not own:
                head = label(name, "strong")
                head.setMinimumWidth(40)
                self._grid.addWidget(head, at, 0, 1, 2)
                at += 1
            for product in products:
                caption = label(name if own else f"  {product}")
                caption.setMinimumWidth(40)
                self._grid.addWidget(caption, at, 0)
                self._want(uid, product, f"{product or name}, ordered", at, 1)
                at += 1
            self._want(uid, KEEP, f"{name}, blocks to keep", first, 2)

    def _want(self, uid: str, product: str, words: str, at: int, column: int) -> None:
        """Add the field of a product, or of blocks to keep."""
        field = Field(words, partial(self._take_want, uid, product), self.show_error)
        field.setPlaceholderText("–")
        field.setAlignment(Qt.AlignmentFlag.AlignRight)
        fix_width(field, 76)
        self._grid.addWidget(field, at, column)
        self.wants[uid, product] = field

    def _put(self, words: str, **changes: Any) -> None:
        self._session.store.put_demand(words, replace(self._session.kitchen.demand, **changes))

    def _take_name(self, text: str) -> None:
        self._put(f"day: {text}", name=text.strip()[:80])

    def _take_date(self, text: str) -> None:
        day = text.strip()
        if day and not QDate.fromString(day, Qt.DateFormat.ISODate).isValid():
            raise AmountError("enter a day, e.g. 2026-11-28", text, 0, len(text))
        self._put(f"day {day}", day=day)

    def _take_want(self, uid: str, product: str, text: str) -> None:
        pieces, keep = read_whole(text), product == KEEP
        own = (uid, "" if keep else product, keep)
        wants = self._session.kitchen.demand.wants
        rest = [w for w in wants if (w.uid, w.product, w.keep) != own]
        if pieces:
            rest.append(Want(uid, own[1], pieces, keep))
        what = "blocks to keep" if keep else product or "pieces"
        self._put(f"{pieces} {what} ordered", wants=tuple(rest))

    def _take_frozen(self, on: bool) -> None:
        self._put("stock first" if on else "all new paste", use_frozen=on)

    def _clear(self) -> None:
        self._put("nothing ordered", wants=())

    def _show_blocks(self) -> None:
        made = [p for p in self.planned if not p.trouble]
        blocks = sum(p.blocks for p in made)
        frozen = sum(p.frozen for p in made)
        words = f"{counted(blocks, '1 block', '{} blocks')} of "
        words += counted(len(made), "1 paste", "{} pastes")
        if frozen:
            words += f", {frozen} from stock"
        self._big.setText(words if made else "Nothing to make yet")
        self.take.setEnabled(bool(made))
        rows = [Row("Paste", ("blocks", "mixes", "in the bowl", "spare"), "head")] if made else []
        notes = []
        house = self._session.reference.house
        for paste in self.planned:
            name = paste.formula.name
            if paste.trouble:
                notes.append(f"{name}: {paste.trouble}")
                continue
            most = max(paste.mix_dough_g, default=0.0)
            rows.append(
                Row(
                    name,
                    (
                        f"{paste.blocks} × {mass_text(paste.each_g)}" if paste.blocks else "–",
                        " + ".join(str(n) for n in paste.mixes) or "–",
                        mass_text(most) if most else "–",
                        mass_text(paste.over_g),
                    ),
                )
            )
            if paste.frozen:
                where = paste.formula.batch.frozen_where
                from_there = counted(paste.frozen, "1 block", "{} blocks")
                notes.append(
                    f"{name}: {from_there}, {mass_text(paste.frozen_g)}, from the {where}."
                )
            notes += [f"{name}: {words}" for words in paste.words]
            if paste.goal.kind == "keep":
                notes.append(f"{name}: kept; it is stock when the day is over.")
                continue
            trays = sum(t.trays for t in paste.trays)
            rack = f"; the fridge has {house.rack_spaces} spaces"
            notes.append(
                f"{name}: {counted(trays, '1 tray', '{} trays')}, "
                f"{counted(len(paste.loads), '1 oven load', '{} oven loads')}"
                + (rack if trays > house.rack_spaces else "")
                + "."
            )
        notes += self._together(made)
        self.table.show_rows(tuple(rows))
        self._notes.setText("\n".join(notes))

    def _together(self, made: list[PasteOfDay]) -> list[str]:
        """Say what all pastes come to together: their trays in one queue, hands and hours."""
        if len(made) < 2:
            return []
        pantry, house = self._session.reference.pantry, self._session.reference.house
        kitchen = self._session.kitchen
        makes = [make_of(p.study, pantry, house, p.goal, uid=p.uid) for p in made]
        work = work_of(makes, house)
        steps = [
            steps_of_make(make, p, pantry, house, kitchen.timetable, kitchen.stock.kept)
            for make, p in zip(makes, made, strict=True)
        ]
        trays = counted(work.trays, "1 tray", "{} trays")
        loads = counted(len(work.loads), "1 load", "{} loads")
        shared = f", {work.shared} of them shared" if work.shared else ""
        hands = long_text(sum(each.hands_min for each in steps))
        long = time_text(work.elapsed_min)
        told = f"All together: {trays} in {loads}{shared}; hands {hands}, {long} from the first"
        return [f"{told} step to the last if nothing waits for a night."]

    def _take(self) -> None:
        """Make each formula's batch that of the day."""
        hand, shelf = self._session.uid, self._session.shelf
        with self._session.journal.together("the day’s batches"):
            for paste in self.planned:
                if not paste.trouble and paste.goal.kind != "keep":
                    shelf.select(paste.uid)
                    target = replace(paste.formula.batch, fixed="pieces")
                    shelf.change("the day’s batch", replace(paste.formula, batch=target))
        shelf.select(hand)
        self._session.said.emit("Each formula’s batch now has the day’s numbers.")
