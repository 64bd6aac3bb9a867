"""What can I make with …: what can be made of a material, and of the blocks in the freezer."""

from collections.abc import Callable, Mapping

from msgspec.structs import replace
from PySide6.QtWidgets import QComboBox, QFrame, QLabel, QVBoxLayout

from aplomb.book.book import new_uid
from aplomb.book.entry import Entry
from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import example_mass, mass_text, number_text
from aplomb.core.batch.keeping import FORM_WORDS, KeptItem
from aplomb.core.batch.stock import check_stock
from aplomb.core.kitchen.demand import CanBeMade, from_blocks, from_material
from aplomb.core.study.study import Reference, Study, make_study
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.fields import card, fix_width, give_words, label, row
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.find_field import MaterialField
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.work.figures.typed import read_mass, read_whole

MOST_TOLD = 12
"""Formulas that are told of at most."""


class CanBeMadeCard(QFrame):
    """What three kilos of butter give, or two blocks from the freezer; worked out beside."""

    def __init__(self, session: Session, on_error: Callable[[str], None]) -> None:
        super().__init__()
        self._session = session
        self._asked: object = None
        self._material, self._grams_g = "butter", 3000.0
        self.work = LatestJob(self._came, self)
        frame, column = card()
        column.addWidget(label("What can I make with …", "title"))
        wanted = MaterialField(lambda: session.reference.pantry, "From an ingredient")
        wanted.chosen.connect(self._take_material)
        self.grams = Field("Amount in stock", self._take_grams, on_error, eager=True)
        fix_width(self.grams, 100)
        self._of: QLabel = label("", "second")
        column.addLayout(row(self.grams, self._of, None, wanted))
        self.made = FigureTable("What can be made of it", 2)
        column.addWidget(self.made)
        column.addWidget(label("From stock", "strong"))
        self.frozen_table = FigureTable("Blocks in the freezer", 2)
        column.addWidget(self.frozen_table)
        self.which = QComboBox()
        self.which.setAccessibleName("Formula of the frozen blocks")
        self.number = Field("Blocks to the freezer", self._take_blocks, on_error)
        give_words(self.number, lambda: f"2 × {example_mass(large=True)}")
        fix_width(self.number, 110)
        column.addLayout(row(self.which, self.number, None))
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        around.addWidget(frame)

    def refresh(self, studies: Mapping[str, Study]) -> None:
        """Show the freezer; `studies` are those of the day, that blocks can be put away of."""
        self._show_frozen(self._session.kitchen.stock.blocks(), studies)
        self._ask()

    def _ask(self) -> None:
        """Work out beside the window what the material gives, over all formulas of the book."""
        reference, material, grams = self._session.reference, self._material, self._grams_g
        known = material in reference.pantry
        name = reference.pantry[material].name.lower() if known else material
        self._of.setText(f"of {name}")
        self.grams.show_value(mass_text(grams))
        entries = dict(self._session.shelf.entries)
        asked = (material, grams, reference, tuple(entries.values()))
        if asked == self._asked:
            return
        self._asked = asked

        def work() -> tuple[Row, ...]:
            studies, more = _using(material, entries, reference)
            made = from_material(material, grams, studies, reference)
            return _rows(made, f"No formula uses {name}.", more)

        self.work.ask(work)

    def _came(self, found: "tuple[Row, ...] | AplombError") -> None:
        if not isinstance(found, AplombError):
            self.made.show_rows(found)

    def _show_frozen(self, frozen: tuple[KeptItem, ...], studies: Mapping[str, Study]) -> None:
        entries = self._session.shelf.entries
        there = {
            b.uid: study
            for b in frozen
            if b.uid in entries
            and (study := self._session.shelf.study_of(b.uid, search=False)) is not None
        }
        names = {uid: study.formula.name for uid, study in (dict(studies) | there).items()}
        rows = [
            Row(
                f"{names.get(b.uid, 'a formula that is gone')}, {FORM_WORDS[b.form]}, {b.where}, "
                f"{b.turns} turns done",
                (f"{b.many} × {mass_text(b.each_g)}", b.made),
                "same",
            )
            for b in frozen
        ]
        rows += _rows(from_blocks(frozen, there, self._session.reference), "")
        self.frozen_table.show_rows(tuple(rows) or (Row("No blocks in stock.", (), "same"),))
        shown = {self.which.itemData(i): self.which.itemText(i) for i in range(self.which.count())}
        if shown != names:
            chosen = self.which.currentData()
            self.which.clear()
            for uid, name in names.items():
                self.which.addItem(name, uid)
            self.which.setCurrentIndex(max(0, self.which.findData(chosen)))

    def _take_material(self, key: str) -> None:
        self._material = key
        self._ask()

    def _take_grams(self, text: str) -> None:
        self._grams_g = read_mass(text)
        self._ask()

    def _take_blocks(self, text: str) -> None:
        if not text.strip():
            return
        parts = text.lower().replace("x", "×").split("×")
        if len(parts) != 2:
            raise AmountError(
                f"enter blocks and weight, e.g. 2 × {example_mass(large=True)}", text, 0, len(text)
            )
        blocks, each = read_whole(parts[0]), read_mass(parts[1].strip())
        uid = self.which.currentData()
        stock = self._session.kitchen.stock
        kept = tuple(i for i in stock.kept if not (i.uid == uid and _is_frozen_block(i)))
        if blocks:
            study = self._session.shelf.study_of(uid, search=False)
            turns = len(study.plan.turns) if study else 0
            day = self._session.reference.today
            key = new_uid()[:12]
            block = KeptItem(key, uid, "whole", "freezer", blocks, each, turns, turns, day)
            kept = (*kept, block)
        self.number.show_value("")
        self._session.store.put_stock(
            f"{blocks} blocks in the freezer", check_stock(replace(stock, kept=kept))
        )


def _is_frozen_block(item: KeptItem) -> bool:
    return item.form == "whole" and item.where == "freezer"


def _using(
    material: str, entries: Mapping[str, Entry], reference: Reference
) -> tuple[dict[str, Study], int]:
    """Work out the first formulas that hold a material, and count the others."""
    found: dict[str, Study] = {}
    more = 0
    for uid, entry in entries.items():
        try:
            formula = entry.formula
            if not any(line.material == material for line in (*formula.dough, *formula.block)):
                continue
            if len(found) < MOST_TOLD:
                found[uid] = make_study(formula, reference, search=False)
            else:
                more += 1
        except AplombError:  # told where the formula is shown
            continue
    return found, more


def _rows(made: tuple[CanBeMade, ...], nothing: str, more: int = 0) -> tuple[Row, ...]:
    if not made:
        return (Row(nothing, (), "same"),) if nothing else ()
    rows = [Row("If used only for", ("paste", "pieces"), "head")]
    rows += [
        Row(
            f"{each.formula}: {each.product}" if each.product else each.formula,
            (mass_text(each.paste_g), number_text(each.pieces, 0)),
        )
        for each in made
    ]
    if more:
        rows.append(Row(f"and {number_text(more, 0)} more formulas", (), "same"))
    return tuple(rows)
