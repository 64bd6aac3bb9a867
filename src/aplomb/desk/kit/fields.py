"""Fields and small pieces that every stage uses."""

from collections.abc import Callable, Iterable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QAbstractButton,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.figures import (
    in_measures,
)
from aplomb.desk.kit.mid_event import bury
from aplomb.desk.kit.theme import look

WIDTH_AT_100 = "width_at_100"
"""A widget's property: its width at text of 100 % [px]."""

CAPTION = "caption_in_metric"
"""Property of a label or button: what it says in a house with metric measures."""
WORDS = "words_of_the_house"
"""Property of a button or field: what makes its words, or those of its empty field."""
MEASURED = ("g", "mm", "cm", "°C", "K")
"""Units that captions end in and a house may have otherwise."""

if TYPE_CHECKING:
    from PySide6.QtWidgets import QComboBox, QDialog, QListView


def plain_tip(text: str) -> str:
    """Give the text of a tool tip so that names with markup in them are shown as they are."""
    if "<" not in text and "&lt" not in text:  # what Qt takes for markup
        return text
    import html

    return f"<p>{html.escape(text)}</p>".replace("\n", "<br>")


def bare_mnemonic(text: str) -> str:
    """Give the text of a button so that an “&” in a name is shown, and no key hangs on it."""
    return text.replace("&", "&&")


def label(text: str = "", kind: str = "", parent: QWidget | None = None) -> QLabel:
    """Make a label of one of the style sheet's kinds."""
    made = QLabel(parent)
    give_caption(made, text)
    made.setObjectName(kind)
    made.setTextFormat(Qt.TextFormat.PlainText)
    return made


def wrapping(text: str = "", kind: str = "") -> QLabel:
    """Make a label whose words go on in the next line, however narrow it gets."""
    made = label(text, kind)
    made.setWordWrap(True)
    made.setMinimumWidth(60)
    return made


def choice(name: str, words: Iterable[str] = ()) -> "QComboBox":
    """Make a list to choose from, named for screen readers by what is to be chosen."""
    from PySide6.QtWidgets import QComboBox

    made = QComboBox()
    made.setAccessibleName(name)
    made.setAccessibleDescription(name)
    made.addItems(list(words))
    return made


def give_caption(made: QLabel | QAbstractButton, text: str) -> None:
    """Give words that may end in a unit: they are written in the house's, and stay so."""
    made.setText(in_measures(text))
    if text.rpartition(", ")[2].partition(" ")[0] in MEASURED:
        made.setProperty(CAPTION, text)


def button(text: str, kind: str, done: Callable[[], None], tip: str = "") -> QPushButton:
    """Make a button of one of the style sheet's kinds."""
    made = QPushButton(text)
    made.setObjectName(kind)
    made.setToolTip(plain_tip(tip))
    made.setAutoDefault(False)
    made.clicked.connect(lambda _=False: done())
    return made


def on_checked(made: QAbstractButton, act: Callable[[bool], object]) -> None:
    """Act when a person checks or unchecks a button, by mouse, key or screen reader.

    A screen reader toggles it without a click. Who shows a state uses `give_checked`, which is not
    taken for a person's doing.
    """
    made.toggled.connect(lambda on: act(on))


def give_checked(made: QAbstractButton, on: bool) -> None:
    """Show a button as checked or not."""
    held = made.blockSignals(True)
    made.setChecked(on)
    made.blockSignals(held)


def card(*, spacing: int = 6) -> tuple[QFrame, QVBoxLayout]:
    """Make a card and the column inside it."""
    frame = QFrame()
    frame.setObjectName("card")
    column = QVBoxLayout(frame)
    column.setContentsMargins(16, 12, 16, 12)
    column.setSpacing(spacing)
    return frame, column


def fix_width(widget: QWidget, at_100: float) -> None:
    """Give a widget a width that goes with the size of text.

    Parameters
    ----------
    at_100 : float
        Width at text of 100 % [px].
    """
    widget.setProperty(WIDTH_AT_100, at_100)
    widget.setFixedWidth(look.theme.px(at_100))


def refit_widths(root: QWidget) -> None:
    """Fit all in a widget to another size of text, once its style sheet is of that size.

    What told its height before that, while it was hidden, tells it again.
    """
    for widget in (root, *root.findChildren(QWidget)):
        widget.updateGeometry()
        at_100 = widget.property(WIDTH_AT_100)
        if at_100 is not None:
            widget.setFixedWidth(look.theme.px(at_100))


def give_words(made: QAbstractButton | QLineEdit, words: Callable[[], str]) -> None:
    """Give a button's text, or what stands in an empty field, made anew for another house."""
    made.setProperty(WORDS, words)
    _put_words(made, words())


def _put_words(made: QAbstractButton | QLineEdit, words: str) -> None:
    if isinstance(made, QLineEdit):
        made.setPlaceholderText(words)
    else:
        made.setText(words)


def respell(root: QWidget) -> None:
    """Write all captions in a widget that hold a unit with that of the house."""
    captions: list[QLabel | QAbstractButton] = list(root.findChildren(QLabel))
    fields: list[QAbstractButton | QLineEdit] = list(root.findChildren(QLineEdit))
    for caption in (*captions, *root.findChildren(QAbstractButton)):
        words = caption.property(CAPTION)
        if words is not None:
            caption.setText(in_measures(words))
    for made in (*fields, *root.findChildren(QAbstractButton)):
        make = made.property(WORDS)
        if make is not None:
            _put_words(made, make())


def pair(text: str, field: QWidget, at_100: float) -> QWidget:
    """Put a word before a field, together so wide; such pairs stand in columns in a flow."""
    made = QWidget()
    line = QHBoxLayout(made)
    line.setContentsMargins(0, 0, 6, 0)
    line.setSpacing(5)
    line.addWidget(label(text, "second"))
    line.addStretch(1)
    line.addWidget(field)
    fix_width(made, at_100)
    return made


def row(*widgets: QWidget | None, spacing: int = 8) -> QHBoxLayout:
    """Lay widgets in a row; None stretches."""
    line = QHBoxLayout()
    line.setSpacing(spacing)
    for widget in widgets:
        if widget is None:
            line.addStretch(1)
        else:
            line.addWidget(widget)
    return line


def let_go(layout: QLayout, *widgets: QWidget) -> None:
    """Take widgets out of a layout; they die when the event that is being dealt with is over."""
    for widget in widgets:
        layout.removeWidget(widget)
        widget.hide()
    bury(*widgets)


def clear(layout: QLayout) -> None:
    """Take every widget out of a layout and those in it, and let go of it."""
    while layout.count():
        item = layout.takeAt(0)
        if item is None:
            return
        widget, inner = item.widget(), item.layout()
        if widget is not None:
            widget.hide()
            bury(widget)
        elif inner is not None:
            clear(inner)


def fit_rows(view: "QListView", rows: int) -> None:
    """Make a list as high as so many of its rows."""
    view.ensurePolished()
    view.setFixedHeight(view.sizeHintForRow(0) * rows + 2 * view.frameWidth() + 4)


def run_dialog(dialog: "QDialog") -> None:
    """Run a dialog, let go of it, and give its window the keyboard back."""
    parent = dialog.parentWidget()
    if parent is not None:
        dialog.setStyleSheet(look.theme.style())
    dialog.exec()
    bury_dialog(dialog)


def bury_dialog(dialog: "QDialog") -> None:
    """Let go of a dialog, and give its window the keyboard back."""
    parent = dialog.parentWidget()
    dialog.hide()
    bury(dialog)
    if parent is not None:
        parent.activateWindow()
