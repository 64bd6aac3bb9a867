"""The Batch stage: one thing is fixed, the rest follows; weigh-out, prices and the card."""

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QButtonGroup,
    QFrame,
    QGridLayout,
    QPushButton,
    QRadioButton,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.figures import (
    bare_text,
    decimal_sign,
    g_text,
    mass_text,
    mm_text,
    number_text,
    weight_text,
)
from aplomb.core.base.quantity import parse_count, parse_percent
from aplomb.core.batch.scale import followed, packet_material
from aplomb.core.batch.scaled import Scaled
from aplomb.core.kitchen.costs import costs_of
from aplomb.core.make.goal import factor_text, read_factor
from aplomb.core.paste.formula import MOST_SHARES, Batch, Formula, with_product
from aplomb.core.study.study import Study
from aplomb.desk.batch.weigh_table import WeighTable
from aplomb.desk.kit.fields import (
    button,
    card,
    clear,
    fix_width,
    give_caption,
    give_checked,
    label,
    on_checked,
    row,
    wrapping,
)
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.stage import Stage
from aplomb.desk.stages.tools import command_row
from aplomb.work.commands import keys_of
from aplomb.work.edits.from_stock import from_stock_text, read_from_stock
from aplomb.work.edits.sizes import read_paste
from aplomb.work.figures.local import currency_text
from aplomb.work.figures.typed import read_mass, read_size, read_whole
from aplomb.work.words.steps import batch_facts, blocks_words


def _share(name: str, text: str) -> dict[str, Any]:
    """Read a loss; nothing typed lets the book's own batches, or what is usual, say it."""
    return {name: parse_percent(text, decimal_sign()) if text.strip() else None}


def _fixing(key: str, read: Callable[[str], dict[str, Any]], text: str) -> dict[str, Any]:
    return {"fixed": key, **read(text)}


def _typed(percent: float | None) -> str:
    return "" if percent is None else number_text(percent, 2)


def _balance(scaled: Scaled, where: str) -> str:
    """Say where the paste goes, to the gram."""
    parts = [f"{mass_text(scaled.loss_g)} stays on the bench"]
    if scaled.dust_g > 0:
        parts.append(f"{mass_text(scaled.dust_g)} of dusting flour is taken up")
    if scaled.folded_g > 0:
        parts.append(f"{mass_text(scaled.folded_g)} is trimmed while folding")
    if scaled.frozen_g > 0:
        parts.append(f"{mass_text(scaled.frozen_g)} comes from the {where}")
    if scaled.scrap_in_g > 0:
        parts.append(f"{mass_text(scaled.scrap_in_g)} of scrap is stacked in")
    parts.append(f"{mass_text(scaled.trim_g)} is trim")
    drift = f"rounding adds {g_text(scaled.drift_g, '+.1f')}".replace("-", "−")
    if scaled.as_cut and scaled.over_g > LEAST_KEPT_G:
        parts.append(f"{mass_text(scaled.over_g)} of paste is left to keep")
    elif not scaled.as_cut:
        parts.append(f"{mass_text(scaled.over_g)} spare")
    return f"{', '.join(parts)}; {drift}"


LEAST_KEPT_G = 0.5
"""Less paste than this is not said to be left [g]."""
TIMES = (("W", "1 ×", 1.0), ("H", "½ ×", 0.5), ("T", "⅓ ×", 1 / 3), ("D", "2 ×", 2.0))
"""Letters of the stage, what they say, and how many times the formula is made as written."""


PASTE_TIP = "Its weight, e.g. 2.5 kg; or the sheet it is to fill, e.g. 60 × 40 cm, 2 × 60 × 40 cm"


class BatchStage(Stage):
    """From the formula to the batch."""

    BESIDE = 860

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.fields: dict[str, Field] = {}
        self.radios: dict[str, QRadioButton] = {}
        self._groups: list[QButtonGroup] = []
        fixed = self._fixed_card()
        loss = self._loss_card()
        result = self._result_card()
        self.table = WeighTable(session, self.show_error)
        left = QVBoxLayout()
        left.setSpacing(12)
        for widget in (fixed, loss):
            left.addWidget(widget)
        left.addStretch(1)
        right = QVBoxLayout()
        right.setSpacing(12)
        right.addWidget(result)
        right.addWidget(self.table)
        right.addStretch(1)
        column = QVBoxLayout(self._inner)
        column.setContentsMargins(24, 12, 18, 12)
        column.setSpacing(12)
        column.addLayout(command_row(self.asked.emit, (), "batch"))
        column.addWidget(self.error)
        column.addLayout(self.two_sides(left, right, (2, 3)), 1)
        self.refresh()

    def _look_changed(self) -> None:
        super()._look_changed()
        self.refresh()

    def _field(self, name: str, words: str, read: Callable[[str], dict[str, Any]]) -> Field:
        def take(text: str) -> None:
            changes = read(text)
            self._change(f"{words.lower()} {text}", **changes)

        field = Field(words, take, self.show_error, eager=True)
        field.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.fields[name] = field
        return field

    def _radio(self, group: QButtonGroup, key: str, value: str, words: str) -> QRadioButton:
        radio = QRadioButton()
        give_caption(radio, words)
        group.addButton(radio)
        on_checked(radio, lambda on: self._fix(f"fix {words.lower()}", key, value) if on else None)
        self.radios[f"{key}={value}"] = radio
        return radio

    def _fix(self, words: str, key: str, value: str) -> None:
        study = self._session.study
        if study is not None:
            self._put(words, replace(self._followed(study), **{key: value}))

    def _followed(self, study: Study) -> Batch:
        pantry = self._session.reference.pantry
        return followed(study.formula, pantry, study.accounts, study.scaled)

    def _written(self, factor: float) -> None:
        """Make the formula as written, so many times; every amount stays what it is."""
        study = self._session.study
        if study is not None:
            batch = replace(self._followed(study), fixed="written", times=factor)
            self._put(f"as written, {factor_text(factor)} times", batch)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Take the letters of what is made as written, while no field has the keyboard."""
        found = next((f for key, _, f in TIMES if event.text().upper() == key), None)
        plain = not event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier
        if found is None or not plain:
            super().keyPressEvent(event)
            return
        self._written(found)

    def _paste_wanted(self, text: str) -> dict[str, Any]:
        """Read how much paste, or the size of the sheets that it is to fill."""
        study = self._session.study
        assert study is not None
        return {"paste_g": read_paste(study, text)}

    def _fixed_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("Scale the batch by", "title"))
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        group = QButtonGroup(self)
        self._groups.append(group)
        rows: tuple[tuple[str, str, Callable[[str], dict[str, Any]]], ...] = (
            ("pieces", "Pieces", lambda t: {"pieces": parse_count(t)}),
            ("paste", "Paste", self._paste_wanted),
            ("flour", "Flour", lambda t: {"flour_g": read_mass(t)}),
            ("packet", "Fat packet", lambda t: {"packet_g": read_mass(t)}),
            ("written", "As written, times", lambda t: {"times": read_factor(t, decimal_sign())}),
        )
        for i, (key, words, read) in enumerate(rows):
            grid.addWidget(self._radio(group, "fixed", key, words), i, 0)
            grid.addWidget(
                self._field(key, f"{words} ordered", partial(_fixing, key, read)),
                i,
                1,
            )
        self.fields["paste"].setToolTip(PASTE_TIP)
        grid.addLayout(row(*self._times_buttons(), None), len(rows), 0, 1, 2)
        column.addLayout(grid)
        self._packet = label("", "small")
        column.addWidget(self._packet)
        self._wanted = QWidget()
        self._wanted_grid = QGridLayout(self._wanted)
        self._wanted_grid.setContentsMargins(0, 0, 0, 0)
        self._wanted_grid.setColumnStretch(0, 1)
        self.wanted_fields: dict[str, Field] = {}
        column.addWidget(self._wanted)
        self.own_piece = QWidget()
        own = QVBoxLayout(self.own_piece)
        own.setContentsMargins(0, 0, 0, 0)
        own.setSpacing(6)
        column.addWidget(self.own_piece)
        own.addWidget(label("Size per piece, by", "strong"))
        sizes = QGridLayout()
        sizes.setColumnStretch(1, 1)
        by = QButtonGroup(self)
        self._groups.append(by)
        sizes.addWidget(self._radio(by, "piece_by", "weight", "Weight"), 0, 0)
        sizes.addWidget(
            self._field(
                "piece_g",
                "Weight per piece",
                lambda t: {"piece_by": "weight", "piece_g": read_mass(t)},
            ),
            0,
            1,
        )
        sizes.addWidget(self._radio(by, "piece_by", "size", "Size, mm"), 1, 0)
        sizes.addWidget(
            self._field("piece_size", "Length × width per piece", self._read_piece), 1, 1
        )
        own.addLayout(sizes)
        self._piece_words = label("", "small")
        own.addWidget(self._piece_words)
        return frame

    def _times_buttons(self) -> list[QPushButton]:
        """Make the buttons of what is made as written."""
        self.times: dict[str, QPushButton] = {}
        for key, words, factor in TIMES:
            self.times[key] = button(words, "", partial(self._written, factor))
            self.times[key].setAccessibleName(f"As written, {words}")
            self.times[key].setToolTip(f"{words} the formula as written · {key}")
        return list(self.times.values())

    def _show_products(self, study: Study) -> None:
        """Show how many of each product are wanted, in place of the batch's own piece."""
        products = study.formula.products
        self.own_piece.setVisible(not products)
        self._wanted.setVisible(bool(products))
        self.fields["pieces"].setReadOnly(bool(products))
        names = [p.name for p in products]
        if names != list(self.wanted_fields):
            clear(self._wanted_grid)
            self.wanted_fields = {}
            for i, name in enumerate(names):
                field = Field(f"{name}, ordered", partial(self._take_wanted, i), self.show_error)
                field.setAlignment(Qt.AlignmentFlag.AlignRight)
                fix_width(field, 110)
                caption = label(name)
                caption.setMinimumWidth(40)
                self._wanted_grid.addWidget(caption, i, 0)
                self._wanted_grid.addWidget(field, i, 1)
                self.wanted_fields[name] = field
        for product in products:
            self.wanted_fields[product.name].show_value(number_text(product.wanted, 0))

    def _take_wanted(self, at: int, text: str) -> None:
        wanted = read_whole(text)

        def make(formula: Formula) -> Formula:
            batch = replace(formula.batch, fixed="pieces")
            return replace(with_product(formula, at, wanted=wanted), batch=batch)

        self._session.shelf.edit(f"{wanted} ordered", make)

    @staticmethod
    def _read_piece(text: str) -> dict[str, Any]:
        length, width = read_size(text)
        return {"piece_by": "size", "piece_length_mm": length, "piece_width_mm": width}

    def _loss_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("Losses, blocks, scale", "title"))
        grid = QGridLayout()
        grid.setColumnStretch(1, 1)
        grid.setColumnStretch(3, 1)
        rows: tuple[tuple[str, str, Callable[[str], dict[str, Any]]], ...] = (
            ("loss_pct", "Bench, %", partial(_share, "loss_pct")),
            ("trim_pct", "Trim, %", partial(_share, "trim_pct")),
            ("blocks", "Blocks", lambda t: {"blocks": parse_count(t, 10_000)}),
            ("shares", "Parts per block", lambda t: {"shares": parse_count(t, MOST_SHARES)}),
            ("division_g", "Scale step, g", lambda t: {"division_g": read_mass(t)}),
            ("frozen_g", "From stock", read_from_stock),
        )
        for i, (key, words, read) in enumerate(rows):
            grid.addWidget(label(words), i // 2, i % 2 * 2)
            grid.addWidget(self._field(key, words, read), i // 2, i % 2 * 2 + 1)
        self.fields["shares"].setToolTip(
            "How many parts to divide a finished block into, by weight, for rolling or freezing"
        )
        self.fields["frozen_g"].setPlaceholderText("none")
        self.fields["frozen_g"].setToolTip(
            "Blocks rolled with this batch: 1.5 kg, or 2 × 1.45 kg, 3 turns, fridge. "
            "Those from the freezer thaw first"
        )
        column.addLayout(grid)
        self._origins = wrapping("", "small")
        column.addWidget(self._origins)
        return frame

    def _result_card(self) -> QFrame:
        frame, column = card(spacing=3)
        self.big = label("", "big")
        self.big.setWordWrap(True)
        column.addWidget(self.big)
        self.sums = [label("", "second") for _ in range(3)]
        for each in self.sums:
            each.setWordWrap(True)
            column.addWidget(each)
        pdf = button("Card as PDF…", "main", lambda: self.asked.emit("card", None), keys_of("card"))
        csv = button("Card as CSV…", "", lambda: self.asked.emit("card csv", None))
        column.addSpacing(4)
        column.addLayout(row(pdf, csv, None))
        return frame

    def _change(self, words: str, **changes: Any) -> None:
        study = self._session.study
        if study is not None:
            self._put(words, replace(study.formula.batch, **changes))

    def _put(self, words: str, batch: Batch) -> None:
        before = self._session.study
        try:
            self._session.shelf.edit(words, lambda f: replace(f, batch=batch))
        finally:
            if self._session.study is before:  # nothing changed: show what stands
                self.refresh()

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        formula = self._session.formula
        if formula is not None and formula.products and formula.batch.fixed == "pieces":
            first = next(iter(self.wanted_fields.values()), self.fields["pieces"])
            first.setFocus(Qt.FocusReason.TabFocusReason)
        elif formula is not None:
            self.fields[formula.batch.fixed].setFocus(Qt.FocusReason.TabFocusReason)

    def refresh(self) -> None:
        """Show the formula in hand."""
        study = self._session.study
        self._inner.setEnabled(study is not None)
        if study is None:
            return
        self._show_targets(study)
        self._show_result(study)
        self.table.refresh(study)

    def _show_targets(self, study: Study) -> None:
        formula, scaled = study.formula, study.scaled
        batch = self._followed(study)
        self._show_products(study)
        wanted = sum(product.wanted for product in formula.wanted)
        give_checked(self.radios[f"fixed={batch.fixed}"], True)
        give_checked(self.radios[f"piece_by={batch.piece_by}"], True)
        for key, text in (
            ("pieces", number_text(wanted or batch.pieces, 0)),
            ("paste", mass_text(batch.paste_g)),
            ("flour", mass_text(batch.flour_g)),
            ("packet", mass_text(batch.packet_g)),
            ("written", factor_text(batch.times)),
            ("piece_g", weight_text(batch.piece_g)),
            (
                "piece_size",
                " × ".join(
                    bare_text(side, "mm", 1)
                    for side in (batch.piece_length_mm, batch.piece_width_mm)
                ),
            ),
            ("loss_pct", _typed(batch.loss_pct)),
            ("trim_pct", _typed(batch.trim_pct)),
            ("blocks", number_text(batch.blocks, 0)),
            ("shares", number_text(batch.shares, 0)),
            ("division_g", bare_text(batch.division_g, "g", 2)),
            ("frozen_g", from_stock_text(batch)),
        ):
            self.fields[key].show_value(text)
        losses = scaled.losses
        if losses is not None:
            for key, found in (("loss", losses.loss), ("trim", losses.trim)):
                self.fields[f"{key}_pct"].setPlaceholderText(number_text(found.value))
            self._origins.setText(
                f"Bench {number_text(losses.loss.value)} % ({losses.loss.origin}), trim "
                f"{number_text(losses.trim.value)} % ({losses.trim.origin}). Leave empty "
                "to use your own batches."
            )
        pantry = self._session.reference.pantry
        material = packet_material(formula, pantry)
        name = pantry[material].name.lower() if material else "fat"
        self._packet.setText(f"The whole packet of {name} is used.")
        self._piece_words.setText(
            f"{weight_text(scaled.piece_g)} each, {mm_text(formula.sheet_mm)} thick"
            if scaled.piece_g
            else ""
        )

    def _show_result(self, study: Study) -> None:
        scaled = study.scaled
        if scaled.trouble:
            self.big.setText("Nothing to weigh yet")
            for words, text in zip(self.sums, (scaled.trouble, "", ""), strict=True):
                words.setText(text)
            return
        self.big.setText(
            " · ".join(
                f"{number_text(made.pieces, 0)} {made.name or 'pieces'}" for made in scaled.made
            )
        )
        blocks = f", {blocks_words(scaled)}" if scaled.blocks > 1 else ""
        cost = study.no_cost
        whole = costs_of(study, self._session.reference.pantry).whole
        if whole is not None:
            sign = self._session.reference.house.currency
            cost = f"Cost {currency_text(whole, sign)}"
            if scaled.good:
                cost += f", {currency_text(whole / scaled.good, sign, 3)} per whole piece"
        facts = "".join(f"; {each}" for each in batch_facts(study))
        if study.cut_waits:
            facts += ". A new cut plan is being searched; until then these are the last figures"
        for words, text in zip(
            self.sums,
            (
                f"{mass_text(scaled.paste_g)} of paste as mixed{blocks}{facts}",
                _balance(scaled, study.formula.batch.frozen_where),
                cost,
            ),
            strict=True,
        ):
            words.setText(text)
