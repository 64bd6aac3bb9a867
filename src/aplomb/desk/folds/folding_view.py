"""The plan as it is carried out: rolled, folded, turned, with the paste's own section on it."""

from msgspec import Struct
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPixmap
from PySide6.QtWidgets import QSizePolicy, QWidget

from aplomb.core.base.figures import mm_text
from aplomb.core.folds.boxes import Box
from aplomb.core.folds.motion import ease, enclosing_motion, motion_of, words_at
from aplomb.core.folds.plan import step_name
from aplomb.core.folds.raster import Window
from aplomb.core.folds.step import Step
from aplomb.core.study.study import Study
from aplomb.desk.drawings.folding import Strip, paint_folding
from aplomb.desk.drawings.section import SectionImage
from aplomb.desk.kit.theme import look

ROLLED_BY, FOLDED_BY = 0.36, 0.92
"""Share of a step at which the sheet is rolled out, and that at which it is folded [-]."""

MARGIN, THINNEST = 12, 3.0
ROWS, COLUMNS = 56, 560
"""Pixels of the section that is laid on the sheet."""


class Scene(Struct, frozen=True):
    """Where a moment of the plan lies: which step, and how far into it.

    Attributes
    ----------
    step : int
        0 for the enclosing, then the plan's steps; one more for the final sheet.
    part : float
        From 0 to 1 [-].
    """

    step: int
    part: float


def scene_at(moment: float, steps: int) -> Scene:
    """Split a moment, counted in steps from 0, into a step and how far into it."""
    last = steps + 1
    step = min(last, max(0, int(moment)))
    return Scene(step, min(1.0, moment - step))


class FoldingView(QWidget):
    """One moment of the plan, from the side and to scale lengthwise; thickness is enlarged."""

    def __init__(self) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._study: Study | None = None
        self._moment = 0.0
        self._sections: dict[tuple[int, bool], QPixmap | None] = {}
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setMinimumHeight(look.theme.px(96))
        self.setAccessibleName("The paste as it is folded")

    def _look_changed(self) -> None:
        self.setMinimumHeight(look.theme.px(96))
        self.update()

    def show_study(self, study: Study) -> None:
        """Show a study's plan."""
        if study is not self._study:
            self._study = study
            self._sections.clear()
        self._say()

    def show_moment(self, moment: float) -> None:
        """Show a moment, counted in steps: 0 laid ready, 1 enclosed, 1.5 in the first step."""
        self._moment = moment
        self._say()

    @property
    def words(self) -> str:
        """What is being done."""
        if self._study is None:
            return ""
        scene = scene_at(self._moment, len(self._study.plan.steps))
        return _words(self._study, scene)

    def _say(self) -> None:
        self.setAccessibleDescription(self.words)
        self.update()

    def _section(self, done: int, *, across: bool = False) -> QPixmap | None:
        """The section after so many steps, or of the final sheet beyond the last."""
        study = self._study
        assert study is not None
        key = (done, across)
        if key not in self._sections:
            upto = done if done <= len(study.plan.steps) else None
            cut = SectionImage(study, upto, 1.0, across=across)
            made: QPixmap | None = None
            if not cut.trouble:
                rows, columns = (ROWS * 3, ROWS * 3) if cut.round else (ROWS, COLUMNS)
                image = cut.image(Window(), rows, columns)
                made = QPixmap.fromImage(image.scaled(columns, rows))
            self._sections[key] = made
        return self._sections[key]

    def paintEvent(self, _event: QPaintEvent) -> None:
        """Paint the moment."""
        study = self._study
        if study is None or study.enclosing is None:
            return
        painter = QPainter(self)
        p = look.theme.palette
        bench = self.height() - 8.0
        painter.setPen(QColor(p.line))
        painter.drawLine(QPointF(0, bench + 1), QPointF(self.width(), bench + 1))
        scene = scene_at(self._moment, len(study.plan.steps))
        room = QRectF(MARGIN, 4, self.width() - 2 * MARGIN, bench - 4)
        if scene.step == 0:
            self._paint_enclosing(painter, room, study, scene.part)
        elif scene.step > len(study.plan.steps):
            self._paint_final(painter, room, study, scene.part)
        else:
            self._paint_step(painter, room, study, scene)

    def _scales(self, study: Study, room: QRectF) -> tuple[float, float]:
        """Pixels a millimetre, along and upwards, for which the whole plan fits."""
        boxes = [study.enclosing.done] if study.enclosing else []
        boxes += [box for size in study.worked.turns for box in (size.sheet, size.block)]
        along = room.width() / max(max(box.length_mm, box.width_mm) for box in boxes)
        up = room.height() * 0.5 / max(box.height_mm for box in boxes)
        turns = (step for step in study.plan.steps if step.is_turn)
        for step, size in zip(turns, study.worked.turns, strict=False):
            motion, thick = motion_of(step), max(THINNEST, size.sheet.height_mm * up)
            for reach, height in motion.uprights():  # a flap stands upright while it goes over
                above = max(0.5 * room.height(), room.height() - (height + 2) * thick)
                along = min(along, above * motion.length / (reach * size.sheet.length_mm))
        return along, min(up, along * 4)

    def _paint_enclosing(self, painter: QPainter, room: QRectF, study: Study, part: float) -> None:
        motion = enclosing_motion(study.plan.enclosure)
        along, up = self._scales(study, room)
        assert study.enclosing is not None
        done = study.enclosing.done
        if motion.rolls:
            sheet = study.enclosing.dough
            along = room.width() / (sheet.length_mm * 1.05)
            thick = max(5.0, study.formula.working.coil_mm * up)
            strip = Strip(sheet.length_mm * along, thick, None, self._section(0))
        else:
            panel = min(done.length_mm * along, room.width() / (motion.length + 0.1))
            thick = min(18.0, max(6.0, done.height_mm * up / 2), room.height() / 5)
            strip = Strip(panel, thick)
        left = room.center().x() - motion.length * strip.panel_px / 2
        paint_folding(painter, QPointF(left, room.bottom()), motion, part, strip)

    def _paint_step(self, painter: QPainter, room: QRectF, study: Study, scene: Scene) -> None:
        step = study.plan.steps[scene.step - 1]
        along, up = self._scales(study, room)
        before = study.block_after(scene.step - 1)
        if before is None:
            return
        if not step.is_turn or not study.worked.turns:
            self._paint_lying(painter, room, before, self._section(scene.step - 1), along, up)
            return
        turn = sum(each.is_turn for each in study.plan.steps[: scene.step]) - 1
        size = study.worked.turns[turn]
        picture = self._section(scene.step - 1, across=True)
        if scene.part <= ROLLED_BY:
            way = scene.part / ROLLED_BY
            start = Box(before.width_mm, before.length_mm, before.height_mm)
            box = _between(start, size.sheet, ease(way))
            self._paint_lying(painter, room, box, picture, along, up)
            return
        if scene.part <= FOLDED_BY:
            part = (scene.part - ROLLED_BY) / (FOLDED_BY - ROLLED_BY)
            done = scene.step
            self._paint_going(painter, room, step, size.sheet, picture, part, done, (along, up))
            return
        # The quarter turn: the block is seen from its other side.
        way = (scene.part - FOLDED_BY) / (1 - FOLDED_BY)
        block = size.block
        turned = Box(block.width_mm, block.length_mm, block.height_mm)
        box = _between(block, turned, way)
        shown = self._section(scene.step, across=way > 0.5)
        self._paint_lying(painter, room, box, shown, along, up)

    def _paint_going(
        self,
        painter: QPainter,
        room: QRectF,
        step: Step,
        sheet: Box,
        picture: QPixmap | None,
        part: float,
        done: int,
        scales: tuple[float, float],
    ) -> None:
        along, up = scales
        motion = motion_of(step)
        thick = max(THINNEST, sheet.height_mm * up)
        wide = sheet.length_mm * along
        log = self._section(done) if motion.rolls else None
        strip = Strip(wide / motion.length, thick, picture, log)
        left = room.center().x() - wide / 2
        if part > 0 and motion.swings:  # what is folded stays in the middle of the view
            middle = 1.5 if step.panels in (3, 4) else 0.5
            left += part * (wide / 2 - strip.panel_px * middle)
        paint_folding(painter, QPointF(left, room.bottom()), motion, part, strip)

    def _paint_final(self, painter: QPainter, room: QRectF, study: Study, part: float) -> None:
        along, up = self._scales(study, room)
        done = len(study.plan.steps)
        start, end = study.block_after(done), study.final_sheet
        if start is None or end is None:
            return
        box = _between(start, end, ease(part))
        along = min(along, room.width() / box.length_mm)  # a longer sheet is seen from further off
        log = study.plan.rolls_up and part < 0.02
        self._paint_lying(painter, room, box, self._section(done if log else done + 1), along, up)

    def _paint_lying(
        self,
        painter: QPainter,
        room: QRectF,
        box: Box,
        picture: QPixmap | None,
        along: float,
        up: float,
    ) -> None:
        p = look.theme.palette
        wide, high = box.length_mm * along, max(2.0, box.height_mm * up)
        there = QRectF(room.center().x() - wide / 2, room.bottom() - high, wide, high)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        if picture is None:
            painter.fillRect(there, QColor(p.dough))
        else:
            painter.drawPixmap(there, picture, QRectF(picture.rect()))
        painter.setPen(QColor(p.dough_edge))
        painter.drawRect(there)


def _between(one: Box, other: Box, way: float) -> Box:
    """A box on its way from one to another, of the same volume when they have the same."""
    length = one.length_mm * (other.length_mm / one.length_mm) ** way
    width = one.width_mm * (other.width_mm / one.width_mm) ** way
    height = one.height_mm * (other.height_mm / one.height_mm) ** way
    return Box(length, width, height)


def _words(study: Study, scene: Scene) -> str:
    steps = study.plan.steps
    if scene.step == 0:
        return words_at(enclosing_motion(study.plan.enclosure), scene.part)
    if scene.step > len(steps):
        return f"Roll out to the final sheet, {mm_text(study.formula.sheet_mm)}."
    step = steps[scene.step - 1]
    if not step.is_turn:
        name = step_name(step)
        return f"{name[:1].upper()}{name[1:]}."
    if scene.part <= ROLLED_BY:
        turn = sum(each.is_turn for each in steps[: scene.step]) - 1
        sheets = study.worked.turns
        high = f" to {mm_text(sheets[turn].sheet.height_mm)}" if turn < len(sheets) else ""
        return f"Turn {turn + 1}: roll out{high}."
    if scene.part < FOLDED_BY:
        part = (scene.part - ROLLED_BY) / (FOLDED_BY - ROLLED_BY)
        return words_at(motion_of(step), max(part, 1e-6))
    return "Give it a quarter-turn."
