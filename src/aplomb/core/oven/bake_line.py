"""Reading a bake line as it is written on a card: settings, minutes, signs and what is done.

``375 F 25 min, then 425 F 10 for colour``, ``190 C 20 min with weights, then 10 min without``,
``1 h 15 at 160 C``, ``200C/180C fan 25–30 min until risen``. A line is cut into settings, minutes
and the words between them, in their order; a setting or minutes that a step already has begin the
next one.
"""

import re
from typing import NamedTuple

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import TextError
from aplomb.core.base.numbers import VULGAR
from aplomb.core.base.span import Span
from aplomb.core.base.spoken import ONES, TENS, spoken
from aplomb.core.oven.programme import LONGEST_MIN, MOST_STEPS, BakeStep, Programme
from aplomb.core.oven.setting import fan_is_said, read_setting, unit_of_bare

LONGEST = 2500
"""Longest text that is read as a programme [-]: twelve steps with all their words."""
LONGEST_WORDS = 80

_NUM = r"\d{1,3}(?:[.,]\d{1,2})?"
_TO = r"\s*(?:-|–|—|to\b|or\b)\s*"
_UNIT = r"(?:°|º|deg(?:rees)?\.?)?\s*(?:celsius|fahrenheit|c|f)(?![^\W\d_])"
_HEAT = (
    r"(?:fan[- ](?:assisted|forced)|fan(?: oven)?|convection|conventional|static|no fan"
    r"|with(?:out)? (?:a )?fan|top and bottom(?: heat)?)(?![^\W\d_])"
)
_GAS = r"(?:gas(?:\s*mark)?|g\.?m\.?|mark)\s*(?:1/4|1/2|¼|½|\d{1,2})(?![\d/])"
_AFTER_AT = r"(?:(?<=\bat )|(?<=\bto )|(?<=\boven ))"
"""Behind these a number of three figures is a temperature."""
_ONE = (
    rf"(?:(?:{_HEAT}\s+)?{_NUM}(?:{_TO}{_NUM})?\s*{_UNIT}(?:\s*\(?{_HEAT}\)?)?"
    rf"|{_AFTER_AT}\d{{3}}(?!\s*(?:{_TO})?\d|\s*(?:min|h\b|hour|['′°º]|[cf]\b))"
    rf"|{_NUM}\s*(?:°|º)?\s*\(?{_HEAT}\)?|{_HEAT}\s+{_NUM}(?!\s*(?:min|h\b|hour|['′]))|{_GAS})"
)
_SETTING = re.compile(
    rf"(?P<first>{_ONE})(?P<others>(?:\s*(?:/|,\s*(?=gas)|\bor\b|\(|\))\s*{_ONE}\s*\)?)*)",
    re.IGNORECASE,
)
_WORDS = "|".join(
    [
        f"(?:{'|'.join(TENS)})(?:[-\\s](?:{'|'.join(ONES)})\\b)?",
        *sorted(ONES, key=len, reverse=True),
    ]
)
_MANY = (
    r"(?:\d{1,3}(?:[.,]\d{1,2})?(?:\s+\d/\d(?!\d)|\s*[½¼¾])?|\d/\d(?!\d)|[½¼¾]"
    rf"|half an?|an?|{_WORDS})"
)
_RANGE = rf"(?P<low>{_MANY})(?:{_TO}(?P<high>{_MANY}))?\s*-?\s*"
_MINUTES = re.compile(rf"{_RANGE}(?:min(?:ute)?s?|['′])(?![^\W\d_])\.?", re.IGNORECASE)
_HOURS = re.compile(
    rf"{_RANGE}h(?:ours?|rs?)?(?![^\W\d_])\.?"
    r"(?:\s*(?:and\s+)?(?P<more>\d{1,2})(?:\s*min(?:ute)?s?\b\.?|(?=\s*(?:at\b|$|[,;]))))?"
    r"(?P<half>\s+and\s+a\s+half)?",
    re.IGNORECASE,
)
_BARE = re.compile(rf"(?P<low>{_NUM})(?:{_TO}(?P<high>{_NUM}))?(?!\d)")
_AFTER = re.compile(r"\s*,?\s*after\s+(?:the\s+)?(?:first\s+|about\s+)?", re.IGNORECASE)
_GOES_ON = re.compile(
    r"\s*(?:more\s+|further\s+)?(?:without|uncovered|more|longer|further)\b", re.IGNORECASE
)
"""Behind a number that is minutes: 45 min with weights, 10 without."""
_UNTIL = re.compile(
    r"\s*[,(]?\s*(?:or\s+)?(?:until|till)\s+"
    r"(?P<seen>[^;:,.()→\n]*?)(?=\s*(?:[;:,.()→\n]|\bthen\b|$))"
    r"|\s*[,(]?\s*for\s+(?P<colour>colou?r)\b|\s*[,(]?\s*to\s+(?P<brown>brown|colour|color)\b",
    re.IGNORECASE,
)
_WORD = re.compile(r"[^\W\d_]+(?:['’-][^\W\d_]+)*|\S")
_EMPTY_WORDS = """
bake baked baking cook cooked for at in the a an oven of to and with preheated preheat heat heated
hot set it them then lower reduce reduced raise increase turn down up drop temperature temp
setting continue carry on more another further longer extra additional about approximately approx
roughly around ca circa last first final next minutes blind x × or , . ; : → ( ) – - — / until
your quick very moderate cool start starting finish finishing begin beginning end ending +
"""
_SAYS_NOTHING = frozenset(_EMPTY_WORDS.split())
_WITH_WEIGHTS = re.compile(
    r"\b(?:with|under|blind|lined)\b.*\b(?:weights?|beans?|blind)\b|\bblind\b", re.IGNORECASE
)
_WITHOUT = re.compile(r"\bwithout\b(?!\s+(?:a\s+)?fan)|\buncovered\b", re.IGNORECASE)
WEIGHTS_OUT = "take the weights out"


class _Minutes(NamedTuple):
    low: float
    high: float


class _Step(Struct):
    """A step while it is read."""

    start: int
    end: int
    setting: str = ""
    span_c: tuple[float, float] | None = None
    conventional_c: float = 0.0
    minutes: _Minutes | None = None
    until: str = ""
    then: str = ""


def read_programme(line: str, before: Programme | None = None) -> Programme:
    """Read a programme as it is written on a card.

    Parameters
    ----------
    line : str
        Steps in their order: a setting, minutes, a sign after “until”, what is done at the end.
        ``220 C fan 12 min; 190 C fan 15 min until brown below: turn the tray``.
    before : Programme or None
        Its tray and wash stay.

    Raises
    ------
    TextError
        Pointing at what cannot be used.

    Examples
    --------
    >>> read_programme("gas 7 10 min; 180 C 20 min until crisp: turn the tray").steps[1].then
    'turn the tray'
    >>> [step.minutes for step in read_programme("375 F 25, then 425 F 10 for colour").steps]
    [25.0, 10.0]
    """
    if len(line) > LONGEST:
        raise TextError(
            f"{len(line)} characters are too many; up to {MOST_STEPS} steps fit",
            line,
            LONGEST,
            len(line),
        )
    steps = _Reading(line).all_steps()
    if not steps:
        raise TextError("enter a step, e.g. 200 C 25 min until brown", line, 0, len(line))
    if len(steps) > MOST_STEPS:
        raise TextError(f"too many steps; use up to {MOST_STEPS}", line, 0, len(line))
    kept = before or Programme()
    return Programme(tuple(steps), kept.tray, kept.wash, kept.stone, kept.core_c)


def with_setting(step: BakeStep, text: str) -> BakeStep:
    """Give a step another setting, as it is typed; a range has two ends.

    Raises
    ------
    TextError
        As `aplomb.core.oven.setting.read_setting`.
    """
    typed = text.strip()
    try:
        read = read_setting(text)
        return replace(step, conventional_c=read.conventional_c, typed=typed, c_span=None)
    except TextError as wrong:
        try:
            (ranged,) = read_programme(f"{text} 10 min").steps
        except (TextError, ValueError):
            raise wrong from None
        return replace(
            step, conventional_c=ranged.conventional_c, typed=typed, c_span=ranged.c_span
        )


def with_minutes(step: BakeStep, text: str) -> BakeStep:
    """Give a step other minutes, as they are typed: ``25``, ``15–20``, ``1 h 10``.

    Raises
    ------
    TextError
        As `read_programme`, and for more than minutes.
    """
    steps = read_programme(f"200 C {text}").steps
    if len(steps) != 1 or steps[0].until or steps[0].then:
        raise TextError("enter minutes only, e.g. 25 or 15–20", text, 0, len(text))
    return replace(step, minutes=steps[0].minutes, minutes_span=steps[0].minutes_span)


def with_fan(programme: Programme) -> Programme:
    """Take settings of which nobody said fan or not as settings with a fan."""
    return replace(
        programme,
        steps=tuple(
            with_setting(step, f"{step.typed} fan") if _fan_unsaid(step) else step
            for step in programme.steps
        ),
    )


def fan_is_open(programme: Programme) -> bool:
    """Tell whether a step was typed without saying if it is with a fan or not."""
    return any(_fan_unsaid(step) for step in programme.steps)


def _fan_unsaid(step: BakeStep) -> bool:
    return bool(step.typed) and not fan_is_said(step.typed)


class _Reading:
    """A line while it is read from left to right."""

    def __init__(self, line: str) -> None:
        self.line = line
        self.steps: list[_Step] = []
        self.words: list[tuple[str, int]] = []
        self.in_all = self.then = False

    def all_steps(self) -> list[BakeStep]:
        """Read the whole line."""
        at = 0
        while at < len(self.line):
            at = self._next(at)
        self._say()
        return [self._made(i, step) for i, step in enumerate(self.steps)]

    def _next(self, at: int) -> int:
        line = self.line
        if line[at].isspace():
            return at + 1
        at_word = at == 0 or not line[at - 1].isalnum()
        setting = _SETTING.match(line, at) if at_word else None
        hours = _HOURS.match(line, at) if at_word else None
        minutes = hours or (_MINUTES.match(line, at) if at_word else None)
        until = _UNTIL.match(line, at) if self.steps else None
        if until is not None and until.end() > at:
            self._say()
            self._until(until)
            return until.end()
        if setting is not None and not (minutes and minutes.end() > setting.end()):
            self._say()
            return self._set(setting)
        if minutes is not None:
            self._say()
            self._take_minutes(self._minutes(minutes), minutes.start(), minutes.end())
            return minutes.end()
        if line[at].isdecimal():
            return self._bare(at)
        word = _WORD.match(line, at)
        end = word.end() if word else at + 1
        self.words.append((line[at:end], at))
        return end

    @property
    def _last(self) -> _Step | None:
        """The step that is being read."""
        return self.steps[-1] if self.steps else None

    @property
    def _before(self) -> _Step | None:
        """The one before that."""
        return self.steps[-2] if len(self.steps) > 1 else None

    def _open(self, at: int, end: int) -> _Step:
        """Begin a new step."""
        self.steps.append(_Step(at, end))
        return self.steps[-1]

    def _set(self, found: re.Match[str]) -> int:
        """Take a setting; the place behind it, and behind “after 10 minutes”."""
        line = self.line
        if re.search(r"(?:^|\s)[-−]$", line[: found.start()]):
            raise TextError("an oven is not set below 0", line, found.start() - 1, found.end())
        first, others = found["first"], found["others"] or ""
        ranged = re.match(rf"(.*?)({_NUM}){_TO}({_NUM})(\s*.*)", first, re.IGNORECASE)
        spans = [first]
        if ranged is not None and not re.match(_GAS, first, re.IGNORECASE):
            spans = [f"{ranged[1]}{ranged[n]}{ranged[4]}" for n in (2, 3)]
        try:
            ends = [read_setting(each).conventional_c for each in spans]
            alike = re.sub(r"\s*[()]\s*|\s*\bor\b\s*|,\s*(?=gas)", "/", others).strip("/ ")
            if alike:
                read_setting(f"{spans[0]}/{alike}".replace("//", "/"))
        except TextError as error:
            raise TextError(error.message, line, found.start(), found.end()) from None
        last, end = self._last, found.end()
        after = _AFTER.match(line, end)
        if after is not None and last is not None and last.setting and not last.minutes:
            over = _HOURS.match(line, after.end()) or _MINUTES.match(line, after.end())
            if over is not None:
                self._take_minutes(self._minutes(over), over.start(), over.end())
                end = over.end()
        if last is None or (last.setting and last.minutes):
            last = self._open(found.start(), found.end())
        elif last.setting:
            raise TextError(
                f"“{last.setting}” has no minutes; enter a step like 200 C 25 min",
                line,
                last.start,
                found.start(),
            )
        last.setting, last.end = first.strip(), end
        if last.setting.isdecimal():
            last.setting += f" {unit_of_bare(float(last.setting)).upper()}"
        last.conventional_c = sum(ends) / len(ends)
        last.span_c = (min(ends), max(ends)) if len(ends) == 2 and ends[0] != ends[1] else None
        return end

    def _minutes(self, found: re.Match[str]) -> _Minutes:
        hours = found.re is _HOURS
        low = _number(found["low"]) * (60 if hours else 1)
        high = _number(found["high"]) * (60 if hours else 1) if found["high"] else low
        more = float(found["more"] or 0) + (30 if found["half"] else 0) if hours else 0.0
        return _Minutes(low + more, high + more)

    def _take_minutes(self, minutes: _Minutes, at: int, end: int) -> None:
        if not 0.5 <= minutes.low <= minutes.high <= LONGEST_MIN:
            raise TextError(
                f"a bake step cannot take {self.line[at:end].strip()}; use 0.5 to "
                f"{LONGEST_MIN:.0f} min",
                self.line,
                at,
                end,
            )
        if re.search(r"(?<=\s)[-−]$", self.line[:at]):
            raise TextError("minutes cannot be negative", self.line, at - 1, end)
        last = self._last
        if last is None or last.minutes:
            last = self._open(at, end)
        before = self._before
        if self.in_all and before is not None and before.minutes and last.setting:
            # “190 C 30 min, 210 C for the last 10”: they are among the thirty
            low, high = before.minutes
            if low - minutes.high >= 0.5:
                before.minutes = _Minutes(low - minutes.high, high - minutes.low)
        self.in_all = False
        last.minutes, last.end = minutes, end

    def _bare(self, at: int) -> int:
        """Minutes without their unit stand behind a setting, or after “the last”."""
        found = _BARE.match(self.line, at)
        last = self._last
        said_last = bool(self.words) and self.words[-1][0].casefold() in (
            "last",
            "final",
            "another",
        )
        goes_on = found is not None and _GOES_ON.match(self.line, found.end()) is not None
        opens = last is not None and bool(last.setting) and not last.minutes
        if found is None or last is None or not (said_last or goes_on or opens):
            end = found.end() if found else at + 1
            beside = re.compile(r"\s*[^\W\d_]{1,12}").match(self.line, end)
            end = beside.end() if beside else end
            raise TextError(
                f"“{self.line[at:end]}” has no unit; enter a step like 200 C 25 min",
                self.line,
                at,
                end,
            )
        self._say()
        low = float(found["low"].replace(",", "."))
        high = float(found["high"].replace(",", ".")) if found["high"] else low
        self._take_minutes(_Minutes(low, high), at, found.end())
        return found.end()

    def _until(self, found: re.Match[str]) -> None:
        seen = (found["seen"] or found["colour"] or found["brown"] or "").strip()
        self._words_fit(seen, "until", found.start(), found.end())
        self.steps[-1].until = self.steps[-1].until or seen

    def _words_fit(self, words: str, name: str, at: int, end: int) -> None:
        if len(words) > LONGEST_WORDS:
            raise TextError(f"{name}: use at most {LONGEST_WORDS} characters", self.line, at, end)

    def _say(self) -> None:
        """What stood between two figures: weights, something that is done, or nothing."""
        words, self.words = self.words, []
        if not words:
            return
        start, end = words[0][1], words[-1][1] + len(words[-1][0])
        said = self.line[start:end]
        if _WITHOUT.search(said):
            before = self._before
            if before is not None and not before.then:
                before.then = WEIGHTS_OUT
            return
        if _WITH_WEIGHTS.search(said):
            return
        last_of = {"last", "final"} & {word.casefold() for word, _ in words}
        self.in_all = bool(last_of) and not self.then
        self.then = any(word.casefold() == "then" for word, _ in words)
        told = [word for word, _ in words if word.casefold() not in _SAYS_NOTHING]
        colon = said.lstrip().startswith(":")
        if not told and not colon:
            return
        done = _LEADING.sub("", _TRAILING.sub("", said))
        last = self._last
        if last is None or not last.minutes:
            raise TextError(f"“{done[:30]}” is not understood", self.line, start, end)
        if last.until and not colon and not _DOES.search(done):
            last.until = f"{last.until}, {done}"  # until risen, pale gold
            self._words_fit(last.until, "until", start, end)
            return
        if not (colon or _DOES.search(done)):
            raise TextError(
                f"“{done[:30]}” is not understood; write until and what you see, or a colon and "
                "what to do",
                self.line,
                start,
                end,
            )
        self._words_fit(done, "then", start, end)
        last.then = last.then or done

    def _made(self, at: int, step: _Step) -> BakeStep:
        earlier = next((s for s in reversed(self.steps[:at]) if s.setting), None)
        if not step.setting and earlier is None:
            raise TextError(
                "the first step has no temperature; enter a step like 200 C 25 min",
                self.line,
                step.start,
                step.end,
            )
        if step.minutes is None:
            raise TextError(
                f"“{self.line[step.start : step.end][:30]}” has no minutes; enter a step like "
                "200 C 25 min",
                self.line,
                step.start,
                step.end,
            )
        source = step if step.setting or earlier is None else earlier
        low, high = step.minutes
        return BakeStep(
            source.conventional_c,
            (low + high) / 2,
            step.until,
            step.then,
            typed=source.setting,
            minutes_span=Span(low, high) if high > low else None,
            c_span=Span(*source.span_c) if source.span_c else None,
        )


_LEADING = re.compile(r"^[\s,;:.(–-]*(?:then\b\s*)?", re.IGNORECASE)
_TRAILING = re.compile(r"[\s,;:.)→–-]*(?:\bthen\b|\banother\b|\bfor\b)?[\s,;:.)→]*$", re.IGNORECASE)
_DOES = re.compile(
    r"\b(?:turn|take|remove|lift|cover|uncover|open|let|brush|rotate|swap|move|dust|prop|door|ring|weights?"
    r"|foil|paper|cool|rack|off|out)\b",
    re.IGNORECASE,
)
"""Words of something that is done."""


def _number(said: str) -> float:
    in_words = spoken(said.strip(), 0)
    if in_words is not None:
        return in_words.value
    total = 0.0
    for part in re.findall(r"\d+/\d+|[½¼¾]|\d+(?:[.,]\d+)?", said):
        top, stroke, bottom = part.partition("/")
        if part in VULGAR:
            above, below = VULGAR[part]
            total += above / below
        elif stroke:
            total += float(top) / float(bottom) if float(bottom) else 0.0
        else:
            total += float(part.replace(",", "."))
    return total
