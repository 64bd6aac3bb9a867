"""The Shelf: every formula of the book, with its section, ratio and leaves."""

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import (
    QAbstractListModel,
    QModelIndex,
    QPersistentModelIndex,
    QPointF,
    QRectF,
    QSize,
    Qt,
    QTimer,
    Signal,
)
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen, QPixmap, QResizeEvent, QShowEvent
from PySide6.QtWidgets import (
    QBoxLayout,
    QLineEdit,
    QListView,
    QStackedWidget,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from aplomb.book.entry import Entry
from aplomb.core.base.figures import num, number_text
from aplomb.desk.kit.fields import button, label, plain_tip, row
from aplomb.desk.kit.theme import TITLE, look
from aplomb.desk.session import Session
from aplomb.work.commands import keys_of

if TYPE_CHECKING:
    from aplomb.core.study.study import Study

SECTIONS_AFTER_MS = 30
"""From showing the shelf to drawing its sections [ms]."""
MOST_THUMBS = 200
"""Sections that are kept drawn [-]."""
MOST_FIGURES = 5
"""So many figures a formula has; their room is kept before they are worked out [-]."""
LEAST_NAME = 190
"""A name has so much room beside the figures at 100 %, or they stand below it [px]."""
UID = Qt.ItemDataRole.UserRole
Index = QModelIndex | QPersistentModelIndex
NOWHERE = QModelIndex()


class ShelfModel(QAbstractListModel):
    """The formulas whose name or purpose holds every word searched for."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._words: list[str] = []
        self._texts: dict[str, str] = {}
        self._uids: list[str] = []
        self.reset()

    def rowCount(self, parent: Index = NOWHERE) -> int:
        """Number of formulas that fit."""
        return 0 if parent.isValid() else len(self._uids)

    def data(self, index: Index, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        """Name, identity, or words for a screen reader."""
        if not index.isValid():
            return None
        uid = self._uids[index.row()]
        if role == UID:
            return uid
        entry = self._session.entries.get(uid)
        if entry is None:  # it went, and the list is told on the next turn
            return None
        if role == Qt.ItemDataRole.DisplayRole:
            return entry.name
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(entry.purpose)
        if role == Qt.ItemDataRole.AccessibleDescriptionRole:
            return entry.purpose
        return None

    def search(self, text: str) -> None:
        """Show only what fits; going on typing looks only through what still fits."""
        words = text.casefold().split()
        narrower = bool(self._words) and " ".join(words).startswith(" ".join(self._words))
        among = self._uids if narrower else list(self._session.entries)
        self._words = words
        self._show(among)

    def reset(self) -> None:
        """Read the shelf anew."""
        self._texts = {
            uid: f"{entry.name} {entry.purpose}".casefold()
            for uid, entry in self._session.entries.items()
        }
        self._show(list(self._session.entries))

    def _show(self, uids: list[str]) -> None:
        self.beginResetModel()
        texts = self._texts
        for word in self._words:
            uids = [uid for uid in uids if word in texts[uid]]
        self._uids = uids
        self.endResetModel()

    def row_of(self, uid: str) -> int:
        """Place of a formula, -1 when it is not shown."""
        return self._uids.index(uid) if uid in self._uids else -1


class ShelfDelegate(QStyledItemDelegate):
    """Paints a formula: section, name, purpose, and its figures, beside them or below."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.with_figures = self.with_sections = self.tall = False
        self._thumbs: dict[tuple[str, str, QSize], tuple[Study, QPixmap]] = {}
        self._tried: object = None
        self._lifts: dict[str, str] = {}

    def sizeHint(self, _option: QStyleOptionViewItem, _index: Index) -> QSize:
        """One row."""
        return QSize(300, look.theme.px(126 if self.tall else 78))

    def fit(self, wide: int) -> bool:
        """Set the figures below where they leave the name no room [px]; True when that changed."""
        before = self.tall
        self.tall = wide < look.theme.px(110 + LEAST_NAME + 92 * MOST_FIGURES) + 60
        return self.tall != before

    def areas(self, room: QRectF, many: int) -> tuple[QRectF, QRectF, list[QRectF]]:
        """Say where things lie on the card of a formula.

        Returns
        -------
        tuple of (section, name and purpose, figures)
        """
        px = look.theme.px
        high = max(px(50), px(78) - 28) if self.tall else room.height() - 20
        thumb = QRectF(room.left() + 12, room.top() + 10, px(110), high)
        left = thumb.right() + 16
        if self.tall:
            wide, x, y = (room.width() - 24) // max(1, many), room.left() + 12, thumb.bottom() + 4
            names = QRectF(left, room.top() + 8, room.right() - left - 12, high)
        else:
            wide, y = float(px(92)), room.top() + px(8)
            x = room.right() - 10 - wide * many
            names = QRectF(left, room.top() + 8, x - left - 16, room.height() - 14)
        return thumb, names, [QRectF(x + wide * i, y, wide, px(46)) for i in range(many)]

    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """Paint one formula."""
        p = look.theme.palette
        uid = index.data(UID)
        entry = self._session.entries.get(uid)
        if entry is None:
            return
        study = self._session.shelf.study_of(uid, search=False) if self.with_figures else None
        room = QRectF(option.rect).adjusted(2, 4, -4, -4)
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        picked = uid == self._session.uid
        view = option.widget
        focused = isinstance(view, QListView) and view.hasFocus() and view.currentIndex() == index
        painter.setPen(QPen(QColor(p.action if picked else p.line), 2 if picked else 1))
        painter.setBrush(QColor(p.picked if focused else p.card))
        painter.drawRoundedRect(room, 8, 8)
        figures = self._figures(study, uid)
        many = len(figures) if self.with_figures else MOST_FIGURES
        thumb, names, places = self.areas(room, many)
        self._paint_thumb(painter, thumb, uid, study)
        self._paint_text(painter, names, entry)
        for (word, value), place in zip(figures, places, strict=False):
            painter.setFont(look.theme.font(13))
            painter.setPen(QColor(p.second))
            painter.drawText(QPointF(place.left(), place.top() + look.theme.px(16)), word)
            painter.setFont(look.theme.font(20, 600))
            painter.setPen(QColor(p.text))
            painter.drawText(QPointF(place.left(), place.top() + look.theme.px(42)), value)
        painter.restore()

    def _paint_text(self, painter: QPainter, where: QRectF, entry: Entry) -> None:
        p = look.theme.palette
        painter.setFont(look.theme.font(19, 600, TITLE))
        painter.setPen(QColor(p.text))
        metrics = painter.fontMetrics()
        high = metrics.height()
        name = metrics.elidedText(entry.name, Qt.TextElideMode.ElideRight, int(where.width()))
        painter.drawText(QRectF(where.left(), where.top(), where.width(), high), 0, name)
        painter.setFont(look.theme.font(14))
        painter.setPen(QColor(p.second))
        purpose = painter.fontMetrics().elidedText(
            entry.purpose, Qt.TextElideMode.ElideRight, int(where.width())
        )
        below = QRectF(where.left(), where.top() + high + 2, where.width(), look.theme.px(22))
        painter.drawText(below, 0, purpose)

    def _last_lifts(self) -> dict[str, str]:
        """What the last trial of each formula lifted, in words; told anew when trials change."""
        from aplomb.core.trials.came import came_of

        tried = self._session.store.tried
        if tried is not self._tried:
            self._tried = tried
            came = ((t.uid, came_of(t, "lift")) for t in tried.trials)
            self._lifts = {uid: f"{num(each.mean, '.2f')} ×" for uid, each in came if each}
        return self._lifts

    def _figures(self, study: "Study | None", uid: str) -> list[tuple[str, str]]:
        if study is None:
            return []
        from aplomb.work.figures.typed import reading_text

        r = study.readings
        looks = len(study.shown_opinions)
        about = "≈" if r.leaves_are_means else ""
        lifts = self._last_lifts()
        last = [("Last lift", lifts.get(uid, "–"))] if lifts else []
        return [
            *last,
            ("Fat on flour", reading_text(r.fat_product_pct) + " %"),
            ("Fat leaves", about + reading_text(r.fat_leaves)),
            ("Fat leaf", reading_text(r.fat_leaf_um) + " µm"),
            ("To look at", number_text(looks, 0) if looks else "✓"),
        ]

    def _paint_thumb(
        self, painter: QPainter, where: QRectF, uid: str, study: "Study | None"
    ) -> None:
        p = look.theme.palette
        thumb = None
        if self.with_sections and study is not None:
            thumb = self._thumb(uid, study, where, painter.device().devicePixelRatioF())
        if thumb is None or thumb.isNull():
            painter.setPen(QPen(QColor(p.line), 1.5, Qt.PenStyle.DashLine))
            painter.drawRect(where)
            return
        painter.drawPixmap(where.topLeft(), thumb)

    def _thumb(self, uid: str, study: "Study", where: QRectF, ratio: float) -> QPixmap:
        """Draw a formula's section once for as long as it stays the same; null without one."""
        size = (where.size() * ratio).toSize()
        key = (uid, look.theme.name, size)
        known = self._thumbs.get(key)
        if known is not None and _cuts_alike(known[0], study):
            return known[1]
        from aplomb.core.folds.raster import Window
        from aplomb.desk.drawings.section import SectionImage, paint_cut

        cut = SectionImage(study, None, study.formula.sheet_mm)
        drawn = QPixmap()
        if not cut.trouble:
            leaves = study.readings.fat_leaves or 1
            part = min(1.0, 8 / leaves)
            seen = Window(0.3, 0.3 + part, 0.5 - part / 2, 0.5 + part / 2)
            drawn = QPixmap(size)
            drawn.setDevicePixelRatio(ratio)
            drawn.fill(Qt.GlobalColor.transparent)
            painter = QPainter(drawn)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            edge = QColor(look.theme.palette.dough_edge)
            paint_cut(painter, QRectF(QPointF(0, 0), where.size()), cut, seen, edge)
            painter.end()
        if len(self._thumbs) >= MOST_THUMBS:
            self._thumbs.clear()
        self._thumbs[key] = (study, drawn)
        return drawn


def _cuts_alike(one: "Study", other: "Study") -> bool:
    """Whether two studies have one section: a price or a measure of the house changes none."""
    return one is other or (
        one.formula == other.formula
        and one.readings.fat_volume_share == other.readings.fat_volume_share
        and one.turns == other.turns
    )


class ShelfStage(QWidget):
    """The shelf, with its search and what can be done with a formula.

    Signals
    -------
    opened
        The formula in hand is to be worked on.
    asked : str, object
        A command is wanted, and what it is about.
    """

    opened = Signal()
    asked = Signal(str, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        look.changed.connect(self._look_changed)
        self._session = session
        self.setObjectName("page")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a formula")
        self.search.setAccessibleName("Find a formula")
        self.search.setClearButtonEnabled(True)
        self.model = ShelfModel(session)
        self.delegate = ShelfDelegate(session)
        self._paper = QWidget()  # ours: the list's own would be looked for among all classes
        self._paper.setAutoFillBackground(True)
        self.list = QListView()
        self.list.setObjectName("shelf")
        self.list.setAccessibleName("Formulas")
        self.list.setViewport(self._paper)
        self.list.setModel(self.model)
        self.list.setItemDelegate(self.delegate)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.setUniformItemSizes(True)
        self.list.setSpacing(2)
        self._empty = self._make_empty()
        self._pages = QStackedWidget()
        self._pages.addWidget(self.list)
        self._pages.addWidget(self._empty)
        self._copy = button("Copy", "", lambda: session.shelf.copy(), "Ctrl+D")
        self._rename = button(
            "Rename…", "", partial(self.asked.emit, "name", None), keys_of("name")
        )
        self._delete = button(
            "Delete", "", lambda: session.shelf.delete(), "Delete; Ctrl+Z brings it back"
        )
        self._new = button("New formula", "main", self._begin, keys_of("new"))
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 12, 18, 12)
        column.setSpacing(8)
        self._bar = QBoxLayout(QBoxLayout.Direction.LeftToRight)
        self._bar.addWidget(self.search, 1)
        self._bar.addLayout(row(self._new, self._copy, self._rename, self._delete))
        column.addLayout(self._bar)
        self.setMinimumSize(300, 120)
        column.addWidget(self._pages, 1)
        self.search.textChanged.connect(self.model.search)
        self.search.textChanged.connect(lambda _text: self.refresh())
        self.list.activated.connect(self._open)
        self.list.clicked.connect(self._pick)
        self.list.selectionModel().currentChanged.connect(lambda now, _before: self._pick(now))
        session.shelf_changed.connect(self._reset)
        session.studied.connect(self.refresh)
        self._reset()

    def _make_empty(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        self.empty_title = label("", "title")
        self.empty_words = label("", "second")
        self.empty_words.setWordWrap(True)
        column.addSpacing(40)
        column.addWidget(self.empty_title)
        column.addWidget(self.empty_words)
        column.addStretch(1)
        return page

    def fill(self) -> None:
        """Show the figures, which were not waited for."""
        self.delegate.with_figures = True
        self._paper.update()

    def showEvent(self, event: QShowEvent) -> None:
        """Draw the sections once the window stands: NumPy is not waited for at the start."""
        super().showEvent(event)
        QTimer.singleShot(SECTIONS_AFTER_MS, self, self._draw_sections)

    def _draw_sections(self) -> None:
        self.delegate.with_sections = True
        self._paper.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Set the search above the buttons when it is narrow."""
        super().resizeEvent(event)
        self._fit()
        narrow = self.width() < look.theme.px(560)
        direction = QBoxLayout.Direction
        self._bar.setDirection(direction.TopToBottom if narrow else direction.LeftToRight)

    def _begin(self) -> None:
        self._session.shelf.new()

    def _fit(self) -> None:
        if self.delegate.fit(self.width() - 60):
            self.list.doItemsLayout()

    def _look_changed(self) -> None:
        self._fit()
        self.model.reset()
        self.refresh()

    def focus_first(self) -> None:
        """Put the cursor where one begins."""
        (self.list if self.model.rowCount() else self._new).setFocus(Qt.FocusReason.TabFocusReason)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Delete takes the formula off the shelf; letters go to the search."""
        if event.key() == Qt.Key.Key_Delete and self.list.hasFocus():
            self._session.shelf.delete()
        else:
            super().keyPressEvent(event)

    def _pick(self, index: Index) -> None:
        if index.isValid() and index.data(UID) != self._session.uid:
            self._session.shelf.select(index.data(UID))

    def _open(self, index: Index) -> None:
        self._pick(index)
        self.opened.emit()

    def _reset(self) -> None:
        self.model.reset()
        self.refresh()

    def refresh(self) -> None:
        """Show which formula is in hand."""
        some = self.model.rowCount() > 0
        self._pages.setCurrentWidget(self.list if some else self._empty)
        for each in (self._copy, self._rename, self._delete):
            each.setEnabled(bool(self._session.uid))
        if not some:
            searched = bool(self._session.entries)
            self.empty_title.setText("No match" if searched else "The shelf is empty")
            self.empty_words.setText(
                "No formula contains these words. Clear the search to see all of them."
                if searched
                else (
                    "Every formula in this book appears here with its section and "
                    "figures. Press Ctrl+N to start one: it comes with flour, water, "
                    "salt and butter in the usual proportions, ready to change. To look "
                    "around first, open the demo book under Book (Alt+B)."
                )
            )
            return
        at = self.model.row_of(self._session.uid)
        if at >= 0 and at != self.list.currentIndex().row():
            self.list.setCurrentIndex(self.model.index(at))
        self._paper.update()
