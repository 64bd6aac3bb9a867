"""Feed texts to every reader: each is read, or refused in words that point at a place, and soon."""

import random
import time
import traceback
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from aplomb.assets.shipped import reference
from aplomb.core.base.errors import AplombError, TextError
from aplomb.core.base.numbers import read_number
from aplomb.core.base.quantity import parse_amount, parse_count, parse_length_mm, parse_percent
from aplomb.core.folds.claim_reading import read_claim
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.lists.reading import read_list
from aplomb.core.oven.bake_line import read_programme
from aplomb.core.oven.setting import read_setting
from aplomb.core.paste.product import read_points
from aplomb.devices.protocol import read_line
from aplomb.exchange.probe_log import read_probe_log
from aplomb.work.figures import typed

SOON_S = 0.4
"""A text of some thousand signs is read in this much processor time, or it is a fault [s]."""
PIECES = (
    "1", "12", "2,5", "1.250", "1 250", "½", "2 1/4", "3/4", "0", "-3", "1e9", "NaN", "inf",
    "9" * 400, "٣", "五", " ", "  ", "\t", "\n", "\u00a0", "\u2009", "g", "kg", "cup", "cups",
    "tbsp", "tsp", "oz", "lb", "fl oz", "%", "mm", "cm", "in", '"', "°C", "F", "of", "plus",
    "and", "or", "to", "-", "–", "+", "/", "x", "×", "*", "(", ")", "[", "]", ",", ";", ":", "=",
    "about", "ca.", "flour", "butter", "water", "salt", "egg", "eggs", "dusting", "dough:",
    "envelope", "thirds", "pieces", "portions", "coil", "3", "4o", "4@8", "q", "s4", "+3:40", "t10",
    "r", "/30", "turns", "six", "a thousand", "layers", "weight", "steady", "scale",
    "\ud83d", "\ud83d\ude00", "\x00", "\x1b", "\u202e", "e\u0301", "ß", "İ", "ﬁ", "²", "Ⅷ", "⅐",
)  # fmt: skip


GRAMMAR = """
between from and or plus minus less to till of x × * about approx. approximately ca. circa
roughly ~ ≈ a an one two three twelve dozen half halves third quarter quarters three-quarters
eighth pinch handful stick sticks knob dash splash juice zest sheet leaf clove drop egg eggs g
kg mg lb lbs oz ounce ml l dl cl cup cups c. tbsp tsp tablespoon teaspoon fl fl. oz. pint
quart gallon gill US metric imperial heaped level scant generous large medium small % percent
mm cm inch in " ° °C °F C F K gas mark fan conv conventional oven top bottom low hot medium
min minutes minute h hour hours hr until then for at with without raise lower reduce ring off
weights out turn over golden dough: fat: block for dusting: filling: turns turn folds fold
single double book letter half quarter thirds envelope inverse halves pieces coil portions
none layers leaves sheets of fat dough all at least at most more than over under thousand
hundred hundreds k six four tours simples enclosing lock-in rest / /30 3 4@8 +3 s4 q r t10
room noon midnight am pm : 7:30 8–16 00 type 55 extra more some the rest each per 1 2 3/4 ½ 2½
0 250 1.250 1,250 1 250 -5 – — − + = ( ) [ ] , ; | . & ! ?
""".split()  # noqa: SIM905  # a list of them is a page long
"""Words of the readers' own grammars: where one ends a text, or comes twice, a reader falls."""


def grammar_text(pick: random.Random) -> str:
    """Make a text of the readers' own words, in any order."""
    words = [pick.choice(GRAMMAR) for _ in range(pick.randint(1, pick.choice((2, 4, 8))))]
    return pick.choice((" ", " ", " ", "")).join(words)


def readers() -> dict[str, Callable[[str], Any]]:
    """Give every reader of a text by its name."""
    pantry = reference().pantry
    return {
        "amount": lambda t: parse_amount(t, "."),
        "amount, comma": lambda t: parse_amount(t, ",", "metric"),
        "count": parse_count,
        "length": lambda t: parse_length_mm(t, "mm", ","),
        "percent": lambda t: parse_percent(t, "."),
        "number": lambda t: read_number(t, ","),
        "plan": parse_plan,
        "claim": read_claim,
        "outline": lambda t: read_points(t, "."),
        "list": lambda t: read_list(t, pantry, ".", "us"),
        "list, comma": lambda t: read_list(t, pantry, ",", "metric"),
        "setting": read_setting,
        "programme": read_programme,
        "mass": typed.read_mass,
        "size": typed.read_size,
        "temperature": typed.read_temp,
        "clock": typed.read_clock,
        "hours": typed.read_hours,
        "probe log": read_probe_log,
        "scale": lambda t: read_line(t.encode("utf-8", "replace")),
    }


def any_text(pick: random.Random) -> str:
    """Make a text: pieces of what is read, or signs of all kinds; now and then a very long one."""
    draw = pick.random()
    if draw < 0.4:
        return grammar_text(pick)
    if draw < 0.75:
        return "".join(
            pick.choice(PIECES) + pick.choice(("", "", " ")) for _ in range(pick.randint(1, 9))
        )
    if draw < 0.9:
        return "".join(
            chr(pick.choice((pick.randrange(32, 127), pick.randrange(0x3000))))
            for _ in range(pick.randint(0, 30))
        )
    if draw < 0.96:
        return pick.choice(PIECES) * pick.randint(10, 300)
    filler = pick.choice((" ", "\u00a0", "1 ", "(", "1+", "3 ", "a ", "\n", "1/", "½", ",", "4@8 "))
    return pick.choice(PIECES) + filler * (6000 // len(filler)) + pick.choice(PIECES)


def where(error: BaseException) -> str:
    """Say what was raised, and where."""
    last = traceback.extract_tb(error.__traceback__)[-1]
    return f"{type(error).__name__}: {str(error)[:60]!r} ({last.name}:{last.lineno})"


def _again_s(read: Callable[[str], Any], text: str) -> float:
    """Give the shortest of three more readings [s]."""
    shortest = float("inf")
    for _ in range(3):
        began = time.thread_time()
        with suppress(Exception):
            read(text)
        shortest = min(shortest, time.thread_time() - began)
    return shortest


def find(cases: int, start: int = 0) -> tuple[Counter[str], dict[str, str]]:
    """Feed so many texts to every reader; gives faults with how often, and a text for each."""
    faults: Counter[str] = Counter()
    first: dict[str, str] = {}
    all_readers = readers()
    for case in range(start, start + cases):
        text = any_text(random.Random(case))
        for name, read in all_readers.items():
            began = time.thread_time()
            words = ""
            try:
                read(text)
            except TextError as error:
                if not error.message or not 0 <= error.start <= len(error.text):
                    words = "points nowhere"
                error.pointed().encode("utf-8", "surrogatepass")
            except AplombError as error:
                words = "" if str(error) else "says nothing"
            except Exception as error:  # noqa: BLE001  # this is what is looked for
                words = where(error)
            spent = time.thread_time() - began
            if spent > SOON_S and _again_s(read, text) > SOON_S:  # not only a busy machine
                words = f"takes long ({len(text)} signs like {text[1:3]!r})"
            if words:
                faults[f"{name}: {words}"] += 1
                first.setdefault(f"{name}: {words}", f"{text[:60]!r} ({len(text)}, {spent:.1f} s)")
    return faults, first
