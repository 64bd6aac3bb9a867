"""Losses as the book's own batches have them, what was measured, and what a batch costs."""

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QDateTime, QLocale, Qt
from PySide6.QtWidgets import QComboBox, QFrame, QGridLayout, QLabel, QVBoxLayout

from aplomb.book.book import new_uid, now
from aplomb.core.base.figures import bare_text, decimal_sign, g_text, mass_text, num, number_text
from aplomb.core.base.quantity import parse_percent
from aplomb.core.batch.losses import KINDS, USUAL, Kind
from aplomb.core.batch.made_batch import OUTCOME_WORDS, MadeBatch
from aplomb.core.kitchen.costs import Costs, costs_of
from aplomb.core.paste.formula import Formula, with_product
from aplomb.core.paste.ingredient import STANDING_WORDS
from aplomb.core.readings.choices import likely_fats
from aplomb.core.study.study import Study
from aplomb.desk.kit.fields import button, card, clear, fix_width, label, row
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.local import currency_text, read_price
from aplomb.work.figures.typed import read_mass, read_whole


def day_text(iso: str) -> str:
    """Write a day or moment in ISO 8601 as the locale has it, in local time."""
    moment = QDateTime.fromString(iso, Qt.DateFormat.ISODate)
    if not moment.isValid():
        return iso or "–"
    return QLocale().toString(moment.toLocalTime().date(), "d MMM yyyy")


class CostsPage(Page):
    """Losses and costs, side by side."""

    KEY = "costs"
    HINT = "Your own measured batches replace the rules of thumb."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.loss_fields: dict[Kind, Field] = {}
        self._origins: dict[Kind, QLabel] = {}
        self.outcome: dict[str, Field] = {}
        self.targets: list[Field] = []
        self._target_names: list[str] = []
        left, right = QVBoxLayout(), QVBoxLayout()
        for side in (left, right):
            side.setSpacing(12)
        left.addWidget(self._losses_card())
        left.addWidget(self._measured_card())
        left.addStretch(1)
        right.addWidget(self._costs_card())
        right.addStretch(1)
        self._body.addLayout(self.two_sides(left, right))
        self._body.addStretch(1)
        self.refresh()

    def _losses_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("Losses of this batch, %", "title"))
        grid = QGridLayout()
        grid.setColumnStretch(2, 1)
        grid.setVerticalSpacing(4)
        for i, kind in enumerate(KINDS):
            usual = USUAL[kind]
            field = Field(usual.words, partial(self._take_loss, kind), self.show_error)
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(field, 70)
            field.setToolTip(
                f"Percent of {usual.base}. Leave empty for the figure from "
                "your own batches, or the typical one"
            )
            origin: QLabel = label("", "small")
            origin.setWordWrap(True)
            origin.setMinimumWidth(40)
            grid.addWidget(label(usual.words), i, 0)
            grid.addWidget(field, i, 1)
            grid.addWidget(origin, i, 2)
            self.loss_fields[kind], self._origins[kind] = field, origin
        column.addLayout(grid)
        self.balance = FigureTable("Mass balance of the batch", 1)
        column.addWidget(self.balance)
        return frame

    def _measured_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("Batches measured", "title"))
        self._which = QComboBox()
        self._which.setAccessibleName("Batch")
        self._which.activated.connect(lambda _: self._show_batch())
        self._new = button("New batch", "", self._begin)
        self._drop = button("Remove", "", self._remove, "Undo brings it back")
        line = row(self._which, self._new, self._drop)
        line.setStretch(0, 1)
        column.addLayout(line)
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        grid.setVerticalSpacing(3)
        for i, (name, words) in enumerate(OUTCOME_WORDS.items()):
            field = Field(words, partial(self._take_outcome, name), self.show_error)
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(field, 96)
            field.setPlaceholderText("–")
            grid.addWidget(label(words), i, 0)
            grid.addWidget(field, i, 1)
            self.outcome[name] = field
        column.addLayout(grid)
        self._note = Field("Note", self._take_note, self.show_error)
        self._note.setPlaceholderText("Note")
        column.addWidget(self._note)
        return frame

    def _costs_card(self) -> QFrame:
        frame, column = card()
        self._big: QLabel = label("", "big")
        self._words: QLabel = label("", "second")
        self._flags: QLabel = label("", "look")
        for words in (self._big, self._words):
            words.setWordWrap(True)
            words.setMinimumWidth(60)
            column.addWidget(words)
        self._flags.setWordWrap(True)
        self._flags.setMinimumWidth(60)
        self.products = FigureTable("Cost by product", 4)
        column.addWidget(self.products)
        column.addWidget(self._flags)
        self._target_grid = QGridLayout()
        self._target_grid.setColumnStretch(0, 1)
        column.addLayout(self._target_grid)
        self.fats = FigureTable("What changes when the fat changes", 2)
        column.addWidget(self.fats)
        self.materials = FigureTable("Cost by ingredient", 3)
        column.addWidget(self.materials)
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.loss_fields["loss"])

    def refresh(self) -> None:
        """Show the losses, batches and costs of the formula in hand."""
        study = self._session.study
        if study is None:
            return
        self._show_losses(study)
        self._show_batches()
        self._show_costs(study)

    def _show_losses(self, study: Study) -> None:
        losses = study.scaled.losses
        for kind, field in self.loss_fields.items():
            typed = getattr(study.formula.batch, f"{kind}_pct")
            field.show_value("" if typed is None else number_text(typed, 2))
            usual = USUAL[kind]
            seen = f"{num(usual.low)} to {num(usual.high)} % is typical"
            if losses is None:
                self._origins[kind].setText(seen)
                continue
            loss = losses.of(kind)
            field.setPlaceholderText(number_text(loss.value, 1))
            standing = STANDING_WORDS[loss.standing]
            said = loss.typed or loss.batches or loss.from_cut
            origin = loss.origin if said else standing
            self._origins[kind].setText(f"{origin}; {seen}")
        scaled = study.scaled
        rows = [
            ("In: paste as mixed", scaled.paste_g),
            ("sprinkled in between the folds", scaled.strewn_g),
            ("dusting flour taken up", scaled.dust_g),
            ("from stock", scaled.frozen_g),
            ("scrap stacked in", scaled.scrap_in_g),
            ("Out: bowl and bench", scaled.loss_g),
            ("trimmed while folding", scaled.folded_g),
            ("trim and scrap", scaled.trim_g),
            ("spare", scaled.over_g),
            ("in pieces as cut", scaled.cut_g),
            ("in pieces as baked, without filling", scaled.baked_g),
        ]
        self.balance.show_rows(tuple(Row(words, (g_text(g, 0),)) for words, g in rows if g > 0))

    def _made_batches(self) -> list[MadeBatch]:
        return [r for r in self._session.reference.made_batches if r.uid == self._session.uid]

    def _show_batches(self) -> None:
        made_batches = self._made_batches()
        keys = [self._which.itemData(i) for i in range(self._which.count())]
        if keys != [r.key for r in made_batches]:
            kept = self._which.currentData()
            self._which.clear()
            for made_batch in made_batches:
                self._which.addItem(day_text(made_batch.begun), made_batch.key)
            at = self._which.findData(kept)
            self._which.setCurrentIndex(at if at >= 0 else self._which.count() - 1)
        self._show_batch()

    @property
    def made_batch(self) -> MadeBatch | None:
        """The batch that is shown."""
        key = self._which.currentData()
        return next((r for r in self._made_batches() if r.key == key), None)

    def _show_batch(self) -> None:
        made_batch = self.made_batch
        for name, field in self.outcome.items():
            field.setEnabled(made_batch is not None)
            value = getattr(made_batch.outcome, name) if made_batch else None
            unit = "g" if name.endswith("_g") else ""
            field.show_value("" if value is None else bare_text(value, unit, 1))
        self._note.setEnabled(made_batch is not None)
        self._note.show_value(made_batch.note if made_batch else "")
        self._drop.setEnabled(made_batch is not None)

    def _begin(self) -> None:
        formula = self._session.formula
        if formula is not None:
            made = MadeBatch(new_uid(), formula.name, self._session.uid, now())
            self._session.store.put_made_batch("add a measured batch", made)
            self._which.setCurrentIndex(self._which.findData(made.key))
            self._show_batch()
            self.outcome["mixed_g"].setFocus(Qt.FocusReason.TabFocusReason)

    def _remove(self) -> None:
        if self.made_batch is not None:
            self._session.store.drop_made_batch("a batch out", self.made_batch.key)

    def _take_outcome(self, name: str, text: str) -> None:
        made_batch = self.made_batch
        if made_batch is None:
            return
        value: Any = None
        if text.strip():
            value = read_whole(text) if name in ("pieces", "broken") else read_mass(text)
        outcome = replace(made_batch.outcome, **{name: value})
        self._session.store.put_made_batch(
            OUTCOME_WORDS[name].removeprefix("… "), replace(made_batch, outcome=outcome)
        )

    def _take_note(self, text: str) -> None:
        if self.made_batch is not None:
            self._session.store.put_made_batch(
                "note", replace(self.made_batch, note=text.strip()[:400])
            )

    def _take_loss(self, kind: Kind, text: str) -> None:
        value = parse_percent(text, decimal_sign()) if text.strip() else None
        self._session.shelf.edit(
            f"{USUAL[kind].words.lower()} {text or 'as measured'}",
            lambda f: replace(f, batch=replace(f.batch, **{f"{kind}_pct": value})),
        )

    def _money(self) -> Callable[[float | None, int], str]:
        sign = self._session.reference.house.currency
        return lambda cost, digits: "–" if cost is None else currency_text(cost, sign, digits)

    def _show_costs(self, study: Study) -> None:
        pantry = self._session.reference.pantry
        costs, money = costs_of(study, pantry), self._money()
        whole = costs.whole
        self._big.setText(f"{money(whole, 2)} the batch" if whole is not None else "No cost yet")
        words = [f"Oldest price: {day_text(costs.oldest)}." if costs.oldest else ""]
        if costs.unpriced:
            some = ", ".join(name.lower() for name in costs.unpriced[:4])
            words.append(f"No price yet for {some}. Enter prices in the pantry.")
        if study.scaled.frozen_g or study.scaled.scrap_in_g:
            words.append("Stock and scrap are already paid for, so they are not counted.")
        self._words.setText(" ".join(w for w in words if w))
        rows = [Row("Product", ("to sell", "paste", "extras", "per piece"), "head")]
        rows += [
            Row(
                each.name or "Pieces",
                (
                    number_text(each.good, 0),
                    money(each.paste, 2),
                    money(each.on_it, 2),
                    money(each.each, 3),
                ),
                "changed" if each.over_target else "plain",
            )
            for each in costs.products
        ]
        self.products.show_rows(tuple(rows))
        dear = [
            f"{each.name}: {money(each.each, 3)} is above its target of {money(each.target, 2)}."
            for each in costs.products
            if each.over_target
        ]
        self._flags.setText("\n".join(dear))
        self._flags.setVisible(bool(dear))
        self._show_targets(study.formula)
        self._show_fats(study, costs)
        rows = [Row("Ingredient", ("needed", "cost", "price date"), "head")]
        rows += [
            Row(m.name, (mass_text(m.grams), money(m.cost, 2), day_text(m.date) if m.date else "–"))
            for m in costs.materials
        ]
        self.materials.show_rows(tuple(rows))

    def _show_targets(self, formula: Formula) -> None:
        names = [p.name for p in formula.products]
        if names != self._target_names:
            self._target_names = names
            clear(self._target_grid)
            self.targets = []
            for i, name in enumerate(names):
                field = Field(
                    f"{name}: target cost", partial(self._take_target, i), self.show_error
                )
                field.setAlignment(Qt.AlignmentFlag.AlignRight)
                fix_width(field, 84)
                field.setPlaceholderText("no target")
                self._target_grid.addWidget(label(f"{name}: target cost", "small"), i, 0)
                self._target_grid.addWidget(field, i, 1)
                self.targets.append(field)
        for field, p in zip(self.targets, formula.products, strict=True):
            field.show_value(number_text(p.price, 3) if p.price else "")

    def _take_target(self, at: int, text: str) -> None:
        currency = self._session.reference.house.currency
        price = read_price(text, currency) if text.strip() else 0.0

        self._session.shelf.edit(
            f"may cost {text or 'anything'}", lambda f: with_product(f, at, price=price)
        )

    def _show_fats(self, study: Study, costs: Costs) -> None:
        reference = self._session.reference
        choices = likely_fats(
            study.formula, reference.pantry, reference.house, study.scaled.written_pieces
        )
        money, whole = self._money(), costs.whole
        rows = [Row("Another fat, same fat content", ("per batch", "change"), "head")]
        for choice in choices:
            change = choice.cost_change_pct
            rows.append(
                Row(
                    choice.name,
                    (
                        money(choice.cost_of(whole), 2),
                        "no price" if change is None else f"{change:+.0f} %".replace("-", "−"),
                    ),
                )
            )
        self.fats.show_rows(tuple(rows) if choices else ())
