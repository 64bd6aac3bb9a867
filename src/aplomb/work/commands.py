"""Everything that can be done, in one table: its words, its keys, its room, and who does it.

The window binds the keys and shows the menu from it, buttons take their words and hints from it, F1
lists it, and the search of commands looks through it. A new page beside a stage is one entry here
and one file: the entry names its class.
"""

from msgspec import Struct

from aplomb.work.edits.turns import MORE_STEPS

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
        Stage that a page stands beside; empty for what is no page.
    made_by : str
        Class of a page, as ``module:Class``.
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


def _page(
    room: str,
    key: str,
    words: str,
    keys: str,
    made_by: str,
    also: str = "",
    group: int | None = None,
    menu: str = "",
) -> Command:
    word = dict(STAGES)[room]
    return Command(
        key,
        words,
        (keys,),
        f"Pages in {word}",
        group,
        menu,
        needs=True,
        also=also,
        room=room,
        made_by=f"aplomb.desk.{made_by}",
    )


_STAGES_ALSO = {
    1: "home start formulas recipes list overview",
    2: "ingredients ingredient add flour dough glaze egg wash finish topping dusting formulate mix",
    3: "roll out turns fold plan layers thickness enclosing enclose lock-in lamination letter "
    "book envelope "
    "rolling pin roll",
    4: "scale up double triple halve half recipe size pieces yield quantity how many amount",
    5: "timetable schedule plan time tomorrow today morning start order hours shift ready when "
    "deadline "
    "staff helpers people late",
    6: "run timer alarm clock tally turns count weigh work kitchen production",
    7: "bake baking baked blind egg wash glaze temperature convection fan gas mark time colour "
    "minutes "
    "brown programme burnt burn pale raw soggy bottom crisp leaking butter",
    8: "results tests lift rise chart learn best experiment series "
    "graph chart statistics crisp soggy bottom",
}
"""What else people call what is done at a stage."""


WINDOW: tuple[Command, ...] = (
    *(
        Command(f"stage {n}", word, (f"Alt+{n}",), "Stages", also=f"stage {n} {_STAGES_ALSO[n]}")
        for n, (_, word) in enumerate(STAGES, 1)
    ),
    Command("next part", "Next part of the window", ("F6",)),
    Command("part before", "Previous part of the window", ("Shift+F6",)),
    Command("search", "Search everything", ("Ctrl+K",), group=VIEW,
            menu="Search everything…", also="find command"),
    Command("keys", "Show these keys; on a headline figure: how it is calculated", ("F1",),
            group=VIEW,
            menu="Keys", also="help shortcuts shortcut how hotkeys manual tutorial"),
    Command("book", "Book menu", ("Alt+B",)),
    Command("undo", "Undo, even after a restart", ("Ctrl+Z",), group=BACK, menu="Undo",
            also="take back back mistake history restore"),
    Command("redo", "Redo", ("Ctrl+Shift+Z", "Ctrl+Y"), group=BACK, also="do again"),
    Command("opinion", "Show or hide the second opinion", ("Ctrl+I",), also="advice warnings "
        "second opinion problem problems check checks tips"),
    Command("section", "Show or hide the section", ("Ctrl+E",), also="cut layers"),
    Command("theme", "Light or dark look", ("Ctrl+T",), group=VIEW, also="theme colours night "
        "dark mode light"),
    Command("larger", "Larger text", ("Ctrl++", "Ctrl+="), group=VIEW, also="zoom bigger font "
        "text size"),
    Command("smaller", "Smaller text", ("Ctrl+-",), group=VIEW, also="zoom font"),
    Command("usual size", "Normal text size", ("Ctrl+0",), also="zoom normal font"),
    Command("quit", "Quit", ("Ctrl+Q",), group=VIEW, also="close exit leave"),
    Command("new", "New formula", ("Ctrl+N",), BOOKS, FORMULA, also="begin recipe new recipe "
        "create add"),
    Command("copy", "Duplicate the formula", ("Ctrl+D",), BOOKS, needs=True, also="duplicate "
        "copy recipe clone"),
    Command("name", "Name and purpose", ("F2",), BOOKS, needs=True, also="rename"),
    Command("delete", "Delete the formula", (), BOOKS, needs=True, also="remove recipe"),
    Command("import formula", "Import formula…", (), BOOKS, FORMULA, also="json file read import "
        "open recipe load"),
    Command("export formula", "Export formula…", (), BOOKS, FORMULA, needs=True,
            also="json file write export share send recipe"),
    Command("revision", "Save a revision", ("Ctrl+R",), BOOKS, FORMULA, "Save a revision…",
            needs=True, also="version save history snapshot keep"),
    Command("card", "Batch card as PDF", ("Ctrl+P",), BOOKS, PRINTED, "Batch card as PDF…",
            needs=True, also="print pdf recipe card sheet share"),
    Command("card csv", "Batch card as CSV…", (), BOOKS, PRINTED, needs=True, also="table"),
    Command("bench day", "Run the day at the bench", ("Ctrl+Return",), BOOKS, also="begin start "
        "the day go"),
    Command("bench window", "Bench in its own window", ("Ctrl+B",), group=VIEW,
            also="second screen monitor two screens tablet"),
    Command("bench end", "End the run at the bench", (), BOOKS, also="finish stop record"),
    Command("bench list", "Bench runs", (), BOOKS, also="leave list yesterday history runs"),
    Command("day wall", "Wall sheet, as PDF…", (), BOOKS, PRINTED,
            also="print day hang up poster bakers tick"),
    Command("day paper", "Timetable as PDF…", (), BOOKS, PRINTED,
            also="print timetable day pdf list steps"),
    Command("day calendar", "Timetable as calendar file…", (), BOOKS, PRINTED,
            also="icalendar ics alarms day phone reminder outlook"),
    Command("day csv", "Timetable as CSV…", (), BOOKS, PRINTED, also="table day"),
    Command("new trial", "New trial", ("Ctrl+Shift+N",), BOOKS, also="bake measure test "
        "experiment"),
    Command("section svg", "Section as SVG…", (), BOOKS, PRINTED, needs=True,
            also="picture drawing"),
    Command("section png", "Section as PNG…", (), BOOKS, PRINTED, needs=True,
            also="picture image"),
    Command("import data", "Import supplier’s data…", (), BOOKS, needs=True, also="csv prices "
        "import supplier suppliers price list"),
    Command("export pantry", "Export the pantry as CSV…", (), BOOKS, needs=True, also="materials "
        "export csv"),
    Command("open", "Open another book", ("Ctrl+O",), BOOKS, FILES, "Open another book…"),
    Command("new book", "New book…", (), BOOKS, FILES),
    Command("copy book", "Save a copy of this book…", (), BOOKS, FILES, also="backup save share "
        "file"),
    Command("own book", "Your own book", (), BOOKS, FILES),
    Command("demo book", "Demo book", (), BOOKS, FILES, also="example"),
)  # fmt: skip
"""What the window itself does."""

PAGES: tuple[Command, ...] = (
    _page("paste", "list", "Paste a list", "Alt+L", "paste.list_page:ListPage",
           "import ingredients text recipe paste a web"),
    _page("paste", "pantry", "Pantry", "Alt+M", "paste.pantry:PantryPage",
           "materials prices flour fat composition ingredient price supplier suppliers "
           "allergens", KITCHEN),
    _page("paste", "accounts", "Accounts", "Alt+A", "paste.accounts:AccountsPage",
           "fat water salt composition allergens energy nutrition nutritional calories kcal "
           "protein vinegar acid sugar totals ratios percent percentage bakers percentages "
           "hydration"),
    _page("paste", "fats", "Fats", "Alt+F", "paste.fats:FatsPage",
           "blend butter lard shortening margarine solid fat temperature firmness melting point "
           "plastic vegan"),
    _page("paste", "swap", "Swap", "Alt+S", "paste.swap:SwapPage", "replace exchange material "
        "substitute vegan instead replacement dairy-free"),
    _page("paste", "solve", "Solve for", "Alt+V", "paste.solve:SolvePage",
           "target wanted backwards ratio cost vegan cheaper goal aim"),
    _page("paste", "water", "Water and ice", "Alt+W", "paste.water:WaterPage",
           "temperature house units inches ounces currency cups measures euro dollar pound money "
           "iced cold ice settings preferences dough hydration", KITCHEN,
           "House settings: cups, currency, temperatures"),
    _page("paste", "gluten_free", "Gluten-free", "Alt+G", "paste.gluten_free:GlutenFreePage",
           "binder rice xanthan variant coeliac celiac wheat-free flour blend gf"),
    _page("paste", "compare", "Compare", "Alt+C", "paste.compare:ComparePage",
           "difference revision recipes changed before after what did i change "
           "versions", FORMULA, "Compare…"),
    _page("folds", "plans", "Find a plan, test a claim", "Alt+P", "folds.plans:PlansPage",
           "layers leaves turns count thickness how many layers fold plan sheet mm µm"),
    _page("folds", "inside", "Inside the paste", "Alt+I", "folds.inside:InsidePage",
           "section leaves evenness animation picture see through"),
    _page("folds", "lessons", "Learn the folds", "Alt+H", "folds.lessons:LessonsPage",
           "teach single double book letter fold how to video tutorial beginner"),
    _page("folds", "cold", "Cold", "Alt+O", "folds.cold:ColdPage",
           "rest fridge freezer temperature ready firm chill chilling rest time fridge time thaw "
           "defrost out of the cold hard soft"),
    _page("day", "places", "Fridges and benches", "Alt+J", "day.places:PlacesPage",
           "blast chiller room probe calibrate coefficient fridge time thermometer "
           "freezer", KITCHEN),
    _page("bench", "run_log", "Run log", "Alt+N", "bench.run_log:RunLogPage",
           "log batch what was done haccp labels history yesterday notes record"),
    _page("bench", "devices", "Devices", "Alt+X", "bench.devices:DevicesPage",
           "scale probe oven thermometer calibrate screen sound scales thermometer timer alarm "
           "bluetooth usb serial", KITCHEN),
    _page("oven", "ovens", "Ovens", "Alt+Shift+O", "oven.ovens:OvensPage",
           "fan dial thermometer correction trays power heat convection gas mark", KITCHEN),
    _page("oven", "keeping", "Keeping", "Alt+Shift+K", "oven.keeping:KeepingPage",
           "stock freezer fridge use by thaw refresh label baked shelf life best before defrost "
           "freeze store expiry stickers"),
    _page("trials", "measure", "Measure", "Alt+Shift+M", "trials.measure:MeasurePage",
           "height lift weight pieces colour taste sheet rise results outcome"),
    _page("trials", "picture", "Photograph", "Alt+Shift+P", "trials.picture:PicturePage",
           "image leaves count ruler scale cut section photo camera count the leaves"),
    _page("trials", "learned", "Learned", "Alt+Shift+L", "trials.learned:LearnedPage",
           "band own trials outlier scatter results what have i learned best range average mean "
           "statistics graph"),
    _page("trials", "next_trial", "Next trial", "Alt+Shift+N", "trials.next_trial:NextTrialPage",
           "design suggest plan experiment next test what to try"),
    _page("trials", "tasting", "Tasting", "Alt+Shift+T", "trials.tasting:TastingPage",
           "triangle preference blind score sheet taste test panel tasters"),
    _page("trials", "report", "Report", "Alt+Shift+R", "trials.report:ReportPage",
           "series pdf csv json verdict"),
    _page("batch", "cut", "Products and cut plan", "Alt+U", "batch.cut:CutPage",
           "pieces shapes scrap yield sheet cutter cutting how many offcuts waste thickness last "
           "template shrinkage shrinking"),
    _page("batch", "demand", "Day’s demand", "Alt+D", "batch.demand:DemandPage",
           "order list frozen blocks stock shopping buy purchase freeze orders"),
    _page("batch", "trays", "Trays and oven", "Alt+T", "batch.trays:TraysPage",
           "bake loads bench sheeter rolling pin mixer bowl pan pans tin tins baking sheet"),
    _page("batch", "costs", "Losses and costs", "Alt+K", "batch.costs:CostsPage",
           "price margin trim how much margin profit money waste offcuts cost per piece euro"),
    _page("batch", "papers", "Papers", "Alt+R", "paper.papers_page:PapersPage",
           "print labels card order list allergen pdf shopping sheet barcode qr code "
           "stickers"),
    _page("batch", "weigh", "Weigh out", "Alt+E", "batch.weigh:WeighPage", "scale scales "
        "weighing mise en place"),
)  # fmt: skip
"""The pages beside the stages, in the order in which their buttons stand."""


def _local(where: str, keys: tuple[str, ...], words: str) -> Command:
    return Command("", words, keys, where)


_TURNS = "On the turn plan"
LOCAL: tuple[Command, ...] = (
    _local(EVERYWHERE, ("Escape",), "Back from a page; in a field: undo your typing"),
    _local("On the shelf", ("Return",), "Open the formula"),
    _local("On the shelf", ("Delete",), "Delete the formula"),
    _local("In Paste", ("Up", "Down", "Return"), "From line to line"),
    _local("In Paste", ("Alt+Up", "Alt+Down"), "Move the line"),
    _local("In Paste", ("Ctrl+Delete",), "Remove the line"),
    _local(_TURNS, ("Left", "Right", "Home", "End"), "Select a step"),
    _local(_TURNS, ("Alt+Left", "Alt+Right"), "Move the step"),
    _local(_TURNS, ("2", "3", "4", "5", "6"), "Add a fold with that many panels"),
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
    _local("On the section", ("+", "-", "="), "Zoom in, zoom out"),
    _local("On a cut plan", ("+", "-", "=", "0"), "Zoom in, zoom out, show all"),
    _local("On a cut plan", ("Left", "Right", "Up", "Down"), "Move the drawing"),
    _local("Inside the paste", ("PgDown", "PgUp"), "One whole step forward or back"),
    _local("On the timetable", ("Left", "Right"), "Previous step, next step"),
    _local("On the timetable", ("Up", "Down"), "To another lane"),
    _local("On the timetable", ("Alt+Left", "Alt+Right"), "Start the step 5 min earlier, later"),
    _local("On the timetable", ("+", "-", "=", "0"), "Zoom in, zoom out, show all"),
    _local("On the timetable", ("F",), "Unpin a pinned step"),
    _local("On the timetable", ("Return", "Enter"), "Change the step"),
    _local("On the timetable", ("N",), "The step that is now"),
    _local("On the timetable", ("W", "G"), "Wall sheet; run the day at the bench"),
    _local("At the bench", ("Space", "PgDown"), "Continue: start, done, alarm heard"),
    _local("At the bench", ("Backspace", "PgUp"), "Undo the last press"),
    _local("At the bench", ("N",), "Problem: what went wrong"),
    _local("At the bench", ("Tab", "Backtab", "Left", "Right"), "Another block"),
    _local("At the bench", ("1", "2", "3", "4", "5", "6"), "An answer"),
    _local(
        "At the bench",
        ("W", "F", "D", "B"),
        "Add a spoon of water, of flour, of dusting flour; dusting flour brushed off",
    ),
    _local(
        "At the bench",
        ("Shift+W", "Shift+F", "Shift+D"),
        "Undo a spoon of water, of flour, of dusting flour",
    ),
    _local("At the bench", ("O", "S", "V", "X"), "Brushed off, squared, turned over, trimmed"),
    _local("At the bench", ("P",), "Back into the cold"),
    _local("At the bench", ("R",), "What the sheet reached"),
    _local("At the bench", ("M",), "A figure of the batch"),
    _local("At the bench", ("T",), "A temperature; while weighing: tare"),
    _local("At the bench", ("E",), "Done early; while weighing: finish the line with less"),
    _local("At the bench", ("G",), "A weight by hand"),
    _local("At the bench", ("K",), "A note"),
    _local("At the bench", ("I",), "Who is at the bench"),
    _local("At the bench", ("C",), "The code on a label"),
    _local("At the bench", ("Escape",), "Back to the runs"),
    _local("Weighing out", ("Return", "Enter"), "Accept the weight"),
    _local("Weighing out", ("T",), "Tare"),
    _local("Weighing out", ("Backspace",), "Previous line"),
    _local("Weighing out", ("Right",), "Skip the line"),
    _local("Weighing out", ("E",), "Finish the line with less"),
    _local("Weighing out", ("S",), "Scale up the rest after weighing too much"),
    _local("Weighing out", ("Ctrl+G",), "Simulated scale: put on the target weight"),
    _local("On a headline figure", ("F1", "Return", "Space"), "Show how it is calculated"),
    _local("In a search", ("Up", "Down"), "Select another result"),
)
"""Keys that a part of the window takes by itself."""

COMMANDS: dict[str, Command] = {each.key: each for each in (*WINDOW, *PAGES)}
"""What can be asked for by its key."""


def keys_of(key: str) -> str:
    """Give the keys of a command, as menus and hints show them.

    Examples
    --------
    >>> keys_of("undo")
    'Ctrl+Z'
    """
    return COMMANDS[key].shown_keys


def pages_of(room: str) -> tuple[Command, ...]:
    """Give the pages beside a stage, in the order of their buttons.

    Examples
    --------
    >>> [page.words for page in pages_of("folds")][1:3]
    ['Inside the paste', 'Learn the folds']
    """
    return tuple(page for page in PAGES if page.room == room)


def stage_of(key: str) -> int:
    """Give the number of the stage that a page stands beside.

    Examples
    --------
    >>> stage_of("pantry") == PASTE
    True
    """
    return [room for room, _ in STAGES].index(COMMANDS[key].room)


def menu_groups() -> list[list[Command]]:
    """Give the commands of the book's menu, group by group from the top."""
    groups: list[list[Command]] = [[] for _ in range(VIEW + 1)]
    for each in (*WINDOW, *PAGES):
        if each.group is not None:
            groups[each.group].append(each)
    return groups


def all_lines() -> tuple[Command, ...]:
    """Give every command that has keys, those of one part of the window together."""
    lines = [each for each in (*WINDOW, *LOCAL, *PAGES) if each.keys]
    order = list(dict.fromkeys(line.where for line in lines))
    return tuple(sorted(lines, key=lambda line: order.index(line.where)))


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
