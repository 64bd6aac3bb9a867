"""Who does what the table of commands names: the one place where its keys meet the window."""

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Protocol

from msgspec.structs import replace
from PySide6.QtWidgets import QWidget

from aplomb.book.paths import demo_book, own_book
from aplomb.core.day.plan import DayPlan
from aplomb.desk.paper.giving import Papers
from aplomb.desk.session import Session
from aplomb.desk.shell.files import Files
from aplomb.desk.stages.files import Desk
from aplomb.work.commands import BENCH, DAY, PASTE, STAGES
from aplomb.work.day.view import DayView

if TYPE_CHECKING:
    from aplomb.desk.bench.stage import BenchStage
    from aplomb.desk.day.stage import DayStage
    from aplomb.desk.stages.section_view import SectionStrip


class CommandWindow(Desk, Protocol):
    """The window, as far as acts need it."""

    session: Session
    papers: Papers
    files: Files

    @property
    def day(self) -> "DayStage":
        """The Day stage."""

    @property
    def bench(self) -> "BenchStage":
        """The Bench stage."""

    @property
    def strip(self) -> "SectionStrip | None":
        """The section that is seen."""

    def do(self, key: str, about: object = None) -> None:
        """Do what a key asks for."""

    def go_to_part(self, by: int) -> None:
        """Take the keyboard to another part."""

    def text_size(self, by: int) -> None:
        """Enlarge the text."""

    def book_menu(self) -> None:
        """Show the menu of the book."""

    def help(self) -> None:
        """Tell the keys, or a sum."""

    def undo(self, *, on: bool = False) -> None:
        """Take something back, or make it again."""

    def toggle_opinion(self) -> None:
        """Show or hide the second opinion."""

    def show_opinion(self, key: str) -> None:
        """Take the keyboard to one of the second opinions."""

    def toggle_section(self) -> None:
        """Show or hide the section."""

    def toggle_theme(self) -> None:
        """Change between light and dark."""

    def close(self) -> bool:
        """Quit."""


def acts_of(window: CommandWindow, parent: QWidget) -> dict[str, Callable[..., object]]:
    """Give what is done for each command that is no page.

    Besides, what pages ask for that is no command by itself: it takes what it is about. Dialogs
    stand over `parent`, which is the same window.
    """
    papers, files, shelf = window.papers, window.files, window.session.shelf
    acts: dict[str, Callable[..., object]] = {
        f"stage {i + 1}": partial(window.show_stage, i) for i in range(len(STAGES))
    }
    return acts | {
        "next part": partial(window.go_to_part, 1),
        "part before": partial(window.go_to_part, -1),
        "search": partial(_search, window, parent),
        "keys": window.help,
        "book": window.book_menu,
        "undo": window.undo,
        "redo": partial(window.undo, on=True),
        "opinion": window.toggle_opinion,
        "section": window.toggle_section,
        "theme": window.toggle_theme,
        "larger": partial(window.text_size, 10),
        "smaller": partial(window.text_size, -10),
        "usual size": partial(window.text_size, 0),
        "quit": window.close,
        "new": partial(_new, window, parent),
        "copy": shelf.copy,
        "name": partial(_rename, window, parent),
        "delete": shelf.delete,
        "revision": partial(_keep_revision, window, parent),
        "import formula": files.import_formula,
        "export formula": files.export_formula,
        "import data": files.import_data,
        "export pantry": files.export_pantry,
        "card": partial(papers.print_card, "pdf"),
        "card csv": partial(papers.print_card, "csv"),
        "bench day": partial(_run_day, window),
        "bench window": lambda: window.bench.second_window(),
        "bench end": lambda: window.bench.finish(),
        "bench list": partial(_list_runs, window),
        "day wall": partial(_give_day, window, "wall"),
        "day paper": partial(_give_day, window, "pdf"),
        "day calendar": partial(_give_day, window, "ics"),
        "day csv": partial(_give_day, window, "csv"),
        "section svg": partial(_give_section, window, "svg"),
        "section png": partial(_give_section, window, "png"),
        "new trial": partial(_new_trial, window),
        "open": files.open_book,
        "new book": files.new_book,
        "copy book": files.keep_copy,
        "own book": lambda: files.go_to(own_book()),
        "demo book": lambda: files.go_to(demo_book()),
        "open formula": partial(_open_formula, window),
        "kind": partial(_judge_as, window),
        "unit": partial(_set_unit, window),
        "opinion at": window.show_opinion,
        "open picture": partial(_open_picture, window),
        "trial paper": lambda asked: papers.give_trial(*asked),
        "bench paper": lambda asked: papers.give_bench(*asked),
        "cut svg": papers.give_cut_plan,
        "paper": lambda asked: papers.give_paper(*asked),
    }


def _open_picture(window: CommandWindow, take: Callable[[Path], None]) -> None:
    """Ask for a picture and hand its file over."""
    path = window.files.ask_open("Open a picture", Path.home(), "*.jpg *.jpeg *.png *.tif *.bmp")
    if path is not None:
        take(path)


def _new_trial(window: CommandWindow, series: str = "") -> None:
    """Begin a trial of the formula in hand, in a series or its last one, and measure it."""
    from aplomb.core.base.errors import AplombError
    from aplomb.work.trials.begin import begin_trial

    session = window.session
    mine = [s.key for s in session.store.tried.series if s.uid == session.uid]
    chosen = series if series in mine else (mine[-1] if mine else "")
    try:
        trial = begin_trial(session.work, series=chosen)
    except AplombError as error:
        window.say(str(error))
        return
    window.do("measure", trial.key)


def _search(window: CommandWindow, parent: QWidget) -> None:
    """Ask what is wanted, and do it."""
    from aplomb.desk.shell.search import search_everything
    from aplomb.work.searching import everything

    search_everything(parent, window.do, everything(window.session.work))


def _open_formula(window: CommandWindow, uid: str) -> None:
    """Take a formula in hand that was found."""
    window.session.shelf.select(uid)
    window.show_stage(PASTE)


def _judge_as(window: CommandWindow, school: str) -> None:
    """Judge the formula in hand by another kind of paste."""
    session = window.session
    name = session.reference.schools[school].name
    session.shelf.edit(f"judged as {name}", lambda formula: replace(formula, school=school))
    window.say(f"Judged as {name}.")


def _set_unit(window: CommandWindow, chosen: tuple[str, str]) -> None:
    """Have the house say something in another unit."""
    from aplomb.work.searching import UNITS

    setting, value = chosen
    store = window.session.store
    words = next(words for words, name, unit, _ in UNITS if (name, unit) == chosen)
    store.set_house(words.lower(), replace(window.session.reference.house, **{setting: value}))
    window.say(f"{words}.")


def _give_section(window: CommandWindow, kind: str) -> None:
    """Write the section that is seen; elsewhere that of the final sheet."""
    strip = window.strip
    upto, across = strip.shown if strip is not None else (None, False)
    window.papers.give_section(kind, upto, across=across)


def _give_day(window: CommandWindow, kind: str) -> None:
    """Write the timetable that is shown; where none stands yet, go to where it is solved."""
    shown = window.day.planner.shown
    if shown is None:
        window.show_stage(DAY)
        window.say("No timetable yet. Export it when it is solved.")
        return
    window.papers.give_day(kind, *shown)


def _run_day(window: CommandWindow) -> None:
    """Run the timetable that is shown; where there is none yet it is solved first."""

    def run(view: DayView, plan: DayPlan) -> None:
        window.show_stage(BENCH)
        window.bench.run_day(view, plan)

    planner = window.day.planner
    if planner.shown is not None:
        run(*planner.shown)
        return
    window.show_stage(DAY)
    if planner.state != "refused":  # why, Day says
        planner.once_solved(run)
        window.say("Solving the timetable …")


def _list_runs(window: CommandWindow) -> None:
    """Leave the run that is shown; it goes on where it stands."""
    window.show_stage(BENCH)
    window.bench.leave_screen()


def _new(window: CommandWindow, parent: QWidget) -> None:
    """Begin a formula and go to its name."""
    window.session.shelf.new()
    window.show_stage(PASTE)
    _rename(window, parent)


def _rename(window: CommandWindow, parent: QWidget) -> None:
    """Ask for name and purpose of the formula in hand."""
    from aplomb.desk.stages.asking import ask_name

    ask_name(parent, window.session)


def _keep_revision(window: CommandWindow, parent: QWidget) -> None:
    """Keep the formula in hand as a revision, with a name if wanted."""
    from aplomb.desk.stages.asking import ask_revision

    window.commit()
    ask_revision(parent, window.session)
