"""Searching everything by what people call it, and what the first key press then does.

Commands, pages, words of the glossary with their synonyms, kinds of paste, units, materials,
formulas, trials, runs and second opinions: made into a list once, when the search is opened, and
looked through at every key.
"""

import re
from bisect import bisect_right
from collections.abc import Iterable

from msgspec import Struct

from aplomb.assets.shipped import glossary
from aplomb.work.commands import COMMANDS, Command, shown
from aplomb.work.open_book.workbench import Workbench

MOST_FOUND = 60
"""Most results that are shown [-]."""
MOST_RUNS = 200


class Result(Struct, frozen=True):
    """Something that can be found.

    Attributes
    ----------
    line : str
        As it is shown: what it is and what is done.
    key : str
        What is asked of the window, as `aplomb.work.commands` names it, or what only it can do.
    about : object
        What it is about; None for its own choice.
    names, also : str
        What it is called, and what else people call it, in lower case, each word behind a blank.
    called : frozenset of str
        Whole names, where they are no parts of a sentence.
    rank : int
        Among equals the lower one is shown first [-].
    """

    line: str
    key: str
    names: str
    also: str = ""
    about: object = None
    rank: int = 0
    called: frozenset[str] = frozenset()


_FILLER_WORDS = """
a an the of to how do does did i is are my in for with what where when can make it me on at this
that and or from go show want which should would much many
"""
_FILLERS = frozenset(_FILLER_WORDS.split())
"""Words of a question that say nothing of what is sought."""


_APART = "\x00"


def _all_plain(many: list[str]) -> list[str]:
    """Give names as they are looked through: the words of each in lower case, behind a blank.

    In one go, sign by sign: a book may have thousands of names, and few signs between words.
    """
    whole = _APART.join(words.replace(_APART, " ") for words in many).casefold()
    for sign in set(whole):
        if not (sign.isalnum() or sign in ("_", _APART)):
            whole = whole.replace(sign, " ")
    while "  " in whole:
        whole = whole.replace("  ", " ")
    return [" " + words.strip() for words in whole.split(_APART)] if many else []


def _plain(words: str) -> str:
    return _all_plain([words])[0]


def _called(*names: str) -> frozenset[str]:
    return frozenset(_plain(name) for name in names)


def _line(command: Command) -> str:
    keys = f"   {shown(command.shown_keys)}" if command.keys else ""
    place = f"{command.where.removeprefix('Beside ')}: " if command.room else ""
    return f"{place}{(command.menu or command.words).rstrip('…')}{keys}"


def _commands(*, formula: bool) -> Iterable[Result]:
    for command in COMMANDS.values():
        if formula or not command.needs:
            yield Result(
                _line(command),
                command.key,
                _plain(f"{command.words} {command.menu}"),
                _plain(command.also),
            )


def _words_of_the_trade() -> Iterable[Result]:
    for known in dict.fromkeys(glossary().values()):
        yield Result(
            f"{known.word}: {known.says}",
            known.page,
            _plain(known.word),
            _plain(" ".join(known.also)),
            rank=3,
            called=_called(known.word, *known.also),
        )


KINDS = "kind type sort of paste pastry puff judged as school"
UNITS: tuple[tuple[str, str, str, str], ...] = (
    ("Weights in g and kg", "masses", "g", "grams kilos kilograms metric units measures"),
    ("Weights in oz and lb", "masses", "oz", "ounces pounds lbs lb imperial units measures"),
    ("Cups and spoons beside weights", "beside", "cups", "no scale without sticks counts measures"),
    ("Weights alone", "beside", "", "no cups scale grams measures"),
    ("Lengths in mm and cm", "lengths", "mm", "millimetres centimetres metric units measures"),
    ("Lengths in inches", "lengths", "in", "inch imperial units measures"),
    ("Temperatures in °C", "temps", "°C", "celsius centigrade units measures"),
    ("Temperatures in °F", "temps", "°F", "fahrenheit units measures"),
    ("US cups and spoons", "measures", "us", "american cup tablespoon teaspoon units measures"),
    ("Metric cups and spoons", "measures", "metric", "cup tablespoon teaspoon units measures"),
)
"""Units of the house: words, the setting, its value, and what else people call it."""


def _of_the_book(work: Workbench) -> Iterable[Result]:
    shelf, reference = work.shelf, work.shelf.reference
    if shelf.study is not None:
        for key, school in reference.schools.items():
            yield Result(
                f"Judge it as {school.name}",
                "kind",
                _plain(school.name),
                _plain(f"{KINDS} {key.replace('_', ' ')} {_KIND_ALSO.get(key, '')}"),
                key,
                1,
            )
        for opinion in shelf.study.shown_opinions:
            yield Result(
                f"Second opinion: {opinion.claim}",
                "opinion at",
                _plain(opinion.claim),
                _plain(f"warning advice problem {opinion.why}"),
                opinion.key,
                5,
            )
    for words, setting, value, also in UNITS:
        yield Result(words, "unit", _plain(words), _plain(also), (setting, value), 2)
    for material in reference.pantry:
        yield Result(
            f"{material.name}, in the pantry",
            "pantry",
            _plain(material.name),
            _plain(f"{material.also} {material.group} ingredient"),
            material.key,
            4,
            _called(material.name, *material.also.split(", ")),
        )
    entries = shelf.entries
    names = _all_plain([each.name for each in entries.values()])
    others = _all_plain([f"{each.purpose} formula recipe open" for each in entries.values()])
    for (uid, entry), name, also in zip(entries.items(), names, others, strict=True):
        yield Result(f"Formula: {entry.name}", "open formula", name, also, uid, 4)
    for trial in work.store.tried.trials:
        said = trial.variant or trial.product or trial.formula
        yield Result(
            f"Trial: {said}, {trial.at[:10]}",
            "measure",
            _plain(f"{said} {trial.at[:10]}"),
            _plain(f"trial {trial.formula} {trial.failed}"),
            trial.key,
            6,
        )
    for run in work.book.runs.all()[:MOST_RUNS]:
        yield Result(
            f"Run: {run.title}, {run.begun[:10]}",
            "run_log",
            _plain(f"{run.title} {run.begun[:10]}"),
            _plain("run bench log record"),
            run.number,
            6,
        )


_KIND_ALSO = {
    "classic": "full three quarter french english envelope",
    "rough": "blitz flaky quick scotch",
    "gluten_free": "coeliac rice",
    "portions": "flaky scotch spread dotted",
    "coil": "scroll rolled",
    "gathered": "short crust pieces",
    "lining": "tart shell crust pie base",
    "log": "palmier slices pinwheel",
}


def everything(work: Workbench) -> "Everything":
    """List all that can be found in a book as it stands."""
    return Everything(
        (
            *_commands(formula=work.shelf.study is not None),
            *_words_of_the_trade(),
            *_of_the_book(work),
        )
    )


MOST_WEIGHED = 600
"""So many that hold a word are weighed against one another [-]; commands come first in the list."""


class Everything:
    """All that can be found, with one text of it all to look a word up in.

    Parameters
    ----------
    results : tuple of Result
        The likeliest first.
    """

    def __init__(self, results: tuple[Result, ...]) -> None:
        self.results = results
        self._ends: list[int] = []
        texts, end = [], 0
        for each in results:
            texts.append(f"{each.names}{each.also} \n")
            end += len(texts[-1])
            self._ends.append(end)
        self._text = "".join(texts)

    def _holding(self, part: str) -> set[int]:
        """Places of the first results that hold a part of a word."""
        found: set[int] = set()
        at = self._text.find(part)
        while at >= 0 and len(found) < MOST_WEIGHED:
            place = bisect_right(self._ends, at)
            found.add(place)
            at = self._text.find(part, self._ends[place])
        return found

    def _with(self, forms: tuple[str, ...]) -> set[int]:
        found = set[int]().union(*(self._holding(f" {form}") for form in forms))
        for form in forms if len(found) < MOST_WEIGHED else ():
            found |= self._holding(form) if len(form) > 3 else set()
        return found

    def search(self, text: str) -> tuple[Result, ...]:
        """Find by what a person types, the best first.

        Every word counts but small ones; where nothing holds them all, what holds most of them.

        Parameters
        ----------
        text : str
            As typed; for no words the commands, as they stand in the table.

        Examples
        --------
        >>> one = Result("Learn the folds", "lessons", " learn the folds", " single double book")
        >>> [found.key for found in Everything((one,)).search("book fold")]
        ['lessons']
        """
        said = re.findall(r"\w+", text.casefold())
        wanted = [word for word in said if word not in _FILLERS] or said
        if not wanted:
            return tuple(each for each in self.results if each.rank == 0)
        forms = [_forms(word) for word in wanted]
        rarest = min(forms, key=lambda each: self._text.count(f" {each[0]}") or len(self._text))
        found = _best(said, forms, self.results, self._with(rarest), len(forms))
        if not found:
            places = set[int]().union(*(self._with(each) for each in forms))
            found = _best(said, forms, self.results, places, 1)
        return found


def _best(
    said: list[str],
    forms: list[tuple[str, ...]],
    results: tuple[Result, ...],
    places: set[int],
    least: int,
) -> tuple[Result, ...]:
    """Order results by how well they fit; of those that hold at least so many words."""
    whole = " " + " ".join(said)
    scored = []
    for at in places:
        each = results[at]
        points = [_points(form, each) for form in forms]
        hit = sum(point > 0 for point in points)
        if hit < least:
            continue
        best = sum(points) / len(points)
        if each.names == whole or whole in each.called:
            best += 4  # it is called so
        elif whole in each.names or whole in each.also:
            best += 2  # the words stand together
        scored.append((hit, best - 0.3 * each.rank, -len(each.names), -at))
    most = max((hit for hit, *_ in scored), default=0)
    kept = sorted((s for s in scored if s[0] == most), reverse=True)
    return tuple(results[-at] for *_, at in kept[:MOST_FOUND])


def _forms(word: str) -> tuple[str, ...]:
    """Give a word and what it comes from: chilling, chill; baked, bak; prices, price."""
    found = [word]
    for ending in ("ing", "ed", "es", "s", "er"):
        bare = word.removesuffix(ending)
        if bare != word and len(bare) >= 3:
            found.append(bare[:-1] if len(bare) > 3 and bare[-1] == bare[-2] else bare)
    return tuple(dict.fromkeys(found))


def _points(forms: tuple[str, ...], each: Result) -> float:
    """How well one word fits [-]: whole, its beginning, or inside; its own names before others."""
    for worth, form in zip((1.0, 0.9, 0.85, 0.8, 0.75), forms, strict=False):
        start = f" {form}"
        if start in each.names:
            return worth * (6 if f"{start} " in f"{each.names} " else 4)
        if start in each.also:
            return worth * (4.5 if f"{start} " in f"{each.also} " else 2.5)
        if len(form) > 3 and (form in each.names or form in each.also):
            return 1.0
    return 0.0
