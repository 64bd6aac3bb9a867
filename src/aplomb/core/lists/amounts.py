"""The amounts in one line of a list: where they stand, and what is left of the line."""

import re
from typing import NamedTuple

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import DecimalSign
from aplomb.core.base.numbers import MEASURED
from aplomb.core.base.quantity import Amount, parse_amount
from aplomb.core.base.spoken import ARTICLES, NUMBER_WORDS, ONES, PARTS, spoken
from aplomb.core.base.units import SYSTEM_WORDS, UNITS, Kind, Measures

MOST_TOKENS = 14
"""Words of one amount at the most [-]."""

_FIGURE = re.compile(r"\d|[½⅓⅔¼¾⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞]")
_SPOKEN = re.compile(
    rf"(?:{'|'.join((*NUMBER_WORDS, *PARTS, *MEASURED))}|between|about|approx\.?|approximately"
    r"|circa|ca\.?|c\.|from|around|roughly|nearly|almost|some|say|just|at|up|pinch|dash|handful|knob|splash|squeeze"
    r"|stick)\b",
    re.IGNORECASE,
)
_HANDS = re.compile(r"(?:pinch|dash|handful|knob|splash|squeeze|stick)(?:e?s)?\b", re.IGNORECASE)
"""What a hand measures, said without a number: one of it."""
_GRADE = re.compile(
    r"(?<![\w.,])(?:(?:type|typ|tipo|no\.?|nr\.?|grade|t|w|strength)\s*[-.]?\s*(?:\d{2,4}\b|0{1,2}\b)"
    r"(?:\s*[/–-]\s*\d{2,4}\b)?(?!\s*(?:g|kg|ml|l|oz|lb|%)\b)|0?0(?=\s+\D*(?:flour|farina|mehl|farine)))",
    re.IGNORECASE,
)
"""Numbers that belong to a flour's name: type 55, T65, W 300, 00."""
_HANDLING = re.compile(
    r"\d+(?:[.,]\d+)?(?:\s*[-–x×]\s*\d+(?:[.,]\d+)?)?\s*(?:"
    r"(?:mm|cm|inch(?:es)?|in|\")[- ]*(?:cubes?|dice|pieces?|thick|slices?|chunks?|flakes?)"
    r"|°\s*[cf]?\b|degrees?\b|(?:min|minutes?|hours?|h|hrs?)\b)",
    re.IGNORECASE,
)
"""Numbers that say how a material is cut, how warm it is or how long it stands."""
OWN_SHARE = re.compile(
    r"(?:\d+(?:[.,]\d+)?\s*%\s*(?:butter|milk)?\s?(?:fat content|fat|m\.?g\.?|protein|acid(?:ity)?)"
    r"|(?:fat(?: content)?|protein|acid(?:ity)?)\s*(?:of\s*)?\d+(?:[.,]\d+)?\s*%)",
    re.IGNORECASE,
)
"""A percentage that is said to be the material's own."""
_MORE_FOR = re.compile(
    r"[,;]?\s*(?:\(\s*)?(?:plus|and|with|\+|&)?\s*(?:a\s+(?:little|bit|few)\s+)?"
    r"(?:(?:some|a little)\s+)?(?:more|extra)\b(?:\s+\w+)?\s+(?:for|to)\s+[^,;()]*\)?",
    re.IGNORECASE,
)
"""“plus more for dusting”: no amount, and not where the amount goes."""
_SOME_MORE = re.compile(
    r"\s*(?:\+|&|\bplus\b|\band\b)\s*(?:a (?:bit|little) )?(?:extra|more)\s*$", re.IGNORECASE
)
"""“+ extra” at the end of a line: no amount."""
_JUICE = re.compile(r"\b(juice|zest)\s+(?:of|from)\s+", re.IGNORECASE)


_CONTAINER = (
    r"(?:pack(?:et|age)?s?|pkts?|pkgs?|blocks?|bags?|tubs?|box(?:es)?|cartons?|tins?|cans?|bars?"
    r"|slabs?|sheets?|sticks?|bottles?|pots?|jars?|plaquettes?|stück|stücke)"
)
_EACH = r"\d+(?:[.,]\d+)?\s*-?\s*(?:g|gr|grams?|kg|ml|cl|l|oz|ounces?|lbs?|pounds?)\b\.?"
_MANY = rf"(?:\d{{1,3}}|{'|'.join(sorted((*ARTICLES, *ONES), key=len, reverse=True))}|half an?)"
_PACKS = tuple(
    re.compile(rf"\b(?P<n>{many}){rest}(?:\s+of\b)?", re.IGNORECASE)
    for many, rest in (
        (_MANY, rf"\s+(?P<each>{_EACH})[\s-]*{_CONTAINER}\b"),
        (_MANY, rf"\s*[x×*]\s*(?P<each>{_EACH})[\s-]*{_CONTAINER}\b"),
        (_MANY, rf"\s*\(\s*(?P<each>{_EACH})\s*\)\s*{_CONTAINER}\b"),
        (_MANY, rf"\s+{_CONTAINER}\s+(?:of|à|zu|a)\s+(?P<each>{_EACH})"),
        (
            _MANY,
            rf"\s+{_CONTAINER}(?:\s+of\b)?\s*\(\s*(?P<each>{_EACH})\s*(?:each|apiece)\s*\)",
        ),
        ("1|an?|one", rf"\s+{_CONTAINER}(?:\s+of\b)?\s*\(\s*(?P<each>{_EACH})\s*\)"),
    )
)
"""Packets: so many of so much each."""
_ANY_PACK = re.compile(_CONTAINER, re.IGNORECASE)


_TIMES = (
    (
        re.compile(rf"({_EACH})\s*[x×*]\s*(\d{{1,2}})\b(?!\s*(?:g|kg|ml|oz|lb))", re.IGNORECASE),
        r"\2 x \1",
    ),
    (re.compile(r"(?<=[^\W\d_])\s+[x×]\s*(\d{1,2})\s*$", re.IGNORECASE), r" \1"),
    (re.compile(r"^\s*(\d{1,2})\s*[x×]\s+(?=[^\W\d_])", re.IGNORECASE), r"\1 "),
)
"""A number of times behind what is counted, or before it: eggs x 2, 3 x large eggs."""
_COUNTED = re.compile(
    r"\(\s*(\d{1,2}|one|two|an?)\s+((?:large|medium|small)\s+)?(eggs?|yolks?|egg yolks?)\s*\)",
    re.IGNORECASE,
)
"""A count in brackets: egg wash (1 egg)."""


def _packs(line: str) -> str:
    """Write packets as a product that is read as one amount: two 250 g blocks is 2 x 250 g."""

    def times(found: re.Match[str]) -> str:
        said = spoken(found["n"], 0)
        many = said.value if said is not None else float(found["n"])
        each = re.sub(r"(?<=\d)\s*-\s*", " ", found["each"])
        return f"{each} " if many == 1 else f"{many:g} x {each} "

    if _ANY_PACK.search(line) is not None:
        for pattern in _PACKS:
            line = pattern.sub(times, line)
    return line


_TOKEN = re.compile(
    r"\([^()]*\)|\[[^\[\]]*\]|[;|]|(?<!\d),|,(?!\d)|(?:[^\s()\[\];|,]|(?<=\d),(?=\d))+|\S"
)
"""Words, brackets, and marks between cells; a comma within a number stays in it."""


class AmountsInLine(NamedTuple):
    """What a line says.

    Attributes
    ----------
    amounts : tuple of (text, Amount)
        Stated amounts, in their order.
    words : str
        What is left: the name.
    aside : tuple of str
        Words in brackets.
    handling : tuple of str
        What says nothing of what the material is: how it is cut, its grade, “plus more for …”.
    doubts : tuple of str
        What may have been read wrongly.
    grade : str
        A flour's type or strength, as it is said.
    """

    amounts: tuple[tuple[str, Amount], ...]
    words: str
    aside: tuple[str, ...]
    handling: tuple[str, ...]
    doubts: tuple[str, ...] = ()
    grade: str = ""


_SPLIT = re.compile(
    r"(?<![\d.,/])(\d{1,2}) (\d{2})(?=\s*(?:g|gr|grams?|kg|ml|oz|lbs?)\b)", re.IGNORECASE
)
"""Digits that have come apart: 5 00 g."""


def amounts_in(line: str, decimal: DecimalSign, measures: Measures) -> AmountsInLine:
    """Find every amount of a line, wherever it stands.

    Never raises: what cannot be read is left among the words.

    Parameters
    ----------
    line : str
        Tidied, on one line.
    """
    aside: list[str] = []
    handling: list[str] = []

    def set_aside(found: re.Match[str]) -> str:
        said = found.group().strip(" ,;()")
        if said:
            handling.append(said)
        return " "

    split, graded = _SPLIT.search(line), _GRADE.search(line)
    grade = graded.group().strip() if graded and not split else ""
    doubts = (f"“{split.group()}” was read as {split[1]}{split[2]}",) if split else ()
    line = _SPLIT.sub(r"\1\2", line)
    for pattern in (_MORE_FOR, _SOME_MORE, _HANDLING, OWN_SHARE, _GRADE):
        line = pattern.sub(set_aside, line)
    line = _COUNTED.sub(r" \1 \2\3 ", line)
    for pattern, made in _TIMES:
        line = pattern.sub(made, line)
    line = _packs(_JUICE.sub(r"\1 ", line))
    amounts: list[tuple[str, Amount]] = []
    words: list[str] = []
    line = _CIRCA.sub("ca. ", _DASH.sub(", ", line))
    line = _CLAUSE.sub(set_aside, line)
    tokens = _TOKEN.findall(line)
    at = since = 0
    while at < len(tokens):
        token = tokens[at]
        if token[0] in "([" and len(token) > 1:
            inner = token[1:-1].strip()
            stated = _stated_in(inner, decimal, measures)
            amounts += stated
            if inner and not stated:
                aside.append(inner)
            at += 1
            continue
        taken = _longest(
            tokens,
            at,
            decimal,
            measures,
            first=not words or words[-1].casefold() in ("juice", "zest"),
        )
        if taken is None:
            words.append(token)
            at += 1
        else:
            text, amount, at = taken
            amounts.append((text, amount))
            joined = _added_to(amounts, words[since:], words, tokens[at:], decimal, measures)
            if joined is not None:
                amounts[-2:] = [joined]
                while words and words[-1].casefold() in (*_ADDING, ","):
                    words.pop()
            since = len(words)
    return AmountsInLine(
        tuple(amounts), _joined(words), tuple(aside), tuple(handling), doubts, grade
    )


_DASH = re.compile(r"\s+[–—-]\s+(?=[^\W\d_½⅓⅔¼¾⅛⅜⅝⅞])|\.{3,}|…")
"""A dash with words behind it is a comma."""
_CIRCA = re.compile(r"(?<![^\W_])c\.?\s+(?=\d)")
_CLAUSE = re.compile(
    r"\s(?:if|when|unless|because|until|while|so that|that|which|but|though|although|depending)\b"
    r"[^,;()]*",
    re.IGNORECASE,
)
"""What is said besides: if you have it, because it is cheap."""
_ADDING = {
    "plus": "plus",
    "+": "plus",
    "and": "plus",
    "&": "plus",
    "minus": "minus",
    "less": "minus",
}
"""Words between two amounts of one material, and what they do."""


_OTHERWISE = re.compile(r"\s*(?:[;/=|]|,(?!\d)|\bor\b)\s*", re.IGNORECASE)
"""Between several ways in which a bracket says one amount."""


def _stated_in(inner: str, decimal: DecimalSign, measures: Measures) -> list[tuple[str, Amount]]:
    """Read what stands in brackets: one amount, or one in several measures; else nothing."""
    whole = _read(inner, decimal, measures, first=True)
    if whole is not None:
        return [] if whole.bare else [(inner, whole)]
    found = []
    for part in _OTHERWISE.split(inner):
        stated = _read(part.strip(), decimal, measures, first=True)
        if stated is None or stated.bare:
            return []
        found.append((part.strip(), stated))
    return found


_NOTHING_MORE = re.compile(
    r"(?:[,;.()]|more|extra|if|when|as|or|so|needed|necessary|required|wanted|to|taste|feel|by|of|it"
    r"|the|same|cold|iced|\s)*",
    re.IGNORECASE,
)
_COARSER = re.compile(r"(?:lbs?|pounds?|kg|kilos?)\.?$", re.IGNORECASE)
_FINER = re.compile(r"\d\s*(?:oz|ounces?|g|grams?)\.?$", re.IGNORECASE)


def _added_to(
    amounts: list[tuple[str, Amount]],
    between: list[str],
    words: list[str],
    rest: list[str],
    decimal: DecimalSign,
    measures: Measures,
) -> tuple[str, Amount] | None:
    """Add an amount to the one before, when a word between says so: ¾ cup water, plus 2 tbsp."""
    if len(amounts) < 2 or not words:
        return None
    (before, first), (behind, last) = amounts[-2:]
    does = _ADDING.get(words[-1].casefold())
    if between == [","] and _COARSER.search(before) and _FINER.search(behind):
        does = "plus"  # 1 lb, 2 oz
    named = between != [","] and any(
        word[0].isalpha() and word.casefold() not in _ADDING for word in words
    )
    if named and not _NOTHING_MORE.fullmatch(" ".join(rest)):
        return None  # 250 g butter and 100 g lard
    if does is None or first.bare or last.bare or Kind.PERCENT in (first.kind, last.kind):
        return None
    try:
        text = f"{before} {does} {behind}"
        return text, parse_amount(text, decimal, measures)
    except AmountError:
        return None


def _joined(words: list[str]) -> str:
    text = " ".join(words)
    text = re.sub(r"\s+([,;|])", r"\1", text)
    return re.sub(
        r"^(?:of|de|d’|d')\s+", "", text.strip(" ,;:|–—-/=+&"), flags=re.IGNORECASE
    ).strip(" ,;:")


_AMOUNT_WORDS = """
bis ou oder and plus minus less to till or of the between from about approx approximately circa
ca around roughly nearly almost some say just under over at least most up little fl fluid spoon
spoons table tea dessert c à a s soupe soupes café cafe thé de sopa chá flour dough paste pastry
butter fat total whole block mix weight on its x t dozen
"""
_IN_AMOUNTS = frozenset(
    (
        *_AMOUNT_WORDS.split(), *UNITS["us"], *UNITS["metric"], *SYSTEM_WORDS, *MEASURED,
        *NUMBER_WORDS, *PARTS,
    )
)  # fmt: skip
"""Every word that an amount is made of; any other word ends it."""


def _goes_on(token: str) -> bool:
    """Tell whether a word can belong to the amount that stands before it."""
    if token[0] in "([;|":
        return False
    bare = token.casefold().strip(".,:")
    return (
        not bare.isalpha()
        or bare in _IN_AMOUNTS
        or bare.startswith(("cuil", "colher", "half", "quarter"))
    )


def _longest(
    tokens: list[str], at: int, decimal: DecimalSign, measures: Measures, *, first: bool
) -> tuple[str, Amount, int] | None:
    """Read as many words from a place as make one amount."""
    if not (_SPOKEN.match(tokens[at]) or _FIGURE.match(tokens[at]) or tokens[at][:1] in "~≈."):
        return None
    last = at + 1
    while last < min(len(tokens), at + MOST_TOKENS) and _goes_on(tokens[last]):
        if tokens[last].isdigit() and tokens[last - 1].isdigit() and len(tokens[last]) != 3:
            break  # two numbers that are not one: 1 250 is, 1 1 is not
        last += 1
    for end in range(last, at, -1):
        if tokens[end - 1] in ",;|" or any(t in ";|" or t[0] in "([" for t in tokens[at:end]):
            continue
        text = " ".join(tokens[at:end]).removesuffix(" of")
        amount = _read(text.rstrip(":"), decimal, measures, first=first)
        if amount is not None:
            return text.rstrip(":"), amount, end
    return None


def _read(text: str, decimal: DecimalSign, measures: Measures, *, first: bool) -> Amount | None:
    """Read a text as an amount; a number in words without a unit only where a line begins."""
    said = _SPOKEN.match(text) is not None
    if _HANDS.match(text):
        text = f"a {text}"
    if not said and not _FIGURE.match(text) and text[:1] not in "~≈.":
        return None
    try:
        amount = parse_amount(text, decimal, measures)
    except AmountError:
        return None
    if (
        amount.bare
        and not _FIGURE.search(text)
        and (not first or (amount.value == 1 and re.match(r"an?\b", text, re.IGNORECASE)))
    ):
        return None
    return amount
