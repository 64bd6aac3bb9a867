"""Keeping: paste and baked pieces put by, until when, and how they come back."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QLabel, QPushButton

from aplomb.book.book import new_uid
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mass_text, num
from aplomb.core.batch.keeping import (
    CLAIMS,
    FORM_WORDS,
    FORMS,
    PIECES,
    SHARES,
    WHERES,
    Form,
    KeptItem,
    Where,
    claim_of,
)
from aplomb.core.batch.stock import Stock, check_stock
from aplomb.core.paste.formula import allergens, block_allergens
from aplomb.desk.kit.fields import button, card, choice, fix_width, label, wrapping
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.batch.keeping import is_past, use_by
from aplomb.work.commands import COMMANDS, keys_of
from aplomb.work.day.moves import BLOCKS, begins_from
from aplomb.work.figures.local import day_text, kitchen_day
from aplomb.work.figures.typed import read_whole
from aplomb.work.words.oven import refresh_words

BACK: dict[Where, str] = {
    "freezer": ("overnight in the fridge, or about 40 min at room temperature until it bends; "
            "never refreeze; check it before use"),
    "fridge": "10 to 20 min at room temperature if it is too hard to roll",
}  # fmt: skip
"""How it comes back, by where it was; common practice."""


class KeepingPage(Page):
    """What is put by."""

    KEY = "keeping"
    HINT = "Use-by dates follow the shortest time in common use. Never pack anything warm."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.rows: list[tuple[tuple[QLabel, ...], tuple[QPushButton, ...]]] = []
        self._body.addWidget(self._new_card())
        self._body.addWidget(self._list_card())
        self._body.addWidget(self._claims_card())
        self._body.addStretch(1)

    def _new_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Store some of this paste", "strong"))
        self.form = choice("Form", (FORM_WORDS[form] for form in FORMS))
        self.where = choice("Where", WHERES)
        self.many = Field("How many", self._take_many, self.show_error)
        self.turns = Field("Turns done", self._take_turns, self.show_error)
        self.product = Field("What it is for", lambda _t: None, self.show_error)
        self.product.setPlaceholderText("what for")
        fix_width(self.many, 54)
        fix_width(self.turns, 54)
        fix_width(self.product, 160)
        self.many.show_value("1")
        self.form.activated.connect(lambda _i: self._say_claim())
        self.where.activated.connect(lambda _i: self._say_claim())
        self.put = button("Store it", "main", self._put_by)
        column.addLayout(
            Flow(
                self.many,
                self.form,
                label("in the"),
                self.where,
                label("turns done"),
                self.turns,
                self.product,
                self.put,
                spacing=8,
            )
        )
        self._claim = wrapping("", "second")
        column.addWidget(self._claim)
        return frame

    def _list_card(self) -> QFrame:
        frame, column = card(spacing=6)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(12)
        self._grid.setVerticalSpacing(4)
        for j, words in enumerate(("What", "Where", "Turns", "Made", "Use by", "Contains")):
            self._grid.addWidget(label(words, "small"), 0, j)
        self._grid.setColumnStretch(0, 3)
        self._grid.setColumnStretch(5, 2)
        column.addLayout(self._grid)
        self._none = wrapping(
            (
                "Nothing in store yet. Blocks and pieces you chill or freeze are listed "
                "here, with their turns and use-by date."
            ),
            "second",
        )
        column.addWidget(self._none)
        return frame

    def _claims_card(self) -> QFrame:
        frame, column = card(spacing=4)
        column.addWidget(label("How long it keeps, and how to bring it back", "strong"))
        lines = []
        for (kind, where), claim in CLAIMS.items():
            more = f"; some say up to {claim.claimed} days" if claim.claimed > claim.days else ""
            name = {"paste": "paste", "raw": "raw filled pieces"}.get(kind, kind)
            days = "1 day" if claim.days == 1 else f"{num(claim.days)} days"
            lines.append(f"{name}, {where}: {days}{more}")
        column.addWidget(wrapping("\n".join(lines)))
        self._back_words = wrapping("", "second")
        column.addWidget(self._back_words)
        column.addWidget(
            wrapping(
                (
                    "Common practice only. Your food law comes first; time how long filled "
                    "or dairy-rich pieces are out of the cold."
                ),
                "second",
            )
        )
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.many)

    def arrange(self) -> None:
        """Give what is kept, and its allergens, room for their words where there is some."""
        super().arrange()
        for j, least in ((0, 96), (5, 84)):
            self._grid.setColumnMinimumWidth(j, 40 if self.narrow else look.theme.px(least))

    def refresh(self) -> None:
        """Show what is put by, what is used first above."""
        items = self.items()
        while len(self.rows) < len(items):
            self._add_row()
        for i, (cells, (thaw, day, gone)) in enumerate(self.rows):
            there = i < len(items)
            for each in (*cells, thaw, day, gone):
                if each.hasFocus() and not there:
                    self.many.setFocus()
                each.setVisible(there)
            if there:
                self._show(items[i], cells)
                for tool, fits in (
                    (thaw, items[i].where == "freezer"),
                    (day, self._source_of(items[i]) != ""),
                ):
                    if tool.hasFocus() and not fits:
                        gone.setFocus()
                    tool.setVisible(fits)
        self._none.setVisible(not items)
        back = [f"from the {where}: {how}" for where, how in BACK.items()]
        back.append(f"baked, at room temperature: {refresh_words()}; stays crisp for about a day")
        self._back_words.setText("\n".join(back))
        study = self._session.study
        if study is not None and not self.turns.text():
            self.turns.show_value(str(len(study.plan.turns)))
        self._say_claim()

    def _add_row(self) -> None:
        at = len(self.rows) + 1
        cells = tuple(label() for _ in range(6))
        for j, cell in enumerate(cells):
            cell.setWordWrap(j in (0, 5))
            cell.setMinimumWidth(40)
            self._grid.addWidget(cell, 2 * at - 1, j)
        tools = (
            button("Thaw", "quiet", partial(self._thaw, at - 1)),
            button(
                "Add to the day",
                "quiet",
                partial(self._into_the_day, at - 1),
                "Starts the day from this stock, with a step to thaw or refresh it",
            ),
            button("Mark as used", "quiet", partial(self._used, at - 1)),
        )
        self._grid.addLayout(Flow(*tools, spacing=0), 2 * at, 0, 1, 6)
        self.rows.append((cells, tools))

    def items(self) -> list[KeptItem]:
        """What is in store, what is used first in front."""
        kept = self._session.kitchen.stock.kept
        return sorted(kept, key=lambda i: (use_by(i) or "9", i.made))

    def _show(self, item: KeptItem, cells: tuple[QLabel, ...]) -> None:
        entry = self._session.shelf.entries.get(item.uid)
        name = entry.name if entry else "a deleted formula"
        what = f"{item.many} × {FORM_WORDS[item.form]}, {name}"
        what += f", {mass_text(item.each_g)} each" if item.each_g else ""
        what += f": {item.product}" if item.product else ""
        last = use_by(item)
        over = is_past(item, kitchen_day())
        found = ""
        if entry is not None:
            try:
                pieces = item.form in ("raw", "baked")
                told = allergens if pieces else block_allergens
                found = ", ".join(told(entry.formula, self._session.reference.pantry))
            except AplombError:
                found = "not known"
        turns = f"{item.turns} of {item.planned}" if item.planned else str(item.turns)
        where = f"{item.where}, thawed" if item.thawed else item.where
        day = (day_text(last) if last else "–") + (" – past" if over else "")
        for cell, text in zip(
            cells, (what, where, turns, day_text(item.made), day, found), strict=True
        ):
            cell.setText(text)
        cells[4].setObjectName("wrong" if over else "")
        cells[4].style().unpolish(cells[4])
        cells[4].style().polish(cells[4])

    def _form(self) -> Form:
        return FORMS[max(0, self.form.currentIndex())]

    def _where(self) -> Where:
        return WHERES[max(0, self.where.currentIndex())]

    def _say_claim(self) -> None:
        claim = claim_of(self._form(), self._where())
        if claim is None:
            words = f"{FORM_WORDS[self._form()]} does not keep in the {self._where()}."
            self._claim.setText(words[:1].upper() + words[1:])
        else:
            self._claim.setText(
                "Use within 1 day (common practice)."
                if claim.days == 1
                else f"Use within {num(claim.days)} days (common practice; some say up to "
                f"{num(claim.claimed)})."
            )
        if self.put.hasFocus() and claim is None:
            self.form.setFocus(Qt.FocusReason.OtherFocusReason)
        self.put.setEnabled(claim is not None and self._session.study is not None)

    # ------------------------------------------------------------------ taken

    def _take_many(self, text: str) -> None:
        if not 1 <= read_whole(text) <= 10_000:
            raise AplombError("enter how many, 1 to 10000")

    def _take_turns(self, text: str) -> None:
        if text.strip() and not 0 <= read_whole(text) <= 99:
            raise AplombError("enter turns done, 0 to 99")

    def _put_stock(self, words: str, stock: Stock) -> None:
        try:
            self._session.store.put_stock(words, check_stock(stock))
        except AplombError as error:
            self.show_error(str(error))
            return
        self.show_error("")

    def _without(self, item: KeptItem) -> Stock:
        """Give the stock without something that is put by."""
        stock = self._session.kitchen.stock
        return replace(stock, kept=tuple(i for i in stock.kept if i.key != item.key))

    def _put_by(self) -> None:
        study = self._session.study
        if study is None or not (self.many.commit() and self.turns.commit()):
            return
        form = self._form()
        planned = len(study.plan.turns)
        turns = read_whole(self.turns.text()) if self.turns.text().strip() else planned
        each = study.scaled.each_g / SHARES[form] if form in SHARES else 0.0
        if form == "dough":
            each, turns = study.accounts.dough_g * study.scaled.a_block, 0
        item = KeptItem(
            new_uid()[:12],
            self._session.uid,
            form,
            self._where(),
            read_whole(self.many.text()),
            round(each, 1),
            turns,
            planned,
            kitchen_day().isoformat(),
            self.product.text().strip()[:80],
        )
        stock = self._session.kitchen.stock
        stock = replace(stock, kept=(*stock.kept, item))
        self._put_stock(f"store {FORM_WORDS[form]}", stock)
        self.product.show_value("")

    def _used(self, at: int) -> None:
        items = self.items()
        if at < len(items):
            self._put_stock("used up", self._without(items[at]))
            self._session.work.news.said("Removed from stock. Ctrl+Z brings it back.")

    def _source_of(self, item: KeptItem) -> str:
        """Give what a day can begin from of it; empty when it cannot."""
        if item.uid not in self._session.shelf.entries:
            return ""
        if item.form in SHARES:
            return BLOCKS
        return item.key if item.form in PIECES else ""

    def _into_the_day(self, at: int) -> None:
        items = self.items()
        if at >= len(items) or not (source := self._source_of(items[at])):
            return
        uid, kitchen = items[at].uid, self._session.kitchen
        name = self._session.shelf.entries[uid].name
        if not any(w.uid == uid and w.pieces > 0 for w in kitchen.demand.wants):
            self.show_error(
                f"{name}: first enter how many you need under {COMMANDS['demand'].title} "
                f"({keys_of('demand')})."
            )
            return
        moved = begins_from(kitchen.timetable, uid, name, source)
        try:
            self._session.store.put_timetable(moved.words, moved.sheet)
        except AplombError as error:
            self.show_error(str(error))
            return
        self.show_error("")
        self._session.work.news.said(f"{name} now starts from this on Day ({keys_of('stage 5')}).")

    def _thaw(self, at: int) -> None:
        items = self.items()
        if at < len(items):
            where: Where = "room" if items[at].form == "baked" else "fridge"
            day = kitchen_day().isoformat()
            item = replace(items[at], where=where, thawed=True, made=day)
            stock = self._without(items[at])
            self._put_stock("thaw", replace(stock, kept=(*stock.kept, item)))
            how = (
                f"at room temperature, then {refresh_words()}"
                if where == "room"
                else BACK["freezer"]
            )
            self._session.work.news.said(f"Thaw: {how}.")
