"""The pantry: every material with its figures, own ones, prices, suppliers' sheets."""

from collections.abc import Callable
from typing import Any

from msgspec.structs import replace
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

from aplomb.core.base.composition import Composition
from aplomb.core.base.constants import GRAMS_PER_POUND
from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import (
    bare_text,
    celsius_text,
    decimal_sign,
    mass_text,
    mass_unit,
    num,
    number_text,
)
from aplomb.core.base.quantity import parse_amount, parse_percent
from aplomb.core.paste.ingredient import (
    ALLERGENS,
    GROUP_WORDS,
    STANDING_WORDS,
    Ingredient,
    Share,
)
from aplomb.core.paste.pantry import MOST_IN_A_BLEND, Item, Pack, blend
from aplomb.desk.kit.fields import Field, button, card, fix_width, label, pair, row
from aplomb.desk.kit.find_field import ask_material
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.paste.pantry_model import PantryModel
from aplomb.desk.session import Session
from aplomb.desk.stages.place import Place
from aplomb.work.local import currency_text, money_text, read_price
from aplomb.work.typed import read_mass, read_temp

PARTS: tuple[tuple[str, str], ...] = (
    ("water", "Water"), ("fat", "Fat"), ("protein", "Protein"), ("carbohydrate", "Carbohydrate"),
    ("sugar", "of it sugar"), ("fibre", "Fibre"), ("salt", "Salt"), ("ash", "Ash"),
    ("acid", "Acid"), ("milk_solids", "Milk solids"),
)  # fmt: skip
TEMPS = (10, 15, 20, 25, 30, 35)
"""Temperatures a solid fat is typed at [°C]; a sheet may bring others."""


class PantryPlace(Place):
    """Find a material, see and change its figures, its price."""

    TITLE = "Pantry"
    HINT = "Figures per 100 g as bought. Change one and the material is yours."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._key = ""
        self._fields: dict[str, Field] = {}
        self._captions: dict[str, QLabel] = {}
        tools = Flow(
            button("New material", "", self._new), button("Copy", "", self._copy),
            button("New blend…", "", self._new_blend),
            button("Import supplier’s data…", "", lambda: self.asked.emit("import data", None)),
            button("Export as CSV…", "", lambda: self.asked.emit("export pantry", None)),
            spacing=6,
        )  # fmt: skip
        self._body.addLayout(tools)
        left = QVBoxLayout()
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search the pantry")
        self.search.setAccessibleName("Search the pantry")
        self.search.setClearButtonEnabled(True)
        self.model = PantryModel(session)
        self.list: QListView = QListView()
        self.list.setObjectName("picks")
        self.list.setAccessibleName("Materials")
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
        self._key = self.model.keys[0] if self.model.keys else ""
        self.refresh()

    def _field(self, name: str, words: str, take: Callable[[str], None], width: int = 84) -> Field:
        field = Field(words, take, self.show_error, eager=True)
        if width:
            fix_width(field, width)
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._fields[name] = field
        return field

    def _pair(
        self, flow: Flow, text: str, key: str, words: str, take: Callable[[str], None],
        width: int = 48, whole: int = 143,
    ) -> None:  # fmt: skip
        field = self._field(key, words, take, width)
        field.setPlaceholderText("–")
        made = pair(text, field, whole)
        self._captions[key] = next(iter(made.findChildren(QLabel)))
        flow.addWidget(made)

    def _what_card(self) -> QFrame:
        frame, column = card(spacing=4)
        self._title: QLabel = label("", "title")
        self._title.setMinimumWidth(60)
        self._undo = button("", "quiet", self._put_back)
        column.addLayout(row(self._title, None, self._undo))
        self._origin: QLabel = label("", "small")
        self._origin.setWordWrap(True)
        self._origin.setMinimumWidth(60)
        column.addWidget(self._origin)
        words = QGridLayout()
        words.setColumnStretch(1, 3)
        words.setColumnStretch(3, 2)
        self._group = QComboBox()
        self._group.setAccessibleName("Kind of material")
        self._group.setMinimumContentsLength(5)
        self._group.setSizeAdjustPolicy(
            QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon
        )
        for key, text in GROUP_WORDS.items():
            self._group.addItem(text, key)
        self._group.activated.connect(lambda i: self._change("kind", group=self._group.itemData(i)))
        name = self._field("name", "Name", self._take_name, 0)
        also = self._field("also", "Other names", lambda t: self._change("names", also=t[:200]), 0)
        holds = self._field("allergens", "Allergens", self._take_allergens, 0)
        holds.setPlaceholderText("none, or milk, egg …")
        for at, (text, widget) in enumerate(
            (("Name", name), ("Kind", self._group), ("Other names", also), ("Allergens", holds))
        ):
            words.addWidget(label(text, "second"), at // 2, 2 * (at % 2))
            words.addWidget(widget, at // 2, 2 * (at % 2) + 1)
        column.addLayout(words)
        grid = Flow(spacing=2)
        for key, text in PARTS:
            self._pair(grid, text, key, f"{text}, percent", self._part_reader(key, text))
        self._pair(grid, "g/mL", "bulk", "Weight of a measure, g per mL", self._take_bulk, 60)
        self._pair(grid, "± %", "spread", "Its spread, percent", self._take_spread)
        column.addLayout(grid)
        return frame

    def _price_card(self) -> QFrame:
        frame, column = card(spacing=4)
        line = Flow(spacing=4)
        line.addWidget(label("Price", "title"))
        for key, text, words, width, whole in (
            ("pack", "pack", "Pack", 76, 118), ("price", "for", "Price of the pack", 74, 108),
            ("date", "on", "Day of the price", 98, 130), ("supplier", "from", "Supplier", 110, 158),
        ):  # fmt: skip
            self._pair(line, text, key, words, self._price_reader(key), width, whole)
        self._fields["date"].setPlaceholderText("2026-11-23")
        self._fields["supplier"].setAlignment(Qt.AlignmentFlag.AlignLeft)
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
            taker = self._sfc_reader(temp)
            self._pair(line, celsius_text(temp), f"sfc{temp}", words, taker, 44, 92)
        column.addLayout(line)
        worked = Flow(spacing=6)
        worked.addWidget(label("Enclosed and rolled at", "second"))
        for i, words in enumerate(("from", "to")):
            taker = self._enclose_reader(i)
            worked.addWidget(self._field(words, f"Enclosed {words}, degrees", taker, 62))
            worked.addWidget(label("to" if i == 0 else "°C", "second"))
        worked.addWidget(label("both empty: never", "second"))
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

    @property
    def _material(self) -> Ingredient:
        return self._session.reference.pantry[self._key]

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
            self._key = self.model.keys[now.row()]
            self.refresh()

    def _show(self, key: str) -> None:
        self._key = key
        if key not in self.model.keys:
            self.search.clear()
        place = self.model.index(self.model.include(key))
        if self.list.currentIndex() == place:
            self.refresh()
        else:
            self.list.setCurrentIndex(place)  # which shows it

    def _reference_changed(self) -> None:
        self.model.again()
        if self._key not in self._session.reference.pantry:
            self._key = self.model.keys[0] if self.model.keys else ""
        if self._key in self.model.keys:
            place = self.model.index(self.model.keys.index(self._key))
            self.list.selectionModel().blockSignals(True)
            self.list.setCurrentIndex(place)
            self.list.selectionModel().blockSignals(False)
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Show the material in hand."""
        pantry = self._session.reference.pantry
        self._count.setText(self._count_words())
        if self._key not in pantry:
            return
        m = self._material
        self._title.setText(m.name)
        own, supplied = pantry.is_own(m.key), m.key in pantry.supplied
        whose = "yours" if own and not supplied else "yours, in place of the supplied one"
        self._origin.setText(
            f"{STANDING_WORDS[m.standing].capitalize()}: {m.source}. "
            + (f"This one is {whose}." if own else "")
        )
        self._undo.setVisible(own)
        self._undo.setText("Back to the supplied figures" if supplied else "Remove it")
        self._group.setCurrentIndex(self._group.findData(m.group))
        give = {key: field.show_value for key, field in self._fields.items()}
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
            ("date", pack.date if pack else ""), ("supplier", pack.supplier if pack else ""),
        ):  # fmt: skip
            self._fields[key].show_value(text)
        each = pantry.per_gram(m.key)
        if each is None:
            self._per.setText(
                "No price, so no cost of anything it is in; a price is never guessed."
            )
        else:
            grams, unit = (GRAMS_PER_POUND, "pound") if mass_unit() == "oz" else (1000, "kilogram")
            price = f"{currency_text(grams * each, house.currency)} a {unit}"
            why = "" if pack else ", from what it is made of" if m.made_of else ", as it comes"
            self._per.setText(price + why)

    def _hold(self, words: str, material: Ingredient) -> None:
        pack = self._session.reference.pantry.pack(material.key)
        self._session.store.put_items(
            f"{words} of {material.name.lower()}", [Item(material.key, material, pack)]
        )

    def _change(self, words: str, **changes: Any) -> None:
        """Make the material the user's with other figures; a blend's figures are then its own."""
        old = self._material
        figures = {"composition", "sfc", "enclose_c", "bulk_g_ml", "bulk_spread"} & set(changes)
        if figures:
            changes |= {"standing": "own", "source": "your own figures", "made_of": ()}
        new = replace(old, **changes)
        if new != old:
            self._hold(words, new)

    def _take_name(self, text: str) -> None:
        name = " ".join(text.split())
        others = {m.name.casefold() for m in self._session.reference.pantry if m.key != self._key}
        if name.casefold() in others:
            raise AmountError("another material has this name", text, 0, len(text))
        self._change("name", name=name)

    def _take_allergens(self, text: str) -> None:
        found = [" ".join(w.casefold().split()) for w in text.replace(";", ",").split(",")]
        found = [word for word in found if word not in ("", "none", "–")]
        wrong = [word for word in found if word not in ALLERGENS]
        if wrong:
            raise AmountError(f"“{wrong[0]}” is none of {', '.join(ALLERGENS)}", text, 0, len(text))
        self._change("allergens", allergens=tuple(dict.fromkeys(found)))

    def _part_reader(self, key: str, words: str) -> Callable[[str], None]:
        def take(text: str) -> None:
            value = 0.0 if text.strip() in ("", "–") else parse_percent(text, decimal_sign())
            if value > 100:
                raise AmountError("a share is at most 100 %", text, 0, len(text))
            composition: Composition = replace(self._material.composition, **{key: value / 100})
            changes: dict[str, Any] = {"composition": composition}
            if key == "acid" and value and not self._material.acid_kind:
                changes["acid_kind"] = "acetic"
            self._change(words.lower(), **changes)

        return take

    def _take_bulk(self, text: str) -> None:
        bare = text.strip() in ("", "–")
        amount = None if bare else parse_amount(text, decimal_sign())
        if amount is not None and not amount.bare:
            raise AmountError(f"enter grams per millilitre, e.g. {num(0.53)}", text, 0, len(text))
        self._change("weight of a measure", bulk_g_ml=amount.value if amount else None)

    def _take_spread(self, text: str) -> None:
        value = 0.0 if text.strip() in ("", "–") else parse_percent(text, decimal_sign())
        self._change("spread", bulk_spread=value / 100)

    def _sfc_reader(self, temp: int) -> Callable[[str], None]:
        def take(text: str) -> None:
            solid = dict(self._material.sfc)
            solid.pop(temp, None)
            if text.strip() not in ("", "–"):
                solid[float(temp)] = parse_percent(text, decimal_sign())
            self._change(f"solid fat at {temp} °C", sfc=tuple(sorted(solid.items())))

        return take

    def _enclose_reader(self, end: int) -> Callable[[str], None]:
        def take(text: str) -> None:
            old = self._material.enclose_c
            if text.strip() in ("", "–"):
                self._change("working range", enclose_c=None)
                return
            value = read_temp(text)
            low, high = old or ((value, value + 4) if end == 0 else (value - 4, value))
            both = (value, high) if end == 0 else (low, value)
            self._change("working range", enclose_c=both)

        return take

    def _price_reader(self, key: str) -> Callable[[str], None]:
        def take(text: str) -> None:
            reference = self._session.reference
            old = reference.pantry.pack(self._key)
            name = self._material.name.lower()
            if not text.strip() and key in ("pack", "price"):
                self._session.store.price(f"no price for {name}", self._key, None)
                return
            new = old or Pack(1000.0, 0.0, reference.today)
            if key == "pack":
                new = replace(new, pack_g=read_mass(text))
            elif key == "price":
                price = read_price(text, reference.house.currency)
                new = replace(new, price=price, date=reference.today)
            elif key == "date":
                new = replace(new, date=text.strip())
            else:
                new = replace(new, supplier=text.strip()[:80])
            self._session.store.price(f"price of {name}", self._key, new)

        return take

    def _new(self) -> None:
        self._add(Ingredient("", self._free_name("New material"), "other", Composition(),
                             "own", "your own figures"), None)  # fmt: skip

    def _copy(self) -> None:
        pack = self._session.reference.pantry.pack(self._key)
        name = self._free_name(f"{self._material.name[:66]}, yours")
        self._add(replace(self._material, name=name), pack)

    def _free_name(self, name: str) -> str:
        names = {m.name for m in self._session.reference.pantry}
        number, free = 2, name
        while free in names:
            free, number = f"{name} {number}", number + 1
        return free

    def _add(self, material: Ingredient, pack: Pack | None) -> None:
        key = self._session.reference.pantry.free_key(material.name)
        try:
            self._session.store.put_items(
                f"new material {material.name.lower()}",
                [Item(key, replace(material, key=key), pack)],
            )
        except AplombError as error:
            self.show_error(str(error))
            return
        self._show(key)
        self._fields["name"].setFocus(Qt.FocusReason.TabFocusReason)

    def _new_blend(self) -> None:
        """Blend the material in hand with others, in equal shares to begin with."""
        pantry = self._session.reference.pantry
        keys = [self._key]
        while len(keys) < MOST_IN_A_BLEND:
            words = f"Blend {', '.join(pantry[k].name.lower() for k in keys)} with"
            key = ask_material(self.window(), pantry, words)
            if key is None:
                break
            if key not in keys:
                keys.append(key)
        if len(keys) < 2:
            return
        shares = tuple(Share(key, 1 / len(keys)) for key in keys)
        try:
            name = self._free_name(f"Blend with {pantry[keys[0]].name.lower()[:60]}")
            self._add(blend(name, "", shares, pantry), None)
        except AplombError as error:
            self.show_error(str(error))

    def _put_back(self) -> None:
        pantry = self._session.reference.pantry
        supplied = self._key in pantry.supplied
        pack = pantry.pack(self._key) if supplied else None
        words = "supplied figures" if supplied else "take out"
        try:
            self._session.store.put_items(f"{words}: {self._material.name.lower()}",
                               [Item(self._key, None, pack)])  # fmt: skip
        except AplombError as error:
            self.show_error(str(error))
