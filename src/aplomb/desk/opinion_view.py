"""The second opinion at the side: mark, claim, why, one action, origin."""

import re

from msgspec.structs import replace
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPolygonF
from PySide6.QtWidgets import QApplication, QFrame, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from aplomb.core.opinion.opinion import Mark, Opinion
from aplomb.core.opinion.rules import RULES
from aplomb.core.paste.ingredient import STANDING_WORDS
from aplomb.desk.fields import button, label, row
from aplomb.desk.session import Session
from aplomb.desk.theme import Theme

MARK_WORDS: dict[Mark, str] = {"wrong": "Wrong", "look": "Look at"}


def _kept_together(words: str) -> str:
    """Keep a figure and its unit on one line."""
    return re.sub(r"(\d) (?=(?:%|g|mm|µm|mg/kg)\b|%)", "\\1\u00a0", words)


class MarkSign(QWidget):
    """A mark by shape and colour: a barred triangle for wrong, a ring for look at."""

    def __init__(self, mark: Mark, theme: Theme) -> None:
        super().__init__()
        self._mark, self._theme = mark, theme
        self.setFixedSize(theme.px(16), theme.px(18))

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the mark."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        p = self._theme.palette
        side = self.width()
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(p.wrong if self._mark == "wrong" else p.look))
        if self._mark == "wrong":
            painter.drawPolygon(
                QPolygonF([QPointF(side / 2, 2), QPointF(side, side), QPointF(0, side)])
            )
            painter.setBrush(QColor(p.card))
            painter.drawRect(QRectF(side / 2 - 1, side * 0.45, 2, side * 0.3))
        else:
            painter.drawEllipse(QRectF(1, 3, side - 2, side - 2))
            painter.setBrush(QColor(p.card))
            painter.drawEllipse(QRectF(side * 0.35, 3 + side * 0.28, side * 0.32, side * 0.32))


class OpinionView(QScrollArea):
    """The opinions on the formula in hand."""

    def __init__(self, session: Session, theme: Theme) -> None:
        super().__init__()
        self._session, self._theme = session, theme
        self._shown: tuple[tuple[Opinion, ...], tuple[str, ...]] | None = None
        self.setWidgetResizable(True)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setAccessibleName("Second opinion")
        session.studied.connect(self.refresh)
        self.set_theme(theme)

    def set_theme(self, theme: Theme) -> None:
        """Take another palette or size of text."""
        self._theme = theme
        self._shown = None
        self.refresh()

    def fit(self, window_width: int) -> None:
        """Be as wide as the words want, but never crowd the window."""
        self.setFixedWidth(min(self._theme.px(246) + 22, max(220, round(window_width * 0.27))))

    def refresh(self) -> None:
        """Show what there is to say; the same again is left as it stands."""
        study = self._session.study
        opinions = study.shown_opinions if study else ()
        dismissed = study.formula.dismissed if study else ()
        if self._shown == (opinions, dismissed):
            return
        self._shown = (opinions, dismissed)
        focus = QApplication.focusWidget()
        had_focus = focus is not None and self.isAncestorOf(focus)
        inner = QWidget()
        inner.setObjectName("inner")
        column = QVBoxLayout(inner)
        column.setContentsMargins(2, 0, 14, 8)
        column.setSpacing(10)
        count = label(f"{len(opinions)} to look at" if opinions else "", "small")
        column.addLayout(row(label("Second opinion", "title"), None, count))
        for opinion in opinions:
            column.addWidget(self._card(opinion))
        quiet = len(RULES) - len(study.opinions) if study else 0
        if study is not None:
            words = f"{quiet} checks quiet" if opinions else f"All well: {quiet} checks quiet"
            column.addWidget(label(words, "small"))
        if dismissed:
            column.addWidget(
                button(f"Show {len(dismissed)} put aside", "quiet", self._recall), 0,
                Qt.AlignmentFlag.AlignLeft,
            )  # fmt: skip
        column.addStretch(1)
        self.setWidget(inner)
        if had_focus:
            inner.setFocus()

    def _card(self, opinion: Opinion) -> QFrame:
        frame = QFrame()
        frame.setObjectName("card")
        p = self._theme.palette
        edge = p.wrong if opinion.mark == "wrong" else p.look
        frame.setStyleSheet(
            f"QFrame#card {{ border-left: 5px solid {edge}; border-top-left-radius: 0;"
            " border-bottom-left-radius: 0; }"
        )
        frame.setAccessibleName(f"{MARK_WORDS[opinion.mark]}: {opinion.claim}")
        frame.setAccessibleDescription(opinion.why)
        column = QVBoxLayout(frame)
        column.setContentsMargins(10, 9, 10, 8)
        column.setSpacing(4)
        claim = label(opinion.claim, "strong")
        claim.setWordWrap(True)
        head = QHBoxLayout()
        head.setSpacing(7)
        head.addWidget(MarkSign(opinion.mark, self._theme), 0, Qt.AlignmentFlag.AlignTop)
        head.addWidget(claim, 1)
        put_aside = button("Put aside", "quiet", lambda: self._dismiss(opinion))
        put_aside.setAccessibleName(f"Put aside: {opinion.claim}")
        column.addLayout(head)
        why = label(_kept_together(opinion.why), "small")
        why.setWordWrap(True)
        column.addWidget(why)
        if opinion.action is not None:
            do = button(opinion.action.label, "link", lambda: self._act(opinion))
            column.addWidget(do, 0, Qt.AlignmentFlag.AlignLeft)
        column.addLayout(row(label(STANDING_WORDS[opinion.origin], "small"), None, put_aside))
        return frame

    def _act(self, opinion: Opinion) -> None:
        assert opinion.action is not None
        self._session.change(opinion.action.label.lower(), opinion.action.formula)

    def _dismiss(self, opinion: Opinion) -> None:
        self._session.edit(
            f"put aside “{opinion.claim}”",
            lambda f: replace(f, dismissed=(*f.dismissed, opinion.key)),
        )

    def _recall(self) -> None:
        self._session.edit("show what was put aside", lambda f: replace(f, dismissed=()))
