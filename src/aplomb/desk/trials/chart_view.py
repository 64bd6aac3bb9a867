"""The chart of trials as a widget: a click picks a trial."""

import math

from PySide6.QtCore import QEvent, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QSizePolicy, QToolTip, QWidget

from aplomb.desk.drawings.trial_chart import ChartFrame, paint_trial_chart
from aplomb.desk.kit.fields import plain_tip
from aplomb.desk.kit.theme import look
from aplomb.work.trials.chart import TrialChart, chart_words
from aplomb.work.trials.words import outcome_text

NEAR_PX = 14.0


class TrialChartView(QWidget):
    """Trials over what was set, with what was learned.

    Signals
    -------
    picked : str
        Key of a trial that was clicked.
    """

    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._chart: TrialChart | None = None
        self._picked = ""
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setAccessibleName("Results against what was changed")

    def _look_changed(self) -> None:
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        """Room for dots that can be told apart."""
        return QSize(520, look.theme.px(240))

    def minimumSizeHint(self) -> QSize:
        """Still to be read."""
        return QSize(280, look.theme.px(190))

    def show_chart(self, chart: TrialChart | None, picked: str) -> None:
        """Show another chart, or pick another trial on it."""
        if chart is self._chart and picked == self._picked:
            return
        self._chart, self._picked = chart, picked
        self.setAccessibleDescription(chart_words(chart) if chart else "")
        self.update()

    def _room(self) -> QRectF:
        return QRectF(self.rect()).adjusted(2, 2, -2, -2)

    def _nearest(self, x: float, y: float) -> str:
        if self._chart is None:
            return ""
        places = ChartFrame(self._chart, self._room(), look.theme).places()
        apart = {key: math.hypot(at.x() - x, at.y() - y) for key, at in places.items()}
        key = min(apart, key=lambda each: apart[each], default="")
        return key if key and apart[key] <= NEAR_PX else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Pick the trial under the mouse."""
        key = self._nearest(event.position().x(), event.position().y())
        if key and event.button() == Qt.MouseButton.LeftButton:
            self.picked.emit(key)

    def event(self, event: QEvent) -> bool:
        """Say which trial the mouse rests on."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            key = self._nearest(event.pos().x(), event.pos().y())
            chart = self._chart
            point = next((p for p in chart.points if p.key == key), None) if chart else None
            if point is None or chart is None:
                QToolTip.hideText()
            else:
                said = outcome_text(chart.outcome, point.y) if point.y is not None else point.mark
                QToolTip.showText(event.globalPos(), plain_tip(f"{point.words}: {said}"), self)
            return True
        return super().event(event)

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the chart."""
        if self._chart is not None:
            paint_trial_chart(QPainter(self), self._room(), self._chart, look.theme, self._picked)
