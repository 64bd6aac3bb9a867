"""The Oven stage: how it is baked, in which loads, what physics says, and rescues."""

from functools import partial

from msgspec import Struct
from msgspec.structs import replace
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QFrame,
    QGridLayout,
    QLabel,
    QSizePolicy,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import celsius_text, degrees, temp_unit, warming_text
from aplomb.core.base.house import House
from aplomb.core.base.ovens import Oven
from aplomb.core.base.texts import counted
from aplomb.core.batch.trays import OnTrays
from aplomb.core.kitchen.baking import (
    MIDDLE_C,
    LoadCost,
    LoadHeat,
    Range,
    cold_at,
    load_heat,
    loads_cost,
    middle_at,
)
from aplomb.core.kitchen.cut_plan import trays_of
from aplomb.core.make.minutes import BAKE_MIN
from aplomb.core.make.queue import BETWEEN_MIN, loads_of_batch
from aplomb.core.make.step import LoadOf
from aplomb.core.oven.bake_line import (
    fan_is_open,
    read_programme,
    with_fan,
    with_minutes,
    with_setting,
)
from aplomb.core.oven.programme import (
    MOST_STEPS,
    TRAY_WAYS,
    TRAY_WORDS,
    WASHES,
    BakeStep,
    Programme,
    Usual,
    usual_for,
)
from aplomb.core.paste.bodies import bodies_of
from aplomb.core.paste.formula import Formula, programme_of
from aplomb.core.paste.product import Product
from aplomb.desk.drawings.bake_curve import paint_bake_curve, paint_loads
from aplomb.desk.kit.background import FaultError, LatestJob
from aplomb.desk.kit.fields import (
    button,
    card,
    choice,
    fix_width,
    give_checked,
    label,
    on_checked,
    row,
    wrapping,
)
from aplomb.desk.kit.figure_table import FigureTable, Row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.stage import Stage
from aplomb.desk.stages.tools import command_row
from aplomb.work.figures.local import currency_sign
from aplomb.work.figures.typed import read_temp
from aplomb.work.words.oven import (
    AFTER,
    CAUTIONS,
    RESCUES,
    line_text,
    load_words,
    range_words,
    refresh_words,
    setting_text,
    step_rows,
    usual_words,
)

STEP_WORDS = {"set": "oven", "min": "minutes", "until": "until", "then": "then"}
LIFT_USUAL = 4.0
"""A baked piece is so many times as high as raw, where nothing is known; common practice [-]."""


class OvenCase(Struct, frozen=True):
    """What is worked out beside the window: all that it hangs on."""

    composition: Composition
    house: House
    programme: Programme
    trays: int
    tray_g: float
    thickness_mm: float
    baked_mm: float
    loads: tuple[LoadOf, ...]


class OvenResult(Struct, frozen=True):
    """What was worked out beside the window."""

    loads: tuple[LoadOf, ...]
    middle: Range | None
    core: Range | None
    cold: Range | None
    heat: LoadHeat | None
    cost: LoadCost | None


def work_out(case: OvenCase) -> OvenResult:
    """Work out loads, heat and cooling; beside the window."""
    house, baked = case.house, case.programme
    ovens = house.all_ovens or (Oven("Oven"),)
    oven = ovens[0]
    minutes = baked.minutes or float(BAKE_MIN)
    air_c = baked.mean_c or 200.0
    start = house.fridge_c
    middle = middle_at(case.composition, case.thickness_mm, start, air_c, oven)
    core = None
    if baked.core_c:
        core = middle_at(
            case.composition, case.thickness_mm, start, air_c, oven, target_c=baked.core_c
        )
    cold = cold_at(case.baked_mm, house.shop_c)
    heat = cost = None
    if case.trays and case.tray_g:
        area = house.tray_long_mm * house.tray_wide_mm / 1e6
        many = min(oven.trays, case.trays)
        heat = load_heat(oven, many, case.tray_g, area, air_c, minutes, case.composition, start)
        same = -(-case.trays // oven.trays)
        cost = loads_cost(oven, heat, same, minutes, BETWEEN_MIN)
    return OvenResult(case.loads, middle, core, cold, heat, cost)


class _CurveView(QWidget):
    """The programme as a curve."""

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._programme = Programme()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("The programme over its minutes")

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """Wide and low."""
        return QSize(360, look.theme.px(176))

    def show_programme(self, programme: Programme, words: str) -> None:
        """Show another programme; screen readers get its line."""
        self._programme = programme
        self.setAccessibleDescription(words)
        self.setVisible(bool(programme.steps))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the curve."""
        paint_bake_curve(QPainter(self), QRectF(self.rect()), self._programme, look.theme)


class _LoadsView(QWidget):
    """The loads over time."""

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._loads: tuple[LoadOf, ...] = ()
        self._ovens: tuple[Oven, ...] = ()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Oven loads over time")

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """A row an oven."""
        rows = max(1, len({load.at for load in self._loads}))
        return QSize(300, look.theme.px(46) * rows + look.theme.px(46))

    def show_loads(self, loads: tuple[LoadOf, ...], ovens: tuple[Oven, ...]) -> None:
        """Show other loads."""
        self._loads, self._ovens = loads, ovens
        said = [
            f"{x.oven}: trays {x.first} to {x.last}, {x.in_min:.0f} to {x.out_min:.0f} min"
            for x in loads
        ]
        self.setAccessibleDescription("; ".join(said))
        self.setVisible(bool(loads))
        self.updateGeometry()
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the loads."""
        paint_loads(QPainter(self), QRectF(self.rect()), self._loads, self._ovens, look.theme)


class OvenStage(Stage):
    """How what is made of the formula is baked."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._usual: Usual | None = None
        self._asked: OvenCase | None = None
        self.found: OvenResult | None = None
        self.job = LatestJob(self._take_found, self, self.in_hand)
        column = QVBoxLayout(self._inner)
        column.setContentsMargins(24, 10, 18, 10)
        column.setSpacing(8)
        self.product = choice("Product")
        self.product.activated.connect(lambda _i: self.refresh())
        column.addLayout(Flow(label("Baking", "second"), self.product, spacing=6))
        column.addLayout(command_row(self.asked.emit, ("trays",), "oven"))
        column.addWidget(self.error)
        left, right = QVBoxLayout(), QVBoxLayout()
        for side in (left, right):
            side.setSpacing(10)
        left.addWidget(self._programme_card())
        left.addWidget(self._rescue_card())
        left.addStretch(1)
        right.addWidget(self._settings_card())
        right.addWidget(self._loads_card())
        right.addStretch(1)
        column.addLayout(self.two_sides(left, right))
        column.addStretch(1)

    def _programme_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Programme", "title"))
        self._steps = QGridLayout()
        self._steps.setHorizontalSpacing(6)
        self._steps.setVerticalSpacing(4)
        for j, words in enumerate(("oven", "min", "until", "then"), 1):
            self._steps.addWidget(label(words, "small"), 0, j)
        self._fan_words = wrapping("", "second")
        self._fan = button("With a fan", "", self._take_fan)
        self._steps.setColumnStretch(3, 1)
        self._steps.setColumnStretch(4, 1)
        self.rows: list[tuple[QLabel, dict[str, Field]]] = []
        self.line = Field("The whole programme in a line", self._take_line, self.show_error)
        self.line.setPlaceholderText("or a line: 200 C fan 12 min until risen; gas 4 10 min")
        self.curve = _CurveView()
        self.tray = choice("Tray", (TRAY_WORDS[each] for each in TRAY_WAYS))
        self.tray.activated.connect(lambda at: self._put("tray", tray=TRAY_WAYS[at]))
        self.wash = choice("Wash", ("wash as usual", "no wash", *(f"{w} wash" for w in WASHES[2:])))
        self.wash.activated.connect(lambda at: self._put("wash", wash=WASHES[at]))
        self.stone = QCheckBox("on a stone")
        on_checked(self.stone, lambda on: self._put("stone", stone=on))
        self.core = Field("Middle must reach", self._take_core, self.show_error)
        self.core.setPlaceholderText("–")
        fix_width(self.core, 70)
        self._usual_words = wrapping("", "second")
        self.use = button("Use the usual programme", "", self._use_usual)
        self.own = button("Give this product its own programme", "quiet", self._toggle_own)
        column.addLayout(self._steps)
        column.addLayout(row(self._fan_words, self._fan))
        column.addWidget(self.line)
        column.addWidget(self.curve)
        reach = label("middle must reach, °C", "second")
        column.addLayout(Flow(self.tray, self.wash, self.stone, reach, self.core, spacing=8))
        column.addWidget(self._usual_words)
        column.addLayout(Flow(self.use, self.own, spacing=6))
        return frame

    def _settings_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Set the oven to", "strong"))
        self.settings = FigureTable("Oven settings in every scale", 6, 74)
        self._settings_words = wrapping("", "second")
        column.addWidget(self.settings)
        column.addWidget(self._settings_words)
        return frame

    def _loads_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Loads", "title"))
        self._loads_words = wrapping("", "strong")
        self.loads = _LoadsView()
        self.scrap = QCheckBox("test the oven with a scrap first")
        on_checked(self.scrap, lambda _on: self.refresh())
        self._physics = wrapping("")
        for each in (self._loads_words, self.loads, self.scrap, self._physics):
            column.addWidget(each)
        return frame

    def _rescue_card(self) -> QFrame:
        frame, column = card(spacing=4)
        column.addWidget(label("If something goes wrong", "strong"))
        rows = "\n".join(f"{seen}: {now}" for seen, now in RESCUES)
        column.addWidget(wrapping(rows))
        column.addWidget(label("Safety", "strong"))
        column.addWidget(wrapping("\n".join(CAUTIONS), "second"))
        column.addWidget(label("After baking", "strong"))
        self._after = wrapping("", "second")
        column.addWidget(self._after)
        return frame

    # ------------------------------------------------------------------ shown

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        first = self.rows[0][1]["set"] if self.rows else self.line
        first.setFocus(Qt.FocusReason.TabFocusReason)

    def _add_row(self) -> None:
        at = len(self.rows)
        number = label(f"{at + 1}", "second")
        self._steps.addWidget(number, at + 1, 0)
        fields = {}
        for j, (key, words) in enumerate(STEP_WORDS.items(), 1):
            name = f"Step {at + 1}, {words}"
            field = Field(name, partial(self._take_step, at, key), self.show_error)
            if key in ("set", "min"):
                fix_width(field, 92 if key == "set" else 48)
            self._steps.addWidget(field, at + 1, j)
            fields[key] = field
        self.rows.append((number, fields))

    def _show_steps(self, baked: Programme, oven: Oven) -> None:
        """Show a row for each step, and an empty one."""
        wanted = min(MOST_STEPS, len(baked.steps) + 1)
        while len(self.rows) < wanted:
            self._add_row()
        for i, (number, fields) in enumerate(self.rows):
            there = i < wanted
            step = baked.steps[i] if i < len(baked.steps) else None
            for each in (number, *fields.values()):
                if each.hasFocus() and not there:
                    self.line.setFocus()
                each.setVisible(there)
            typed = step.typed or setting_text(step.conventional_c, oven) if step else ""
            fields["set"].show_value(typed)
            fields["min"].show_value(step.minutes_text if step else "")
            fields["until"].show_value(step.until if step else "")
            fields["then"].show_value(step.then if step else "")
            if step is None:
                hot = f"{degrees(200.0, '.0f')} {temp_unit().removeprefix('°')}"
                fields["set"].setPlaceholderText(f"{hot} fan" if oven.fan else hot)

    @property
    def _product(self) -> Product | None:
        study = self._session.study
        name = self.product.currentData()
        if study is None or not name:
            return None
        return next((p for p in study.formula.products if p.name == name), None)

    @property
    def programme(self) -> Programme:
        """The programme that is shown."""
        study = self._session.study
        product = self._product
        if study is None:
            return Programme()
        if product is not None and product.bake.steps:
            return product.bake
        return study.formula.bake

    def refresh(self) -> None:
        """Show the programme; loads and heat come beside."""
        study = self._session.study
        if study is None:
            return
        self._show_products(study.formula)
        house = self._session.reference.house
        oven = house.oven()
        self._after.setText(f"{AFTER}{refresh_words()}.")
        baked = self.programme
        self._show_steps(baked, oven)
        self.line.show_value("")
        asked = fan_is_open(baked)
        self._fan_words.setVisible(asked)
        self._fan.setVisible(asked)
        self._fan_words.setText("Nobody said fan or not: read as without a fan." if asked else "")
        self.curve.show_programme(baked, line_text(baked, oven))
        self.tray.setCurrentIndex(TRAY_WAYS.index(baked.tray))
        self.wash.setCurrentIndex(WASHES.index(baked.wash))
        give_checked(self.stone, baked.stone)
        self.core.show_value(degrees(baked.core_c, ".0f") if baked.core_c else "")
        product = self._product
        formula = study.formula
        shown = product or (formula.wanted[0] if formula.wanted else None)
        sheet = (shown.sheet_mm if shown else 0.0) or formula.sheet_mm
        longest = max(shown.length_mm, shown.width_mm) if shown else study.piece_mm or 100.0
        filled = bool((shown.filling if shown else ()) or formula.filling)
        self._usual = usual_for(
            shown.shape if shown else "rectangle", longest, sheet, filled=filled
        )
        self._usual_words.setText(usual_words(self._usual, oven))
        self.own.setVisible(product is not None)
        has_own = product is not None and bool(product.bake.steps)
        self.own.setText(
            "Use the formula’s programme" if has_own else "Give this product its own programme"
        )
        self._show_settings(baked, house)
        self._ask(study.formula, baked, house, sheet, filled=filled)

    def _show_products(self, formula: Formula) -> None:
        keys = ["", *(p.name for p in formula.products)]
        names = [
            "all products" if formula.products else formula.name,
            *(p.name for p in formula.products),
        ]
        known = [self.product.itemData(i) for i in range(self.product.count())]
        if known != keys or self.product.itemText(0) != names[0]:
            self.product.clear()
            for key, name in zip(keys, names, strict=True):
                self.product.addItem(name, key)

    def _show_settings(self, baked: Programme, house: House) -> None:
        ovens = house.all_ovens
        rows = []
        if baked.steps:
            names = tuple(oven.name for oven in ovens[:2])
            heads = ("", "no fan", "fan", "°F, no fan", "gas", *(f"dial of {n}" for n in names))
            rows.append(Row("Step", heads[1:5], "head"))
            rows += [
                Row(f"{i}  {made.minutes}", (made.still, made.fan, made.fahrenheit, made.gas))
                for i, made in enumerate(step_rows(baked, ovens), 1)
            ]
        self.settings.show_rows(tuple(rows))
        lines = []
        for at, oven in enumerate(ovens[:4]):
            dials = [made.dials[at] for made in step_rows(baked, ovens)]
            kind = "fan" if oven.fan else "no fan"
            off = f", {warming_text(oven.dial_k)} against its dial" if oven.dial_k else ""
            if dials:
                lines.append(
                    (
                        f"{oven.name} ({kind}{off}): set the dial to {', then '.join(dials)}; "
                        f"preheat for {oven.heat_min:g} min"
                    ).replace("-", "−")
                )
        self._settings_words.setText("\n".join(lines) or "Type a programme, or use the usual one.")

    def _ask(
        self, formula: Formula, baked: Programme, house: House, sheet: float, *, filled: bool
    ) -> None:
        bodies = bodies_of(formula, self._session.reference.pantry)
        trays = self._trays()
        loads = loads_of_batch(formula, trays, house, scrap=self.scrap.isChecked())
        self.loads.show_loads(loads, house.all_ovens)
        many = sum(t.trays for t in trays)
        tray_g = max((t.tray_g for t in trays), default=0.0)
        self._loads_words.setText(
            f"{counted(many, '1 tray', '{} trays')}, {counted(len(loads), '1 load', '{} loads')}"
            if many
            else "No pieces ordered yet. Enter how many under Batch."
        )
        if bodies.paste is None:
            self.found = None
            self._show_found()
            return
        thick = sheet * (3.0 if filled else 1.0)
        case = OvenCase(
            bodies.paste.composition,
            house,
            baked,
            many,
            tray_g,
            thick,
            sheet * LIFT_USUAL,
            loads,
        )
        if case == self._asked:
            self._show_found()
            return
        self._asked = case
        self.job.ask(partial(work_out, case))

    def _trays(self) -> tuple[OnTrays, ...]:
        """All trays of the batch: products share the oven."""
        study = self._session.study
        return () if study is None else trays_of(study, self._session.reference.house)

    def _take_found(self, found: "OvenResult | AplombError") -> None:
        if isinstance(found, AplombError):
            self.found = None
            if not isinstance(found, FaultError):
                self.show_error(str(found))
        else:
            self.found = found
        self._show_found()

    def _show_found(self) -> None:
        found, house = self.found, self._session.reference.house
        if found is None:
            self._physics.setText("")
            return
        lines = [
            (
                f"the middle reaches {celsius_text(MIDDLE_C)} after "
                f"{range_words(found.middle, 'over three hours')} (heat through the paste "
                "only: rising slows it down, a hot tray speeds it up)"
            )
        ]
        if found.core is not None:
            lines.append(
                "the middle reaches your target after "
                f"{range_words(found.core, 'never')}: check with a probe"
            )
        if found.heat is not None and found.cost is not None:
            money = currency_sign(house.currency)
            lines += load_words(found.heat, found.cost, house.energy_price, money)
        lines.append(
            f"cold on a rack after {range_words(found.cold, 'over twelve hours')}; do not "
            "pack before then"
        )
        lines.append("lift and colour are not calculated; Aplomb learns them from your trials")
        self._physics.setText("\n".join(f"· {each}" for each in lines))

    # ------------------------------------------------------------------ taken

    def _take_step(self, at: int, key: str, text: str) -> None:
        """Take a figure or word of a step; an empty setting takes the step out."""
        baked = self.programme
        steps, new = list(baked.steps), at >= len(baked.steps)
        if new and not text.strip():
            return
        step = BakeStep(200.0, 15.0) if new else steps[at]
        if key == "set":
            if not text.strip():
                self._put("remove a bake step", steps=(*steps[:at], *steps[at + 1 :]))
                return
            step = with_setting(step, text)
        elif key == "min":
            step = with_minutes(step, text)
        else:
            step = replace(step, **{key: text.strip()[:80]})
        steps[at:] = [step, *steps[at + 1 :]]
        self._put(f"step {at + 1} of the bake", steps=tuple(steps))

    def _take_line(self, text: str) -> None:
        if not text.strip():
            return
        made = read_programme(text, self.programme)
        self._put("bake", steps=made.steps)

    def _take_fan(self) -> None:
        self.line.setFocus()
        self._put("bake with a fan", steps=with_fan(self.programme).steps)

    def _take_core(self, text: str) -> None:
        bare = text.strip().strip("–-")
        self._put("middle must reach", core_c=read_temp(text) if bare else 0.0)

    def _put(self, words: str, **changes: object) -> None:
        product = self._product
        made = replace(self.programme, **changes)

        def change(formula: Formula) -> Formula:
            if product is None or not product.bake.steps:
                return replace(formula, bake=made)
            products = tuple(
                replace(p, bake=made) if p.name == product.name else p for p in formula.products
            )
            return replace(formula, products=products)

        try:
            self._session.shelf.edit(words, change)
        except AplombError as error:
            self.show_error(str(error))
            self.refresh()

    def _use_usual(self) -> None:
        if self._usual is not None:
            self._put("usual bake", steps=self._usual.steps)

    def _toggle_own(self) -> None:
        """Give the product a programme of its own, or let it follow the formula's again."""
        product, study = self._product, self._session.study
        if product is None or study is None:
            return
        usual = self._usual.steps if self._usual else ()
        now = programme_of(study.formula, product.name)
        own = Programme() if product.bake.steps else (now if now.steps else Programme(usual))

        def change(formula: Formula) -> Formula:
            products = tuple(
                replace(p, bake=own) if p.name == product.name else p for p in formula.products
            )
            return replace(formula, products=products)

        self._session.shelf.edit(f"bake of {product.name}", change)
