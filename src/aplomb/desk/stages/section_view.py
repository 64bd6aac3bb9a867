"""The section strip with its lens."""

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPixmap,
    QResizeEvent,
    QShowEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QSizePolicy, QWidget

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import cm_text, mm_text, num
from aplomb.core.folds.evenness import Evenness, evenness_of
from aplomb.core.folds.raster import Window
from aplomb.core.study.study import Study
from aplomb.desk.drawings.section import (
    DOUGH_RGB,
    SectionImage,
    leaf_text,
    length_text,
    paint_cut,
    paint_scale,
    thickness_at,
)
from aplomb.desk.kit.background import LatestJob
from aplomb.desk.kit.theme import look
from aplomb.desk.session import Session

LEAST_ZOOM, MOST_ZOOM = 1.5, 4000.0
JUDGE_AFTER_MS = 120
"""How long nothing changes before the evenness is worked out [ms]."""

LENS_RATIO = 1.8
"""Width of the lens over its height."""


def met_words(found: Evenness) -> str:
    """Say how many leaves the verticals of a section meet, and what each ± is."""
    verticals = f"{found.least} to {found.most} from place to place"
    if found.error is None:
        return f"{found.mean:.0f} on average, {verticals} (spread {found.spread:.0f})"
    return f"{found.mean:.0f} ± {found.error:.0f} on average (standard error), {verticals}"


class SectionStrip(QWidget):
    """A cut through the paste, whole, and through a lens.

    Drag the lens, or move it by the arrow keys; the wheel, + and - set how much it enlarges.

    Parameters
    ----------
    brief : bool
        True where how even it is stands beside it already.

    Signals
    -------
    judged
        How even it is has become known, or is asked anew.
    """

    judged = Signal()

    def __init__(self, session: Session, *, brief: bool = False) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._brief = brief
        self._session = session
        self._upto: int | None = None
        self._across = self._piece = False
        self._evenness: Evenness | None = None
        self._study: Study | None = None  # of what is shown, which may lag behind the session's
        self._cut: SectionImage | None = None
        self._words = ""
        self._even = LatestJob(self._judged, self)
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(JUDGE_AFTER_MS)
        self._pause.timeout.connect(self._ask_even)
        self._slow = LatestJob(self._drawn, self, lambda: id(self._cut))
        self._asked: object = None
        self.whole: QPixmap | None = None
        self._lens: QPixmap | None = None
        self._key: object = None
        self._at = QPointF(0.8, 0.42)
        self._zoom = 12.0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setAccessibleName("Section of the paste")
        self.setToolTip(
            "Move the lens with the arrow keys or by dragging; zoom with + and − or the wheel"
        )
        session.studied.connect(self._studied)
        self.refresh()

    def _look_changed(self) -> None:
        self.whole = self._lens = None
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        strip = max(48, min(112, round(176 - 64 * look.theme.scale)))
        return QSize(600, strip + look.theme.px(62))

    def minimumSizeHint(self) -> QSize:
        """As high, and much narrower."""
        return QSize(300, self.sizeHint().height())

    def show_moment(self, upto: int | None) -> None:
        """Show the paste after some steps of the plan; None for the final sheet."""
        if upto != self._upto:
            self._upto = upto
            self.refresh()

    def show_way(self, *, across: bool, piece: bool) -> None:
        """Cut along or across the last rolling; show all of it, or one piece of the batch."""
        if (across, piece) != (self._across, self._piece):
            self._across, self._piece = across, piece
            self.refresh()

    @property
    def shown(self) -> tuple[int | None, bool]:
        """Steps of the plan that are shown, None for the final sheet, and whether cut across."""
        return self._upto, self._across

    @property
    def even(self) -> Evenness | None:
        """How even the section is; None until it is known, and where leaves go through."""
        return self._evenness

    @property
    def words(self) -> str:
        """What is said under the section."""
        return self._words

    def _studied(self) -> None:
        if self.isVisible():
            self.refresh()

    def showEvent(self, event: QShowEvent) -> None:
        """Catch up with what changed meanwhile."""
        super().showEvent(event)
        self.refresh()

    def refresh(self) -> None:
        """Cut through the formula in hand, if what is cut has changed."""
        study = self._session.study
        key: object = None
        if study is not None:
            f = study.formula
            if self._upto is not None and self._upto > len(study.plan.steps):
                self._upto = None
            key = (
                study.plan,
                self._upto,
                study.readings.fat_volume_share,
                f.sheet_mm,
                thickness_at(study, self._upto),
                f.gathered_mm,
                f.piece_fat_mm,
                f.piece_form,
                f.piece_spread_pct,
                study.worked,
                f.working,
                study.strewn,
                self._across,
                self._piece,
                f.batch,
            )
        if key == self._key:
            return
        self._key, self._study = key, study
        self.whole = self._lens = None
        if study is None:
            self._cut, self._words = None, ""
        else:
            self._cut = SectionImage(
                study, self._upto, thickness_at(study, self._upto), across=self._across
            )
            self._words = self._say(study)
            self._judge()
        self.setAccessibleDescription(self._words)
        self.update()

    def _judge(self) -> None:
        """Ask how even it is where leaves do not go through; the answer comes to the words."""
        self._even.forget()
        self._pause.stop()
        self._evenness = None
        self.judged.emit()
        cut = self._cut
        if cut is None or cut.section is None or cut.trouble or cut.round:
            return
        self._pause.start()  # not with every keystroke: the picture comes first

    def _ask_even(self) -> None:
        cut = self._cut
        if cut is None or cut.section is None:
            return
        section, leaves, height = cut.section, cut.leaves, cut.thickness_mm
        self._even.ask(lambda: evenness_of(section, leaves, height))

    def _judged(self, found: Evenness | AplombError) -> None:
        study = self._study
        if isinstance(found, AplombError) or study is None:
            return
        self._evenness = found
        if self._brief:
            self.judged.emit()
            return
        bare = f" · {100 * found.bare_share:.0f} % without fat" if found.bare_share >= 0.005 else ""
        self._words = (
            f"{self._say(study)} · this section: {met_words(found)}{bare} · thickest "
            f"dough without fat {mm_text(found.longest_mm, '.2g')}"
        )
        self.setAccessibleDescription(self._words)
        self.update()
        self.judged.emit()

    def title(self) -> str:
        """Say what moment is shown."""
        study = self._study
        if study is None:
            return ""
        way = ", cut across" if self._across else ""
        if self._upto is None:
            piece = study.piece_mm
            if self._piece and piece:
                return f"Section of one piece, {cm_text(piece, '.3g')} of the final sheet{way}"
            return f"Section of the final sheet, {mm_text(study.formula.sheet_mm)}{way}"
        turns = sum(step.is_turn for step in study.plan.steps[: self._upto])
        height = thickness_at(study, self._upto)
        if turns == 0:
            return f"Section after enclosing, {mm_text(height, '.0f')} thick{way}"
        return (
            f"Section after turn {turns} of {len(study.plan.turns)}, folded, "
            f"{mm_text(height, '.0f')} "
            f"thick{way}"
        )

    def _say(self, study: Study) -> str:
        if self._cut is None or self._cut.trouble:
            return self._cut.trouble if self._cut else ""
        moment = study.turns[-1 if self._upto is None else self._upto]
        share = study.fat_share_after(self._upto)
        fat, dough = moment.fat_leaves or 0, moment.dough_leaves or 0
        if not fat or not dough:
            return "No fat leaves."
        um = self._cut.thickness_mm * 1000
        about = "about " if study.plan.leaves_are_means else ""
        each = [share * um / fat, (1 - share) * um / dough]
        shown = [leaf_text(um) for um in each]
        many = [num(n, ".3g") if study.plan.leaves_are_means else f"{n:,d}" for n in (fat, dough)]
        return f"{about}{many[0]} fat leaves of {shown[0]} · {many[1]} dough leaves of {shown[1]}"

    def _places(self) -> tuple[QRectF, QRectF]:
        top, foot = look.theme.px(28) + 4, look.theme.px(26)
        high = self.height() - top - foot - 4
        lens = QRectF(self.width() - 24 - high * LENS_RATIO, top, high * LENS_RATIO, high)
        left = 24 + look.theme.px(44)
        strip = QRectF(left, top, lens.left() - left - 40, high)
        if self._cut is not None and self._cut.round:
            strip.setWidth(high)
            lens.moveLeft(strip.right() + 80)
        return strip, lens

    @property
    def _all(self) -> Window:
        """The part that the strip shows: all, or the length of one piece in the middle."""
        study = self._study
        if not self._piece or self._upto is not None or study is None:
            return Window()
        part = min(1.0, study.piece_mm / study.final_sheet.length_mm)
        return Window(0.5 - part / 2, 0.5 + part / 2) if part > 0 else Window()

    def _shown(self, window: Window) -> Window:
        """Shares of what the strip shows, as shares of the whole section."""
        whole = self._all
        wide = whole.right - whole.left
        return Window(
            whole.left + window.left * wide,
            whole.left + window.right * wide,
            window.bottom,
            window.top,
        )

    def drawn_window(self) -> Window:
        """Give the part of the section that is drawn."""
        strip, _ = self._places()
        high = 1 / self._zoom
        wide = min(1.0, high * LENS_RATIO * strip.height() / max(1.0, strip.width()))
        bottom = min(max(0.0, self._at.y() - high / 2), 1 - high)
        left = min(max(0.0, self._at.x() - wide / 2), 1 - wide)
        return Window(left, left + wide, bottom, bottom + high)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the strip, the lens and their words."""
        p = look.theme.palette
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QColor(p.line))
        painter.drawLine(0, 0, self.width(), 0)
        strip, lens = self._places()
        painter.setFont(look.theme.font(15, 600))
        painter.setPen(QColor(p.text))
        painter.drawText(QPointF(strip.left(), look.theme.px(20)), self.title())
        painter.setFont(look.theme.font(14))
        painter.setPen(QColor(p.second))
        room = self.width() - int(strip.left()) - 12
        words = painter.fontMetrics().elidedText(self._words, Qt.TextElideMode.ElideRight, room)
        painter.drawText(QPointF(strip.left(), self.height() - look.theme.px(10)), words)
        if self._cut is None or self._cut.trouble:
            painter.setPen(QPen(QColor(p.line), 1.5, Qt.PenStyle.DashLine))
            painter.drawRoundedRect(strip, 6, 6)
            return
        window = self.drawn_window()
        if self.whole is None or self.whole.deviceIndependentSize() != strip.size().toSize():
            self._draw_whole(strip)
        if self._lens is None:
            self._lens = self._picture(lens, self._shown(window))
        if self.whole is None:
            painter.fillRect(strip, QColor(*DOUGH_RGB))
        else:
            painter.drawPixmap(strip.topLeft(), self.whole)
        painter.drawPixmap(lens.topLeft(), self._lens)
        self._paint_measure(painter, strip)
        paint_scale(
            painter,
            lens,
            self._cut.thickness_mm * (window.top - window.bottom),
            look.theme.font(12, 600),
            QColor(p.ink),
            QColor(255, 254, 251, 215),
        )
        box = QRectF(
            strip.left() + window.left * strip.width(),
            strip.bottom() - window.top * strip.height(),
            max(4.0, (window.right - window.left) * strip.width()),
            max(4.0, (window.top - window.bottom) * strip.height()),
        )
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(p.second), 1))
        painter.drawLine(box.topRight(), lens.topLeft())
        painter.drawLine(box.bottomRight(), lens.bottomLeft())
        painter.setPen(QPen(QColor(255, 254, 251), 3))
        painter.drawRect(box)
        painter.setPen(QPen(QColor(p.ink), 1.5))
        painter.drawRect(box)
        painter.setPen(
            QPen(QColor(p.action if self.hasFocus() else p.ink), 3 if self.hasFocus() else 1.5)
        )
        painter.drawRect(lens)

    def _draw_whole(self, strip: QRectF) -> None:
        """Draw the whole section: at once, or beside when that takes long."""
        cut = self._cut
        assert cut is not None
        if cut.quick:
            self.whole = self._picture(strip, self._all)
            return
        size = strip.size().toSize() * self.devicePixelRatioF()
        if self._asked != (cut, size):
            self._asked = (cut, size)
            rows, columns, window = max(1, size.height()), max(1, size.width()), self._all
            self._slow.ask(lambda: cut.image(window, rows, columns))

    def _drawn(self, image: QImage | AplombError) -> None:
        """Take a section that was drawn beside."""
        if isinstance(image, AplombError) or self._cut is None:
            return
        strip, _ = self._places()
        self.whole = self._picture(strip, self._all, image)
        self.update()

    def _picture(self, where: QRectF, window: Window, image: QImage | None = None) -> QPixmap:
        ratio = self.devicePixelRatioF()
        size = where.size().toSize()
        picture = QPixmap(size * ratio)
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        painter = QPainter(picture)
        assert self._cut is not None
        room = QRectF(0, 0, size.width(), size.height())
        paint_cut(painter, room, self._cut, window, QColor(look.theme.palette.dough_edge), image)
        painter.end()
        return picture

    def _paint_measure(self, painter: QPainter, strip: QRectF) -> None:
        assert self._cut is not None
        p = look.theme.palette
        painter.setPen(QPen(QColor(p.second), 1.5))
        x = strip.left() - 9
        painter.drawLine(QPointF(x, strip.top()), QPointF(x, strip.bottom()))
        for y in (strip.top(), strip.bottom()):
            painter.drawLine(QPointF(x - 4, y), QPointF(x + 4, y))
        painter.save()
        painter.setFont(look.theme.font(13))
        painter.translate(x - 8, strip.center().y())
        painter.rotate(-90)
        text = length_text(round(self._cut.thickness_mm, 1))
        painter.drawText(QPointF(-painter.fontMetrics().horizontalAdvance(text) / 2, 0), text)
        painter.restore()

    def _move(self, x: float, y: float) -> None:
        self._at = QPointF(min(1.0, max(0.0, x)), min(1.0, max(0.0, y)))
        self._lens = None
        self.update()

    def _enlarge(self, factor: float) -> None:
        self._zoom = min(MOST_ZOOM, max(LEAST_ZOOM, self._zoom * factor))
        self._lens = None
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move and enlarge the lens."""
        window = self.drawn_window()
        wide, high = (window.right - window.left) / 4, (window.top - window.bottom) / 4
        steps = {
            Qt.Key.Key_Left: (-wide, 0.0),
            Qt.Key.Key_Right: (wide, 0.0),
            Qt.Key.Key_Up: (0.0, high),
            Qt.Key.Key_Down: (0.0, -high),
        }
        key = Qt.Key(event.key())
        if key in steps:
            centre = ((window.left + window.right) / 2, (window.bottom + window.top) / 2)
            self._move(centre[0] + steps[key][0], centre[1] + steps[key][1])
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self._enlarge(1.3)
        elif key == Qt.Key.Key_Minus:
            self._enlarge(1 / 1.3)
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Enlarge by the wheel."""
        self._enlarge(1.15 ** (event.angleDelta().y() / 120))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Put the lens where the mouse is."""
        strip, _ = self._places()
        if strip.contains(event.position()):
            self._follow(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag the lens."""
        if event.buttons() & Qt.MouseButton.LeftButton:
            self._follow(event)

    def _follow(self, event: QMouseEvent) -> None:
        strip, _ = self._places()
        at = event.position()
        self._move(
            (at.x() - strip.left()) / strip.width(), (strip.bottom() - at.y()) / strip.height()
        )

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The pictures are made anew at another size."""
        super().resizeEvent(event)
        self.whole = self._lens = None

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show the focus."""
        super().focusInEvent(event)
        self.update()
