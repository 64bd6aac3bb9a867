"""Learn the folds: each enclosure and turn drawn step by step, for who has not done it."""

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFontMetricsF, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox

from aplomb.core.folds.lessons import WHAT_WORDS, Lesson, lessons
from aplomb.desk.drawings.lesson import paint_lesson
from aplomb.desk.kit.fields import let_go, row
from aplomb.desk.kit.fitted import Fitted
from aplomb.desk.kit.theme import look
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page

SIDE = 14
"""Room at either side [px]."""
WRAP = Qt.TextFlag.TextWordWrap.value


class LessonView(Fitted):
    """One lesson: its name, what it is for, and its frames."""

    def __init__(self, lesson: Lesson) -> None:
        super().__init__()
        self._lesson = lesson
        words = " ".join(f"{i}. {f.words}" for i, f in enumerate(lesson.frames, 1))
        self.setAccessibleName(lesson.name)
        self.setAccessibleDescription(f"{lesson.about} {words}")

    def height_at(self, width: int) -> int:
        """As high as the drawings and words are [px]."""
        lesson = self._lesson
        from_above = any(frame.flaps >= 0 for frame in lesson.frames)
        drawn = 110 if from_above else 84 if len(lesson.frames) > 1 else 36
        _, about = self._heads(width - 2 * SIDE)
        below = about.height() if about.left() == 0 else 0.0
        return look.theme.px(100) + drawn + round(below)

    def _heads(self, wide: float) -> tuple[QRectF, QRectF]:
        """Where the name stands and what it is for: beside it when there is room, else below."""
        name = QFontMetricsF(look.theme.font(16, 600))
        words = QFontMetricsF(look.theme.font(14))
        beside = name.horizontalAdvance(self._lesson.name) + 14
        if beside + words.horizontalAdvance(self._lesson.about) <= wide:
            return (
                QRectF(0, 0, beside, name.height()),
                QRectF(beside, 2, wide - beside, name.height()),
            )
        tall = words.boundingRect(QRectF(0, 0, max(1.0, wide), 1e4), WRAP, self._lesson.about)
        return (
            QRectF(0, 0, wide, name.height()),
            QRectF(0, name.height(), wide, tall.height()),
        )

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the lesson."""
        p = look.theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QColor(p.line))
        painter.setBrush(QColor(p.card))
        room = QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
        painter.drawRoundedRect(room, 8, 8)
        inner = room.adjusted(SIDE, 8, -SIDE, -8)
        name, about = self._heads(self.width() - 2 * SIDE)
        painter.setFont(look.theme.font(16, 600))
        painter.setPen(QColor(p.text))
        painter.drawText(name.translated(inner.topLeft()), 0, self._lesson.name)
        painter.setFont(look.theme.font(14))
        painter.setPen(QColor(p.second))
        painter.drawText(about.translated(inner.topLeft()), WRAP, self._lesson.about)
        under = max(name.bottom(), about.bottom())
        paint_lesson(
            painter,
            inner.adjusted(0, under + 6, 0, 0),
            self._lesson,
            look.theme.font(13),
            QColor(p.second),
            QColor(p.action),
            look.theme.px(240),
        )


class LessonsPage(Page):
    """The folds of this plan, or all there are, step by step."""

    KEY = "lessons"
    HINT = "Drawn from the side; an arrow shows where the next flap goes."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.choice = QComboBox()
        self.choice.setAccessibleName("Which folds")
        for key, words in WHAT_WORDS.items():
            self.choice.addItem(f"Show {words}", key)
        self.choice.activated.connect(self.refresh)
        self._body.addLayout(row(self.choice, None))
        self.views: list[LessonView] = []
        self._shown: tuple[Lesson, ...] = ()
        self._body.addStretch(1)
        self.refresh()

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.choice)

    def refresh(self) -> None:
        """Show the lessons of what is chosen."""
        study = self._session.study
        if study is None:
            return
        wanted = lessons(self.choice.currentData(), study.plan, study.formula.working.envelope)
        if wanted == self._shown:
            return
        self._shown = wanted
        let_go(self._body, *self.views)
        self.views = [LessonView(lesson) for lesson in wanted]
        for view in self.views:
            self._body.insertWidget(self._body.count() - 1, view)
            view.show()
