"""A list of ingredients as people write one, to lines that are accepted one by one.

``250 g plain flour``, ``plain flour: 250g``, ``- 2 1/4 cups (270 g) flour, sifted``,
``butter, 250 g, cold``, ``2 eggs``, ``Salt  1.8 %``; one material a line, with or without bullets,
numbers, tabs, headings. Nothing is guessed in silence: what is not certain says so.
"""

import re
from collections.abc import Iterator
from functools import lru_cache
from itertools import islice

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.amounts import Understood, disagreement, understand
from aplomb.core.errors import AmountError
from aplomb.core.paste.formula import Part
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry
from aplomb.core.quantity import Amount, DecimalSign, parse_amount
from aplomb.core.units import Kind, Measures

MOST_LINES = 200
LONGEST_LINE = 300
FLOUR_OF_A_PERCENT_LIST_G = 1000.0
"""Flour taken when a list gives nothing but percentages [g]."""

PIECE_G = {"egg_whole": 50.0, "egg_yolk": 18.0, "egg_white": 32.0, "lemon_juice": 45.0}
"""What one of a thing that is counted weighs, without its shell [g], recalled."""


class Proposal(Struct, frozen=True):
    """One line of a list, as far as it was understood.

    Attributes
    ----------
    raw : str
        The line as it stands in the list.
    amount_text : str
        The part of it that is the amount; empty when there is none.
    amount : Amount or None
    candidates : tuple of str
        Keys of materials that could be meant, the likeliest first.
    part : Part
        Where it probably belongs.
    note : str
        What else the line says.
    doubts : tuple of str
        Why it should be looked at before it is accepted; empty when it is certain.
    """

    raw: str
    amount_text: str
    amount: Amount | None
    candidates: tuple[str, ...]
    part: Part
    note: str
    doubts: tuple[str, ...]

    @property
    def sure(self) -> bool:
        """True when nothing about it is in doubt."""
        return not self.doubts


_BULLET = re.compile(r"^\s*(?:[-–—•*·▪◦☐□✓]+\s+|[-–—•*·▪◦☐□✓](?=[^\W\d_])|\d{1,2}[.)]\s+(?=\S))")
_CELLS = re.compile(r"(\d) , ([^\W\d_]{1,6}|%)(?= ,|$)")
"""A figure and its unit in two cells of a table."""

_HEADINGS: tuple[tuple[str, Part], ...] = (
    (r"dust", Part.DUSTING),
    (r"fill", Part.FILLING),
    (r"between", Part.BETWEEN),
    (r"finish|glaze|wash|top(?:ping)?s?\b|to brush", Part.FINISH),
    (
        r"block|enclos|roll[- ]?in|laminat|beurrage|tourage|\bfat\b|butter (?:sheet|layer)",
        Part.BLOCK,
    ),
    (r"dough|base|d[ée]trempe|paste|pastry|mix", Part.DOUGH),
)
_ASIDE_WORDS = """cold chilled iced ice-cold softened melted cubed diced grated chopped sifted
beaten large medium small fresh extra more plus for the a an of and or to in at about very good
quality your all into pieces cut room temperature finely coarsely lightly optional tepid warm well
packed level heaped scant generous pinch dash tap block pack packet packets bag dusting glazing
brushing"""
_ASIDE = frozenset(_ASIDE_WORDS.split())


def read_list(
    text: str, pantry: Pantry, decimal: DecimalSign = ".", measures: Measures = "us"
) -> tuple[Proposal, ...]:
    """Read a list of ingredients.

    Parameters
    ----------
    text : str
        One material a line.
    pantry : Pantry
    decimal : {'.', ','}
    measures : {'metric', 'us'}
        Which cups and spoons are meant when nothing is said.

    Returns
    -------
    tuple of Proposal
        One for every line that is neither empty nor a heading, at most 200.
    """
    found: list[Proposal] = []
    for raw, line, part in islice(_lines_of(text), MOST_LINES):
        made = _proposal(raw.strip()[:LONGEST_LINE], line, part, pantry, decimal, measures)
        if len(raw) > LONGEST_LINE:
            words = f"only its first {LONGEST_LINE} signs were read"
            made = replace(made, doubts=(*made.doubts, words))
        found.append(made)
    return _with_fats_enclosed(tuple(found), pantry)


def left_out(text: str) -> int:
    """Count the lines of a list beyond the most that are read [-]."""
    return max(0, sum(1 for _ in _lines_of(text)) - MOST_LINES)


def _lines_of(text: str) -> Iterator[tuple[str, str, Part | None]]:
    """Give every line that is neither empty nor a heading: raw, tidied, and the part it is of."""
    part: Part | None = None
    for raw in text.replace("\r", "\n").split("\n"):
        line = " ".join(_BULLET.sub("", raw[:LONGEST_LINE]).replace("\t", " , ").split())
        line = _CELLS.sub(r"\1 \2", line).strip(" ,;|")
        if not line:
            continue
        heading = _heading(line)
        if heading is not None:
            part = heading
            continue
        yield raw, line, part


def _heading(line: str) -> Part | None:
    bare = line.rstrip(":").casefold()
    if re.search(r"\d", bare) or (not line.endswith(":") and not bare.startswith("for ")):
        known = bare in ("dough", "fat block", "block", "dusting", "finish", "filling", "glaze")
        if not known:
            return None
    for pattern, part in _HEADINGS:
        if re.search(pattern, bare):
            return part
    return Part.DOUGH if line.endswith(":") else None


def _proposal(
    raw: str, line: str, part: Part | None, pantry: Pantry, decimal: DecimalSign,
    measures: Measures,
) -> Proposal:  # fmt: skip
    amount_text, amount, rest = _amount_in(line, decimal, measures)
    words, note = _name_and_note(rest)
    candidates, certain = match(words, pantry)
    doubts = []
    if not candidates:
        doubts.append(f"the pantry has no “{words or line}”; choose one, or make it there")
    elif not certain:
        doubts.append(f"“{words}” could be {' or '.join(_names(candidates[:3], pantry))}")
    if amount is None:
        doubts.append("no amount was found; it is taken at 0 g")
    elif candidates:
        material = pantry[candidates[0]]
        if amount.bare and candidates[0] in PIECE_G and amount.value <= 60:
            each = PIECE_G[candidates[0]]
            doubts.append(f"counted, at about {each:g} g each (recalled)")
            amount = Amount(Kind.MASS, amount.value * each, f"{amount.value:g} × {each:g} g")
        elif amount.bare:
            doubts.append("no unit stands there; grams are taken")
        elif amount.kind is Kind.LENGTH:
            doubts.append("a length is not an amount")
            amount = None
        elif amount.kind is Kind.VOLUME and material.measure_g_ml is None:
            doubts.append(f"no weight for a volume of {material.name.lower()} is known")
            amount = None
        else:
            apart = disagreement(amount_text, material, measures, decimal)
            if apart is not None:
                doubts.append(
                    f"it says {apart.taken_g:.4g} g and {apart.other_g:.4g} g, "
                    f"{apart.apart_pct:.0f} % apart"
                )
    return Proposal(
        raw, amount_text, amount, candidates, part or _part_of(line), note, tuple(doubts)
    )


def _part_of(line: str) -> Part:
    lower = line.casefold()
    if re.search(r"\bdust", lower):
        return Part.DUSTING
    if re.search(r"glaz|brush|egg wash|to finish|for the top", lower):
        return Part.FINISH
    return Part.DOUGH


def _amount_in(
    line: str, decimal: DecimalSign, measures: Measures
) -> tuple[str, Amount | None, str]:
    """Find the amount at the beginning, at the end, or between commas."""
    tokens = re.findall(r"\([^()]*\)|\[[^\[\]]*\]|[^\s()\[\]]+", line)
    if re.match(r"(?:a|one)\s+(?:pinch|dash|little|few|handful|knob)\b", line, re.I):
        return "", None, line
    for count in range(min(len(tokens), 9), 0, -1):
        text = " ".join(tokens[:count])
        amount = _try(text.rstrip(",;:"), decimal, measures)
        if amount is not None:
            return text, amount, " ".join(tokens[count:])
    for count in range(min(len(tokens), 9), 0, -1):
        text = " ".join(tokens[-count:])
        amount = _try(text, decimal, measures)
        if amount is not None:
            return text, amount, " ".join(tokens[:-count])
    pieces = [piece.strip() for piece in re.split(r"[,;|]|\s[-–—:]\s|:\s", line)]
    for i, piece in enumerate(pieces):
        amount = _try(piece, decimal, measures)
        if amount is not None:
            return piece, amount, ", ".join(p for j, p in enumerate(pieces) if j != i)
    return "", None, line


def _try(text: str, decimal: DecimalSign, measures: Measures) -> Amount | None:
    if not re.search(r"\d|[½⅓⅔¼¾⅕⅖⅗⅘⅙⅚⅛⅜⅝⅞]|^(?:a|an|one|two|three|half|four)\b", text, re.I):
        return None
    try:
        return parse_amount(text, decimal, measures)
    except AmountError:
        return None


def _name_and_note(rest: str) -> tuple[str, str]:
    rest = re.sub(r"^(?:of|de)\s+", "", rest.strip(" ,;:–—-|"), flags=re.I)
    aside = re.findall(r"[(\[]([^()\[\]]*)[)\]]", rest)
    rest = re.sub(r"[(\[][^()\[\]]*[)\]]", " ", rest)
    name, _, more = rest.partition(",")
    notes = [n.strip() for n in (more, *aside) if n.strip(" ,")]
    return " ".join(name.split()).strip(" .;:–—-"), ", ".join(notes)[:80].strip(" ,")


def _stem(word: str) -> str:
    word = word.casefold().strip(".,;:!?()’'\"")
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word


@lru_cache(maxsize=20_000)
def _stems(words: str) -> tuple[str, ...]:
    """Words of a name by their stems; those of the pantry are asked for with every line."""
    found = [s for word in re.split(r"[\s/-]+", words) if (s := _stem(word))]
    return tuple(s for s in found if s not in _ASIDE)


def match(words: str, pantry: Pantry, most: int = 6) -> tuple[tuple[str, ...], bool]:
    """Find the materials that some words could mean.

    Parameters
    ----------
    words : str
        A name as written, with adjectives.
    pantry : Pantry
    most : int
        Candidates at the most [-].

    Returns
    -------
    tuple of (keys, certain)
        The likeliest first; certain when one name or by-name is met in full, and no other as well.
    """
    wanted = _stems(words)
    if not wanted:
        return (), False
    there = set(wanted)
    scored = []
    for material in pantry:
        best = max(
            (_score(wanted, there, name) for name in (material.name, *material.also.split(", "))),
            default=0.0,
        )
        if best > 0:
            scored.append((-best, material.key))
    scored.sort(key=lambda each: each[0])  # of equal ones the pantry's first
    if not scored:
        return (), False
    top = -scored[0][0]
    certain = top >= 2 and (len(scored) == 1 or -scored[1][0] < top)
    return tuple(key for _, key in scored[:most]), certain


def _score(wanted: tuple[str, ...], there: set[str], name: str) -> float:
    """4: the same words; 2 to 3: all of the name stands in what is wanted, the more the better;
    up to 1: the other way round."""
    stems = _stems(name)
    if not stems:
        return 0.0
    if set(stems) == there:
        return 4.0
    if set(stems) <= there:
        return 2.0 + len(stems) / (1 + len(wanted))
    common = len(there & set(stems))
    return (
        common / max(len(wanted), len(stems))
        if there <= set(stems) or common >= 2
        else (0.3 if wanted[-1] in stems else 0.0)
    )


def _names(keys: tuple[str, ...], pantry: Pantry) -> list[str]:
    return [pantry[key].name.lower() for key in keys]


def _with_fats_enclosed(found: tuple[Proposal, ...], pantry: Pantry) -> tuple[Proposal, ...]:
    """Without headings the heaviest fat that can be enclosed is the block's."""
    if any(p.part is Part.BLOCK for p in found):
        return found
    fats = [
        (_grams(p, pantry), i)
        for i, p in enumerate(found)
        if p.candidates and p.part is Part.DOUGH and pantry[p.candidates[0]].enclose_c is not None
    ]
    if not fats:
        return found
    _, place = max(fats)
    return tuple(replace(p, part=Part.BLOCK) if i == place else p for i, p in enumerate(found))


def _grams(proposal: Proposal, pantry: Pantry) -> float:
    known = understood(proposal, pantry[proposal.candidates[0]], FLOUR_OF_A_PERCENT_LIST_G)
    return known.grams if known else 0.0


def understood(
    proposal: Proposal, material: Ingredient, flour_g: float | None
) -> Understood | None:
    """Turn a proposal into grams of the material that was chosen; None when that cannot be."""
    if proposal.amount is None:
        return None
    try:
        return understand(proposal.amount, material, flour_g, proposal.amount_text)
    except AmountError:
        return None


def flour_of(found: tuple[Proposal, ...], pantry: Pantry) -> float | None:
    """Flour of a list for its percentages [g]; None when it has no flour.

    A list that gives its flour in percent is taken at 1000 g.
    """
    flours = [p for p in found if p.candidates and pantry[p.candidates[0]].is_flour
              and p.part in (Part.DOUGH, Part.BLOCK)]  # fmt: skip
    weighed = [
        known.grams
        for p in flours
        if p.amount is not None and p.amount.kind is not Kind.PERCENT
        and (known := understood(p, pantry[p.candidates[0]], None)) is not None
    ]  # fmt: skip
    if weighed:
        return sum(weighed)
    return FLOUR_OF_A_PERCENT_LIST_G if flours else None
