"""Fats: solid fat over temperature, the block as a blend, firmness by the cone."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFrame,
    QGridLayout,
    QLabel,
    QSizePolicy,
    QSlider,
    QWidget,
)

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import (
    bare_text,
    celsius_range,
    celsius_text,
    decimal_sign,
    degrees,
    g_text,
    num,
    number_text,
)
from aplomb.core.base.quantity import parse_percent
from aplomb.core.fats.cone import CONE_K, USUAL_CONE_G, classed, yield_value
from aplomb.core.fats.solid import FILM_C
from aplomb.core.paste.blends import as_shares, block_fats, with_share
from aplomb.core.paste.ingredient import STANDING_WORDS, Ingredient, Share
from aplomb.core.paste.pantry import MOST_IN_A_BLEND, Item, blend
from aplomb.core.paste.swap import reblend
from aplomb.core.study.study import Study
from aplomb.desk.drawings.fat_chart import Curve, FatChart, paint_fat_chart
from aplomb.desk.kit.fields import button, card, fix_width, label, plain_tip
from aplomb.desk.kit.find_field import MaterialField
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.asking import ask_text
from aplomb.desk.stages.page import Page
from aplomb.work.figures.typed import read_length, read_mass


class ChartView(QWidget):
    """The chart on screen."""

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._chart: FatChart | None = None
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def show_chart(self, chart: FatChart) -> None:
        """Show another chart; screen readers get it in words."""
        self._chart = chart
        names = ", ".join(curve.name for curve in chart.curves)
        self.setAccessibleName(f"Solid fat over temperature: {names or 'none known'}")
        self.update()

    def sizeHint(self) -> QSize:
        """Wide and not high."""
        return QSize(300, look.theme.px(150) + 130)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the chart."""
        if self._chart is not None:
            painter = QPainter(self)
            paint_fat_chart(painter, QRectF(self.rect()), self._chart, look.theme)


class ShareRow:
    """One fat of the blend: name, slider, share."""

    def __init__(self, owner: "FatsPage", at: int) -> None:
        self.name: QLabel = label("")
        self.name.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Fixed)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, 100)
        self.slider.setPageStep(10)
        self.slider.setMinimumWidth(40)
        self.slider.valueChanged.connect(partial(owner.slid, at))
        self.share = Field("Share, percent", partial(owner.take_share, at), owner.show_error)
        self.share.setAlignment(Qt.AlignmentFlag.AlignRight)
        fix_width(self.share, 72)
        self.out = button("Remove", "quiet", partial(owner.take_out, at))
        self.price: QLabel = label("", "small")

    def widgets(self) -> tuple[QWidget, ...]:
        """In the order of the columns."""
        return (self.name, self.slider, self.share, self.price, self.out)


class FatsPage(Page):
    """The fat of the block: what it is like, blended of up to four."""

    KEY = "fats"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._keys: list[str] = []
        self._shares: list[Share] = []
        top, column = card(spacing=4)
        self._chart = ChartView()
        self.figures: QLabel = label("")
        self._origin: QLabel = label("", "small")
        for words in (self.figures, self._origin):
            words.setWordWrap(True)
            words.setMinimumWidth(60)
        column.addWidget(self._chart)
        column.addWidget(self.figures)
        column.addWidget(self._origin)
        self._body.addWidget(top)
        self._body.addLayout(self.two_sides(self._blend_card(), self._cone_card(), (3, 2)))
        self._body.addStretch(1)
        self.refresh()

    def _blend_card(self) -> QFrame:
        frame, column = card()
        column.addLayout(
            Flow(
                label("The block’s fats, by weight", "title"),
                button("Save as an ingredient…", "quiet", self._keep),
                spacing=8,
            )
        )
        grid = QGridLayout()
        grid.setColumnStretch(0, 3)
        grid.setColumnStretch(1, 3)
        self.rows = [ShareRow(self, at) for at in range(MOST_IN_A_BLEND)]
        for at, each in enumerate(self.rows):
            for column_, widget in enumerate(each.widgets()):
                grid.addWidget(widget, at, column_)
        column.addLayout(grid)
        self.add = MaterialField(lambda: self._session.reference.pantry, "Blend another fat in")
        self.add.chosen.connect(self._added)
        column.addWidget(self.add)
        hint = label(
            (
                "The block keeps the same total fat; the dough makes up water and salt. The "
                "curve is a weighted average: real blends may be softer."
            ),
            "small",
        )
        hint.setWordWrap(True)
        column.addWidget(hint)
        column.addStretch(1)
        return frame

    def _cone_card(self) -> QFrame:
        frame, column = card()
        column.addWidget(label("Firmness by cone test", "title"))
        self._angle = QComboBox()
        self._angle.setAccessibleName("Angle of the cone")
        for angle in CONE_K:
            self._angle.addItem(f"{angle}° cone", angle)
        self._angle.setCurrentIndex(list(CONE_K).index(40))
        self._angle.activated.connect(lambda _i: self._measure())
        self._mass_g, self._depth_mm = USUAL_CONE_G, 0.0
        self._mass = Field("Mass of the cone", self._take_mass, self.show_error)
        self.depth_sunk = Field("Depth it sinks to, mm", self._take_depth, self.show_error)
        self.depth_sunk.setPlaceholderText("after 5 s")
        self._mass.show_value(g_text(self._mass_g, 2))
        grid = QGridLayout()
        for at, (words, widget) in enumerate(
            (
                ("Cone", self._angle),
                ("Weight of the cone", self._mass),
                ("Sinks to, mm", self.depth_sunk),
            )
        ):
            grid.addWidget(label(words), at, 0)
            grid.addWidget(widget, at, 1)
        column.addLayout(grid)
        self.firm: QLabel = label("", "strong")
        self.firm.setWordWrap(True)
        source = label(
            f"C = K·W / p^{num(1.6)} (Haighton 1959); K and the classes are rules of thumb.",
            "small",
        )
        source.setWordWrap(True)
        column.addWidget(self.firm)
        column.addWidget(source)
        column.addStretch(1)
        return frame

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.rows[0].share if self._keys else self.add)

    def refresh(self) -> None:
        """Show the block's fats."""
        study, reference = self._session.study, self._session.reference
        if study is None:
            return
        self._shares = list(as_shares(block_fats(study.formula, reference.pantry)))
        self._keys = [each.material for each in self._shares[:MOST_IN_A_BLEND]]
        for at, each in enumerate(self.rows):
            there = at < len(self._keys)
            for widget in each.widgets():
                widget.setVisible(there)
            if there:
                self._show_share(each, self._keys[at], 100 * self._shares[at].share)
        self.add.setVisible(len(self._keys) < MOST_IN_A_BLEND)
        self._show_fat(study)

    def _show_share(self, each: ShareRow, key: str, percent: float) -> None:
        pantry = self._session.reference.pantry
        material = pantry[key]
        each.name.setText(material.name)
        each.name.setToolTip(plain_tip(material.source))
        each.slider.blockSignals(True)
        each.slider.setValue(round(percent))
        each.slider.blockSignals(False)
        alone = len(self._keys) == 1
        each.slider.setEnabled(not alone)
        each.share.setEnabled(not alone)
        each.out.setVisible(not alone)
        each.slider.setAccessibleName(f"Share of {material.name}")
        each.share.setAccessibleName(f"Share of {material.name}, percent")
        each.out.setAccessibleName(f"Remove {material.name}")
        each.share.show_value(number_text(percent, 1))
        each.price.setText("" if pantry.per_gram(key) is not None else "no price")

    def _show_fat(self, study: Study) -> None:
        fat, house = study.fat, self._session.reference.house
        curves = []
        seen: set[str] = set()
        for _, material in fat.parts if fat else ():
            if material.sfc and material.key not in seen and fat and len(fat.parts) > 1:
                seen.add(material.key)
                curves.append(Curve(material.name, material.sfc))
        if fat is not None and fat.sfc:
            name = "the blend" if fat.is_blend else fat.parts[0][1].name
            curves.append(Curve(name, fat.sfc, main=True))
        self._chart.show_chart(
            FatChart(
                tuple(curves),
                house.fridge_c,
                house.shop_c,
                fat.plastic if fat and fat.sfc else None,
                fat.enclose_c if fat else None,
                bool(fat and fat.is_blend),
            )
        )
        if fat is None:
            self.figures.setText("The block has no fat yet.")
            self._origin.setText("")
            return
        words = []
        about = "about " if fat.is_blend else ""
        if fat.enclose_c:
            words.append(f"Enclose and roll at {about}{celsius_range(*fat.enclose_c, '–')}")
        if fat.sfc:
            low, high = fat.plastic.low, fat.plastic.high
            first = "below the known range" if low is None else degrees(low, ".0f")
            last = "above the known range" if high is None else celsius_text(high, ".0f")
            words.append(f"plastic from {first} to {last} by its solid fat")
            words.append(
                f"in the fridge {fat.feel(house.fridge_c)}, in the bakery {fat.feel(house.shop_c)}"
            )
            words.append(f"{fat.film_sfc or 0:.0f} % still solid at {celsius_text(FILM_C)}")
        else:
            words.append(
                "the solid fat is not known for every fat; enter it from the supplier’s data"
            )
        self.figures.setText("; ".join(words) + ".")
        standings = {_origin(m) for _, m in fat.parts}
        self._origin.setText(
            f"Source of the solid fat figures: {'; '.join(sorted(standings))}. Change "
            "them in the pantry."
        )

    def _shares_with(self, at: int, share: float) -> tuple[Share, ...]:
        """The other fats give way in proportion."""
        return with_share(self._shares[: len(self._keys)], at, share)

    def _blend(self, words: str, shares: tuple[Share, ...]) -> None:
        formula = self._session.formula
        if formula is not None:
            made = reblend(formula, self._session.reference.pantry, shares)
            self._session.shelf.change(words, made.formula)
            self.show_error(" ".join(f"{each}." for each in made.short))

    def slid(self, at: int, value: int) -> None:
        """Take a share from the slider; a fat never slides quite out."""
        if at < len(self._keys) and len(self._keys) > 1:
            share = max(1, min(99, value)) / 100
            name = self._session.reference.pantry[self._keys[at]].name.lower()
            self._blend(f"{100 * share:.0f} % {name}", self._shares_with(at, share))

    def take_share(self, at: int, text: str) -> None:
        """Take a typed share."""
        percent = parse_percent(text, decimal_sign())
        if not 0 <= percent <= 100:
            raise AmountError("enter a share of 0 to 100 %", text, 0, len(text))
        if at >= len(self._keys):
            raise AplombError("This fat is no longer in the block; nothing was changed.")
        name = self._session.reference.pantry[self._keys[at]].name.lower()
        self._blend(f"{num(percent)} % {name}", self._shares_with(at, percent / 100))

    def take_out(self, at: int) -> None:
        """Take a fat out of the blend."""
        self.take_share(at, "0")

    def _added(self, key: str) -> None:
        pantry = self._session.reference.pantry
        material = pantry[key]
        try:
            if key in self._keys:
                raise AplombError(f"{material.name} is in the block already")
            if not material.is_fat:
                raise AplombError(f"{material.name} is not a fat")
            if not self._keys:
                raise AplombError("the fat block has no fat yet; add some under Paste")
            self._keys.append(key)
            self._shares = [*self._shares[: len(self._keys) - 1], Share(key, 0.0)]
            shares = self._shares_with(len(self._keys) - 1, 0.25)
            self._blend(f"a quarter {material.name.lower()}", shares)
        except AplombError as error:
            self.refresh()
            self.show_error(str(error))

    def _keep(self) -> None:
        formula, pantry = self._session.formula, self._session.reference.pantry
        if formula is None or not self._keys:
            return
        name = ask_text(self.window(), "Save as an ingredient", "Name of the blend:", "House blend")
        if name is None:
            return
        shares = as_shares(block_fats(formula, pantry))
        try:
            made = blend(name.strip(), pantry.free_key(name), shares, pantry)
            made = replace(made, standing="own")
            self._session.store.put_items(f"new ingredient {name.strip()}", [Item(made.key, made)])
            self._session.said.emit(f"“{made.name}” is in the pantry")
        except AplombError as error:
            self.show_error(str(error))

    def _take_mass(self, text: str) -> None:
        self._mass_g = read_mass(text)
        self._measure()

    def _take_depth(self, text: str) -> None:
        self._depth_mm = read_length(text)
        yield_value(self._depth_mm, self._mass_g)
        self._measure()

    def _measure(self) -> None:
        self._mass.show_value(g_text(self._mass_g, 2))
        if self._depth_mm <= 0:
            return
        self.depth_sunk.show_value(bare_text(self._depth_mm, "mm", 1))
        try:
            found = yield_value(self._depth_mm, self._mass_g, CONE_K[self._angle.currentData()])
        except AplombError as error:
            self.show_error(str(error))
            return
        words, firmness = classed(found)
        do = {
            "soft": "Too soft to enclose: chill it.",
            "plastic": "Firm and plastic: enclose it.",
            "hard": "Too hard to enclose: beat it until pliable, or let it soften.",
        }[firmness]
        self.firm.setText(f"{number_text(found, 0)} g/cm²: {words}. {do}")


def _origin(material: Ingredient) -> str:
    standing = "memory" if material.standing == "std" else material.standing
    words = STANDING_WORDS[standing] if material.sfc else "unknown"
    return f"{material.name}: {words}"
