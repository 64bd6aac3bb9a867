"""The second opinion at the side: mark, claim, why, one action, origin."""

import re

from msgspec.structs import replace
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from aplomb.core.base.texts import counted
from aplomb.core.opinion.opinion import Action, Mark, Opinion
from aplomb.core.opinion.rules import OF_THE_DAY, RULES
from aplomb.core.paste.ingredient import STANDING_WORDS
from aplomb.core.study.remedies import Tried
from aplomb.core.study.study import Study
from aplomb.desk.drawings.marks import paint_mark
from aplomb.desk.kit.fields import button, label, let_go, row
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.theme import look
from aplomb.desk.session import Session

MARK_WORDS: dict[Mark, str] = {"wrong": "Wrong", "look": "Look at"}


def _kept_together(words: str) -> str:
    """Keep a figure and its unit on one line."""
    return re.sub(r"(\d) (?=(?:%|g|oz|lb|mm|cm|in|µm|mg/kg)\b|%|°)", "\\1\u00a0", words)


def _checks(study: Study) -> int:
    """How many rules have looked at a study; those of the cold come when they are worked out."""
    if not study.cold_known:
        return len(RULES)
    from aplomb.core.study.cold_rules import COLD_RULES  # with NumPy, which is there by then

    return len(RULES) + len(COLD_RULES)


class MarkSign(QWidget):
    """A mark by shape and colour: a barred triangle for wrong, a ring for look at."""

    def __init__(self, mark: Mark) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._mark = mark
        self._look_changed()

    def _look_changed(self) -> None:
        self.setFixedSize(look.theme.px(16), look.theme.px(18))
        self.update()

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the mark."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        p = look.theme.palette
        side = self.width()
        color = QColor(p.wrong if self._mark == "wrong" else p.look)
        paint_mark(painter, QRectF(0, 2, side, side), self._mark, color, QColor(p.card))


class OpinionCard(QFrame):
    """One opinion: what is the matter, why, what to do, where it comes from."""

    def __init__(self, view: "OpinionView", opinion: Opinion, remedy: Action | None) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setProperty("mark", opinion.mark)
        self._claim, self._why = label("", "strong"), label("", "small")
        for words in (self._claim, self._why):
            words.setWordWrap(True)
        key = self.key = opinion.key
        self.mark = opinion.mark
        self._sign = MarkSign(opinion.mark)
        self._do = button("", "link", lambda: view.act(key))
        self._aside = button("Dismiss", "quiet", lambda: view.put_aside(key))
        self._origin = label("", "small")
        head = QHBoxLayout()
        head.setSpacing(7)
        head.addWidget(self._sign, 0, Qt.AlignmentFlag.AlignTop)
        head.addWidget(self._claim, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 9, 10, 8)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self._why)
        column.addWidget(self._do, 0, Qt.AlignmentFlag.AlignLeft)
        column.addLayout(row(self._origin, None, self._aside))
        self.show_opinion(opinion, remedy)

    @property
    def stops(self) -> tuple[QWidget, ...]:
        """Where the Tab key stops."""
        return self._do, self._aside

    def show_opinion(self, opinion: Opinion, remedy: Action | None) -> None:
        """Show the same rule's opinion with other words or numbers, and what was tried for it."""
        claim, why = opinion.claim, opinion.why
        self._claim.setText(claim)
        self._why.setText(_kept_together(why))
        self._do.setVisible(remedy is not None)
        self._do.setText(remedy.label if remedy else "")
        self._origin.setText(STANDING_WORDS[opinion.origin])
        self._aside.setAccessibleName(f"Dismiss: {claim}")
        self.setAccessibleName(f"{MARK_WORDS[opinion.mark]}: {claim}")
        self.setAccessibleDescription(why)


class OpinionView(QScrollArea):
    """The opinions on the formula in hand.

    Parameters
    ----------
    last : QWidget
        Where the Tab key stops after them.
    """

    def __init__(self, session: Session, last: QWidget) -> None:
        super().__init__()
        self._session, self._last = session, last
        self.cards: list[OpinionCard] = []
        self._remedies: dict[str, Action] = {}
        self._tried = Tried()
        self._of_the_day = False
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName("Second opinion")
        self._lay_out()
        session.studied.connect(self.refresh)

    def _lay_out(self) -> None:
        inner = QWidget()
        inner.setObjectName("inner")
        self._column = QVBoxLayout(inner)
        self._column.setContentsMargins(2, 0, 14, 8)
        self._column.setSpacing(10)
        self._count, self._quiet = label("", "small"), label("", "small")
        self._again = button("", "quiet", self._recall)
        self._column.addLayout(Flow(label("Second opinion", "title"), self._count, spacing=10))
        self._column.addWidget(self._quiet)
        self._column.addWidget(self._again, 0, Qt.AlignmentFlag.AlignLeft)
        self._column.addStretch(1)
        self.setWidget(inner)

    def of_the_day(self, *, only: bool) -> None:
        """Show only what has to do with a timetable, or all there is to say."""
        if only is not self._of_the_day:
            self._of_the_day = only
            self.refresh()

    def here(self) -> tuple[Opinion, ...]:
        """The opinions that belong beside the stage that is shown."""
        study = self._session.study
        found = study.shown_opinions if study else ()
        return tuple(o for o in found if o.key in OF_THE_DAY) if self._of_the_day else found

    def refresh(self) -> None:
        """Show what there is to say.

        The card of a rule that goes on speaking is kept: it may hold the keyboard, or be
        the one that is being pressed.
        """
        study = self._session.study
        opinions = self.here()
        self._remedies = self._tried.remedies(study, self._session.reference) if study else {}
        cards = {card.key: card for card in self.cards}
        speaking = {o.key: o for o in opinions}
        focus = self.window().focusWidget()
        had_focus = focus is not None and self.isAncestorOf(focus)
        for key, card in cards.items():
            if key not in speaking or speaking[key].mark != card.mark:
                let_go(self._column, card)
        self.cards = []
        for at, opinion in enumerate(opinions):
            kept = cards.get(opinion.key)
            if kept is not None and kept.mark == opinion.mark:
                kept.show_opinion(opinion, self._remedies.get(opinion.key))
            else:
                remedy = self._remedies.get(opinion.key)
                kept = OpinionCard(self, opinion, remedy)
            if self._column.indexOf(kept) != 1 + at:
                self._column.removeWidget(kept)
                self._column.insertWidget(1 + at, kept)
            self.cards.append(kept)
        self._count.setText(f"{len(opinions)} to look at" if opinions else "")
        quiet = _checks(study) - len(study.opinions) if study else 0
        elsewhere = len(study.shown_opinions) - len(opinions) if study else 0
        if elsewhere:
            words = counted(elsewhere, "1 more on the paste", "{} more on the paste")
            words += ", on its own stages"
        else:
            words = f"{quiet} checks passed" if opinions else f"All good: {quiet} checks passed"
        self._quiet.setText(words)
        self._quiet.setVisible(study is not None)
        dismissed = study.formula.dismissed if study else ()
        self._again.setText(f"Show {len(dismissed)} dismissed")
        self._again.setVisible(bool(dismissed))
        self._chain()
        focus = self.window().focusWidget()
        if had_focus and not (focus is not None and self.isAncestorOf(focus)):
            stops = [w for card in self.cards for w in card.stops if not w.isHidden()]
            if stops:
                stops[0].setFocus(Qt.FocusReason.TabFocusReason)

    def _chain(self) -> None:
        """Let the Tab key go down the cards in their order."""
        before: QWidget | None = None
        stops = (w for card in self.cards for w in card.stops)
        for widget in (*stops, self._again, self._last):
            if before is not None:
                QWidget.setTabOrder(before, widget)
            before = widget

    def act(self, key: str) -> None:
        """Do what an opinion proposes."""
        action = self._remedies.get(key)
        if action is not None:
            self._session.shelf.change(action.label.lower(), action.formula)

    def put_aside(self, key: str) -> None:
        """Dismiss an opinion; the formula remembers it."""
        self._session.shelf.edit(
            f"dismiss “{key.replace('_', ' ')}”",
            lambda f: replace(f, dismissed=(*f.dismissed, key)),
        )

    def _recall(self) -> None:
        self._session.shelf.edit("show what was dismissed", lambda f: replace(f, dismissed=()))
