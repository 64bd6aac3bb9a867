"""Who does what the table of commands names: the one place where its keys meet the window."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from aplomb.book.paths import demo_book, own_book
from aplomb.work.commands import STAGES

if TYPE_CHECKING:
    from aplomb.desk.shell.window import Window


def acts_of(window: "Window") -> dict[str, Callable[..., object]]:
    """Give what is done for each command that is no place.

    Besides, what places ask for that is no command by itself: it takes what it is about.
    """
    papers, files, shelf = window.papers, window.files, window.session.shelf
    acts: dict[str, Callable[..., object]] = {
        f"stage {i + 1}": partial(window.show_stage, i) for i in range(len(STAGES))
    }
    return acts | {
        "next part": partial(window.go_to_part, 1), "part before": partial(window.go_to_part, -1),
        "search": window.search, "keys": window.help, "book": window.book_menu,
        "undo": window.undo, "redo": window.session.journal.redo,
        "opinion": window.toggle_opinion, "section": window.toggle_section,
        "theme": window.toggle_theme, "larger": partial(window.text_size, 10),
        "smaller": partial(window.text_size, -10), "usual size": partial(window.text_size, 0),
        "quit": window.close, "new": window.new, "copy": shelf.copy, "name": window.rename,
        "delete": shelf.delete, "revision": window.keep_revision,
        "import formula": files.import_formula, "export formula": files.export_formula,
        "import data": files.import_data, "export pantry": files.export_pantry,
        "card": partial(papers.print_card, "pdf"),
        "card csv": partial(papers.print_card, "csv"),
        "section svg": partial(window.give_section, "svg"),
        "section png": partial(window.give_section, "png"),
        "open": files.open_book, "new book": files.new_book, "copy book": files.keep_copy,
        "own book": lambda: files.go_to(own_book()),
        "demo book": lambda: files.go_to(demo_book()),
        "cut svg": papers.give_cut_plan, "paper": lambda asked: papers.give_paper(*asked),
    }  # fmt: skip
