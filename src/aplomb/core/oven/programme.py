"""A bake programme: steps of temperature, minutes, a sign and something to do; its line of text.

Temperatures are kept without a fan; what an oven's dial is set to follows from the oven.
"""

from collections.abc import Callable
from typing import Literal, get_args

from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.base.figures import num
from aplomb.core.base.span import Span
from aplomb.core.oven.setting import COLDEST_C, HOTTEST_C

MOST_STEPS = 12
LONGEST_MIN = 600.0
TrayWay = Literal["", "bare", "greased", "floured", "paper"]
TRAY_WORDS: dict[TrayWay, str] = {
    "": "tray as usual", "bare": "bare tray", "greased": "greased tray", "floured": "floured tray",
    "paper": "on paper",
}  # fmt: skip
TRAY_WAYS: tuple[TrayWay, ...] = get_args(TrayWay)
Wash = Literal["", "none", "egg", "milk", "water", "butter"]
WASHES: tuple[Wash, ...] = get_args(Wash)
ACTIONS = (
    "turn the tray", "turn the pieces over", "take the weights out", "take the ring off",
    "let the steam out", "cover with paper",
)  # fmt: skip
"""What is often done at the end of a step."""


class BakeStep(Struct, frozen=True, forbid_unknown_fields=True):
    """One step of a programme.

    Attributes
    ----------
    conventional_c : float
        The oven, without a fan [°C].
    minutes : float
        [min].
    until : str
        By which sign it is really over; empty for none.
    then : str
        What is done at its end; empty for nothing.
    typed : str
        The setting as it was written, which is what is shown first: ``375 F``.
    minutes_span, c_span : Span or None
        Both ends, where a range was given [min], [°C without a fan]; `minutes` and
        `conventional_c` are the middle then.
    """

    conventional_c: float
    minutes: float
    until: str = ""
    then: str = ""
    typed: str = ""
    minutes_span: Span | None = None
    c_span: Span | None = None

    @property
    def minutes_text(self) -> str:
        """Its minutes as they were given: ``25``, ``15–20``."""
        return self.minutes_span.text() if self.minutes_span else num(self.minutes)


class Programme(Struct, frozen=True, forbid_unknown_fields=True):
    """How something is baked.

    Attributes
    ----------
    stone : bool
        A stone or a hot tray lies below.
    core_c : float
        The middle must have reached that, by local rule, where the filling wants it [°C]; 0 for
        none.
    """

    steps: tuple[BakeStep, ...] = ()
    tray: TrayWay = ""
    wash: Wash = ""
    stone: bool = False
    core_c: float = 0.0

    @property
    def minutes(self) -> float:
        """All steps together [min]."""
        return sum(step.minutes for step in self.steps)

    @property
    def mean_c(self) -> float:
        """The oven on the mean, without a fan [°C]; 0 without steps."""
        if not self.steps or self.minutes <= 0:
            return 0.0
        return sum(step.minutes * step.conventional_c for step in self.steps) / self.minutes

    def at(self, minute: float) -> int:
        """Which step goes on so long after the start [-]; the last one ever after."""
        over = 0.0
        for i, step in enumerate(self.steps):
            over += step.minutes
            if minute < over:
                return i
        return max(0, len(self.steps) - 1)


def check_programme(programme: Programme, place: str, wrong: Problems) -> None:
    """Take down all that is wrong with a programme.

    Parameters
    ----------
    place : str
        Where it stands.
    """
    if len(programme.steps) > MOST_STEPS:
        wrong.add(f"{place}: {len(programme.steps)} steps are too many; up to {MOST_STEPS} fit.")
    for i, step in enumerate(programme.steps[:MOST_STEPS], 1):
        wrong.number(f"{place}, step {i}", step.conventional_c, COLDEST_C, HOTTEST_C + 20, "°C")
        wrong.number(f"{place}, step {i}", step.minutes, 0.5, LONGEST_MIN, "min")
        for name, span in (("minutes", step.minutes_span), ("temperature", step.c_span)):
            if span is not None and not 0 < span.low < span.high < 1e4:
                wrong.add(f"{place}, step {i}: put the lower {name} first.")
        for words in (step.until, step.then, step.typed):
            if len(words) > 80:
                wrong.add(f"{place}, step {i}: use at most 80 characters.")
    if programme.core_c:
        wrong.number(f"{place}, middle", programme.core_c, 40, 100, "°C")


def programme_line(programme: Programme, written: Callable[[float], str]) -> str:
    """Write a programme as `aplomb.core.oven.bake_line.read_programme` reads it.

    Parameters
    ----------
    written : callable
        Writes a temperature without a fan [°C] as a setting: ``200 C fan``.

    Examples
    --------
    >>> programme_line(Programme((BakeStep(200, 25, "brown"),)), lambda c: f"{c:g} C")
    '200 C 25 min until brown'
    """
    parts = []
    for step in programme.steps:
        words = f"{step.typed or written(step.conventional_c)} {step.minutes_text} min"
        words += f" until {step.until}" if step.until else ""
        parts.append(words + (f": {step.then}" if step.then else ""))
    return "; ".join(parts)


class Usual(Struct, frozen=True):
    """A programme seen in use.

    Attributes
    ----------
    words : str
        For what.
    range_min : (least, most)
        Minutes seen [min].
    """

    words: str
    steps: tuple[BakeStep, ...]
    range_min: tuple[float, float]


USUAL: dict[str, Usual] = {
    "small": Usual("small pieces", (BakeStep(200, 22, "brown top and bottom"),), (15, 30)),
    "cases": Usual(
        "tall pieces",
        (BakeStep(220, 12, "risen, pale gold"), BakeStep(190, 12, "dry and brown")), (15, 30),
    ),
    "crisp": Usual(
        "thin crisp pieces",
        (BakeStep(200, 5), BakeStep(150, 22, "crisp through")), (25, 30),
    ),
    "filled": Usual(
        "filled pieces",
        (BakeStep(210, 15, "risen"), BakeStep(190, 13, "brown top and bottom", "")), (20, 35),
    ),
    "lined": Usual(
        "lined rings",
        (BakeStep(180, 30, "set", "take the ring off"), BakeStep(180, 10, "brown to the base")),
        (35, 50),
    ),
    "blind": Usual(
        "blind-baked shells, with weights",
        (BakeStep(190, 40, "set", "take the weights out"), BakeStep(190, 12, "brown to the base")),
        (35, 55),
    ),
    "turned": Usual(
        "flat sheets, turned over",
        (BakeStep(220, 13, "light brown", "turn the pieces over"), BakeStep(220, 8, "brown")),
        (15, 25),
    ),
    "large": Usual(
        "large pieces",
        (BakeStep(210, 20, "risen"), BakeStep(185, 22, "brown top and bottom")), (30, 50),
    ),
}  # fmt: skip
"""Programmes by what is baked: settings and minutes seen in use, common practice; never a rule."""
LARGE_MM, THIN_MM = 220.0, 2.5
"""A piece so long is a large one, one so thin a crisp one, where nothing else is said; recalled."""


def usual_for(
    shape: str, longest_mm: float, sheet_mm: float, *, filled: bool, weighed_down: bool = False
) -> Usual:
    """Suggest a programme by shape, size and filling.

    Parameters
    ----------
    shape : str
        Of the product.
    longest_mm, sheet_mm : float
        The piece, and the sheet it is cut from [mm].
    weighed_down : bool
        Baked blind under weights.

    Notes
    -----
    By bands that bakers tell (common practice): what must stand begins hot and is dried out cooler;
    what is large or filled is baked longer and cooler; blind linings lie under weights first.

    Examples
    --------
    >>> usual_for("case", 80, 4, filled=False).words
    'tall pieces'
    """
    if shape == "lining":
        return USUAL["blind" if weighed_down else "lined"]
    if longest_mm >= LARGE_MM:
        return USUAL["large"]
    if shape in ("case", "frame"):
        return USUAL["cases"]
    if filled:
        return USUAL["filled"]
    return USUAL["crisp" if sheet_mm <= THIN_MM else "small"]
