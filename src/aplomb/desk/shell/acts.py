"""Who does what the table of commands names: the one place where its keys meet the window."""

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from aplomb.book.paths import demo_book, own_book
from aplomb.work.commands import PASTE, STAGES

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
        "search": partial(_search, window), "keys": window.help, "book": window.book_menu,
        "undo": window.undo, "redo": window.session.journal.redo,
        "opinion": window.toggle_opinion, "section": window.toggle_section,
        "theme": window.toggle_theme, "larger": partial(window.text_size, 10),
        "smaller": partial(window.text_size, -10), "usual size": partial(window.text_size, 0),
        "quit": window.close, "new": partial(_new, window),
        "copy": shelf.copy, "name": partial(_rename, window),
        "delete": shelf.delete, "revision": partial(_keep_revision, window),
        "import formula": files.import_formula, "export formula": files.export_formula,
        "import data": files.import_data, "export pantry": files.export_pantry,
        "card": partial(papers.print_card, "pdf"),
        "card csv": partial(papers.print_card, "csv"),
        "section svg": partial(_give_section, window, "svg"),
        "section png": partial(_give_section, window, "png"),
        "open": files.open_book, "new book": files.new_book, "copy book": files.keep_copy,
        "own book": lambda: files.go_to(own_book()),
        "demo book": lambda: files.go_to(demo_book()),
        "cut svg": papers.give_cut_plan, "paper": lambda asked: papers.give_paper(*asked),
    }  # fmt: skip


def _search(window: "Window") -> None:
    """Ask what is wanted, and do it."""
    from aplomb.desk.shell.search import search_commands

    search_commands(window, window.do, formula=window.session.study is not None)


def _give_section(window: "Window", kind: str) -> None:
    """Write the section that is seen; elsewhere that of the final sheet."""
    strip = window.strip
    upto, across = strip.shown if strip is not None else (None, False)
    window.papers.give_section(kind, upto, across=across)


def _new(window: "Window") -> None:
    """Begin a formula and go to its name."""
    window.session.shelf.new()
    window.show_stage(PASTE)
    _rename(window)


def _rename(window: "Window") -> None:
    """Ask for name and purpose of the formula in hand."""
    from aplomb.desk.stages.asking import ask_name

    ask_name(window, window.session)


def _keep_revision(window: "Window") -> None:
    """Keep the formula in hand as a revision, with a name if wanted."""
    from aplomb.desk.stages.asking import ask_revision

    window.commit()
    ask_revision(window, window.session)
