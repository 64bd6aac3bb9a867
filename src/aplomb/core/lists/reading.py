"""A list of ingredients as people write one, to lines that are accepted one by one.

``250 g plain flour``, ``plain flour: 250g``, ``- 2 1/4 cups (270 g) flour, sifted``,
``butter, 250 g, cold``, ``2 eggs``, ``Salt  1.8 %``; one material a line, with or without bullets,
numbers, tabs, headings. Nothing is guessed in silence: what is not certain says so.
"""

import re
from functools import lru_cache
from typing import NamedTuple

from msgspec.structs import replace

from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import DecimalSign, decimal_sign, g_text, mass_unit, num
from aplomb.core.base.quantity import Amount, finer
from aplomb.core.base.units import Kind, Measures
from aplomb.core.lists.amounts import amounts_in
from aplomb.core.lists.matching import match, names_whole, stems, unknown_in
from aplomb.core.lists.proposal import Proposal
from aplomb.core.lists.shares import (
    with_fats_enclosed,
    with_percents_checked,
    with_shares_weighed,
)
from aplomb.core.lists.vocabulary import ANOTHER, in_english
from aplomb.core.paste.amounts import disagreement, pieces
from aplomb.core.paste.formula import Part
from aplomb.core.paste.ingredient import Ingredient, to_grams
from aplomb.core.paste.measured import PIECE_G
from aplomb.core.paste.pantry import Pantry

MOST_LINES = 200
LONGEST_LINE = 300

MOST_COUNTED = 60
"""More of a thing than this is a weight without its unit [-], our choice."""


_BULLET = re.compile(r"^\s*(?:[-–—•*·▪◦☐□✓]+\s+|[-–—•*·▪◦☐□✓](?=[^\W\d_])|\d{1,2}[.)]\s+(?=\S))")
_CELLS = re.compile(r"(\d) , ([^\W\d_]{1,6}|%)(?= ,|$)")
"""A figure and its unit in two cells of a table."""

_BLOCK_WORDS = (
    r"block|enclos|roll[- ]?in|lock[- ]?in|laminat|beurrage|tourage|\bfats?\b|beurre|\bbutter\b"
    r"|margarine?|shortening|\blard\b|einschlag|ziehfett|ziehbutter|tourier|plast[oó]n|empaste"
    r"|panetto|burro|mantequilla|fold(?:ing)? in|layering|\bpack(?:et)?\b|\bslab\b|\bplaque\b"
)
_HEADINGS: tuple[tuple[str, Part], ...] = (
    (r"dust|flouring|for the bench|for rolling|streumehl|fleurage", Part.DUSTING),
    (r"fill|garnish|füllung|fourrage|relleno|ripieno", Part.FILLING),
    (r"between|strew", Part.BETWEEN),
    (r"finish|glaz|wash|top(?:ping)?s?\b|to brush|brushing|dorure|decorat", Part.FINISH),
    (_BLOCK_WORDS, Part.BLOCK),
    (
        (
            r"dough|base|d[ée]trempe|paste|pastry|mix|\bp[âa]te\b|teig|pastello|impasto|\bmasa\b|deeg"
            r"|ingredients?"
        ),
        Part.DOUGH,
    ),
)
_TITLES = re.compile(
    r"(?:the\s+)?(?:dough|base|pastry|d[ée]trempe|p[âa]t[eo]n?|teig|grundteig|vorteig|pastello"
    r"|impasto|masa|deeg|(?:fat|butter|margarine|lard)\s*(?:block|sheet|slab|layer|packet|pack|plaque)"
    r"|block"
    r"|beurrage|tourage|beurre de tourage|roll[- ]?in(?: fat| butter)?|lock[- ]?in(?: fat| butter)?"
    r"|laminat\w+(?: fat| butter)?|einschlagfett|ziehfett|ziehbutter|plast[oó]n|empaste|panetto"
    r"|dusting|finish"
    r"|filling|glaze|egg wash|topping|between the folds|ingredients|zutaten|ingr[eé]dients?"
    r"|(?:to|for) (?:finish|glaze|brush|dust|enclose|laminate|fold in|the \w+(?: \w+)?)|dorure)",
    re.IGNORECASE,
)
"""What is a heading by itself, without a colon."""
_PARTS_OF_A_LINE: tuple[tuple[str, Part], ...] = (
    (r"\b(?:for|to)\s+(?:the\s+)?(?:brush|glaz|sprinkl|finish|decorat)", Part.FINISH),
    (
        (
            r"\b(?:in|into|for|to)\s+(?:the\s+)?(?:dough|d[ée]trempe|base|mix\b)|\brubbed? in\b"
            r"|\bmelted\b|\bfondu|\bgeschmolzen|\bfuso\b"
        ),
        Part.DOUGH,
    ),
    (r"\b(?:for|to)\s+(?:dust\w*|flour\w*|the bench|roll\w*)|\bdusting\b", Part.DUSTING),
    (
        r"glaz|brush|egg wash|to finish|(?:for|on|over) (?:the )?top|sprinkl|dorure|decorat",
        Part.FINISH,
    ),
    (r"between the (?:folds|layers|turns)", Part.BETWEEN),
    (r"\bfor the filling\b|\bto fill\b", Part.FILLING),
    (
        (
            r"\b(?:for|to)\s+(?:the\s+)?(?:laminat\w*|enclos\w*|fold\w*|turns?|block|layer\w*)"
            r"|\blaminating|\blamination|\broll[- ]in\b|\btourage\b|\bbeurrage\b"
        ),
        Part.BLOCK,
    ),
)
_COUNTRIES: tuple[tuple[Measures, str, str], ...] = (
    ("us", "sticks of butter", r"\bsticks?\b"),
    ("us", "all-purpose flour", r"\ball[- ]purpose\b"),
    ("us", "heavy cream", r"\bheavy (?:whipping )?cream\b"),
    ("us", "kosher salt", r"\bkosher salt\b"),
    ("us", "powdered sugar", r"\b(?:powdered|confectioners.?) sugar\b"),
    ("us", "quarts", r"\bquarts?\b|\bqts?\b"),
    ("metric", "caster sugar", r"\b(?:caster|icing) sugar\b"),
    ("metric", "double cream", r"\bdouble cream\b"),
    ("metric", "plain flour", r"\b(?:plain|strong) flour\b"),
    ("metric", "spoons named in another language",
     r"\b(?:EL|TL|msk|tsk)\b|cuchara|cucchiai|cuill|\bc\. ?à|eetlepel|theelepel"),
)  # fmt: skip
"""Signs of a country's measures, the surest first."""


def measures_of(text: str) -> tuple[Measures, str] | None:
    """Tell which country's cups and spoons a list means, by what else it says.

    Returns
    -------
    tuple of (measures, sign), or None
        The sign in words; None when nothing tells, or when signs contradict one another.

    Examples
    --------
    >>> measures_of('2 sticks butter')
    ('us', 'sticks of butter')
    """
    found = [
        (measures, words) for measures, words, pattern in _COUNTRIES if re.search(pattern, text)
    ]
    found = found or [
        (measures, words)
        for measures, words, pattern in _COUNTRIES
        if re.search(pattern, text, re.IGNORECASE)
    ]
    if not found or (
        found[0][1] != _COUNTRIES[0][1] and len({measures for measures, _ in found}) > 1
    ):
        return None
    return found[0]


def read_list(
    text: str, pantry: Pantry, decimal: DecimalSign = ".", measures: Measures = "us"
) -> tuple[Proposal, ...]:
    """Read a list of ingredients.

    One for every line that is neither empty nor a heading, at most 200.

    Parameters
    ----------
    text : str
        One material a line.
    measures : {'metric', 'us'}
        Which cups and spoons are meant when nothing is said.
    """
    found: list[Proposal] = []
    told_in = (mass_unit(), decimal_sign())
    for raw, line, part in _sorted(text, pantry).lines[:MOST_LINES]:
        made = _proposal(raw.strip()[:LONGEST_LINE], line, part, pantry, decimal, measures, told_in)
        if len(raw) > LONGEST_LINE:
            words = f"only the first {LONGEST_LINE} characters were read"
            made = replace(made, doubts=(*made.doubts, words))
        found.append(made)
    placed = with_fats_enclosed(tuple(found), pantry)
    return with_percents_checked(with_shares_weighed(placed, pantry), pantry)


def left_out(text: str, pantry: Pantry) -> int:
    """Count the lines of a list beyond the most that are read [-].

    Parameters
    ----------
    text : str
        As typed.
    """
    return max(0, len(_sorted(text, pantry).lines) - MOST_LINES)


def set_aside(text: str, pantry: Pantry) -> tuple[str, ...]:
    """Give the lines that are no ingredients: a title, steps of a method, how many it serves.

    Parameters
    ----------
    text : str
        As typed.
    """
    return _sorted(text, pantry).aside


_VERBS = (
    r"mix|combine|stir|whisk|beat|rub|work|knead|add|pour|sprinkle|dust|roll|fold|turn|wrap|chill"
    r"|rest|refrigerate|freeze|leave|let|put|place|lay|cut|trim|shape|divide|press|flatten|brush"
    r"|glaze|bake|cook|preheat|heat|cool|serve|repeat|make|take|bring|cover|set|sift|sieve|dissolve"
    r"|gather|form|use|remove|transfer|line|grease|prick|score|enclose|give|wait|enjoy|store|keep"
    r"|weigh|measure|cream|melt|soften|spread|seal|pinch together|laminate|when|once|if|then|after"
    r"|meanwhile|while|next|now|finally|first"
)
_STEP = re.compile(rf"(?:step\s*\d+[.:)]?\s*)?(?:{_VERBS})\b(?!\s*:)", re.IGNORECASE)
"""A step of a method begins with what is done."""
_ABOUT_IT = re.compile(
    r"(?:makes|serves|yields?|servings?|portions?|prep(?:aration)?|cook(?:ing)?|bak(?:e|ing)|total"
    r"|rest(?:ing)?|chill(?:ing)?|oven|temperature|source|author|adapted|recipe|notes?|method"
    r"|instructions?|directions?|equipment|tools|difficulty|page|photo|by|from(?!\s+\d)|https?:|www\.|für"
    r"|pour|per|ricetta|rezept|recette|zutaten|zubereitung|préparation|preparazione)\b",
    re.IGNORECASE,
)
"""What is told about a recipe, not what is in it."""
_TITLE = re.compile(
    r"pastry|puff|feuillet|bl[äa]tterteig|sfoglia|hojaldre|paste\b|recipe|\bmy\b|classic|rough",
    re.IGNORECASE,
)


def _is_told(line: str, pantry: Pantry, *, first: bool) -> bool:
    """Tell whether a line is no ingredient: a title, a step of the method, or about the recipe."""
    line = re.sub(r"\([^()]*\)", " ", line).strip() or line
    words = line.split()
    stated = re.search(r"\d|[½⅓⅔¼¾⅛]", line) is not None
    if _STEP.match(line) and len(words) >= 3 and not (stated and len(words) < 5):
        return not re.match(r"(?:cream|rest|set|line)\s*[,:(]", line, re.IGNORECASE)
    if _ABOUT_IT.match(line):
        return True
    if stated or len(words) > MOST_TITLE_WORDS:
        return False
    if any(not each.bare for _, each in amounts_in(line, ".", "us").amounts):
        return False  # an amount in words: a pinch of salt
    if _TITLE.search(line) and (first or len(words) > 1):
        candidates, certain = match(in_english(line), pantry)
        return not (candidates and certain)
    return first and len(words) > 1 and not match(in_english(line), pantry)[0]


MOST_TITLE_WORDS = 9
_ALL_OF_IT = re.compile(r"ingr[eé]d|zutaten", re.IGNORECASE)
"""A heading over everything says of nothing where it goes."""


class _Sorted(NamedTuple):
    """The lines of a list, in their order.

    Attributes
    ----------
    lines : tuple of (raw, tidied, part)
        What may be an ingredient, and the part that its heading says.
    aside : tuple of str
        What is none.
    """

    lines: tuple[tuple[str, str, Part | None], ...]
    aside: tuple[str, ...]


@lru_cache(maxsize=2)
def _sorted(text: str, pantry: Pantry) -> _Sorted:
    """Tell the lines of a text that may be ingredients from those that are none."""
    lines: list[tuple[str, str, Part | None]] = []
    aside: list[str] = []
    part: Part | None = None
    first = True
    for raw in text.replace("\r", "\n").split("\n"):
        line = " ".join(_BULLET.sub("", raw[:LONGEST_LINE]).replace("\t", " , ").split())
        line = _CELLS.sub(r"\1 \2", line).strip(" ,;|")
        if not line:
            continue
        heading = _heading(line)
        if heading is not None:
            part = None if _ALL_OF_IT.search(line) else heading
            first = False
            continue
        if _is_told(line, pantry, first=first):
            aside.append(line)
        else:
            lines += [(raw, each, part) for each in _parted(line)]
        first = False
    return _Sorted(tuple(lines), tuple(aside))


_OTHER_USE = re.compile(
    r"\s*[,;]?\s*\(?\s*(?:\bplus\b|\band\b|\bwith\b|\+|&)\s*(?:(?:another|(?:an?\s+)?extra)\s+)?"
    r"(?P<amount>(?:about\s+)?(?:\d+(?:[.,/–-]\d+)?(?:\s+\d/\d)?|[½¼¾⅓⅔⅛]|half an?|an?|one|two"
    r"|three|four)\s*(?:g|grams?|kg|ml|oz|ounces?|cups?|tbsps?|tsps?|(?:table|tea)?spoons?))\b\.?"
    r"(?:\s+(?:extra|more))?\s+for\s+(?:the\s+)?"
    r"(?:(?P<bench>dust|roll|bench|work|board|pin\b|flouring|kneading|counter)"
    r"|(?P<finish>glaz|brush|sprinkl|top|finish))[^,;()]*\)?\s*$",
    re.IGNORECASE,
)
"""A second amount of the same material that goes elsewhere: 500 g flour, plus 50 g for dusting."""


def _parted(line: str) -> tuple[str, ...]:
    """Write a line that says two uses of one material as two lines."""
    found = _OTHER_USE.search(line)
    head = line[: found.start()].strip(" ,;") if found is not None else ""
    said = amounts_in(head, ".", "us") if head else None
    if found is None or said is None or not said.words or not said.amounts:
        return (line,)
    use = "dusting" if found["bench"] else "brushing or sprinkling"
    return head, f"{found['amount']} {said.words} for {use}"


def _heading(line: str) -> Part | None:
    bare = line.strip("*_#= ").rstrip(":").strip("*_ ").casefold()
    bare = re.sub(r"\s*\([^()\d]*\)$", "", bare)
    titled = line.rstrip("*_ ").endswith(":") or bare.startswith("for ")
    if not _TITLES.fullmatch(bare) and (re.search(r"\d", bare) or not titled):
        return None
    for pattern, part in _HEADINGS:
        if re.search(pattern, bare):
            return part
    return Part.DOUGH if titled else None


@lru_cache(maxsize=4_000)  # of a list that is being typed one line is another at every key
def _proposal(
    raw: str,
    line: str,
    part: Part | None,
    pantry: Pantry,
    decimal: DecimalSign,
    measures: Measures,
    _told_in: tuple[str, str],  # what its doubts are written in: another, and it is read anew
) -> Proposal:
    found = amounts_in(line, decimal, measures)
    name, _, after = found.words.partition(",")
    name, after = name.strip(" .;:–—-|/"), after.strip(" ,")
    english = in_english(name)
    candidates, certain, doubts = _material(
        english, in_english(", ".join((after, *found.aside))), pantry
    )
    other = ANOTHER.search(found.words)
    if other is not None:
        candidates, certain = (), False
    if not candidates:
        said = f"{name} {after}".strip() or line
        doubts = [
            f"the pantry has no “{said[:60]}”; choose another ingredient, or add it to the pantry"
        ]
    elif not certain and not doubts:
        doubts = [f"“{name}” could be {' or '.join(_names(candidates[:3], pantry))}"]
    if found.grade and stems(english) == ("flour",):
        doubts.append(f"“{found.grade}” is a grade of flour; check which of yours it is")
    if _PER.search(line):
        doubts.append("so much of it per something; give the whole amount")
    doubts += _either_of(name, found.aside, pantry)
    if _two_materials(f"{name}, {after}", pantry):
        doubts.append("two ingredients on one line; put each on its own line")
    amount_text, amount, told = _amount_of(
        found.amounts, candidates, pantry, measures, decimal, line
    )
    if amount is None and not told:
        told = ["no amount found; taken as 0 g"]
    left = re.findall(r"\d[\d.,/]*", found.words)
    if left:
        told.append(f"“{left[0]}” was not used")
    note = ", ".join(n for n in (after, *found.aside, *found.handling) if n.strip(" ,"))[:80].strip(
        " ,"
    )
    if _OF_IT.search(line):
        told.append("part of it goes elsewhere; put it on its own line")
    where = _part_of(re.sub(r"\b(?:plus|and|with)?\s*(?:more|extra)\b.*", "", line))
    place = where if where is not None and (part is None or where is not Part.DOUGH) else part
    return Proposal(
        raw,
        amount_text,
        amount,
        candidates,
        place or Part.DOUGH,
        note,
        (*doubts, *found.doubts, *told),
        placed=place is not None,
    )


_PER = re.compile(
    r"\b(?:per|for every|for each)\s+(?:\d|one\b|an?\b|lb|pound|kilo|kg|egg|100)", re.IGNORECASE
)


def _material(name: str, aside: str, pantry: Pantry) -> tuple[tuple[str, ...], bool, list[str]]:
    """Find the material, with the words that stand after the name as far as they change it."""
    together = f"{name}, {aside}"
    candidates, certain = match(together, pantry)
    alone, alone_certain = match(name, pantry)
    if alone and not certain:
        unknown = unknown_in(aside, pantry[alone[0]])
        meant_more = candidates and len(unknown_in(together, pantry[candidates[0]])) < len(
            unknown_in(together, pantry[alone[0]])
        )
        if not meant_more:
            candidates, certain = alone, alone_certain and not unknown
    if not candidates:
        return (), False, []
    said_beside = unknown_in(aside, pantry[candidates[0]])
    beside = aside if len(stems(aside)) == 1 and said_beside else ""  # vinegar, balsamic
    left = unknown_in(f"{name}, {beside}", pantry[candidates[0]])
    if not left and alone and alone_certain:
        return alone if said_beside else candidates, True, []
    if left and not certain:
        words = ", ".join(f"“{word}”" for word in left[:3])
        known = " or ".join(_names(candidates[:2], pantry))
        return candidates, False, [f"{words} is not understood; is it {known}?"]
    return candidates, certain, []


def _either_of(name: str, aside: tuple[str, ...], pantry: Pantry) -> list[str]:
    """Doubt what a bracket leaves open: flour (plain or strong)."""
    for words in aside:
        sides = re.split(r"\bor\b|/", words, flags=re.IGNORECASE)
        keys = {
            found[0]
            for side in sides
            for found, certain in (match(f"{side} {name}", pantry),)
            if len(sides) > 1 and found and certain
        }
        if len(keys) > 1:
            return [f"“{words}”: say which"]
    return []


def _two_materials(words: str, pantry: Pantry) -> bool:
    """Tell whether words name two materials: both sides of an “and” mean one for themselves."""
    sides = re.split(r"\band\b|\bor\b|&|\+|/|,", words)
    meant = {
        keys[0]
        for side in sides
        if side.strip()
        for keys, certain in (match(side, pantry),)
        if keys and certain and names_whole(side, pantry[keys[0]])
    }
    if len(meant) < 2:
        return False
    whole, certain = match(words, pantry)
    return "," in words or not (certain and whole)


def _amount_of(
    stated: tuple[tuple[str, Amount], ...],
    candidates: tuple[str, ...],
    pantry: Pantry,
    measures: Measures,
    decimal: DecimalSign,
    line: str,
) -> tuple[str, Amount | None, list[str]]:
    """Choose what a line weighs among all amounts it states, and say what is in doubt."""
    material = pantry[candidates[0]] if candidates else None
    weighed = [each for each in stated if each[1].kind in (Kind.MASS, Kind.VOLUME)]
    united = [each for each in weighed if not each[1].bare]
    percents = [each for each in stated if each[1].kind is Kind.PERCENT]
    bare = [each for each in weighed if each[1].bare]
    told: list[str] = [each.asked for _, each in stated if each.asked]
    if any(each.kind is Kind.LENGTH for _, each in stated):
        told.append("a length is not an amount; give a weight or volume")
    if not (united or percents or bare):
        return "", None, told
    chosen = united[0] if united else percents[0] if percents and not bare else bare[0]
    text, amount = chosen
    others = [each for each in stated if each is not chosen]
    if united and len(united) > 1 and amount.also is None:
        second = united[1]
        others.remove(second)
        text = f"{text} ({second[0]})"
        first, also = amount, second[1]
        third = united[2] if len(united) > MOST_TWICE else None
        if third is not None and finer(third[1]) > finer(also):
            others.remove(third)
            others.append(second)
            also, text = third[1], f"{united[0][0]} ({third[0]})"
        if finer(also) > finer(first):
            first, also = also, first
        amount = replace(first, also=also)
        others = [each for each in others if not _same(amount, each[1], material)]
    if material is not None and not united and bare and not percents:
        return _counted(text, amount, material, told, line, measures)
    for said, other in others:
        if other.kind is Kind.LENGTH:
            continue
        counted = (
            other.bare
            and material is not None
            and material.key in PIECE_G
            and _near(amount, other.value * PIECE_G[material.key])
        )
        packed = other.bare and other.value == 1  # one packet (250 g)
        if other.kind is Kind.PERCENT or counted or packed:
            continue  # a column of percents is checked against the whole list
        told.append(f"“{said}” was not used")
    if amount.kind is Kind.VOLUME and material is not None and material.measure_g_ml is None:
        told.append(
            f"the weight of a cup or spoon of {material.name.lower()} is not known; give grams"
        )
        return text, None, told
    if material is not None:
        apart = disagreement(text, material, measures, decimal)
        if apart is not None:
            told.append(
                f"two amounts are given, {g_text(apart.taken_g, '.4g')} and "
                f"{g_text(apart.other_g, '.4g')}, which differ by "
                f"{num(apart.apart_pct, '.2g')} %"
            )
    return text, amount, told


MOST_TWICE = 2
"""An amount stated in more measures than two is taken in the finest [-]."""


def _same(amount: Amount, other: Amount, material: Ingredient | None) -> bool:
    """Tell whether a third statement says the same as the first."""
    if material is None or Kind.PERCENT in (amount.kind, other.kind):
        return False
    try:
        one, two = (to_grams(each, material, None, "") for each in (amount, other))
    except AmountError:
        return False
    return abs(one - two) <= SAME * max(one, two)


SAME = 0.15
"""How far a third statement of one amount may be from the first [-], our choice: cups differ."""


def _near(amount: Amount, grams: float) -> bool:
    return amount.kind is Kind.MASS and abs(amount.value - grams) <= COUNT_APART * grams


COUNT_APART = 0.35
"""How far a weight may be from so many pieces of about so much [-], our choice."""


def _counted(
    text: str, amount: Amount, material: Ingredient, told: list[str], line: str, measures: Measures
) -> tuple[str, Amount | None, list[str]]:
    if material.key in PIECE_G and amount.value <= MOST_COUNTED:
        size = next((size for size in EGG_SIZES if re.search(size, line, re.IGNORECASE)), "")
        each = PIECE_G[material.key] * (EGG_SIZES[size][measures] if size else 1.0)
        weighed = pieces(amount, each)
        return weighed.said, weighed, told
    return text, amount, [*told, "no unit given; read as grams"]


EGG_SIZES: dict[str, dict[Measures, float]] = {
    r"\bextra[- ]large\b|\bxl\b|\bvery large\b": {"us": 1.12, "metric": 1.32},
    r"\blarge\b|grosse?\b|gros\b|grand": {"us": 1.0, "metric": 1.16},
    r"\bmedium\b|\bmiddling\b": {"us": 0.88, "metric": 1.02},
    r"\bsmall\b|petit|klein|piccol": {"us": 0.76, "metric": 0.88},
}
"""Eggs by size, over one of 50 g without its shell [-], from memory: sizes differ by country."""


_OF_IT = re.compile(r"\b(?:of which|of it|of this)\b|\bincluding\b.*\bfor\b", re.IGNORECASE)


def _part_of(line: str) -> Part | None:
    """Tell where a line says that it goes; None when it does not say."""
    lower = line.casefold()
    for pattern, part in _PARTS_OF_A_LINE:
        if re.search(pattern, lower):
            return part
    return None


def _names(keys: tuple[str, ...], pantry: Pantry) -> list[str]:
    return [pantry[key].name.lower() for key in keys]
