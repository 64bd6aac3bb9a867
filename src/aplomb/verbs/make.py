"""A make from the shell: every step of one formula for one goal, its trays and loads."""

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.folds.boxes import Box
from aplomb.core.make.goal import Goal, read_factor, study_for, usual_goal
from aplomb.core.make.make import make_of
from aplomb.core.make.step import LineOf, Make, MakeStep, RestAfter
from aplomb.core.paste.formula import Formula
from aplomb.core.study.cold import cold_of
from aplomb.core.study.study import Reference, Study
from aplomb.work.open_book.sources import formula_from

PLACES_G, PLACES_MM, PLACES_MIN = 4, 3, 2


class Asked(Struct, frozen=True):
    """What the options of a verb say of its goal; empty where they say nothing.

    Attributes
    ----------
    as_written : str or None
        A factor as typed; None without the option.
    """

    as_written: str | None = None
    pieces: int | None = None
    keep: int | None = None
    batch: bool = False


def goal_asked(asked: Asked, formula: Formula) -> Goal:
    """Give the goal that the options ask for; without any the usual one of the formula.

    Raises
    ------
    AplombError
        For more than one of them, or a number that cannot be.
    """
    some = [asked.as_written is not None, asked.pieces is not None, asked.keep is not None]
    if sum(some) + asked.batch > 1:
        raise AplombError("goal: use one of --as-written, --pieces, --keep and --batch")
    if asked.as_written is not None:
        return Goal("as_written", factor=read_factor(asked.as_written))
    if asked.pieces is not None:
        if asked.pieces < 1:
            raise AplombError(f"pieces: use 1 or more, not {asked.pieces}")
        return Goal("pieces", pieces=asked.pieces)
    if asked.keep is not None:
        return Goal("keep", blocks=asked.keep)
    return Goal("batch") if asked.batch else usual_goal(formula)


def study_asked(source: str, asked: Asked) -> tuple[Study, Reference, Goal]:
    """Work out the formula of a source for the goal that is asked for."""
    formula, known = formula_from(source)
    goal = goal_asked(asked, formula)
    return study_for(formula, goal, known), known, goal


def make_asked(source: str, asked: Asked) -> Make:
    """Give the whole make of a source, what the cold says among it.

    Raises
    ------
    AplombError
        When the source cannot be read or nothing can be made of it.
    """
    study, known, goal = study_asked(source, asked)
    if study.scaled.trouble:
        raise AplombError(study.scaled.trouble)
    rests = cold_of(study, known.pantry, known.house)
    return make_of(study, known.pantry, known.house, goal, rests, known.uid)


class SaidLine(Struct, frozen=True):
    """A line of the make; grams exact, and as the scale weighs them."""

    part: str
    material: str
    product: str
    grams: float
    weigh_g: float


class SaidEntry(Struct, frozen=True, omit_defaults=True):
    """So much of a line that enters [g, exact]."""

    part: str
    material: str
    grams: float
    product: str = ""


class SaidWeigh(Struct, frozen=True, omit_defaults=True):
    """So much of a line on the scale [g]."""

    part: str
    material: str
    weigh_g: float
    product: str = ""


class SaidUnit(Struct, frozen=True):
    """What a step is done to [g], and what it holds that must be declared."""

    key: str
    of: str
    grams: float
    allergens: list[str]


class SaidSheet(Struct, frozen=True, omit_defaults=True):
    """A sheet [mm]; of a round its length and width are those across."""

    length_mm: float
    width_mm: float
    thickness_mm: float
    round: bool = False


class SaidPieces(Struct, frozen=True):
    """So many of a product."""

    product: str
    count: int


class SaidRest(Struct, frozen=True):
    """A rest [min]."""

    place: str
    least_min: float
    most_min: float
    stand_min: float


class SaidStep(Struct, frozen=True):
    """A step, as docs/verbs/make.md says."""

    key: str
    op: str
    kind: str
    on: list[str]
    lines: list[SaidEntry]
    weighs: list[SaidWeigh]
    sheet: SaidSheet | None
    roll_to: SaidSheet | None
    pieces: list[SaidPieces]
    hands_min: float
    alone_min: float
    rest: SaidRest | None
    after: list[str]
    words: str
    sign: str
    cautions: list[str]


class SaidTrays(Struct, frozen=True):
    """Trays of a product."""

    product: str
    trays: int
    pieces: int
    a_tray: int


class SaidLoad(Struct, frozen=True):
    """A load of an oven."""

    oven: str
    trays: int
    minutes: float
    products: list[SaidPieces]


class SaidGiven(Struct, frozen=True):
    """Pieces that the make gives, each raw with all that is on it [g]."""

    product: str
    count: int
    each_g: float


class SaidGives(Struct, frozen=True):
    """Where everything goes [g]."""

    pieces: list[SaidGiven]
    scrap_g: float
    loss_g: float
    kept_g: float
    from_stock_g: float


class MakeFound(Struct, frozen=True):
    """The make, as docs/verbs/make.md says."""

    formula: str
    goal: str
    lines: list[SaidLine]
    units: list[SaidUnit]
    steps: list[SaidStep]
    trays: list[SaidTrays]
    loads: list[SaidLoad]
    hands_min: float
    elapsed_min: float
    gives: SaidGives
    trouble: list[str]


class TraysFound(Struct, frozen=True):
    """Trays and loads, as docs/verbs/trays.md says."""

    formula: str
    goal: str
    trays: list[SaidTrays]
    loads: list[SaidLoad]


def make_found(make: Make) -> MakeFound:
    """Give a make as its JSON."""
    gives = make.gives
    return MakeFound(
        make.name,
        make.goal.kind,
        [
            SaidLine(n.part.value, n.material, n.product, _g(n.grams), _g(n.weigh_g))
            for n in make.lines
        ],
        [SaidUnit(u.key, u.of, _g(u.grams), list(u.allergens)) for u in make.units],
        [_step(step) for step in make.steps],
        _trays(make),
        _loads(make),
        round(make.hands_min, PLACES_MIN),
        round(make.elapsed_min, PLACES_MIN),
        SaidGives(
            [SaidGiven(p.product, p.count, _g(p.each_g)) for p in gives.pieces],
            _g(gives.scrap_g),
            _g(gives.loss_g),
            _g(gives.kept_g),
            _g(gives.from_stock_g),
        ),
        list(make.trouble),
    )


def trays_found(make: Make) -> TraysFound:
    """Give the trays and loads of a make as their JSON."""
    return TraysFound(make.name, make.goal.kind, _trays(make), _loads(make))


def _g(grams: float) -> float:
    return round(grams, PLACES_G)


def _trays(make: Make) -> list[SaidTrays]:
    return [SaidTrays(t.product, t.trays, t.pieces, t.a_tray) for t in make.trays]


def _loads(make: Make) -> list[SaidLoad]:
    return [
        SaidLoad(each.oven, each.many, each.minutes, [SaidPieces(n, m) for n, m in each.trays])
        for each in make.loads
    ]


def _step(step: MakeStep) -> SaidStep:
    return SaidStep(
        step.key,
        step.op,
        step.kind,
        list(step.on),
        [_entry(n) for n in step.lines],
        [SaidWeigh(n.part.value, n.material, _g(n.grams), n.product) for n in step.weighs],
        _sheet(step.sheet, is_round=step.round),
        _sheet(step.roll_to, is_round=step.round),
        [SaidPieces(p.product, p.count) for p in step.gives],
        round(step.hands_min, PLACES_MIN),
        round(step.alone_min, PLACES_MIN),
        _rest(step.rest),
        list(step.after),
        step.words,
        step.sign,
        list(step.cautions),
    )


def _entry(line: LineOf) -> SaidEntry:
    return SaidEntry(line.part.value, line.material, round(line.grams, 6), line.product)


def _sheet(box: Box | None, *, is_round: bool) -> SaidSheet | None:
    if box is None:
        return None
    return SaidSheet(
        round(box.length_mm, PLACES_MM),
        round(box.width_mm, PLACES_MM),
        round(box.height_mm, PLACES_G),
        is_round,
    )


def _rest(rest: RestAfter | None) -> SaidRest | None:
    if rest is None:
        return None
    return SaidRest(
        rest.place,
        round(rest.least_min, PLACES_MIN),
        round(rest.most_min, PLACES_MIN),
        rest.stand_min,
    )


def make_words(make: Make) -> str:
    """Say a make in plain words: a line a step."""
    found = [f"{make.name}: {make.goal.kind.replace('_', ' ')}"]
    for step in make.steps:
        size = ""
        if step.sheet is not None:
            box = step.sheet
            size = f", {box.length_mm:.0f} × {box.width_mm:.0f} × {box.height_mm:.2g} mm"
        rest = ""
        if step.rest is not None:
            rest = f"; rest {step.rest.least_min:.0f} to {step.rest.most_min:.0f} min, "
            rest += step.rest.place
        found.append(f"{step.key:<18} {step.words}{size}{rest}")
    gives = make.gives
    found += [f"{p.count:>10} {p.product or 'pieces'} of {p.each_g:.1f} g" for p in gives.pieces]
    found.append(
        f"{gives.scrap_g:.0f} g of scrap, {gives.loss_g:.0f} g lost, {gives.kept_g:.0f} g kept"
    )
    found.append(
        f"{make.hands_min:.0f} min of hands, {make.elapsed_min:.0f} min from first to last"
    )
    return "\n".join([*found, *make.trouble])


def trays_words(make: Make) -> str:
    """Say trays and loads in plain words."""
    found = [make.name]
    found += [
        f"{t.trays:>6} trays of {t.product or 'pieces'}, {t.a_tray} on a full one"
        for t in make.trays
    ]
    found += [
        f"load {i}: {each.oven}, {each.many} trays, {each.minutes:g} min"
        for i, each in enumerate(make.loads, 1)
    ]
    return "\n".join(found)
