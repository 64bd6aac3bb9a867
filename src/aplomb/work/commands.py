"""Everything that can be done, in one table: its words, its keys, its room, and who does it.

The window binds the keys and shows the menu from it, buttons take their words and hints from it, F1
lists it, and the search of commands looks through it. A new place beside a stage is one entry here
and one file: the entry names its class.
"""

import re
from collections.abc import Iterable

from msgspec import Struct

from aplomb.work.more_steps import MORE_STEPS

STAGES = (
    ("shelf", "Shelf"), ("paste", "Paste"), ("folds", "Folds"), ("batch", "Batch"), ("day", "Day"),
    ("bench", "Bench"), ("oven", "Oven"), ("trials", "Trials"),
)  # fmt: skip
"""The stages in working order: key and word."""
SHELF, PASTE, FOLDS, BATCH, DAY, BENCH, OVEN, TRIALS = range(8)
"""Places of the stages in `STAGES`."""
EVERYWHERE = "Everywhere"
BOOKS = "Formulas and books"
FORMULA, KITCHEN, PRINTED, FILES, BACK, VIEW = range(6)
"""Groups of the book's menu, from the top."""


class Command(Struct, frozen=True):
    """One thing that can be done.

    Attributes
    ----------
    key : str
        By which it is asked for.
    words : str
        What it does, as lists of commands say it.
    keys : tuple of str
        As Qt writes key sequences; the first is shown in menus. Empty for none.
    where : str
        On which part of the window its keys work: a heading of the list of keys.
    group : int or None
        Of the book's menu; None for what is not in it.
    menu : str
        Its words in the menu, where they are others.
    needs : bool
        Only with a formula in hand.
    also : str
        Other words by which it is found.
    room : str
        Stage that a place stands beside; empty for what is no place.
    made_by : str
        Class of a place, as ``module:Class``.
    """

    key: str
    words: str
    keys: tuple[str, ...] = ()
    where: str = EVERYWHERE
    group: int | None = None
    menu: str = ""
    needs: bool = False
    also: str = ""
    room: str = ""
    made_by: str = ""

    @property
    def title(self) -> str:
        """Its words as a title or on a button: up to the first comma."""
        return self.words.partition(",")[0]

    @property
    def shown_keys(self) -> str:
        """Its first keys as Qt writes them; empty for none."""
        return self.keys[0] if self.keys else ""


def _place(
    room: str, key: str, words: str, keys: str, made_by: str, also: str = "",
    group: int | None = None, menu: str = "",
) -> Command:  # fmt: skip
    word = dict(STAGES)[room]
    return Command(key, words, (keys,), f"Beside {word}", group, menu, needs=True, also=also,
                   room=room, made_by=f"aplomb.desk.{made_by}")  # fmt: skip


WINDOW: tuple[Command, ...] = (
    *(
        Command(f"stage {n}", word, (f"Alt+{n}",), "Stages", also=f"go to stage {n}")
        for n, (_, word) in enumerate(STAGES, 1)
    ),
    Command("next part", "Next part of the window", ("F6",)),
    Command("part before", "Part before", ("Shift+F6",)),
    Command("search", "Search for what can be done", ("Ctrl+K",), group=VIEW,
            menu="Search the commands…", also="find command"),
    Command("keys", "These keys; on a figure of the headline: its sum", ("F1",), group=VIEW,
            menu="Keys", also="help shortcuts"),
    Command("book", "Menu of the book", ("Alt+B",)),
    Command("undo", "Undo, also after a restart", ("Ctrl+Z",), group=BACK, menu="Undo",
            also="take back"),
    Command("redo", "Redo", ("Ctrl+Shift+Z", "Ctrl+Y"), group=BACK, also="do again"),
    Command("opinion", "Show or hide the second opinion", ("Ctrl+I",), also="advice warnings"),
    Command("section", "Show or hide the section", ("Ctrl+E",), also="cut layers"),
    Command("theme", "Light or dark", ("Ctrl+T",), group=VIEW, also="theme colours night"),
    Command("larger", "Larger text", ("Ctrl++", "Ctrl+="), group=VIEW, also="zoom bigger font"),
    Command("smaller", "Smaller text", ("Ctrl+-",), group=VIEW, also="zoom font"),
    Command("usual size", "Usual text", ("Ctrl+0",), also="zoom normal font"),
    Command("quit", "Quit", ("Ctrl+Q",), group=VIEW, also="close exit leave"),
    Command("new", "New formula", ("Ctrl+N",), BOOKS, FORMULA, also="begin recipe"),
    Command("copy", "Copy the formula", ("Ctrl+D",), BOOKS, needs=True, also="duplicate"),
    Command("name", "Name and purpose", ("F2",), BOOKS, needs=True, also="rename"),
    Command("delete", "Delete the formula", (), BOOKS, needs=True, also="remove"),
    Command("import formula", "Import formula…", (), BOOKS, FORMULA, also="json file read"),
    Command("export formula", "Export formula…", (), BOOKS, FORMULA, needs=True,
            also="json file write"),
    Command("revision", "Keep a revision", ("Ctrl+R",), BOOKS, FORMULA, "Keep a revision…",
            needs=True, also="version"),
    Command("card", "Batch card as PDF", ("Ctrl+P",), BOOKS, PRINTED, "Batch card as PDF…",
            needs=True, also="print"),
    Command("card csv", "Batch card as CSV…", (), BOOKS, PRINTED, needs=True, also="table"),
    Command("bench day", "Run this day at the bench", ("Ctrl+Return",), BOOKS, also="begin start"),
    Command("bench window", "Bench in a window of its own", ("Ctrl+B",), group=VIEW,
            also="second screen monitor"),
    Command("bench end", "End the run at the bench", (), BOOKS, also="finish stop record"),
    Command("bench list", "Runs of the bench", (), BOOKS, also="leave list"),
    Command("day paper", "Timetable for the wall, as PDF…", (), BOOKS, PRINTED,
            also="print timetable day"),
    Command("day calendar", "Timetable for a calendar…", (), BOOKS, PRINTED,
            also="icalendar ics alarms day"),
    Command("day csv", "Timetable as CSV…", (), BOOKS, PRINTED, also="table day"),
    Command("new trial", "New trial", ("Ctrl+Shift+N",), BOOKS, also="bake measure"),
    Command("section svg", "Section shown, as SVG…", (), BOOKS, PRINTED, needs=True,
            also="picture drawing"),
    Command("section png", "Section shown, as PNG…", (), BOOKS, PRINTED, needs=True,
            also="picture image"),
    Command("import data", "Import supplier’s data…", (), BOOKS, needs=True, also="csv prices"),
    Command("export pantry", "Export the pantry as CSV…", (), BOOKS, needs=True, also="materials"),
    Command("open", "Open another book", ("Ctrl+O",), BOOKS, FILES, "Open another book…"),
    Command("new book", "New book…", (), BOOKS, FILES),
    Command("copy book", "Save a copy of this book…", (), BOOKS, FILES, also="backup"),
    Command("own book", "Your own book", (), BOOKS, FILES),
    Command("demo book", "Demo book", (), BOOKS, FILES, also="example"),
)  # fmt: skip
"""What the window itself does."""

PLACES: tuple[Command, ...] = (
    _place("paste", "list", "Paste a list", "Alt+L", "paste.list_place:ListPlace",
           "import ingredients text recipe"),
    _place("paste", "pantry", "Pantry", "Alt+M", "paste.pantry:PantryPlace",
           "materials prices flour fat composition", KITCHEN),
    _place("paste", "accounts", "Accounts", "Alt+A", "paste.accounts:AccountsPlace",
           "fat water salt composition allergens energy"),
    _place("paste", "fats", "Fats", "Alt+F", "paste.fats:FatsPlace",
           "blend butter lard shortening margarine solid fat temperature firmness"),
    _place("paste", "swap", "Swap", "Alt+S", "paste.swap:SwapPlace", "replace exchange material"),
    _place("paste", "solve", "Solve for", "Alt+V", "paste.solve:SolvePlace",
           "target wanted backwards ratio cost"),
    _place("paste", "water", "Water and ice", "Alt+W", "paste.water:WaterPlace",
           "temperature house units inches ounces currency cups measures", KITCHEN,
           "The house: cups, currency, temperatures"),
    _place("paste", "gluten_free", "Gluten-free", "Alt+G", "paste.gluten_free:GlutenFreePlace",
           "binder rice xanthan variant"),
    _place("paste", "compare", "Compare", "Alt+C", "paste.compare:ComparePlace",
           "difference revision", FORMULA, "Compare…"),
    _place("folds", "plans", "Find a plan, answer a claim", "Alt+P", "folds.plans:PlansPlace",
           "layers leaves turns count thickness"),
    _place("folds", "inside", "Inside the paste", "Alt+I", "folds.inside:InsidePlace",
           "section leaves evenness animation"),
    _place("folds", "lessons", "Learn the folds", "Alt+H", "folds.lessons:LessonsPlace",
           "teach single double book letter"),
    _place("folds", "cold", "Cold", "Alt+O", "folds.cold:ColdPlace",
           "rest fridge freezer temperature ready firm chill"),
    _place("day", "places", "Fridges and benches", "Alt+J", "day.places:PlacesPlace",
           "blast chiller room probe calibrate coefficient", KITCHEN),
    _place("bench", "record", "Record", "Alt+N", "bench.record:RecordPlace",
           "log batch what was done haccp labels"),
    _place("bench", "devices", "Devices", "Alt+X", "bench.devices:DevicesPlace",
           "scale probe oven thermometer calibrate screen sound", KITCHEN),
    _place("oven", "ovens", "Ovens of the house", "Alt+Shift+O", "oven.ovens:OvensPlace",
           "fan dial thermometer correction trays power heat", KITCHEN),
    _place("oven", "keeping", "Keeping", "Alt+Shift+K", "oven.keeping:KeepingPlace",
           "stock freezer fridge use by thaw refresh label baked"),
    _place("trials", "measure", "Measure", "Alt+Shift+M", "trials.measure:MeasurePlace",
           "height lift weight pieces colour taste sheet"),
    _place("trials", "picture", "Photograph", "Alt+Shift+P", "trials.picture:PicturePlace",
           "image leaves count ruler scale cut section"),
    _place("trials", "learned", "Learned", "Alt+Shift+L", "trials.learned:LearnedPlace",
           "band own trials outlier scatter"),
    _place("trials", "next_trial", "Next trial", "Alt+Shift+N", "trials.next_trial:NextTrialPlace",
           "design suggest plan experiment"),
    _place("trials", "tasting", "Tasting", "Alt+Shift+T", "trials.tasting:TastingPlace",
           "triangle preference blind score sheet"),
    _place("trials", "report", "Report", "Alt+Shift+R", "trials.report:ReportPlace",
           "series pdf csv json verdict"),
    _place("batch", "cut", "Products and cut plan", "Alt+U", "batch.cut:CutPlace",
           "pieces shapes scrap yield sheet"),
    _place("batch", "demand", "Day’s demand", "Alt+D", "batch.demand:DemandPlace",
           "order list frozen blocks stock"),
    _place("batch", "trays", "Trays and oven", "Alt+T", "batch.trays:TraysPlace",
           "bake loads bench sheeter"),
    _place("batch", "costs", "Losses and costs", "Alt+K", "batch.costs:CostsPlace",
           "price margin trim"),
    _place("batch", "papers", "Papers", "Alt+R", "paper.place:PapersPlace",
           "print labels card order list allergen pdf"),
    _place("batch", "weigh", "Weigh out", "Alt+E", "batch.weigh:WeighPlace", "scale"),
)  # fmt: skip
"""The places beside the stages, in the order in which their buttons stand."""


def _local(where: str, keys: tuple[str, ...], words: str) -> Command:
    return Command("", words, keys, where)


_TURNS = "On the plan of turns"
LOCAL: tuple[Command, ...] = (
    _local(EVERYWHERE, ("Escape",), "Back from a place; in a field: what stood there before"),
    _local("On the shelf", ("Return",), "Open the formula"),
    _local("On the shelf", ("Delete",), "Delete the formula"),
    _local("In Paste", ("Up", "Down", "Return"), "From line to line"),
    _local("In Paste", ("Alt+Up", "Alt+Down"), "Move the line"),
    _local("In Paste", ("Ctrl+Delete",), "Remove the line"),
    _local(_TURNS, ("Left", "Right", "Home", "End"), "Pick a step"),
    _local(_TURNS, ("Alt+Left", "Alt+Right"), "Move the step"),
    _local(_TURNS, ("2", "3", "4", "5", "6"), "Add a fold in so many"),
    _local(_TURNS, ("/",), "Add a rest"),
    _local(_TURNS, ("+",), "Add a portion"),
    *(
        _local(_TURNS, (key,), f"Add: {words[0].lower()}{words[1:]}")
        for words, key, _ in MORE_STEPS
        if not key.isdigit()
    ),
    _local(_TURNS, ("Delete", "Backspace"), "Remove the step"),
    _local(_TURNS, ("Menu",), "Change the step"),
    _local("On the section", ("Left", "Right", "Up", "Down"), "Move the lens"),
    _local("On the section", ("+", "-", "="), "Enlarge, reduce"),
    _local("On a cut plan", ("+", "-", "=", "0"), "Enlarge, reduce, all of it"),
    _local("On a cut plan", ("Left", "Right", "Up", "Down"), "Move it"),
    _local("Inside the paste", ("PgDown", "PgUp"), "A whole step on or back"),
    _local("On the timetable", ("Left", "Right"), "The step before, the next one"),
    _local("On the timetable", ("Up", "Down"), "To another lane"),
    _local("On the timetable", ("Alt+Left", "Alt+Right"), "Begin it 5 min sooner, later"),
    _local("On the timetable", ("+", "-", "=", "0"), "Enlarge, reduce, all of it"),
    _local("On the timetable", ("F",), "Let a step that is held go free"),
    _local("At the bench", ("Space", "PgDown"), "Go on: begin, done, heard"),
    _local("At the bench", ("Backspace", "PgUp"), "Take the last press back"),
    _local("At the bench", ("N",), "Not as planned: what is wrong"),
    _local("At the bench", ("Tab", "Backtab", "Left", "Right"), "Another block"),
    _local("At the bench", ("1", "2", "3", "4", "5", "6"), "An answer"),
    _local("At the bench", ("W", "F", "D", "B"), "A spoon of water, flour, dusting; brushed off"),
    _local("At the bench", ("Shift+W", "Shift+F", "Shift+D"), "The same taken back"),
    _local("At the bench", ("O", "S", "V", "X"), "Brushed off, squared, turned over, trimmed"),
    _local("At the bench", ("P",), "Back into the cold"),
    _local("At the bench", ("R",), "What the sheet reached"),
    _local("At the bench", ("M",), "A figure of the batch"),
    _local("At the bench", ("T",), "A temperature; while weighing: tare"),
    _local("At the bench", ("E",), "Done before its time; while weighing: that is enough"),
    _local("At the bench", ("G",), "A weight by hand"),
    _local("At the bench", ("K",), "A note"),
    _local("At the bench", ("I",), "Who is at the bench"),
    _local("At the bench", ("C",), "The code on a label"),
    _local("At the bench", ("Escape",), "Back to the runs"),
    _local("Weighing out", ("Return", "Enter"), "Take the weight"),
    _local("Weighing out", ("T",), "Tare"),
    _local("Weighing out", ("Backspace",), "The line before"),
    _local("Weighing out", ("Right",), "Skip the line"),
    _local("Weighing out", ("E",), "That is enough: the line ends here"),
    _local("Weighing out", ("S",), "Scale the rest after too much"),
    _local("Weighing out", ("Ctrl+G",), "Simulated scale: put the target on"),
    _local("On a figure of the headline", ("F1", "Return", "Space"), "How it was reached"),
    _local("In a search", ("Up", "Down"), "Pick another"),
)
"""Keys that a part of the window takes by itself."""

COMMANDS: dict[str, Command] = {each.key: each for each in (*WINDOW, *PLACES)}
"""What can be asked for by its key."""


def keys_of(key: str) -> str:
    """Give the keys of a command, as menus and hints show them.

    Examples
    --------
    >>> keys_of("undo")
    'Ctrl+Z'
    """
    return COMMANDS[key].shown_keys


def places_of(room: str) -> tuple[Command, ...]:
    """Give the places beside a stage, in the order of their buttons.

    Examples
    --------
    >>> [place.words for place in places_of("folds")][1:3]
    ['Inside the paste', 'Learn the folds']
    """
    return tuple(place for place in PLACES if place.room == room)


def stage_of(key: str) -> int:
    """Give the number of the stage that a place stands beside.

    Examples
    --------
    >>> stage_of("pantry") == PASTE
    True
    """
    return [room for room, _ in STAGES].index(COMMANDS[key].room)


def menu_groups() -> list[list[Command]]:
    """Give the commands of the book's menu, group by group from the top."""
    groups: list[list[Command]] = [[] for _ in range(VIEW + 1)]
    for each in (*WINDOW, *PLACES):
        if each.group is not None:
            groups[each.group].append(each)
    return groups


def all_lines() -> tuple[Command, ...]:
    """Give every command that has keys, those of one part of the window together."""
    lines = [each for each in (*WINDOW, *LOCAL, *PLACES) if each.keys]
    order = list(dict.fromkeys(line.where for line in lines))
    return tuple(sorted(lines, key=lambda line: order.index(line.where)))


def find(text: str, *, formula: bool = True) -> tuple[Command, ...]:
    """Find commands by what a person types.

    Those whose own words fit best first, and of these the shortest; all for an empty text.

    Parameters
    ----------
    text : str
        Words in any order, each the beginning of one, or a part of one where none begins so.
    formula : bool
        Whether a formula is in hand; without one, what needs it is left out.

    Examples
    --------
    >>> [found.words for found in find("layer cl")]
    ['Find a plan, answer a claim']
    """
    wanted = _words(text)
    if not wanted:
        return tuple(each for each in COMMANDS.values() if formula or not each.needs)
    found = []
    for at, each in enumerate(COMMANDS.values()):
        scores = [_score(word, each) for word in wanted]
        if all(scores) and (formula or not each.needs):
            found.append((-sum(scores), len(_words(each.words)), at, each))
    return tuple(each for *_, each in sorted(found, key=lambda one: one[:3]))


def _score(word: str, command: Command) -> int:
    """How well a word fits a command [-]; 0 for not at all."""
    own, also = _words(command.words + " " + command.menu), _words(command.also)
    for points, words in ((4, own), (2, also)):
        if any(each.startswith(word) for each in words):
            return points
    return 1 if any(word in each for each in (*own, *also)) else 0


def _words(text: str) -> list[str]:
    return re.findall(r"\w+", text.lower())


_SIGNS = {
    "Return": "Enter", "Backtab": "Shift+Tab", "Escape": "Esc", "PgDown": "Page Down",
    "PgUp": "Page Up", "Up": "↑", "Down": "↓", "Left": "←", "Right": "→",
}  # fmt: skip


def shown(keys: str) -> str:
    """Write one key sequence as a person reads it.

    Examples
    --------
    >>> shown("Ctrl+-"), shown("Alt+Left"), shown("PgDown")
    ('Ctrl+−', 'Alt+←', 'Page Down')
    """
    if keys in ("+", "-", "/", "="):
        return keys.replace("-", "−")
    held, last = keys[:-1].rpartition("+")[0], keys[-1]
    if not keys.endswith("++"):
        held, _, last = keys.rpartition("+")
    return "+".join(n for n in (held, _SIGNS.get(last, last).replace("-", "−")) if n)


def some_words(commands: Iterable[Command]) -> str:
    """Say how many commands there are, for a screen reader."""
    many = len(tuple(commands))
    return "nothing fits" if many == 0 else f"{many} found"
