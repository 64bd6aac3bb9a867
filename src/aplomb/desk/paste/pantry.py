"""The pantry: every material with its figures, own ones, prices, suppliers' sheets."""

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import (
    QModelIndex,
    Qt,
)
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QLineEdit,
    QListView,
    QVBoxLayout,
)

from aplomb.core.base.constants import GRAMS_PER_POUND
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import bare_text, celsius_text, mass_text, mass_unit, number_text
from aplomb.core.paste.ingredient import (
    GROUP_WORDS,
    STANDING_WORDS,
    Ingredient,
)
from aplomb.core.paste.pantry import MOST_IN_A_BLEND
from aplomb.desk.kit.fields import button, card, fix_width, label, pair, row, wrapping
from aplomb.desk.kit.find_field import ask_material
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.paste.pantry_model import PantryModel
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.edits.pantry import PantryEdits
from aplomb.work.figures.local import currency_text, money_text

PARTS: tuple[tuple[str, str], ...] = (
    ("water", "Water"), ("fat", "Fat"), ("protein", "Protein"), ("carbohydrate", "Carbohydrate"),
    ("sugar", "of which sugar"), ("fibre", "Fibre"), ("salt", "Salt"), ("ash", "Ash"),
    ("acid", "Acid"), ("milk_solids", "Milk solids"),
)  # fmt: skip
TEMPS = (10, 15, 20, 25, 30, 35)
"""Temperatures a solid fat is typed at [°C]; a sheet may bring others."""


class PantryPage(Page):
    """Find a material, see and change its figures, its price."""

    KEY = "pantry"
    HINT = "Figures per 100 g as bought. Change one and the ingredient becomes your own."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.edits = PantryEdits(session.work)
        self.fields: dict[str, Field] = {}
        self._captions: dict[str, QLabel] = {}
        tools = Flow(
            button("New ingredient", "", partial(self._made, self.edits.new)),
            button("Copy", "", partial(self._made, self.edits.copy)),
            button("New blend…", "", self._new_blend),
            button("Import supplier’s data…", "", lambda: self.asked.emit("import data", None)),
            button("Export as CSV…", "", lambda: self.asked.emit("export pantry", None)),
            spacing=6,
        )
        self._body.addLayout(tools)
        left = QVBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search the pantry")
        self.search.setAccessibleName("Search the pantry")
        self.search.setClearButtonEnabled(True)
        self.model = PantryModel(session)
        self.list: QListView = QListView()
        self.list.setObjectName("picks")
        self.list.setAccessibleName("Ingredients")
        self.list.setUniformItemSizes(True)
        self.list.setModel(self.model)
        self.list.setMinimumWidth(look.theme.px(150))
        self.search.textEdited.connect(self._searched)
        self.search.returnPressed.connect(self.list.setFocus)
        self.list.selectionModel().currentChanged.connect(lambda now, _was: self._picked(now))
        self._count: QLabel = label("", "small")
        left.addWidget(self.search)
        left.addWidget(self.list, 1)
        left.addWidget(self._count)
        right = QVBoxLayout()
        right.setSpacing(10)
        right.addWidget(self._what_card())
        right.addWidget(self._price_card())
        right.addWidget(self._fat_card())
        right.addStretch(1)
        self._body.addLayout(self.two_sides(left, right, (2, 5)), 1)
        self.arrange()
        session.reference_changed.connect(self._reference_changed)
        self.edits.key = self.model.keys[0] if self.model.keys else ""
        self.refresh()

    def _field(self, name: str, words: str, take: Callable[[str], None], width: int = 84) -> Field:
        field = Field(words, take, self.show_error, eager=True)
        if width:
            fix_width(field, width)
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.fields[name] = field
        return field

    def _pair(
        self,
        flow: Flow,
        text: str,
        key: str,
        words: str,
        take: Callable[[str], None],
        width: int = 48,
        whole: int = 143,
    ) -> None:
        field = self._field(key, words, take, width)
        field.setPlaceholderText("–")
        made = pair(text, field, whole)
        self._captions[key] = next(iter(made.findChildren(QLabel)))
        flow.addWidget(made)

    def _what_card(self) -> QFrame:
        frame, column = card(spacing=4)
        self.title: QLabel = label("", "title")
        self.title.setMinimumWidth(60)
        self._undo = button("", "quiet", self._put_back)
        column.addLayout(row(self.title, None, self._undo))
        self._origin = wrapping("", "small")
        column.addWidget(self._origin)
        words = QGridLayout()
        words.setColumnStretch(1, 3)
        words.setColumnStretch(3, 2)
        self._group = QComboBox()
        self._group.setAccessibleName("Kind of ingredient")
        self._group.setMinimumContentsLength(5)
        self._group.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        for key, text in GROUP_WORDS.items():
            self._group.addItem(text, key)
        self._group.activated.connect(
            lambda i: self.edits.change("kind", group=self._group.itemData(i))
        )
        name = self._field("name", "Name", self.edits.name, 0)
        also = self._field("also", "Other names", self._take_also, 0)
        holds = self._field("allergens", "Allergens", self.edits.allergens, 0)
        holds.setPlaceholderText("none, or milk, egg …")
        for at, (text, widget) in enumerate(
            (("Name", name), ("Kind", self._group), ("Other names", also), ("Allergens", holds))
        ):
            words.addWidget(label(text, "second"), at // 2, 2 * (at % 2))
            words.addWidget(widget, at // 2, 2 * (at % 2) + 1)
        column.addLayout(words)
        grid = Flow(spacing=2)
        for key, text in PARTS:
            self._pair(grid, text, key, f"{text}, percent", partial(self.edits.part, key, text))
        self._pair(grid, "g/mL", "bulk", "Weight of a measure, g per mL", self.edits.bulk, 60)
        self._pair(grid, "± %", "spread", "Its spread, percent", self.edits.spread)
        column.addLayout(grid)
        return frame

    def _price_card(self) -> QFrame:
        frame, column = card(spacing=4)
        line = Flow(spacing=4)
        line.addWidget(label("Price", "title"))
        for key, text, words, width, whole in (
            ("pack", "pack", "Pack", 76, 118),
            ("price", "for", "Price of the pack", 74, 108),
            ("date", "on", "Day of the price", 98, 130),
            ("supplier", "from", "Supplier", 110, 158),
        ):
            self._pair(line, text, key, words, partial(self.edits.price, key), width, whole)
        self.fields["date"].setPlaceholderText("2026-11-23")
        self.fields["supplier"].setAlignment(Qt.AlignmentFlag.AlignLeft)
        self._per: QLabel = label("", "small")
        column.addLayout(line)
        column.addWidget(self._per)
        return frame

    def _fat_card(self) -> QFrame:
        self._fat_frame, column = card(spacing=4)
        column.addWidget(label("Solid fat, %", "title"))
        line = Flow(spacing=4)
        for temp in TEMPS:
            words = f"Solid fat at {temp} degrees"
            taker = partial(self.edits.solid, temp)
            self._pair(line, celsius_text(temp), f"sfc{temp}", words, taker, 44, 92)
        column.addLayout(line)
        worked = Flow(spacing=6)
        worked.addWidget(label("Enclosed and rolled at", "second"))
        for i, words in enumerate(("from", "to")):
            taker = partial(self.edits.enclose, i)
            worked.addWidget(self._field(words, f"Enclosed {words}, degrees", taker, 62))
            worked.addWidget(label("to" if i == 0 else "°C", "second"))
        worked.addWidget(label("leave both empty if it cannot be enclosed", "second"))
        column.addLayout(worked)
        return self._fat_frame

    def _look_changed(self) -> None:
        super()._look_changed()
        self.list.setMinimumWidth(look.theme.px(150))

    def arrange(self) -> None:
        """A short list above the figures when the page is narrow."""
        super().arrange()
        if "list" in self.__dict__:  # a page is arranged once before it is made
            self.list.setMinimumHeight(look.theme.px(110 if self.narrow else 300))
            self.list.setMaximumHeight(look.theme.px(110) if self.narrow else 16_777_215)

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.search)

    def begin(self, target: object) -> None:
        """Begin with a material, when one is named."""
        if isinstance(target, str) and target in self._session.reference.pantry:
            self._show(target)

    def _searched(self, words: str) -> None:
        self.model.search(words)
        if self.model.keys:
            self._show(self.model.keys[0])
        self._count.setText(self._count_words())

    def _count_words(self) -> str:
        shown = len(self.model.keys)
        more = f", {shown} listed" if shown < self.model.total else ""
        return f"{self.model.total} of {len(self._session.reference.pantry)}{more}"

    def _picked(self, now: QModelIndex) -> None:
        if now.isValid() and now.row() < len(self.model.keys):
            self.edits.key = self.model.keys[now.row()]
            self.refresh()

    def _show(self, key: str) -> None:
        self.edits.key = key
        if key not in self.model.keys:
            self.search.clear()
        place = self.model.index(self.model.include(key))
        if self.list.currentIndex() == place:
            self.refresh()
        else:
            self.list.setCurrentIndex(place)  # which shows it

    def _reference_changed(self) -> None:
        self.model.again()
        if self.edits.key not in self._session.reference.pantry:
            self.edits.key = self.model.keys[0] if self.model.keys else ""
        if self.edits.key in self.model.keys:
            place = self.model.index(self.model.keys.index(self.edits.key))
            self.list.selectionModel().blockSignals(True)
            self.list.setCurrentIndex(place)
            self.list.selectionModel().blockSignals(False)
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show the material in hand."""
        pantry = self._session.reference.pantry
        self._count.setText(self._count_words())
        if self.edits.key not in pantry:
            return
        m = self.edits.material
        self.title.setText(m.name)
        own, supplied = pantry.is_own(m.key), m.key in pantry.supplied
        whose = "yours" if own and not supplied else "yours, replacing the supplied one"
        self._origin.setText(
            f"{STANDING_WORDS[m.standing].capitalize()}: {m.source}. "
            + (f"This one is {whose}." if own else "")
        )
        self._undo.setVisible(own)
        self._undo.setText("Back to the supplied figures" if supplied else "Remove it")
        self._group.setCurrentIndex(self._group.findData(m.group))
        give = {key: field.show_value for key, field in self.fields.items()}
        give["name"](m.name)
        give["also"](m.also)
        give["allergens"](", ".join(m.allergens))
        for key, _ in PARTS:
            value = 100 * getattr(m.composition, key)
            give[key](number_text(value, 2) if value else "–")
        give["bulk"]("–" if m.bulk_g_ml is None else number_text(m.bulk_g_ml, 3))
        give["spread"](number_text(100 * m.bulk_spread, 1) if m.bulk_spread else "–")
        self._fat_frame.setVisible(m.is_fat)
        solid = dict(m.sfc)
        for temp in TEMPS:
            self._captions[f"sfc{temp}"].setText(celsius_text(temp))
            give[f"sfc{temp}"](number_text(solid[temp], 1) if temp in solid else "–")
        for i, words in enumerate(("from", "to")):
            give[words]("–" if m.enclose_c is None else bare_text(m.enclose_c[i], "°C", 1))
        self._show_price(m)

    def _show_price(self, m: Ingredient) -> None:
        pantry, house = self._session.reference.pantry, self._session.reference.house
        pack = pantry.pack(m.key)
        for key, text in (
            ("pack", mass_text(pack.pack_g) if pack else ""),
            ("price", money_text(pack.price) if pack else ""),
            ("date", pack.date if pack else ""),
            ("supplier", pack.supplier if pack else ""),
        ):
            self.fields[key].show_value(text)
        each = pantry.per_gram(m.key)
        if each is None:
            self._per.setText(
                "No price yet, so nothing that contains it has a cost. Prices are never guessed."
            )
        else:
            grams, unit = (GRAMS_PER_POUND, "pound") if mass_unit() == "oz" else (1000, "kilogram")
            price = f"{currency_text(grams * each, house.currency)} per {unit}"
            why = "" if pack else ", from its parts" if m.made_of else ", from the tap"
            self._per.setText(price + why)

    def _take_also(self, text: str) -> None:
        self.edits.change("names", also=text[:200])

    def _made(self, make: Callable[[], str]) -> None:
        """Go to a material that is made, or say why it cannot be."""
        try:
            key = make()
        except AplombError as error:
            self.show_error(str(error))
            return
        self._show(key)
        self.fields["name"].setFocus(Qt.FocusReason.TabFocusReason)

    def _new_blend(self) -> None:
        """Blend the material in hand with others, in equal shares to begin with."""
        pantry = self._session.reference.pantry
        keys = [self.edits.key]
        while len(keys) < MOST_IN_A_BLEND:
            words = f"Blend {', '.join(pantry[k].name.lower() for k in keys)} with"
            key = ask_material(self.window(), pantry, words)
            if key is None:
                break
            if key not in keys:
                keys.append(key)
        if len(keys) < 2:
            return
        self._made(partial(self.edits.blended, keys))

    def _put_back(self) -> None:
        try:
            self.edits.put_back()
        except AplombError as error:
            self.show_error(str(error))
