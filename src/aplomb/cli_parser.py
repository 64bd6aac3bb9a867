"""What can be said on the command line, and how help tells it."""

import argparse
import sys
from pathlib import Path
from typing import Any, NamedTuple, NoReturn, get_args

from aplomb import __version__
from aplomb.core.base.units import Measures

MOST_BLOCKS = 10_000


FORMULA = "a formula as JSON, or BOOK.aplomb#NAME"


OVEN_TO = ("conventional", "fan", "c", "f", "fahrenheit", "gas")


CASE = "a case as JSON, or - for standard input"


class Verb(NamedTuple):
    """A command: what it tells in one line, and one use of it."""

    line: str
    example: str


VERBS = {
    "layers": Verb("count the leaves of a turn line", 'aplomb layers "envelope 3 4 / 3 4"'),
    "figures": Verb("all the figures of a formula", "aplomb figures puff.json"),
    "grams": Verb(
        "convert an amount of an ingredient to grams", 'aplomb grams "2 1/4 cup" "plain flour"'
    ),
    "batch": Verb("what a batch takes and what it yields", "aplomb batch puff.json --json"),
    "make": Verb(
        "every step of a formula, from the weighing to the tray",
        "aplomb make puff.json --pieces 48",
    ),
    "trays": Verb("the trays and oven loads of a formula", "aplomb trays puff.json"),
    "cut": Verb("the cut plan of a formula’s products", "aplomb cut puff.json --svg sheet.svg"),
    "card": Verb("write the batch card of a formula", "aplomb card puff.json card.pdf"),
    "chill": Verb(
        "how a block cools from place to place; of a formula, when its block can be rolled",
        "aplomb chill puff.json --thick 30 --place freezer",
    ),
    "chill-fit": Verb(
        "how fast heat passes in a place (its coefficient), from probe readings",
        "aplomb chill-fit probe.json",
    ),
    "out": Verb(
        "how long a sheet of a formula may stay out of the cold",
        "aplomb out puff.json --thick 10 --room 24 --bench stone",
    ),
    "day": Verb(
        "a timetable that works, or what prevents one",
        "aplomb day bakery.aplomb --date 2026-11-28 --ics saturday.ics",
    ),
    "learn": Verb(
        "what the trials say about lift, and what to expect of a new one",
        "aplomb learn trials.json",
    ),
    "compare": Verb(
        "compare two variants in pairs: different, alike, or not enough trials to say",
        "aplomb compare pairs.json",
    ),
    "triangle": Verb("the result of a blind triangle test", "aplomb triangle tasters.json"),
    "trials": Verb("what a table of trials says", "aplomb trials trials.csv --outcome lift"),
    "oven": Verb("convert an oven setting: °C, °F, fan or gas mark", 'aplomb oven "200 C fan"'),
}


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        told = message if len(message) < 200 else f"{message[:200]} …"
        print(f"aplomb: {told}; see aplomb --help", file=sys.stderr)
        raise SystemExit(2)


def parser() -> argparse.ArgumentParser:
    """Make what reads the options of the window, and tells of the commands."""
    told = "\n".join(f"  {verb.example}\n      {verb.line}" for verb in VERBS.values())
    parser = _Parser(
        prog="aplomb",
        formatter_class=argparse.RawDescriptionHelpFormatter,
        description="A workbench for laminated paste without yeast. With no command, the window "
        "opens.",
        epilog=f"Commands, each with an example:\n{told}\n\n"
        "For all that one of them takes: aplomb layers --help",
    )
    parser.add_argument("book", nargs="?", help="the book to open; if left out, your own")
    parser.add_argument("--demo", action="store_true", help="open the demo book")
    parser.add_argument(
        "--smoke", action="store_true", help="draw the window once and quit (for tests)"
    )
    parser.add_argument("--version", action="version", version=f"Aplomb {__version__}")
    return parser


def command_parser() -> argparse.ArgumentParser:
    """Make what reads a command and its options."""
    parser = _Parser(prog="aplomb")
    commands = parser.add_subparsers(dest="command", required=True, parser_class=_Parser)
    layers = _verb(commands, "layers")
    layers.add_argument("line", help="e.g. “envelope 3 4 / 3 4”")
    layers.add_argument("--json", action="store_true", help="print the result as JSON")
    figures = _verb(commands, "figures")
    figures.add_argument("formula", help=FORMULA)
    figures.add_argument("--json", action="store_true", help="print the result as JSON")
    grams = _verb(commands, "grams")
    grams.add_argument("amount", help="e.g. “2 1/4 cup”")
    grams.add_argument("material", help="e.g. “plain flour”")
    grams.add_argument("--json", action="store_true", help="print the result as JSON")
    grams.add_argument("--decimal", choices=[".", ","], default=".", help="decimal point or comma")
    grams.add_argument(
        "--measures",
        choices=get_args(Measures),
        default="us",
        help="whose cup and spoon sizes to use",
    )
    batch = _verb(commands, "batch")
    batch.add_argument("formula", help=FORMULA)
    batch.add_argument("--json", action="store_true", help="print the result as JSON")
    _goal_options(batch)
    for name in ("make", "trays"):
        made = _verb(commands, name)
        made.add_argument("formula", help=FORMULA)
        made.add_argument("--json", action="store_true", help="print the result as JSON")
        _goal_options(made)
    cut = _verb(commands, "cut")
    _goal_options(cut)
    cut.add_argument("formula", help=FORMULA)
    cut.add_argument("--json", action="store_true", help="print the result as JSON")
    cut.add_argument(
        "--blocks",
        type=int,
        default=0,
        help="how many blocks of paste; if left out, as few as possible",
    )
    cut.add_argument(
        "--svg", type=Path, help="save a drawing of the first sheet as this file, at actual size"
    )
    card = _verb(commands, "card")
    card.add_argument("formula", help=FORMULA)
    card.add_argument("out", type=Path, help="the file to write, ending in .pdf or .csv")
    _cold_parsers(commands)
    _trial_parsers(commands)
    return parser


def _goal_options(made: argparse.ArgumentParser) -> None:
    """Let a command be asked for a goal: one of four."""
    made.add_argument(
        "--as-written",
        nargs="?",
        const="1",
        metavar="FACTOR",
        help="the formula’s own grams, so many times: 2, 1/2, 1/3",
    )
    made.add_argument("--pieces", type=int, metavar="N", help="so many pieces in all")
    made.add_argument("--keep", type=int, metavar="BLOCKS", help="blocks of paste to keep")
    made.add_argument(
        "--batch", action="store_true", help="by flour, paste or packet, as the batch says"
    )


def _verb(commands: Any, name: str) -> argparse.ArgumentParser:
    line, example = VERBS[name]
    made: argparse.ArgumentParser = commands.add_parser(
        name, description=f"{line[0].upper()}{line[1:]}.", epilog=f"Example: {example}"
    )
    return made


def _cold_parsers(commands: Any) -> None:
    chill = _verb(commands, "chill")
    chill.add_argument("case", help=f"{CASE}; or {FORMULA}")
    chill.add_argument("--thick", help="thickness of the formula’s block, e.g. 30 or 1.2 in")
    chill.add_argument("--from", dest="start", default="20", help="starting temperature")
    chill.add_argument(
        "--place", default="fridge", help="fridge, freezer and so on, or the name of a place"
    )
    chill.add_argument(
        "--body", default="paste", choices=["paste", "dough", "fat"], help="what is cooled"
    )
    chill.add_argument("--json", action="store_true", help="print the result as JSON")
    fit = _verb(commands, "chill-fit")
    fit.add_argument("case", help=CASE)
    fit.add_argument("--json", action="store_true", help="print the result as JSON")
    out = _verb(commands, "out")
    out.add_argument("formula", help=FORMULA)
    out.add_argument("--thick", required=True, help="thickness of the sheet, e.g. 10 or 0.4 in")
    out.add_argument("--from", dest="start", default="5", help="starting temperature")
    out.add_argument(
        "--room",
        default="",
        help="room temperature; if left out, the bakery temperature set in the house",
    )
    out.add_argument("--bench", default="wood", help="stone, wood, steel, tray or wire")
    out.add_argument("--json", action="store_true", help="print the result as JSON")
    day = _verb(commands, "day")
    day.add_argument("case", help=f"{CASE}; or BOOK.aplomb")
    day.add_argument("--date", default="", help="the day the order is for, e.g. 2026-11-28")
    day.add_argument(
        "--ics", type=Path, help="save the timetable as this calendar file (.ics) or table (.csv)"
    )
    day.add_argument("--json", action="store_true", help="print the result as JSON")


def _trial_parsers(commands: Any) -> None:
    for name in ("learn", "compare", "triangle"):
        made = _verb(commands, name)
        made.add_argument("case", help=CASE)
        made.add_argument("--json", action="store_true", help="print the result as JSON")
    tried = _verb(commands, "trials")
    tried.add_argument("file", help="CSV, a line per piece (docs/verbs/trials.md)")
    tried.add_argument("--outcome", default="lift", help="e.g. lift, even_pct, loss_pct")
    tried.add_argument("--change", default="fat_leaf_um", help="what each series changes")
    tried.add_argument("--json", action="store_true", help="print the result as JSON")
    oven = _verb(commands, "oven")
    oven.add_argument("case", help=f"e.g. “200 C fan”; or {CASE}")
    oven.add_argument("--to", default="", choices=["", *OVEN_TO], help="show only this one")
    oven.add_argument("--json", action="store_true", help="print the result as JSON")
