"""Photograph: heights, widths and leaves measured on a picture, beside the section worked out."""

from functools import partial

from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QCheckBox, QFrame, QVBoxLayout

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import mm_text, num
from aplomb.core.trials.picture import Counted, Scale, count_leaves, scale_of
from aplomb.core.trials.trial import PIECE_WORDS, Trial, check_trial
from aplomb.desk.drawings.strip import strip_image
from aplomb.desk.kit.background import EveryJob, FaultError, LatestJob
from aplomb.desk.kit.fields import button, card, choice, fix_width, label, row, wrapping
from aplomb.desk.kit.flow import Flow
from aplomb.desk.kit.typed import Field
from aplomb.desk.session import Session
from aplomb.desk.stages.page import Page
from aplomb.desk.trials.photo_file import grey_of, opened, take_in
from aplomb.desk.trials.photo_view import PhotoView
from aplomb.work.figures.typed import read_length, read_whole
from aplomb.work.trials.photo import TakenIn, put_picture, with_measured

MEASURED = (
    "baked_mm",
    "low_mm",
    "raw_mm",
    "baked_along_mm",
    "baked_across_mm",
    "raw_along_mm",
    "raw_across_mm",
)
"""What a length on a photograph may be of a piece."""
STRIP_WIDE_MM = 6.0


class PicturePage(Page):
    """A trial's photographs, measured."""

    KEY = "picture"
    HINT = "Keys: 1, 2, 3 pick a line, Space picks its other end, arrows move it, + and − zoom."

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.key = ""
        self.shown = ""
        self._image = QImage()
        self._apart_mm = 30.0
        self.reading = EveryJob(self._take_read, self)
        self.opening = LatestJob(self._take_opened, self, lambda: (self.in_hand(), self.shown))
        self.counting = LatestJob(self._take_count, self, self._counted_of)
        self.counted: Counted | None = None
        self.which = choice("Photograph")
        self.which.activated.connect(self._choose)
        self.trial_words = label("", "strong")
        self.open = button("Open a picture…", "main", self._ask_file)
        self.original = QCheckBox("keep the original too")
        self.drop = button("Remove", "quiet", self._drop)
        self._body.addLayout(
            Flow(self.trial_words, self.which, self.open, self.original, self.drop, spacing=8)
        )
        self.view = PhotoView()
        self.view.changed.connect(self._lines_changed)
        self._body.addLayout(self.two_sides(self._view_card(), self._side(), (5, 2)), 1)

    def _view_card(self) -> QFrame:
        frame, column = card(spacing=0)
        column.setContentsMargins(4, 4, 4, 4)
        column.addWidget(self.view, 1)
        return frame

    def _side(self) -> QVBoxLayout:
        side = QVBoxLayout()
        side.setSpacing(10)
        frame, column = card(spacing=6)
        column.addWidget(label("1  Scale", "strong"))
        self.apart = Field("The scale line is", self._take_apart, self.show_error)
        fix_width(self.apart, 80)
        column.addLayout(row(label("Length of the line, mm"), self.apart, None))
        self._scale_words = wrapping("", "second")
        column.addWidget(self._scale_words)
        column.addLayout(row(button("Ruler strip as PDF…", "quiet", self._ruler), None))
        side.addWidget(frame)
        frame, column = card(spacing=6)
        column.addWidget(label("2  Length", "strong"))
        self.length = wrapping("", "big")
        column.addWidget(self.length)
        self.piece = Field("Piece", self._take_piece, self.show_error)
        fix_width(self.piece, 50)
        self.what = choice("What it is", (PIECE_WORDS[n].partition(",")[0] for n in MEASURED))
        column.addLayout(row(label("of piece"), self.piece, self.what))
        self.put = button("Add height to the piece", "", self._put_length)
        column.addLayout(row(self.put, None))
        side.addWidget(frame)
        frame, column = card(spacing=6)
        column.addWidget(label("3  Leaves", "strong"))
        self._leaves = wrapping("", "big")
        self._doubt = wrapping("", "second")
        self.count = button("Count along the line", "", self._count)
        self.put_leaves = button("Add leaves to the piece", "", self._put_count)
        for each in (self._leaves, self._doubt):
            column.addWidget(each)
        column.addLayout(Flow(self.count, self.put_leaves, spacing=6))
        side.addWidget(frame)
        side.addStretch(1)
        return side

    def in_hand(self) -> object:
        """Identity of the trial that what is typed here is for."""
        return self._session.book.path, self.key

    @property
    def trial(self) -> Trial | None:
        """The trial whose photographs are shown."""
        return self._session.store.tried.trial(self.key)

    def begin(self, target: object = None) -> None:
        """Begin with a trial; one that has a photograph for None."""
        tried = self._session.store.tried
        pictured = tuple(t for t in tried.trials if t.pictures)
        self.key = tried.key_for(target, self.key, pictured or tried.trials)
        self.counted = None

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        self.first_focus(self.view if not self._image.isNull() else self.open)

    # ------------------------------------------------------------------ shown

    def refresh(self) -> None:
        """Show the trial's photographs."""
        trial = self.trial
        self.open.setEnabled(trial is not None)
        if trial is None:
            self.show_error("No trial yet. Choose “New trial” (Ctrl+Shift+N) to start one.")
            return
        self.trial_words.setText(f"{trial.variant or trial.formula}, {trial.at[:10]}")
        rows = self._session.book.pictures.all()
        known = [key for key in trial.pictures if key in rows]
        if [self.which.itemData(i) for i in range(self.which.count())] != known:
            self.which.clear()
            for key in known:
                self.which.addItem(rows[key].name[:40], key)
        self.which.setVisible(bool(known))
        if self.drop.hasFocus() and not known:
            self.open.setFocus(Qt.FocusReason.OtherFocusReason)
        self.drop.setEnabled(bool(known))
        wanted = self.shown if self.shown in known else (known[-1] if known else "")
        self.which.setCurrentIndex(self.which.findData(wanted))
        if wanted != self.shown:
            self.shown = wanted
            if wanted:
                self.opening.ask(partial(self._open_body, wanted))
            else:
                self._show_image(QImage())
        self.apart.show_value(mm_text(self._apart_mm).partition(" ")[0])
        if not self.piece.text():
            self.piece.show_value("1")
        self._lines_changed()

    def _open_body(self, key: str) -> QImage:
        return opened(self._session.book.pictures.body(key))

    def _take_opened(self, found: "QImage | AplombError") -> None:
        self._show_image(QImage() if isinstance(found, AplombError) else found)

    def _show_image(self, image: QImage) -> None:
        self._image, self.counted = image, None
        self.view.show_image(image)
        self._lines_changed()

    def scale(self) -> Scale | None:
        """Give the scale as it is set; None when it cannot be."""
        ends = self.view.lines.get("scale")
        if ends is None:
            return None
        try:
            return scale_of(_pair(ends[0]), _pair(ends[1]), self._apart_mm)
        except AplombError as error:
            self._scale_words.setText(str(error))
            return None

    def _lines_changed(self) -> None:
        scale = self.scale()
        there = not self._image.isNull()
        for each in (self.put, self.count):
            each.setEnabled(there and scale is not None)
        self.put_leaves.setEnabled(self.counted is not None and self.counted.leaves >= 1)
        if not there or scale is None:
            self.length.setText("–")
            self._show_count()
            return
        self._scale_words.setText(
            f"{num(scale.px_per_mm, '.3g')} pixels per millimetre. Put the ends of the "
            "line on two marks of the ruler."
        )
        first, second = (_pair(end) for end in self.view.lines["length"])
        self.length.setText(
            f"{mm_text(scale.mm(first, second), '.1f')} ± "
            f"{num(max(0.05, scale.doubt_mm(first, second)), '.1f')}"
        )
        self._show_strip(scale)
        self._show_count()

    def _show_count(self) -> None:
        found = self.counted
        if found is None:
            self._leaves.setText("–")
            self._doubt.setText("Draw the line across all leaves, then count.")
            return
        self._leaves.setText(
            f"{num(found.leaves, '.0f')}  ({num(found.low, '.0f')} to {num(found.high, '.0f')})"
        )
        study = self._session.study
        plan = study.readings.fat_leaves if study is not None else None
        words = found.why or f"the leaves are {num(found.px_a_leaf, '.1f')} pixels apart"
        if plan:
            words += f"; the plan has {num(plan, '.0f')} fat leaves: merged ones cannot be seen"
        self._doubt.setText(words)

    def _show_strip(self, scale: Scale) -> None:
        """Show the raw sheet's computed section at the same scale."""
        study = self._session.study
        if study is None:
            return
        high = max(4, round(study.formula.sheet_mm * scale.px_per_mm))
        wide = max(4, round(STRIP_WIDE_MM * scale.px_per_mm))
        stack = study.stack()
        if stack is None:
            self.view.show_strip(QImage(), "")
            return
        self.view.show_strip(strip_image(stack, wide, high), "raw sheet, same scale")

    # ------------------------------------------------------------------ done

    def _choose(self, _at: int) -> None:
        self.shown = ""
        key = self.which.currentData()
        if key:
            self.shown = key
            self.opening.ask(partial(self._open_body, key))

    def _ask_file(self) -> None:
        self.asked.emit("open picture", self.take_file)

    def take_file(self, path: object) -> None:
        """Read a picture from a file, beside the window."""
        from pathlib import Path

        self.show_error("")
        self._session.work.news.said("Reading the picture …")
        original = self.original.isChecked()
        # It belongs to the trial it was asked for, whichever is shown once it is read.
        self.reading.ask(self.in_hand(), lambda: take_in(Path(str(path)), original=original))

    def _take_read(self, about: tuple[object, str], found: "TakenIn | AplombError") -> None:
        book, key = about
        if isinstance(found, AplombError):
            if not isinstance(found, FaultError):
                self.show_error(str(found))
            return
        trial = self._session.store.tried.trial(key)
        if book != self._session.book.path or trial is None:
            gone = (
                "its trial was removed"
                if book == self._session.book.path
                else "another book was opened"
            )
            self.show_error(f"{found.name} was not saved: {gone} meanwhile. Open it again.")
            return
        if key == self.key:
            self.shown = ""
        try:
            put_picture(self._session.work, trial, found)
        except AplombError as error:
            self.show_error(str(error))
            return
        whose = (
            "" if key == self.key else f", with {trial.variant or trial.formula}, {trial.at[:10]}"
        )
        self._session.work.news.said(f"{found.name} is in the book{whose}.")
        self.refresh()

    def _drop(self) -> None:
        trial, key = self.trial, self.which.currentData()
        if trial is not None and key:
            rest = tuple(each for each in trial.pictures if each != key)
            self._session.store.put_trials(
                "remove a photograph", [check_trial(replace(trial, pictures=rest))]
            )
            self._session.work.news.said("Photograph removed. Ctrl+Z brings it back.")

    def _take_apart(self, text: str) -> None:
        value = read_length(text)
        scale_of((0, 0), (100, 0), value)
        self._apart_mm = value
        self._lines_changed()

    def _take_piece(self, text: str) -> None:
        if not 1 <= read_whole(text) <= 200:
            raise AplombError("enter which piece it is: 1 for the first, up to 200")

    def _piece_at(self) -> int | None:
        if not self.piece.commit():
            return None
        return read_whole(self.piece.text() or "1") - 1

    def _put_length(self) -> None:
        trial, scale, at = self.trial, self.scale(), self._piece_at()
        if trial is None or scale is None or at is None:
            return
        name = MEASURED[max(0, self.what.currentIndex())]
        first, second = (_pair(end) for end in self.view.lines["length"])
        self._put(trial, at, name, scale.mm(first, second))

    def _put_count(self) -> None:
        trial, at = self.trial, self._piece_at()
        if trial is not None and self.counted is not None and at is not None:
            self._put(trial, at, "leaves", self.counted.leaves)

    def _put(self, trial: Trial, at: int, name: str, value: float) -> None:
        words = PIECE_WORDS[name].partition(",")[0].lower()
        try:
            made = with_measured(trial, at, name, value)
            self._session.store.put_trials(f"{words} from a photograph", [made])
        except AplombError as error:
            self.show_error(str(error))
            return
        self.show_error("")
        self._session.work.news.said(f"Piece {at + 1}: {words} {num(value, '.4g')}")

    def _count(self) -> None:
        if self._image.isNull():
            return
        image, (first, second) = self._image, self.view.lines["leaves"]
        ends = _pair(first), _pair(second)
        self.counting.ask(lambda: count_leaves(grey_of(image), *ends))

    def _counted_of(self) -> object:
        """What a count belongs to: the picture, and where the line lies on it."""
        return self.in_hand(), self.shown, [_pair(end) for end in self.view.lines.get("leaves", ())]

    def _take_count(self, found: "Counted | AplombError") -> None:
        if isinstance(found, AplombError):
            if not isinstance(found, FaultError):
                self.show_error(str(found))
            return
        self.counted = found
        first, second = self.view.lines["leaves"]
        self.view.show_marks(tuple(first + (second - first) * at for at in found.at))
        self._lines_changed()

    def _ruler(self) -> None:
        from aplomb.desk.paper.trials import ruler_pdf

        self.asked.emit("trial paper", ("Ruler strips", "Aplomb", "pdf", ruler_pdf))


def _pair(at: QPointF) -> tuple[float, float]:
    return at.x(), at.y()
