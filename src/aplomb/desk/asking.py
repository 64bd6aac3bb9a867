"""The small dialogs of the window: name and purpose, a revision, the keys."""

from collections.abc import Callable
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QDialog,
    QFormLayout,
    QGridLayout,
    QInputDialog,
    QLineEdit,
    QMessageBox,
    QWidget,
)

from aplomb.core.errors import AplombError
from aplomb.desk.ask_path import ask_save_path
from aplomb.desk.fields import button, label, plain_tip, row, run_dialog
from aplomb.desk.session import Session
from aplomb.disk import write_bytes

KEYS = (
    ("Alt+1 … Alt+4", "Shelf, Paste, Folds, Batch"),
    ("Alt+B", "Book: open, copies, papers, settings"),
    ("F6, Shift+F6", "next or previous part of the window"),
    ("F1", "on a figure of the headline: the sum behind it; elsewhere: these keys"),
    ("Ctrl+N, Ctrl+D, F2", "new formula, copy it, name it"),
    ("Ctrl+Z, Ctrl+Shift+Z", "undo, redo, also after a restart"),
    ("Ctrl+P", "batch card as PDF"),
    ("Ctrl+I", "fold or unfold the second opinion"),
    ("Ctrl++, Ctrl+−, Ctrl+0", "larger, smaller, usual text"),
    ("Ctrl+T", "light or dark"),
    ("Alt+L, Alt+M, Alt+A", "paste a list; the pantry; accounts"),
    ("Alt+F, Alt+S, Alt+V", "fats; swap the line; solve for"),
    ("Alt+W, Alt+G, Alt+C", "water, ice and the house; gluten-free; compare"),
    ("Alt+P", "in Folds: find a plan, answer a claim"),
    ("Alt+U, Alt+D, Alt+T", "products and cut plan; the day’s demand; trays and oven"),
    ("Alt+K, Alt+R, Alt+E", "losses and costs; papers; weigh out"),
    ("Esc", "back from any of these"),
    ("Ctrl+R", "keep a revision"),
    ("Up, Down, Enter", "in Paste: from line to line; with Alt the line moves"),
    ("Ctrl+Delete", "in Paste: remove the line"),
    ("Left, Right, 2 to 6, q, /, Delete", "in Folds: pick, add a fold, a rest, remove; Alt moves"),
    ("Arrows, +, −", "on the section: move the lens, enlarge, reduce"),
)


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
            session.edit(
                f"name {name.text().strip()}",
                lambda f: replace(f, name=name.text().strip(), purpose=purpose.text().strip()),
            )
        except AplombError as error:
            wrong.setText(str(error))
            return
        dialog.accept()

    ok = button("Take it", "main", done)
    ok.setDefault(True)
    form.addRow(row(None, button("Leave it", "", dialog.reject), ok))
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
    number = session.revision + 1
    name = ask_text(window, "Keep a revision", f"Revision {number}; a name, if wanted:")
    if name is None:
        return
    try:
        session.keep_revision(name.strip()[:80])
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
    """Show all keys."""
    dialog = QDialog(window)
    dialog.setWindowTitle("Keys")
    grid = QGridLayout(dialog)
    grid.setHorizontalSpacing(20)
    grid.addWidget(label("Keys", "title"), 0, 0)
    for i, (keys, words) in enumerate(KEYS, 1):
        grid.addWidget(label(keys, "strong"), i, 0)
        grid.addWidget(label(words), i, 1)
    grid.addLayout(row(None, button("Close", "", dialog.accept)), len(KEYS) + 1, 0, 1, 2)
    run_dialog(dialog)


def tell_fault(window: QWidget, words: str, report: str) -> None:
    """Tell of a fault of the program; its report can be kept in a file."""
    box = QMessageBox(window)
    box.setWindowTitle("Aplomb")
    box.setTextFormat(Qt.TextFormat.PlainText)
    box.setText(words)
    keep = box.addButton("Keep the report…", QMessageBox.ButtonRole.ActionRole)
    go_on = box.addButton("Go on", QMessageBox.ButtonRole.AcceptRole)
    box.setDefaultButton(go_on)
    box.setEscapeButton(go_on)
    run_dialog(box)
    if box.clickedButton() is keep:
        path = ask_save_path(window, "Keep the report", Path.home() / "aplomb-report.txt", "*.txt")
        if path is not None:
            try:
                write_bytes(path, report.encode())
            except AplombError as error:
                tell(window, str(error))


def ask_unwritten(parent: QWidget, session: Session, keep_copy: Callable[[], object]) -> bool:
    """Ask what to do with changes that cannot be written; True when the window may close."""
    box = QMessageBox(parent)
    box.setWindowTitle("Aplomb")
    box.setText(f"{session.trouble}\n{session.unwritten} changes would be lost.")
    copy = box.addButton("Keep a copy elsewhere…", QMessageBox.ButtonRole.AcceptRole)
    stay = box.addButton("Stay", QMessageBox.ButtonRole.RejectRole)
    lose = box.addButton("Leave without them", QMessageBox.ButtonRole.DestructiveRole)
    box.setDefaultButton(stay)
    run_dialog(box)
    if box.clickedButton() is copy:
        keep_copy()
        return session.close()
    return box.clickedButton() is lose
