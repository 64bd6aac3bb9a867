"""Which material of the pantry some words mean, and which words were not understood."""

import re
from functools import lru_cache

from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry

LEAST_COVERED = 0.6
"""Share of a material's name that words must meet to mean it for certain [-], our choice."""

_HARMLESS_WORDS = """
cold very-cold chilled iced ice icy frozen cool firm soft softened melted tepid warm lukewarm hot
if when once room temperature temp straight fridge freezer cubed cube diced dice grated chopped
sliced slice
sifted beaten lightly whisked mixed strained cut into in to at about roughly approx small large
medium big fine finely coarsely coarse piece pieces bit bits chunk chunks knob knobs flake flakes
fresh freshly good best quality plus extra more a an of the and or for your all optional needed
required necessary taste well packed level levelled heaped scant generous block pack packet pkt bag
box jar tin divided separated weighed sieved kept keep from until very just as with own brand
organic free-range ground pinch dash bench dough paste pastry block dusting flouring rolling
brushing glazing glaze wash tablespoon teaspoon cup gram grams weight sized size room-temperature
ice-cold wrapped pliable plastic lamination laminating lamination-fat roll-in enclosing enclose
folding fold beurrage tourage turns layering inside out sheet slab unopened egg-wash tops top edge
edges finish filling per each day night overnight later half quarter
"""
_HARMLESS = frozenset(_HARMLESS_WORDS.split())
"""Words that say what is done with a material or how it is handled, not what it is."""

_ABROAD = {
    "farine": "flour", "mehl": "flour", "weizenmehl": "wheat flour", "harina": "flour",
    "farina": "flour", "meel": "flour", "bloem": "flour", "beurre": "butter",
    "mantequilla": "butter", "burro": "butter", "boter": "butter", "smör": "butter",
    "eau": "water", "wasser": "water", "agua": "water", "acqua": "water", "vatten": "water",
    "sel": "salt", "salz": "salt", "sal": "salt", "sale": "salt", "zout": "salt",
    "zucker": "sugar", "sucre": "sugar", "azúcar": "sugar", "zucchero": "sugar",
    "schmalz": "lard", "saindoux": "lard", "strutto": "lard", "manteca": "lard",
    "essig": "vinegar", "vinaigre": "vinegar", "aceto": "vinegar", "vinagre": "vinegar",
    "œuf": "egg", "oeuf": "egg", "ei": "egg", "eier": "egg", "huevo": "egg", "uovo": "egg",
    "lait": "milk", "milch": "milk", "leche": "milk", "latte": "milk", "crème": "cream",
    "sahne": "cream", "nata": "cream", "panna": "cream",
}  # fmt: skip
"""Everyday materials in other languages: what they mean is a matter of the dictionary."""


def stem(word: str) -> str:
    """Give a word without case, marks and the s of a plural.

    Examples
    --------
    >>> stem('flours'), stem('cherries')
    ('flour', 'cherrie')
    """
    word = word.casefold().strip(".,;:!?()[]’'\"“”*")
    word = _ABROAD.get(word, word)
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word


_BARE = frozenset(stem(word) for word in _HARMLESS)


def harmless(word: str) -> bool:
    """Tell whether a stem says nothing of what a material is.

    Examples
    --------
    >>> harmless('chopped')
    True
    """
    return word in _BARE or word in _HARMLESS


@lru_cache(maxsize=20_000)
def stems(words: str) -> tuple[str, ...]:
    """Give the stems of some words that say what a material is.

    A word in another language may stand for two; those that only say how it is handled are left
    out.
    """
    found = []
    for word in re.split(r"[\s/,;-]+", words.casefold()):
        found += [s for each in stem(word).split() if (s := stem(each)) and not harmless(s)]
    return tuple(found)


_SMALL = ("and", "of", "a", "the", "or")


@lru_cache(maxsize=20_000)
def _name_stems(name: str) -> frozenset[str]:
    """Stems of a material's own name; nothing of it is left out but small words."""
    found = (stem(word) for word in re.split(r"[\s/,;-]+", name.casefold()))
    return frozenset(each for each in found if each and each not in _SMALL)


def names_of(material: Ingredient) -> tuple[str, ...]:
    """Give a material's name and its by-names."""
    return (material.name, *(name for name in material.also.split(", ") if name))


def unknown_in(words: str, material: Ingredient) -> tuple[str, ...]:
    """Give the words that a material's names do not hold and that are not known to be harmless.

    Stems, in their order, each once.
    """
    known = frozenset().union(*(_name_stems(name) for name in names_of(material)))
    return tuple(dict.fromkeys(s for s in stems(words) if s not in known))


def match(words: str, pantry: Pantry, most: int = 6) -> tuple[tuple[str, ...], bool]:
    """Find the materials that some words could mean.

    Parameters
    ----------
    words : str
        A name as written, with adjectives.
    most : int
        Candidates at the most [-].

    Returns
    -------
    tuple of (keys, certain)
        The likeliest first: those that leave fewest words unexplained. Certain only when every word
        is understood, and one material alone is met by name.
    """
    wanted = frozenset(stems(words))
    spoken = frozenset(s for w in re.split(r"[\s/,;-]+", words.casefold()) if (s := stem(w)))
    if not wanted:
        return (), False
    scored = []
    for material in pantry:
        names = [_name_stems(name) for name in names_of(material)]
        known = frozenset().union(*names)
        left = len(wanted - known)
        score = max(_score(wanted, spoken, name) for name in names)
        if score > 0:
            scored.append((left, -score, material.key))
    scored.sort(key=lambda each: each[:2])  # of equal ones the pantry's first
    if not scored:
        return (), False
    keys = tuple(key for _, _, key in scored[:most])
    left, minus, _ = scored[0]
    if left or -minus < LEAST_COVERED:
        return keys, False
    rivals = [each for each in scored[1:] if each[0] == 0]
    exact = -minus >= EXACT and not any(-score >= EXACT for _, score, _ in rivals)
    return keys, exact or not rivals


EXACT = 4.0
"""Score of words that are a name, neither more nor less [-]."""


def _score(wanted: frozenset[str], spoken: frozenset[str], name: frozenset[str]) -> float:
    """4: the same words; 2 to 3: all of the name is said; up to 1: part of it."""
    if name in (wanted, spoken):
        return EXACT
    if name <= spoken:
        return 2.0 + len(name) / (1 + len(wanted))
    return len(wanted & name) / max(len(wanted), len(name))
