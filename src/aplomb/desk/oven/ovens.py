"""Ovens of the house: fan, trays, what the dial says, how long they heat, what they draw."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QCheckBox, QFrame, QLabel, QPushButton, QVBoxLayout

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import decimal_sign, num
from aplomb.core.base.house import House, check_house
from aplomb.core.base.numbers import read_number
from aplomb.core.base.ovens import MOST_OVENS, OVEN_LIMITS, Oven
from aplomb.core.kitchen.baking import fit_loss
from aplomb.core.oven.dose import Bake, Traded, trade
from aplomb.core.paste.formula import programme_of
from aplomb.core.trials.trial import Trial
from aplomb.desk.kit.fields import (
    button,
    card,
    fix_width,
    give_checked,
    label,
    on_checked,
    row,
    wrapping,
)
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.work.figures.local import currency_sign, read_price
from aplomb.work.figures.typed import read_temp
from aplomb.work.trials.entry import read_weighings

SHOWN = ("trays", "dial_k", "heat_min", "rated_kw", "holding_kw")
WANTED_COLOUR = 3


def bakes_of(trials: tuple[Trial, ...], uid: str, oven: str) -> tuple[Bake, ...]:
    """Bakes of a formula in an oven that came out as wanted: they teach hotter and shorter."""
    found = []
    for t in trials:
        m = t.made
        fits = t.uid == uid and not t.failed and t.judged.colour in (0, WANTED_COLOUR)
        if fits and m.bake_c and m.bake_min and (not m.oven or not oven or m.oven == oven):
            found.append(Bake(m.bake_c, m.bake_min))
    return tuple(found)


class OvensPage(Page):
    """What is known of each oven."""

    KEY = "ovens"
    HINT = (
        "Put a thermometer in the middle of the empty, hot oven and enter how far it "
        "is from the dial."
    )

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.rows: list[tuple[Field, QCheckBox, dict[str, Field], QPushButton, list[QLabel]]] = []
        self._body.addWidget(self._ovens_card())
        self._body.addWidget(self._trade_card())
        self._body.addWidget(self._loss_card())
        self._body.addStretch(1)

    def _ovens_card(self) -> QFrame:
        frame, column = card(spacing=6)
        self._list = QVBoxLayout()
        self._list.setSpacing(6)
        column.addLayout(self._list)
        self.add = button("Add an oven", "", self._add)
        self.price = Field("A kilowatt-hour", self._take_price, self.show_error)
        fix_width(self.price, 80)
        self._money = label("", "second")
        column.addLayout(
            Flow(self.add, label("Price per kilowatt-hour"), self.price, self._money, spacing=6)
        )
        self._usual = wrapping("", "second")
        column.addWidget(self._usual)
        return frame

    def _trade_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("Hotter and shorter, or cooler and longer", "strong"))
        self.at = Field("Oven", self._take_at, self.show_error)
        self._at_c = 190.0
        fix_width(self.at, 70)
        column.addLayout(row(label("Oven without fan, °C"), self.at, None))
        self.trade = wrapping("")
        column.addWidget(self.trade)
        return frame

    def _loss_card(self) -> QFrame:
        frame, column = card(spacing=6)
        column.addWidget(label("What a piece loses, minute by minute", "strong"))
        self.weighings = Field("Weighings in the oven", self._take_weighings, self.show_error)
        self.weighings.setPlaceholderText(
            "minutes/weight of one piece: 0/25.2 8/24 16/22.6 25/21.7"
        )
        column.addWidget(self.weighings)
        self._loss = wrapping(
            "Take one piece out a few times, weigh it quickly, put it back.", "second"
        )
        column.addWidget(self._loss)
        return frame

    def _add_row(self) -> None:
        at = len(self.rows)
        name = Field(f"Oven {at + 1}, name", partial(self._take_name, at), self.show_error)
        fix_width(name, 130)
        fan = QCheckBox("fan")
        on_checked(fan, partial(self._take_fan, at))
        fields = {}
        line = Flow(name, fan, spacing=8)
        captions = []
        for key in SHOWN:
            words, _, _, unit = OVEN_LIMITS[key]
            said = words if unit in ("", "min") else f"{words}, {unit}"
            field = Field(
                f"Oven {at + 1}, {words.lower()}",
                partial(self._take_figure, at, key),
                self.show_error,
            )
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
            fix_width(field, 64)
            captions.append(label(said, "second"))
            line.addWidget(captions[-1])
            line.addWidget(field)
            fields[key] = field
        gone = button("Remove", "quiet", partial(self._drop, at))
        line.addWidget(gone)
        self._list.addLayout(line)
        self.rows.append((name, fan, fields, gone, captions))

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        shown = self.rows and self.rows[0][0].isVisibleTo(self)
        self.first_focus(self.rows[0][0] if shown else self.add)

    @property
    def _house(self) -> House:
        return self._session.reference.house

    def refresh(self) -> None:
        """Show the ovens."""
        ovens = self._house.oven_list
        while len(self.rows) < len(ovens):
            self._add_row()
        for i, (name, fan, fields, gone, captions) in enumerate(self.rows):
            there = i < len(ovens)
            for each in (name, fan, gone, *fields.values(), *captions):
                if each.hasFocus() and not there:
                    self.add.setFocus()
                each.setVisible(there)
            if not there:
                continue
            name.show_value(ovens[i].name)
            give_checked(fan, ovens[i].fan)
            for key, field in fields.items():
                field.show_value(num(getattr(ovens[i], key)).replace("-", "−"))
        usual = self._house.oven()
        self._usual.setText(
            ""
            if ovens
            else (
                f"No ovens entered yet. A fan oven with {usual.trays} trays and a true "
                "dial is assumed."
            )
        )
        price = self._house.energy_price
        self.price.show_value(num(price) if price else "")
        self._money.setText(currency_sign(self._house.currency))
        self.at.show_value(num(self._at_c))
        self._show_trade()

    def _show_trade(self) -> None:
        formula = self._session.formula
        if formula is None:
            return
        oven = self._house.oven().name if self._house.oven_list else ""
        own = bakes_of(self._session.store.tried.trials, self._session.uid, oven)
        baked = programme_of(formula)
        usual = baked.minutes or 25.0
        found: Traded = trade(own, self._at_c, usual)
        where = (
            f"from {found.n} of your bakes" if found.n else "rule of thumb: none of your bakes yet"
        )
        self.trade.setText(
            f"{formula.name}: {num(found.minutes, '.0f')} min, likely "
            f"{num(found.low, '.0f')} to {num(found.high, '.0f')} ({where}). Judge by the "
            "colour of top and base. Learned only from trial bakes whose colour came out "
            "right."
        )

    # ------------------------------------------------------------------ taken

    def _put(self, words: str, ovens: tuple[Oven, ...]) -> None:
        house = replace(self._house, oven_list=ovens, ovens=max(self._house.ovens, len(ovens)))
        self._session.store.set_house(words, check_house(house))

    def _change(self, at: int, words: str, **changes: object) -> None:
        ovens = list(self._house.oven_list)
        if at < len(ovens):
            ovens[at] = replace(ovens[at], **changes)
            self._put(words, tuple(ovens))

    def _take_name(self, at: int, text: str) -> None:
        self._change(at, f"oven {text.strip()[:30]}", name=text.strip())

    def _take_fan(self, at: int, on: object) -> None:
        self._change(at, "fan" if on else "no fan", fan=bool(on))

    def _take_figure(self, at: int, key: str, text: str) -> None:
        words, _, _, unit = OVEN_LIMITS[key]
        bare = text.strip().replace("−", "-").removesuffix(unit).strip()
        negative = bare.startswith("-")
        value = read_number(bare.removeprefix("-").removeprefix("+"), decimal_sign())
        value = -value if negative else value
        if key == "trays" and value != round(value):
            raise AmountError("enter a whole number, e.g. 4", text, 0, len(text))
        self._change(at, words.lower(), **{key: int(value) if key == "trays" else value})

    def _take_price(self, text: str) -> None:
        value = read_price(text, self._house.currency) if text.strip() else 0.0
        house = replace(self._house, energy_price=value)
        self._session.store.set_house("price of energy", check_house(house))

    def _take_at(self, text: str) -> None:
        value = read_temp(text)
        trade((), value, 25.0)
        self._at_c = value
        self._show_trade()

    def _take_weighings(self, text: str) -> None:
        if not text.strip():
            return
        found = fit_loss(read_weighings(text))
        formula = self._session.formula
        minutes = (programme_of(formula).minutes if formula else 0.0) or 25.0
        lost, most, off = (
            num(v, ".1f") for v in (found.at(minutes), found.most_pct, found.off_pct)
        )
        self._loss.setText(
            f"After {num(minutes, '.0f')} min a piece has lost {lost} %, and {most} % in "
            f"the end; the loss starts after {num(found.after_min, '.0f')} min. Your "
            f"weighings are within {off} % of the raw weight of this curve."
        )

    def _add(self) -> None:
        ovens = self._house.oven_list
        if len(ovens) >= MOST_OVENS:
            self.show_error(f"You can enter up to {MOST_OVENS} ovens.")
            return
        taken = {oven.name for oven in ovens}
        name = next(f"Oven {i}" for i in range(1, MOST_OVENS + 2) if f"Oven {i}" not in taken)
        self._put(f"another oven: {name}", (*ovens, Oven(name, trays=self._house.oven_trays)))
        self.rows[len(ovens)][0].setFocus()

    def _drop(self, at: int) -> None:
        ovens = self._house.oven_list
        if at < len(ovens):
            self._put(f"remove {ovens[at].name}", (*ovens[:at], *ovens[at + 1 :]))
