"""Reading a claim of turns, folds or layers, in the words that bakers use.

A claim is read word by word: a number waits for what it counts, a kind of fold for how often. What
is not known is refused: nothing is shown as understood that was not.
"""

import math
import re
from itertools import product
from typing import Literal

from msgspec import Struct, field

from aplomb.core.base.errors import TextError
from aplomb.core.base.figures import num
from aplomb.core.base.spoken import ARTICLES, ONES, TENS

What = Literal["turns", "folds", "layers"]
Span = tuple[float, float]

MOST_NAMED = 8
"""Most turns that a claim may name [-]."""
MOST_DIGITS = 12
"""A number of more digits is beyond every answer already [-]."""
LARGEST = 10_000_000
ABOUT = 0.1
"""How far “about” reaches [-], our choice."""
LONGEST = 300
"""Longest claim that is read [-]."""

FAT, DOUGH, ALL = "fat leaves", "dough leaves", "all leaves"
AFTER, INCLUDED = "turns after enclosing", "turns with enclosing counted as the first"

_NUMBERS = {
    **dict.fromkeys(ARTICLES, 1), **ONES, **TENS,
    "un": 1, "une": 1, "deux": 2, "trois": 3, "quatre": 4, "cinq": 5, "sept": 7, "huit": 8,
    "ein": 1, "eine": 1, "zwei": 2, "drei": 3, "vier": 4, "fünf": 5, "sechs": 6,
    "due": 2, "tre": 3, "quattro": 4, "cinque": 5, "sei": 6, "dos": 2, "tres": 3, "cuatro": 4,
    "cinco": 5, "seis": 6,
}  # fmt: skip
_TIMES = {"hundred": 100, "thousand": 1000, "million": 1_000_000, "dozen": 12, "score": 20}
_OFTEN = {"once": 1, "twice": 2, "thrice": 3}
_THREES = r"singles?|letters?|triples?|trifolds?|threefolds?|simples?|normals?|einfache?n?|semplici"
_FOURS = (
    r"doubles?|books?|fourfolds?|quadruples?|quads?|wallets?|bookfolds?|doppelte?n?|doppie|dobles?"
    r"|portefeuilles?"
)
_KINDS: tuple[tuple[str, tuple[int, ...]], ...] = (
    (_THREES, (3,)),
    (_FOURS, (4,)),
    (r"halves|halfs?|half", (2,)),
    (r"thirds", (3,)),
    (r"quarters?|quartered", (4,)),
    (r"fivefolds?", (5,)),
    (r"sixfolds?", (6,)),
)
"""Words that name a fold, and its panels."""
_INTO: dict[str, int] = {
    "half": 2, "two": 2, "thirds": 3, "three": 3, "four": 4, "quarters": 4, "five": 5, "six": 6,
    "2": 2, "3": 3, "4": 4, "5": 5, "6": 6, "tre": 3, "quattro": 4, "drei": 3, "vier": 4,
    "trois": 3, "quatre": 4,
}  # fmt: skip
_NOUNS: tuple[tuple[str, What], ...] = (
    (r"turns?|turnings?|tours?|touren|vueltas?|giri", "turns"),
    (r"folds?|pieghe|pliegues|plis", "folds"),
    (r"creases?", "folds"),
    (r"layers?|lea(?:f|ves)|sheets|strat(?:a|um)|laminations?|plies", "layers"),
)
_OVER = {"over", "more", "above", "beyond", "exceeds", "exceeding", "upwards"}
_LEAST = {"least", "minimum", "min"}
_UNDER = {"under", "below", "fewer", "less"}
_MOST = {"most", "maximum", "max", "up"}
_ABOUT = {
    "about", "around", "nearly", "almost", "some", "roughly", "approximately", "circa", "approx",
    "ca", "so",
}  # fmt: skip
_SEVERAL: dict[str, Span] = {
    "hundreds": (200, 999), "thousands": (2000, 9999), "dozens": (24, 199), "scores": (40, 199),
    "millions": (2_000_000, LARGEST),
}  # fmt: skip
_NOT = {"not", "no", "never", "without", "isn", "doesn", "hasn", "don"}
_FILLING_WORDS = """
of the with in into is it it’s its it's has have had are be been was were this that these those my
our your his her their gives give given gets get got makes make made take takes taken using use
used by to for from at all told total altogether and or then followed plus pastry paste puff dough
classic rough rest rests rested resting chill chilled chilling cold fridge freezer night day days
overnight hour hours minutes minute after before each every between turned turn's roll rolled
rolling out fold folded folding cut stack stacked stacking style way ways another again next first
last only just exactly precisely nothing else apart english french old new usual our’s one's a an
per daily said claims claimed claim says say call called you can see count counted counting
including included excluding enclosing enclosed enclosure lock lockin wrapping fat butter
margarine lard flour pieces baker bakers there here also both times time time's x us we they i he
she et und e y than couple sheet today tomorrow yesterday morning evening mit de la le les des du
der die das di à nichts sonst like them needs need want wants must should
"""
_FILLING = frozenset(_FILLING_WORDS.split())
"""Words that a claim is wrapped in, and that change nothing in it."""


class Claim(Struct, frozen=True):
    """A claim that was understood.

    Attributes
    ----------
    spans : tuple of (least, most)
        What it may be [-]: any of them will do, as in “five or six”.
    panels : tuple of tuple of int
        Of folds that were named, as in two singles and two doubles: any of these will do.
    said : str
        How it was understood, in words.
    convention : str
        How it is counted, when that is said: as `aplomb.core.folds.claims` names it; else empty.
    """

    what: What
    spans: tuple[Span, ...]
    panels: tuple[tuple[int, ...], ...] = ()
    said: str = ""
    convention: str = ""

    def holds(self, number: float) -> bool:
        """Tell whether a number is what is claimed."""
        return any(low - 1e-9 <= number <= high + 1e-9 for low, high in self.spans)

    @property
    def nearest_to(self) -> float:
        """What the claim comes nearest to, for ordering answers [-]."""
        low, high = self.spans[0] if self.spans else (0.0, 0.0)
        return low if math.isinf(high) else (low + high) / 2


def read_claim(text: str) -> Claim:
    """Read a claim as people make it.

    Without a word of turns, folds or layers, layers are meant; of numbers up to twelve turns.

    Parameters
    ----------
    text : str
        ``six turns``, ``729 layers``, ``five or six``, ``over a hundred layers``, ``1,000``,
        ``two triple and two book folds``, ``fold in three, five times``, ``six half turns``,
        ``five turns plus the lock-in``, ``144 leaves of butter``.

    Raises
    ------
    TextError
        Without a number, for one below 1 or beyond ten million, for more than eight named folds,
        for a claim of what is not so, and for a word that is not understood.

    Examples
    --------
    >>> read_claim('two double and two single turns').panels
    ((4, 4, 3, 3),)
    >>> read_claim('two turns, rest, two turns').said
    'exactly 4 turns'
    """
    if len(text) > LONGEST:
        raise TextError(f"use up to {LONGEST} characters", text, LONGEST, len(text))
    plan = _plan_in_figures(text)
    if plan:
        return _of_panels((plan,), "")
    plain, convention = _convention(_without_measures(text.casefold()))
    words = _words(plain)
    read = _Reading(text)
    read.all_of(words)
    if read.layers is None and read.kinds:
        ways = product(
            *[[(count, n) for count in counts for n in panels] for counts, panels in read.kinds]
        )
        if sum(max(counts) for counts, _ in read.kinds) > MOST_NAMED:
            raise TextError(f"name up to {MOST_NAMED} turns", text, 0, len(text))
        if read.turns:
            raise TextError("say every turn by its kind, or none", text, 0, len(text))
        if read.numbers:
            raise TextError("say what each number counts", text, 0, len(text))
        if _BOUNDED.search(plain):
            raise TextError(
                "give every fold, or how many turns at least or at most", text, 0, len(text)
            )
        return _of_panels(
            tuple(dict.fromkeys(tuple(n for c, n in way for _ in range(c)) for way in ways)),
            convention,
        )
    return read.counted(set(words), convention)


def _of_panels(panels: tuple[tuple[int, ...], ...], convention: str) -> Claim:
    each = " or ".join(" ".join(str(n) for n in one) for one in panels)
    spans = tuple((float(len(each)), float(len(each))) for each in panels)
    return Claim("turns", spans, panels, f"the folds {each}", convention)


_FIGURES = re.compile(
    r"\s*[2-6](?:\s*[x×*]\s*[2-6]){1,7}\s*(?:folds?|turns?)?\s*"
    r"|\s*[2-6](?:(?:\s*[-–,]\s*|\s+)[2-6]){1,7}\s*",
    re.IGNORECASE,
)


def _plan_in_figures(text: str) -> tuple[int, ...]:
    """Read a plan that is nothing but panels: 3 4 3 4, 3x3x3."""
    if not _FIGURES.fullmatch(text):
        return ()
    panels = tuple(int(n) for n in re.findall(r"\d", text))
    if len(panels) == 2 and re.search(r"[a-z]{2}", text, re.IGNORECASE):
        return ()  # 2 x 3 turns are six
    if len(panels) == 2 and not re.search(r"[x×*,]|\d\s+\d", text):
        return ()  # 4-6 is a range
    return panels


_NUMBER_WORDS = "|".join(sorted(_NUMBERS, key=len, reverse=True))
_MANY = rf"(?:\d{{1,9}}(?:[.,]\d{{1,4}})?|{_NUMBER_WORDS}|half an?|few)"
_A_DAY = re.compile(
    rf"(?P<turns>{_MANY})\s+(?P<what>turns?|folds?)\s+(?:a|per|each|every)\s+day"
    rf"(?:\s*,?\s*(?:for|over|on)?\s*(?P<days>{_MANY})\s+days)?",
    re.IGNORECASE,
)
_A_MEASURE = (
    r"(?:µm|μm|um|microns?|mm|cm|metres?|m|inch(?:es)?|°\s*[cf]?|degrees?|minutes?|mins?|hours?|hrs?|h"
    r"|days?|nights?|g|kg|%)(?![^\W\d_])"
)
_MEASURED = re.compile(
    rf"(?<![\d.,])\d{{1,6}}(?:[.,]\d{{1,4}})?(?:\s*(?:[-–]|to)\s*\d{{1,6}}(?:[.,]\d{{1,4}})?)?"
    rf"\s*{_A_MEASURE}"
    rf"|{_MANY}[\s-]+(?:minutes?|hours?|days?|nights?)\b",
    re.IGNORECASE,
)


def _without_measures(text: str) -> str:
    """Take lengths, times and temperatures away: they count no turns."""

    def per_day(found: re.Match[str]) -> str:
        days = found["days"]
        times = f"{days} times " if days else ""
        return f"{times}{found['turns']} {found['what']}"

    text = re.sub(r"\ba couple of (?=hundred|thousand)", "two ", text)
    text = re.sub(
        rf"(?<!\w)({_MANY})\s+(?:more|further|other|extra)\s+(?=turns?|folds?)", r"\1 ", text
    )
    text = _RESTING.sub(" ", " ".join(text.split()))
    text = _OVER_DAYS.sub(" ", text.replace("half a dozen", "six").replace("a dozen", "twelve"))
    if " of the" in text or " of tho" in text:
        text = _OF_THEM.sub(r"\2 \1", text)
    return _MEASURED.sub(" ", _A_DAY.sub(per_day, text))


_RESTING = re.compile(
    r"\b(?:rest|chill|cool)(?:s|ed|ing)?\s+(?:it\s+)?(?:after\s+|between\s+)?(?:every|each|after)\s+"
    rf"(?:{_MANY}|second|third|other)\b(?:\s+(?:turns?|folds?))?"
)
"""When it rests counts no turns: resting every two."""
_OVER_DAYS = re.compile(
    rf"\b(?:over|across|within|in|on|spread over)\s+(?:{_MANY})\s+"
    r"(?:days?|nights?|evenings?|mornings?|afternoons?|sessions?|hours?)\b"
)
_OF_THEM = re.compile(
    rf"^((?:(?!\b{_MANY}\b)[^,;:])*?)\s*,?\s+({_MANY})\s+of\s+(?:them|these|those)\b"
)
"""Half turns, six of them."""
_BOUNDED = re.compile(
    r"\bat (?:least|most)\b|\bno (?:fewer|less|more)\b|\b(?:fewer|less|more) than\b|\bup to\b"
    r"|\b(?:minimum|maximum|over|under)\b"
)


_ENCLOSING = r"(?:the\s+|an?\s+)?(?:enclos\w*|lock[- ]?in|wrapp\w*)"
_AS_FIRST = r"(?:\s+(?:counted\s+)?(?:as|for)\s+(?:the\s+)?(?:first|one))?"
_LEAVES = r"(?=layers?|leaves|leaf|sheets)"
_OF_LEAVES = (
    "(?:" + "|".join(f"(?<={word} )" for word in ("layer", "layers", "leaves", "leaf")) + ")"
)
_FATS, _DOUGHS = "(?:butter|fat|margarine|lard|shortening)", "(?:dough|flour|d[ée]trempe)"
_CONVENTIONS: tuple[tuple[str, str], ...] = (
    (rf"(?:not|without|excluding|excl\.?)\s+(?:counting\s+)?{_ENCLOSING}", AFTER),
    (rf"(?:after|plus|and|besides?|\+)\s+{_ENCLOSING}", AFTER),
    (rf"{_ENCLOSING}\s+not\s+(?:included|counted)", AFTER),
    (rf"{_ENCLOSING}\s+(?:included|counted)", INCLUDED),
    (rf"(?:including|incl\.?|counting|with)\s+{_ENCLOSING}{_AS_FIRST}", INCLUDED),
    (rf"(?:of\s+)?(?:dough|pastry) and {_FATS}|{_FATS} and (?:dough|pastry)", ALL),
    (r"\bin (?:all|total)\b|\ball told\b|\baltogether\b", ALL),
    (rf"{_OF_LEAVES}of (?:the )?{_FATS}\b|\b{_FATS}\s+{_LEAVES}", FAT),
    (rf"{_OF_LEAVES}of (?:the )?{_DOUGHS}\b|\b{_DOUGHS}\s+{_LEAVES}", DOUGH),
)


def _convention(text: str) -> tuple[str, str]:
    """Find how a claim says that it counts; the text without it, and the convention."""
    for pattern, convention in _CONVENTIONS:
        made, many = re.subn(pattern, " ", text)
        if many:
            return made, convention
    return text, ""


_SPACES = " \u00a0\u2009\u202f"
_WORD = re.compile(
    rf"\d{{1,3}}(?:[{_SPACES}.,']\d{{3}})+(?!\d)|\d+[.,]\d+|\d+(?=k\b)|\d+"
    r"|[^\W\d_]+(?:[’'][^\W\d_]+)?|[-–—&×,;:+/]"
)


def _words(text: str) -> list[str]:
    """Words in lower case; “book-fold”, “three fold” and the like made one word, numbers whole."""
    names = "tri|book|wallet|letter|single|double|half"
    text = re.sub(r"\bquarter[- ]turns?\b", " ", text)
    text = re.sub(r"\bturn\s+(?:\d|one|two|three|four|five|six|seven|eight)\s*:", ",", text)
    text = re.sub(
        r"\b(?:turn|turned|turning|rotate|rotated)\s+(?:it\s+|the \w+\s+)?(?:by\s+)?"
        r"(?:an?\s+|one\s+)?quarter\b",
        " ",
        text,
    )
    text = re.sub(rf"\b({names})[- ]?(fold|turn)", r"\1 \2", text)
    text = re.sub(r"\b(three|four|five|six)[-](fold)(s?)\b", r"\1\2\3", text)
    text = re.sub(r"\b(?:3|4|5|6)-(?=fold)", lambda m: f"{_FOLD_OF[m[0][0]]}", text)
    text = text.replace("tri fold", "trifold")
    return _WORD.findall(text)


_FOLD_OF = {"3": "three", "4": "four", "5": "five", "6": "six"}


class _Spoken:
    """One number while its words are read: two hundred and forty-three."""

    def __init__(self) -> None:
        self.whole, self.part, self.last = 0.0, 0.0, ""

    @property
    def value(self) -> float:
        return self.whole + self.part

    def takes(self, word: str) -> bool:
        """Take a word into the number, when it can go on with it."""
        if word[0].isdecimal():
            if self.last:
                return False
            grouped = re.fullmatch(rf"\d{{1,3}}(?:[{_SPACES}.,']\d{{3}})+", word) is not None
            digits = re.sub(r"\D", "", word)[:MOST_DIGITS]
            self.part = float(digits) if grouped else float(word[:MOST_DIGITS].replace(",", "."))
            self.last = "digits"
        elif word == "k" and self.last == "digits":
            self.part, self.last = self.part * 1000, "times"
        elif word in _TIMES:
            times = _TIMES[word]
            if times >= 1000:
                self.whole, self.part = self.whole + (self.part or 1) * times, 0
            else:
                self.part = (self.part or 1) * times
            self.last = "times"
        elif word in ("and", "-", "–") and self.last in ("times", "tens", "and"):
            self.last = "and" if self.last == "times" else self.last
        elif word in _NUMBERS:
            value = _NUMBERS[word]
            tens = value >= 20 and value % 10 == 0
            fits = (
                not self.last
                or (self.last in ("times", "and") and word not in ("a", "an"))
                or (self.last == "tens" and value < 10)
            )
            if not fits:
                return False
            self.part += value
            self.last = "tens" if tens else "units"
        else:
            return False
        return True


def _kind(word: str) -> tuple[int, ...]:
    return next((panels for pattern, panels in _KINDS if re.fullmatch(pattern, word)), ())


def _noun(word: str) -> What | None:
    return next((what for pattern, what in _NOUNS if re.fullmatch(pattern, word)), None)


class _Reading(Struct):
    """A claim while it is read, word by word.

    Attributes
    ----------
    numbers : list of float
        What waits for the thing that it counts.
    joined : str
        The word between two of them: or, to.
    times : int
        How often what comes next is done.
    kinds : list of (counts, panels)
        Folds that were named.
    turns : list of tuple of float
        Turns or folds that were counted only.
    layers : tuple of float, or None
        Layers that were counted.
    """

    text: str
    numbers: list[float] = field(default_factory=list)
    joined: str = ""
    times: int = 1
    kinds: list[tuple[tuple[int, ...], tuple[int, ...]]] = field(default_factory=list)
    turns: list[tuple[float, ...]] = field(default_factory=list)
    layers: tuple[float, ...] | None = None
    what: What | None = None
    several: Span | None = None
    last: str = ""

    def all_of(self, words: list[str]) -> None:
        """Read all words."""
        at = 0
        while at < len(words):
            at = self._word(words, at)

    def _word(self, words: list[str], at: int) -> int:
        """Read a word, with those that belong to it; the place behind."""
        word = words[at]
        after = words[at + 1] if at + 1 < len(words) else ""
        spoken = _Spoken()
        behind = at
        if word in ("in", "into", "a") and after in _INTO and self._folds_into(words, at):
            self._named((_INTO[after],))
            return at + 2
        while behind < len(words) and spoken.takes(words[behind]):
            behind += 1
        while behind > at and words[behind - 1] in ("and", "-", "–"):
            behind -= 1
        if spoken.last and behind > at:
            return self._number(words, at, behind, spoken.value)
        self._other(words, at, word, after)
        return at + 1

    def _folds_into(self, words: list[str], at: int) -> bool:
        before = words[max(0, at - 6) : at]
        return (
            words[at + 1] in ("half", "thirds", "quarters")
            or any(w in ("fold", "folded", "folds", "cut", "pieghe", "then", "it") for w in before)
            or self.last in ("kind", "noun")
            or at == 0
        )

    def _number(self, words: list[str], at: int, behind: int, value: float) -> int:
        """Take a number: how often, or so many of what comes."""
        nxt = words[behind] if behind < len(words) else ""
        word = words[at]
        article = word in ("a", "an") and behind == at + 1
        if article and nxt not in ("day", "night", "hour") and not (_kind(nxt) or _noun(nxt)):
            return behind  # “a given number”: an article
        if not float(value).is_integer() or not 1 <= value <= LARGEST:
            raise TextError(f"use a whole number from 1 to {LARGEST}", self.text, 0, len(self.text))
        if nxt in ("times", "x", "×"):
            self._often(int(value), words, behind + 1)
            return behind + 1
        if self.last in ("×", "x") and self.kinds:
            self._often(int(value), words, behind)
            return behind
        if self.numbers and self.joined:
            self.numbers.append(value)
        elif article and self.numbers:
            return behind
        else:
            if self.numbers:
                self._count_bare()
            self.numbers = [value]
        self.last = "number"
        return behind

    def _often(self, many: int, words: list[str], behind: int) -> None:
        """So many times: of what was named before, else of what comes next."""
        follows = next(
            (w for w in words[behind:] if _kind(w) or _noun(w) or w in (",", "then")), ""
        )
        named_before = self.kinds and self.last in ("kind", "noun", "×", "x", ",")
        if named_before and not (follows and follows not in (",", "then") and self.last == ","):
            counts, panels = self.kinds[-1]
            self.kinds[-1] = (tuple(many * c for c in counts), panels)
            self.last = "often"
        elif self.last == "done" and not (_kind(follows) or _noun(follows)):
            self.turns.append((float(many),))
            self.what, self.last = self.what or "turns", "often"
        else:
            self.times = many
            self.last = "times"

    def _other(self, words: list[str], at: int, word: str, after: str) -> None:
        panels = _kind(word)
        what = _noun(word)
        if word in _SEVERAL or (word == "several" and after in ("hundred", "thousand")):
            self.several = _SEVERAL.get(word) or _SEVERAL[f"{after}s"]
        elif word in _OFTEN:
            self._often(_OFTEN[word], words, at + 1)
        elif panels:
            self._named((2, 3) if panels == (2,) and after.startswith("turn") else panels)
        elif what is not None:
            self._counted_noun(word, what)
        elif word in ("or", "to", "-", "–", "—") or (word in (",", "and") and self.numbers):
            self.joined = "to" if word in ("-", "–", "—") else word
        elif word in (",", ";", "then", "+", "plus", "and", "&", "followed"):
            self.last = ","
        elif word in ("×", "x"):
            self.last = "×"
        elif word not in _FILLING | _OVER | _LEAST | _UNDER | _MOST | _ABOUT | _NOT | {":", "/"}:
            raise TextError(f"“{word}” is not understood", self.text, 0, len(self.text))

    def _named(self, panels: tuple[int, ...]) -> None:
        if self.last == "kind" and self.kinds and self.kinds[-1][1] == panels and not self.numbers:
            return  # “double book”, “single letter”: one fold by two names
        if self.last == "noun" and self.turns and not self.numbers:
            self.numbers = list(self.turns.pop())  # six tours simples
        counts = tuple(int(n) * self.times for n in self.numbers) or (self.times,)
        if self.joined == "and" and len(counts) > 1:
            raise TextError("say how many of each", self.text, 0, len(self.text))
        self.kinds.append((counts, panels))
        self.numbers, self.joined, self.times, self.last = [], "", 1, "kind"

    def _counted_noun(self, word: str, what: What) -> None:
        if self.last in ("kind", "often") and not self.numbers:
            self.last = "noun"
            return  # “double turns”
        if what == "folds" and word in ("fold", "folds") and not self.numbers and not self.several:
            self.last = "noun"
            return  # “fold in three”
        if word == "turn" and not self.numbers and not self.several and self.times == 1:
            self.last = "done"
            return  # “turn it six times”
        self.what = self.what or what
        if what == "layers":
            if self.layers is not None:
                raise TextError("claim one thing at a time", self.text, 0, len(self.text))
            self.layers = tuple(self.numbers)
        elif self.numbers:
            if self.layers is not None:
                raise TextError("claim one thing at a time", self.text, 0, len(self.text))
            self.turns.append(tuple(n * self.times for n in self.numbers))
            self.times = 1
        if self.numbers:
            self.numbers = []
            self.last = "noun"

    def _count_bare(self) -> None:
        raise TextError("say what each number counts", self.text, 0, len(self.text))

    def counted(self, there: set[str], convention: str) -> Claim:
        """Make the claim of what was counted."""
        numbers = tuple(self.numbers)
        if self.times > 1:
            raise TextError("say what is done so many times", self.text, 0, len(self.text))
        if self.layers is not None and (self.turns or self.kinds or (self.layers and self.numbers)):
            raise TextError("claim one thing at a time", self.text, 0, len(self.text))
        if self.layers:
            numbers = self.layers
        elif self.turns:
            if numbers and self.what is not None:
                raise TextError("say what each number counts", self.text, 0, len(self.text))
            alone = self.turns[0]
            numbers = alone if len(self.turns) == 1 else (sum(n[0] for n in self.turns),)
        if not numbers and self.several is None:
            raise TextError(
                "enter a number, e.g. six turns or 729 layers", self.text, 0, len(self.text)
            )
        if {"few", "many", "lots", "screw"} & there:
            raise TextError("give a number, e.g. six turns", self.text, 0, len(self.text))
        what = self.what
        if what is None:
            small = numbers and max(numbers) <= 12 and self.several is None
            what = "turns" if small else "layers"
        said, spans = self._spans(tuple(int(n) for n in numbers), there)
        if (convention in (FAT, DOUGH, ALL)) != (what == "layers"):
            convention = ""
        counted = f", {convention}" if convention else ""
        return Claim(what, spans, (), f"{said} {what}{counted}", convention)

    def _spans(self, numbers: tuple[int, ...], there: set[str]) -> tuple[str, tuple[Span, ...]]:
        """Say what is claimed, and between which numbers it holds."""
        if self.several is not None:
            low, high = self.several
            return f"{num(low)} to {num(high)}", (self.several,)
        denied = bool(_NOT & there)
        number = numbers[0]
        ranged = self.joined == "to" or (self.joined == "and" and "between" in there)
        if len(numbers) == 2 and ranged and numbers[0] < numbers[1]:
            return f"{numbers[0]} to {numbers[1]}", ((float(numbers[0]), float(numbers[1])),)
        if len(numbers) == 2 and self.joined == "and" and self.layers is None:
            total = sum(numbers)  # two and two turns
            return f"exactly {total}", ((float(total), float(total)),)
        if len(numbers) > 1:
            return " or ".join(map(str, numbers)), tuple((float(n), float(n)) for n in numbers)
        at_least = bool(_LEAST & there) or "+" in self.text or "upwards" in there
        at_least = at_least or ("or" in there and "more" in there)
        if (denied and there & _UNDER) or (at_least and not denied):
            return f"at least {number}", ((float(number), math.inf),)
        if (denied and "more" in there) or (_MOST & there and not denied):
            return f"at most {number}", ((1.0, float(number)),)
        if denied:
            raise TextError(
                "say what it is, not what it is not, e.g. 144 layers", self.text, 0, len(self.text)
            )
        if there & _OVER:
            return f"over {number}", ((number + 1.0, math.inf),)
        if there & _UNDER:
            return f"under {number}", ((1.0, number - 1.0),)
        if there & _ABOUT and not ("so" in there and "or" not in there):
            return f"about {number}", (
                (round(number * (1 - ABOUT), 6), round(number * (1 + ABOUT), 6)),
            )
        return f"exactly {number}", ((float(number), float(number)),)
