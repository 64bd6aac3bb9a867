"""The small dialogs of the window: name and purpose, a revision, the keys."""

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QFrame,
    QGridLayout,
    QInputDialog,
    QLineEdit,
    QMessageBox,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from aplomb.core.base.errors import AplombError
from aplomb.desk.kit.ask_path import ask_save_path
from aplomb.desk.kit.fields import button, label, plain_tip, row, run_dialog
from aplomb.desk.session import Session
from aplomb.disk import write_bytes
from aplomb.work.commands import all_lines, shown


def ask_name(window: QWidget, session: Session) -> None:
    """Ask for name and purpose of the formula in hand."""
    formula = session.formula
    if formula is None:
        return
    dialog = QDialog(window)
    dialog.setWindowTitle("Name and purpose")
    dialog.setMinimumWidth(440)
    name, purpose = QLineEdit(formula.name), QLineEdit(formula.purpose)
    name.setMaxLength(120)
    purpose.setMaxLength(300)
    wrong = label("", "wrong")
    form = QFormLayout(dialog)
    form.addRow("Name", name)
    form.addRow("For", purpose)
    form.addRow(wrong)

    def done() -> None:
        try:
            session.shelf.edit(
                f"name {name.text().strip()}",
                lambda f: replace(f, name=name.text().strip(), purpose=purpose.text().strip()),
            )
        except AplombError as error:
            wrong.setText(str(error))
            return
        dialog.accept()

    ok = button("Apply", "main", done)
    ok.setDefault(True)
    form.addRow(row(None, button("Cancel", "", dialog.reject), ok))
    name.selectAll()
    run_dialog(dialog)


def ask_text(window: QWidget, title: str, words: str, text: str = "") -> str | None:
    """Ask for a line of text; None when it is closed without one."""
    dialog = QInputDialog(window)
    dialog.setWindowTitle(title)
    dialog.setLabelText(plain_tip(words))
    dialog.setTextValue(text)
    return typed_in(dialog)


def typed_in(dialog: QInputDialog) -> str | None:
    """Run a dialog that asks for a line of text."""
    run_dialog(dialog)
    return dialog.textValue() if dialog.result() == QDialog.DialogCode.Accepted else None


def ask_revision(window: QWidget, session: Session) -> None:
    """Keep the formula in hand as a revision, with a name if wanted."""
    if session.study is None:
        return
    number = session.shelf.revision + 1
    name = ask_text(window, "Save a revision", f"Revision {number}. Name (optional):")
    if name is None:
        return
    try:
        session.shelf.keep_revision(name.strip()[:80])
    except AplombError as error:
        tell(window, str(error))


def tell(window: QWidget, words: str) -> None:
    """Say why something could not be done."""
    box = QMessageBox(window)
    box.setWindowTitle("Aplomb")
    box.setIcon(QMessageBox.Icon.NoIcon)
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(words)
    run_dialog(box)


def show_keys(window: QWidget) -> None:
    """Show all keys, from the one table of them."""
    dialog = QDialog(window)
    dialog.setWindowTitle("Keys")
    inner = QWidget()
    inner.setObjectName("inner")
    grid = QGridLayout(inner)
    grid.setHorizontalSpacing(20)
    last = ""
    for at, line in enumerate(all_lines()):
        if line.where != last:
            last = line.where
            grid.addWidget(label(line.where, "title"), 2 * at, 0, 1, 2)
        keys = label(", ".join(shown(each) for each in line.keys), "strong")
        grid.addWidget(keys, 2 * at + 1, 0)
        grid.addWidget(label(line.words), 2 * at + 1, 1)
    grid.setColumnStretch(1, 1)
    area = QScrollArea()
    area.setWidget(inner)
    area.setWidgetResizable(True)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setAccessibleName("All keys")
    area.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    column = QVBoxLayout(dialog)
    column.addWidget(area)
    column.addLayout(row(None, button("Close", "", dialog.accept)))
    wide = inner.sizeHint().width() + 40
    dialog.resize(min(wide, window.width() - 40), min(640, window.height() - 60))
    area.setFocus()
    run_dialog(dialog)


def tell_fault(window: QWidget, words: str, report: str) -> None:
    """Tell of a fault of the program; its report can be kept in a file."""
    box = QMessageBox(window)
    box.setWindowTitle("Aplomb")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(words)
    keep = box.addButton("Save the report…", QMessageBox.ButtonRole.ActionRole)
    go_on = box.addButton("Continue", QMessageBox.ButtonRole.AcceptRole)
    box.setDefaultButton(go_on)
    box.setEscapeButton(go_on)
    run_dialog(box)
    if box.clickedButton() is keep:
        path = ask_save_path(window, "Save the report", Path.home() / "aplomb-report.txt", "*.txt")
        if path is not None:
            try:
                write_bytes(path, report.encode())
            except AplombError as error:
                tell(window, str(error))


def ask_unwritten(parent: QWidget, session: Session, keep_copy: Callable[[], object]) -> bool:
    """Ask what to do with changes that cannot be written; True when the window may close."""
    box = QMessageBox(parent)
    box.setWindowTitle("Aplomb")
    box.setText(session.work.unwritten_words())
    copy = box.addButton("Save a copy elsewhere…", QMessageBox.ButtonRole.AcceptRole)
    stay = box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
    lose = box.addButton("Quit and lose the changes", QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(stay)
    run_dialog(box)
    if box.clickedButton() is copy:
        keep_copy()
        return session.close()
    return box.clickedButton() is lose
