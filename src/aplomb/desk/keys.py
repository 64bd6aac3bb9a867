"""Every key there is, in one table: the window binds it, the menus show it, F1 lists it."""

from typing import NamedTuple

from aplomb.desk.folds.ribbon_steps import MORE_STEPS
from aplomb.desk.tools import BATCH_PLACES, FOLD_PLACES, PASTE_PLACES

EVERYWHERE = "Everywhere"


class KeyLine(NamedTuple):
    """Keys that do one thing.

    Attributes
    ----------
    where : str
        On which part of the window they do it.
    keys : tuple of str
        As Qt writes key sequences; the first is shown in menus.
    words : str
        What they do.
    """

    where: str
    keys: tuple[str, ...]
    words: str


WINDOW: dict[str, KeyLine] = {
    "stage 1": KeyLine("Stages", ("Alt+1",), "Shelf"),
    "stage 2": KeyLine("Stages", ("Alt+2",), "Paste"),
    "stage 3": KeyLine("Stages", ("Alt+3",), "Folds"),
    "stage 4": KeyLine("Stages", ("Alt+4",), "Batch"),
    "next part": KeyLine(EVERYWHERE, ("F6",), "Next part of the window"),
    "part before": KeyLine(EVERYWHERE, ("Shift+F6",), "Part before"),
    "keys": KeyLine(EVERYWHERE, ("F1",), "These keys; on a figure of the headline: its sum"),
    "book": KeyLine(EVERYWHERE, ("Alt+B",), "Menu of the book"),
    "undo": KeyLine(EVERYWHERE, ("Ctrl+Z",), "Undo, also after a restart"),
    "redo": KeyLine(EVERYWHERE, ("Ctrl+Shift+Z", "Ctrl+Y"), "Redo"),
    "opinion": KeyLine(EVERYWHERE, ("Ctrl+I",), "Show or hide the second opinion"),
    "section": KeyLine(EVERYWHERE, ("Ctrl+E",), "Show or hide the section"),
    "larger": KeyLine(EVERYWHERE, ("Ctrl++", "Ctrl+="), "Larger text"),
    "smaller": KeyLine(EVERYWHERE, ("Ctrl+-",), "Smaller text"),
    "usual size": KeyLine(EVERYWHERE, ("Ctrl+0",), "Usual text"),
    "theme": KeyLine(EVERYWHERE, ("Ctrl+T",), "Light or dark"),
    "quit": KeyLine(EVERYWHERE, ("Ctrl+Q",), "Quit"),
    "new": KeyLine("Formulas and books", ("Ctrl+N",), "New formula"),
    "copy": KeyLine("Formulas and books", ("Ctrl+D",), "Copy the formula"),
    "name": KeyLine("Formulas and books", ("F2",), "Name and purpose"),
    "revision": KeyLine("Formulas and books", ("Ctrl+R",), "Keep a revision"),
    "card": KeyLine("Formulas and books", ("Ctrl+P",), "Batch card as PDF"),
    "open": KeyLine("Formulas and books", ("Ctrl+O",), "Open another book"),
}
"""Keys that the window binds, by what they do."""

PLACES: tuple[KeyLine, ...] = tuple(
    KeyLine(where, (keys,), words)
    for where, places in (
        ("Beside Paste", PASTE_PLACES), ("Beside Folds", FOLD_PLACES),
        ("Beside Batch", BATCH_PLACES),
    )
    for _, words, keys in places
)  # fmt: skip
"""Keys of the places beside the stages."""

LOCAL: tuple[KeyLine, ...] = (
    KeyLine(EVERYWHERE, ("Escape",), "Back from a place; in a field: what stood there before"),
    KeyLine("On the shelf", ("Return",), "Open the formula"),
    KeyLine("On the shelf", ("Delete",), "Delete the formula"),
    KeyLine("In Paste", ("Up", "Down", "Return"), "From line to line"),
    KeyLine("In Paste", ("Alt+Up", "Alt+Down"), "Move the line"),
    KeyLine("In Paste", ("Ctrl+Delete",), "Remove the line"),
    KeyLine("On the plan of turns", ("Left", "Right", "Home", "End"), "Pick a step"),
    KeyLine("On the plan of turns", ("Alt+Left", "Alt+Right"), "Move the step"),
    KeyLine("On the plan of turns", ("2", "3", "4", "5", "6"), "Add a fold in so many"),
    KeyLine("On the plan of turns", ("/",), "Add a rest"),
    KeyLine("On the plan of turns", ("+",), "Add a portion"),
    *(
        KeyLine("On the plan of turns", (key,), f"Add: {words[0].lower()}{words[1:]}")
        for words, key, _ in MORE_STEPS if not key.isdigit()
    ),
    KeyLine("On the plan of turns", ("Delete", "Backspace"), "Remove the step"),
    KeyLine("On the plan of turns", ("Menu",), "Change the step"),
    KeyLine("On the section", ("Left", "Right", "Up", "Down"), "Move the lens"),
    KeyLine("On the section", ("+", "-", "="), "Enlarge, reduce"),
    KeyLine("On a cut plan", ("+", "-", "=", "0"), "Enlarge, reduce, all of it"),
    KeyLine("On a cut plan", ("Left", "Right", "Up", "Down"), "Move it"),
    KeyLine("Inside the paste", ("PgDown", "PgUp"), "A whole step on or back"),
    KeyLine("Weighing out", ("Return", "Enter"), "Take the weight"),
    KeyLine("Weighing out", ("T",), "Tare"),
    KeyLine("Weighing out", ("Backspace",), "The line before"),
    KeyLine("Weighing out", ("Right",), "Skip the line"),
    KeyLine("Weighing out", ("E",), "That is enough: the line ends here"),
    KeyLine("Weighing out", ("S",), "Scale the rest after too much"),
    KeyLine("Weighing out", ("Ctrl+G",), "Simulated scale: put the target on"),
    KeyLine("On a figure of the headline", ("F1", "Return", "Space"), "How it was reached"),
)  # fmt: skip
"""Keys that a part of the window takes by itself."""


def keys_of(what: str) -> str:
    """Give the keys of something the window does, as menus show them."""
    return WINDOW[what].keys[0]


def all_lines() -> tuple[KeyLine, ...]:
    """Give every line of the table, those of one place together."""
    lines = (*WINDOW.values(), *LOCAL, *PLACES)
    order = list(dict.fromkeys(line.where for line in lines))
    return tuple(sorted(lines, key=lambda line: order.index(line.where)))


_SIGNS = {
    "Return": "Enter", "Escape": "Esc", "PgDown": "Page Down", "PgUp": "Page Up", "Up": "↑",
    "Down": "↓", "Left": "←", "Right": "→",
}  # fmt: skip


def shown(keys: str) -> str:
    """Write one key sequence as a person reads it."""
    if keys in ("+", "-", "/", "="):
        return keys.replace("-", "−")
    held, last = keys[:-1].rpartition("+")[0], keys[-1]
    if not keys.endswith("++"):
        held, _, last = keys.rpartition("+")
    return "+".join(n for n in (held, _SIGNS.get(last, last).replace("-", "−")) if n)
