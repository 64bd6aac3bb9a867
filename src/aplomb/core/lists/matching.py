"""Which material of the pantry some words mean, and which words were not understood."""

import re
from functools import lru_cache
from typing import NamedTuple

from aplomb.core.lists.vocabulary import CHANGING_ENDINGS, HANDLING
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry

LEAST_COVERED = 0.6
"""Share of a material's name that words must meet to mean it for certain [-], our choice."""


_BREAK = re.compile(r"[\s/,;-]+")


def stem(word: str) -> str:
    """Give a word without case, marks and the s of a plural.

    Examples
    --------
    >>> stem('flours'), stem('cherries')
    ('flour', 'cherrie')
    """
    word = word.casefold().strip(".,;:!?()[]’'\"“”*")
    return word[:-1] if len(word) > 3 and word.endswith("s") and not word.endswith("ss") else word


_BARE = frozenset(stem(word) for word in HANDLING)


def harmless(word: str) -> bool:
    """Tell whether a stem says nothing of what a material is.

    Examples
    --------
    >>> harmless('chopped')
    True
    """
    if word in _BARE or word in HANDLING or word.isdecimal():
        return True
    if word.endswith(("ly", "’s", "'s", "ed")):  # finely, chilled, the mill's
        return not word.endswith(CHANGING_ENDINGS)
    return False


@lru_cache(maxsize=20_000)
def stems(words: str) -> tuple[str, ...]:
    """Give the stems of some words that say what a material is.

    Those that only say how it is handled are left out.
    """
    found = (stem(stem(word)) for word in _BREAK.split(words.casefold()))  # mill's: mill', mill
    return tuple(each for each in found if each and not harmless(each))


def _spoken(words: str) -> frozenset[str]:
    """Stems of everything that is said, harmless or not."""
    return frozenset(s for word in _BREAK.split(words.casefold()) if (s := stem(word)))


_SMALL = ("and", "of", "a", "the", "or")


@lru_cache(maxsize=20_000)
def _name_stems(name: str) -> frozenset[str]:
    """Stems of a material's own name; nothing of it is left out but small words."""
    found = (stem(word) for word in _BREAK.split(name.casefold()))
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


def names_whole(words: str, material: Ingredient) -> bool:
    """Tell whether some words hold a whole name of a material, not only a part of one."""
    said = _spoken(words)
    return any(_name_stems(name) <= said for name in names_of(material))


@lru_cache(maxsize=4_000)
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
    spoken = _spoken(words)
    if not wanted:
        return (), False
    index = _index(pantry)
    scored = []
    for place in sorted(
        {place for word in spoken | wanted for place in index.by_stem.get(word, ())}
    ):
        key, names, known = index.materials[place]
        score = max(_score(wanted, spoken, name) for name in names)
        if score > 0:
            scored.append((len(wanted - known), -score, key))
    scored.sort(key=lambda each: each[:2])  # of equal ones the pantry's first
    if not scored:
        return (), False
    keys = tuple(key for _, _, key in scored[:most])
    left, minus, _ = scored[0]
    if left or -minus < LEAST_COVERED:
        return keys, False
    rivals = [each for each in scored[1:] if each[0] == 0]
    exact = -minus >= EXACT and not any(score <= minus for _, score, _ in rivals)
    return keys, exact or not rivals


class _Index(NamedTuple):
    """Names of a pantry, taken apart once: by material, and who has a word."""

    materials: list[tuple[str, list[frozenset[str]], frozenset[str]]]
    by_stem: dict[str, list[int]]


@lru_cache(maxsize=4)
def _index(pantry: Pantry) -> _Index:
    made = _Index([], {})
    for place, material in enumerate(pantry):
        names = [_name_stems(name) for name in names_of(material)]
        known = frozenset[str]().union(*names)
        made.materials.append((material.key, names, known))
        for word in known:
            made.by_stem.setdefault(word, []).append(place)
    return made


EXACT = 4.0
"""Score of words that are a name, neither more nor less [-]."""


def _score(wanted: frozenset[str], spoken: frozenset[str], name: frozenset[str]) -> float:
    """4 and more: the name and nothing else; 2 to 3: all of it is said; up to 1: part of it.

    Of two names that are said, the longer one is meant: coarse salt is not salt that is coarse.
    """
    if name == wanted or wanted <= name <= spoken:
        return EXACT + 0.1 * len(name)
    if name <= spoken:
        return 2.0 + len(name) / (1 + len(wanted))
    return len(wanted & name) / max(len(wanted), len(name))
