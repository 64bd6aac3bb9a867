"""Fridges, freezers, benches: the places of the house, and their figures fitted from a probe."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QFrame,
    QGridLayout,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import (
    bare_text,
    celsius_text,
    decimal_sign,
    mm_text,
    num,
    temp_unit,
    warming_text,
)
from aplomb.core.base.house import COLD
from aplomb.core.base.places import (
    KIND_WORDS,
    KINDS,
    MOST_PLACES,
    UNDER_WORDS,
    UNDERS,
    Place,
    PlaceKind,
)
from aplomb.core.base.texts import free_name
from aplomb.core.cold.course import Body
from aplomb.core.cold.fit import Fitted, fit_coefficient
from aplomb.core.paste.bodies import bodies_of
from aplomb.desk.day.probe_card import ProbeCard
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.fields import (
    button,
    card,
    fix_width,
    give_checked,
    label,
    let_go,
    on_checked,
    row,
    wrapping,
)
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.house_card import HouseFields
from aplomb.desk.stages.page import Page
from aplomb.exchange.probe_log import read_probe_log
from aplomb.work.figures.typed import read_length, read_temp, read_whole
from aplomb.work.words.cold import place_words

BODIES = (("paste", "paste"), ("dough", "dough"), ("fat", "fat block"))


class _Row:
    """The widgets of one place."""

    def __init__(self, page: "PlacesPage", at: int) -> None:
        self.name = Field("Name", partial(page.take_name, at), page.show_error)
        self.kind = QComboBox()
        for kind in KINDS:
            self.kind.addItem(KIND_WORDS[kind], kind)
        self.temp = Field("Temperature", partial(page.take_temp, at), page.show_error)
        self.temp.setPlaceholderText("–")
        self.under = QComboBox()
        for under in UNDERS:
            self.under.addItem(UNDER_WORDS[under], under)
        self.moving, self.wrapped = QCheckBox("fan"), QCheckBox("wrapped")
        self.spaces = Field("Spaces", partial(page.take_spaces, at), page.show_error)
        self.out = button("Remove", "quiet", partial(page.remove, at))
        self.words = wrapping("", "small")
        self.kind.activated.connect(partial(page.take_kind, at))
        self.under.activated.connect(partial(page.take_under, at))
        on_checked(self.moving, partial(page.take_flag, at, "moving"))
        on_checked(self.wrapped, partial(page.take_flag, at, "wrapped"))
        for widget, wide in ((self.name, 170), (self.temp, 76), (self.spaces, 50)):
            fix_width(widget, wide)
        self.whole = QWidget()
        column = QVBoxLayout(self.whole)
        column.setContentsMargins(0, 0, 0, 4)
        column.setSpacing(2)
        column.addLayout(
            Flow(
                self.name,
                self.kind,
                self.temp,
                label("surface", "small"),
                self.under,
                self.moving,
                self.wrapped,
                label("tray spaces", "small"),
                self.spaces,
                self.out,
                spacing=7,
            )
        )
        column.addWidget(self.words)

    def show(self, place: Place, temp_c: float) -> None:
        """Show a place."""
        self.name.show_value(place.name)
        self.temp.show_value(celsius_text(temp_c).replace("-", "−"))
        self.spaces.show_value(str(place.spaces))
        self.kind.setCurrentIndex(self.kind.findData(place.kind))
        self.under.setCurrentIndex(self.under.findData(place.under))
        give_checked(self.moving, place.moving)
        give_checked(self.wrapped, place.wrapped)
        self.words.setText(place_words(place, temp_c))
        name = place.name
        self.name.setAccessibleName(f"{name}, name")
        self.temp.setAccessibleName(f"{name}, temperature")
        self.spaces.setAccessibleName(f"{name}, spaces")
        self.kind.setAccessibleDescription(f"{name}, kind")
        self.under.setAccessibleDescription(f"{name}, surface")
        self.moving.setAccessibleName(f"{name}, moving air")
        self.wrapped.setAccessibleName(f"{name}, wrapped")
        self.out.setAccessibleName(f"Remove {name}")


class PlacesPage(Page):
    """The places of the house."""

    KEY = "places"
    HINT = (
        "Where paste is kept, and how fast it cools or warms there. A probe log gives "
        "you your own figure."
    )

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._fitted: Fitted | None = None
        self._readings = 0
        self._fitted_for = ""
        self._job = LatestJob(self._take_fit, self, lambda: session.book.path)
        self.rows: list[_Row] = []
        self.probe = ProbeCard(session, self.show_error, self)
        self.log = self.probe.log
        self._body.addWidget(self._places_card())
        self._body.addLayout(self.two_sides(self.probe.frame, self._fit_card()))
        self._body.addStretch(1)
        self.refresh()

    def _places_card(self) -> QFrame:
        frame, column = card()
        self._rows = QVBoxLayout()
        self._rows.setSpacing(2)
        column.addLayout(self._rows)
        self.add = button("Add a place", "", self._add)
        self._rolling = HouseFields(self._session, COLD, self.show_error)
        column.addLayout(row(self.add, None))
        column.addLayout(self._rolling.grid)
        return frame

    def _fit_card(self) -> QFrame:
        frame, column = card()
        self._where = QComboBox()
        self._where.setAccessibleName("Place")
        self._what = QComboBox()
        self._what.setAccessibleName("What the probe was in")
        for key, words in BODIES:
            self._what.addItem(words, key)
        self._numbers = {"thick": 30.0, "deep": 15.0, "start": 20.0}
        self._fields: dict[str, Field] = {}
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        rows = (
            ("Place", self._where),
            ("Part of the open formula", self._what),
            ("Thickness of the block, mm", self._number("thick", "Thickness of the block")),
            ("Depth of the probe tip, mm", self._number("deep", "Depth of the probe")),
            ("Block at the start, °C", self._number("start", "Block at the start")),
        )
        for i, (words, widget) in enumerate(rows):
            caption = wrapping(words)
            grid.addWidget(caption, i, 0)
            grid.addWidget(widget, i, 1)
        column.addLayout(grid)
        self._result = wrapping("", "second")
        self.fit = button("Calculate heat transfer", "main", self._fit)
        self.use = button("Use it for this place", "", self._use)
        self.forget = button("Back to the usual figure", "quiet", self._forget)
        self.use.setEnabled(False)
        column.addLayout(row(self.fit, self.use, None))
        column.addWidget(self._result)
        column.addLayout(row(self.forget, None))
        return frame

    def _number(self, key: str, words: str) -> Field:
        field = Field(words, partial(self._take_number, key), self.show_error)
        fix_width(field, 96)
        self._fields[key] = field
        return field

    def _take_number(self, key: str, text: str) -> None:
        value = read_temp(text) if key == "start" else read_length(text, zero=key == "deep")
        self._numbers[key] = value
        self._show_numbers()

    def _show_numbers(self) -> None:
        for key, field in self._fields.items():
            unit = "°C" if key == "start" else "mm"
            field.show_value(bare_text(self._numbers[key], unit, 2).replace("-", "−"))

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.rows[0].name if self.rows else self.add)

    def refresh(self) -> None:
        """Show the places."""
        house = self._session.reference.house
        while len(self.rows) > len(house.places):
            let_go(self._rows, self.rows.pop().whole)
        while len(self.rows) < len(house.places):
            self.rows.append(_Row(self, len(self.rows)))
            self._rows.addWidget(self.rows[-1].whole)
        chosen = self._where.currentText()
        self._where.clear()
        for shown, place in zip(self.rows, house.places, strict=True):
            shown.show(place, house.temp_in(place))
            self._where.addItem(place.name)
        self._where.setCurrentIndex(max(0, self._where.findText(chosen)))
        self._rolling.refresh()
        self._show_numbers()
        own = any(place.own_w_m2_k is not None for place in house.places)
        self.forget.setVisible(own)
        self.add.setEnabled(len(house.places) < MOST_PLACES)

    def _put(self, at: int, words: str, **changes: object) -> None:
        house = self._session.reference.house
        if at >= len(house.places):
            return
        places = list(house.places)
        places[at] = replace(places[at], **changes)
        self._session.store.set_house(words, replace(house, places=tuple(places)))

    def take_name(self, at: int, text: str) -> None:
        """Rename a place."""
        self._put(at, f"place {text.strip()[:40]}", name=text.strip())

    def take_temp(self, at: int, text: str) -> None:
        """Say how cold a place is."""
        value = read_temp(text)
        house = self._session.reference.house
        place = house.places[at]
        usual = {"fridge": "fridge_c", "room": "shop_c"}.get(place.kind)
        if usual is not None and place.temp_c is None:
            words = f"{place.name} at {celsius_text(value)}"
            self._session.store.set_house(words, replace(house, **{usual: value}))
            return
        self._put(at, f"{place.name} at {celsius_text(value)}", temp_c=value)

    def take_spaces(self, at: int, text: str) -> None:
        """Say how many blocks or trays a place takes."""
        self._put(at, f"{text} spaces", spaces=read_whole(text))

    def take_kind(self, at: int, index: int) -> None:
        """Say of what kind a place is."""
        kind: PlaceKind = self.rows[at].kind.itemData(index)
        try:
            self._put(at, f"place is a {KIND_WORDS[kind].lower()}", kind=kind, own_w_m2_k=None)
        except AplombError as error:
            self.show_error(str(error))
            self.refresh()

    def take_under(self, at: int, index: int) -> None:
        """Say what lies below."""
        under = self.rows[at].under.itemData(index)
        self._put(at, f"on {UNDER_WORDS[under]}", under=under)

    def take_flag(self, at: int, name: str, on: bool) -> None:  # Qt says it so
        """Say whether a fan moves the air, or blocks are wrapped."""
        self._put(at, f"{name}: {'yes' if on else 'no'}", **{name: on})

    def remove(self, at: int) -> None:
        """Take a place out."""
        house = self._session.reference.house
        places = tuple(p for i, p in enumerate(house.places) if i != at)
        try:
            words = f"remove {house.places[at].name}"
            self._session.store.set_house(words, replace(house, places=places))
        except AplombError as error:
            self.show_error(str(error))

    def _add(self) -> None:
        house = self._session.reference.house
        name = free_name("Fridge", [place.name for place in house.places])
        places = (*house.places, Place(name, "fridge", house.fridge_c))
        self._session.store.set_house(f"add {name}", replace(house, places=places))
        self.first_focus(self.rows[-1].name)

    def _fit(self) -> None:
        study, reference = self._session.study, self._session.reference
        at = self._where.currentIndex()
        if study is None or not 0 <= at < len(reference.house.places):
            return
        self.show_error("")
        place = reference.house.places[at]
        try:
            log = read_probe_log(
                self.log.toPlainText(), decimal_sign(), fahrenheit=temp_unit() == "°F"
            )
            thick, deep, start = (self._numbers[key] for key in ("thick", "deep", "start"))
            material = getattr(bodies_of(study.formula, reference.pantry), self._what.currentData())
            if material is None:
                raise AmountError("the open formula does not have that part", "", 0, 0)
            if not 2 <= thick <= 300:
                raise AmountError(
                    f"enter a block thickness of 2 to 300 mm, not {mm_text(thick)}", "", 0, 0
                )
        except AplombError as error:
            self.show_error(str(error))
            return
        air = reference.house.temp_in(place)
        body = Body(material, thick)
        self._fitted, self._fitted_for = None, place.name
        self._result.setText("Calculating …")
        self.use.setEnabled(False)
        self._job.ask(
            lambda: (fit_coefficient(body, start, air, deep, log.minutes, log.temps_c), log)
        )

    def _take_fit(self, found: object) -> None:
        if isinstance(found, AplombError):
            self._result.setText("")
            self.show_error(str(found))
            return
        assert isinstance(found, tuple)
        fitted, log = found
        self._fitted, self._readings = fitted, len(log.minutes)
        self.use.setEnabled(True)
        doubts = f" {'; '.join(log.doubts).capitalize()}." if log.doubts else ""
        aside = (
            f" {fitted.set_aside} readings were far off the curve and counted less."
            if fitted.set_aside
            else ""
        )
        self._result.setText(
            f"{self._fitted_for}: heat transfer {num(fitted.w_m2_k, '.3g')} W/m²K (95 % "
            f"sure: {num(fitted.low_w_m2_k, '.3g')} to {num(fitted.high_w_m2_k, '.3g')}), "
            f"from {len(log.minutes)} readings. The probe seems to be "
            f"{warming_text(fitted.offset_k, '+.1f')} off; its readings vary "
            f"by {warming_text(fitted.scatter_k, '.2f')}.{aside}{doubts}"
        )

    def _use(self) -> None:
        fitted, house = self._fitted, self._session.reference.house
        at = next((i for i, p in enumerate(house.places) if p.name == self._fitted_for), None)
        if fitted is None or at is None:
            return
        self._put(
            at,
            f"{self._fitted_for}: your own heat transfer",
            own_w_m2_k=fitted.w_m2_k,
            own_low_w_m2_k=fitted.low_w_m2_k,
            own_high_w_m2_k=fitted.high_w_m2_k,
            own_from=f"from {self._readings} readings of a probe, {self._today()}",
        )

    def _today(self) -> str:
        return self._session.reference.today

    def _forget(self) -> None:
        at = self._where.currentIndex()
        self._put(
            at,
            f"{self._where.currentText()}: usual heat transfer",
            own_w_m2_k=None,
            own_low_w_m2_k=None,
            own_high_w_m2_k=None,
            own_from="",
        )
