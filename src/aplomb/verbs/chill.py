"""The case ``chill``: a body through places."""

import math

from msgspec import Struct

from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import Problems
from aplomb.core.cold.conduction import course
from aplomb.core.cold.course import Air, Body, Course, Face, Phase, Slab, crossing, ready_window
from aplomb.core.cold.material import Constant, Freezing, Material, Melting, Mixture, check_mixture
from aplomb.core.cold.readiness import through_middle

FINEST_K = 0.002
"""Change that one step may miss at the first order where a script asks [K]."""
MOST_PHASES, MOST_ASKED, MOST_MINUTES = 200, 10_000, 90 * 1440.0
MOST_NODES = 1001


class BlockCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``block``: its size [mm]; with both sides, all six faces count."""

    thickness_mm: float
    width_mm: float | None = None
    length_mm: float | None = None


class CompositionCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``composition``: mass fractions [g/g]."""

    water: float = 0.0
    fat: float = 0.0
    protein: float = 0.0
    carbohydrate: float = 0.0
    fibre: float = 0.0
    ash: float = 0.0


class BenchCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``bench``: a body that the block lies on; no heat goes through its far face."""

    thickness_mm: float
    conductivity_w_m_k: float
    density_kg_m3: float
    heat_capacity_kj_kg_k: float
    start_c: float
    contact_w_m2_k: float


class FaceCase(Struct, frozen=True, forbid_unknown_fields=True):
    """A face: air, or a bench."""

    temp_c: float | None = None
    w_m2_k: float | None = None
    bench: BenchCase | None = None


class PhaseCase(Struct, frozen=True, forbid_unknown_fields=True):
    """``phases[]``: so long with these faces."""

    minutes: float
    above: FaceCase
    below: FaceCase
    sides: FaceCase | None = None


class ChillCase(Struct, frozen=True, forbid_unknown_fields=True):
    """A body through places."""

    block: BlockCase
    start_c: float
    phases: tuple[PhaseCase, ...]
    constant: Constant | None = None
    composition: CompositionCase | None = None
    fat: Melting | None = None
    freezing: Freezing | None = None
    nodes: int | None = None
    at_min: tuple[float, ...] = ()
    core_reaches_c: float | None = None
    ready_c: tuple[float, float] | None = None


class AtMinute(Struct, frozen=True):
    """``at[]``: temperatures then [°C]."""

    minutes: float
    core_c: float
    mean_c: float
    top_c: float
    bottom_c: float


class ReadyResult(Struct, frozen=True):
    """``ready``: from when to when [min]."""

    from_min: float
    to_min: float


class ChillResult(Struct, frozen=True):
    """What is given back.

    Attributes
    ----------
    at : tuple of AtMinute
        In the order asked.
    ready : ReadyResult or None
        Over all parts of the body.
    ready_middle : ReadyResult or None
        The same through the middle of a box, its edges left out.
    energy_error : float
        |heat in - heat stored| over the heat exchanged [-].
    """

    at: tuple[AtMinute, ...]
    core_reaches_min: float | None
    ready: ReadyResult | None
    ready_middle: ReadyResult | None
    energy_error: float


def read_body(
    block: BlockCase,
    constant: Constant | None,
    composition: CompositionCase | None,
    fat: Melting | None,
    freezing: Freezing | None,
    wrong: Problems,
) -> Body:
    """Give the body of a case; what is wrong with it goes to the problems.

    Parameters
    ----------
    constant, composition : Constant, CompositionCase or None
        One of the two.
    """
    wrong.number("block.thickness_mm", block.thickness_mm, 0.2, 400, "mm")
    for name in ("width_mm", "length_mm"):
        value = getattr(block, name)
        if value is not None:
            wrong.number(f"block.{name}", value, 1, 5000, "mm")
    if (block.width_mm is None) != (block.length_mm is None):
        lacking = "width_mm" if block.width_mm is None else "length_mm"
        wrong.add(f"block.{lacking}: give both sides, or neither.")
    if (constant is None) == (composition is None):
        wrong.add("constant, composition: give one of the two, not both.")
    if constant is not None:
        wrong.number("constant.density_kg_m3", constant.density_kg_m3, 1, 30_000, "kg/m³")
        wrong.number(
            "constant.conductivity_w_m_k", constant.conductivity_w_m_k, 1e-3, 5000, "W/(m·K)"
        )
        wrong.number(
            "constant.heat_capacity_kj_kg_k", constant.heat_capacity_kj_kg_k, 0.01, 100, "kJ/(kg·K)"
        )
        for name, value in (("fat", fat), ("freezing", freezing)):
            if value is not None:
                wrong.add(
                    f"{name}: works only with a composition; with constant "
                    "properties leave it null."
                )
    if composition is not None:
        for name in composition.__struct_fields__:
            wrong.number(f"composition.{name}", getattr(composition, name), 0, 1, "")
    if fat is not None:
        wrong.number("fat.latent_kj_kg", fat.latent_kj_kg, 0, 1000, "kJ/kg")
        for i, (temp, solid) in enumerate(fat.sfc):
            wrong.number(f"fat.sfc[{i}][0]", temp, -100, 200, "°C")
            wrong.number(f"fat.sfc[{i}][1]", solid, 0, 100, "%")
    if freezing is not None:
        wrong.number("freezing.starts_c", freezing.starts_c, -40, -1e-6, "°C")
        wrong.number("freezing.water_fraction", freezing.water_fraction, 0, 1, "")
    wrong.check()
    material: Material
    if constant is not None:
        material = constant
    else:
        assert composition is not None
        made = Composition(**{n: getattr(composition, n) for n in composition.__struct_fields__})
        material = Mixture(made, fat, freezing)
        check_mixture(material)
    return Body(material, block.thickness_mm, block.width_mm or 0.0, block.length_mm or 0.0)


def _face(face: FaceCase, where: str, wrong: Problems, *, bench: bool = True) -> Face:
    if face.bench is not None:
        if not bench:
            wrong.add(f"{where}.bench: the sides touch air; give temp_c and w_m2_k.")
        if face.temp_c is not None or face.w_m2_k is not None:
            wrong.add(f"{where}: give temp_c and w_m2_k, or bench; not both.")
        b = face.bench
        for name, low, high, unit in (
            ("thickness_mm", 0.05, 5000, "mm"),
            ("conductivity_w_m_k", 1e-3, 5000, "W/(m·K)"),
            ("density_kg_m3", 1, 30_000, "kg/m³"),
            ("heat_capacity_kj_kg_k", 0.01, 100, "kJ/(kg·K)"),
            ("start_c", -80, 300, "°C"),
            ("contact_w_m2_k", 0, 1e6, "W/(m²·K)"),
        ):
            wrong.number(f"{where}.bench.{name}", getattr(b, name), low, high, unit)
        return Slab(
            b.thickness_mm,
            b.conductivity_w_m_k,
            b.density_kg_m3,
            b.heat_capacity_kj_kg_k,
            b.start_c,
            b.contact_w_m2_k,
        )
    for name, low, high, unit in (
        ("temp_c", -80, 300, "°C"),
        ("w_m2_k", 0, 1e6, "W/(m²·K)"),
    ):
        value = getattr(face, name)
        if value is None:
            wrong.add(f"{where}.{name}: is missing; give it, or a bench.")
        else:
            wrong.number(f"{where}.{name}", value, low, high, unit)
    return Air(face.temp_c or 0.0, face.w_m2_k or 0.0)


def _phases(case: ChillCase, body: Body, wrong: Problems) -> list[Phase]:
    if not 1 <= len(case.phases) <= MOST_PHASES:
        wrong.add(f"phases: {len(case.phases)} are given; use 1 to {MOST_PHASES}.")
    found = []
    for i, phase in enumerate(case.phases[:MOST_PHASES]):
        where = f"phases[{i}]"
        wrong.number(f"{where}.minutes", phase.minutes, 1e-3, MOST_MINUTES, "min")
        above = _face(phase.above, f"{where}.above", wrong)
        below = _face(phase.below, f"{where}.below", wrong)
        sides = None
        if phase.sides is not None:
            if not body.is_box:
                wrong.add(f"{where}.sides: give block.width_mm and block.length_mm too.")
            given = _face(phase.sides, f"{where}.sides", wrong, bench=False)
            sides = given if isinstance(given, Air) else None
        elif body.is_box:  # the air that a large face touches touches the sides too
            sides = next((face for face in (above, below) if isinstance(face, Air)), None)
        found.append(Phase(phase.minutes, above, below, sides))
    return found


def chill(case: ChillCase) -> ChillResult:
    """Work the case out.

    Raises
    ------
    AplombError
        Naming every field that cannot be used.
    """
    wrong = Problems()
    body = read_body(case.block, case.constant, case.composition, case.fat, case.freezing, wrong)
    wrong.number("start_c", case.start_c, -80, 300, "°C")
    phases = _phases(case, body, wrong)
    if case.nodes is not None:
        wrong.number("nodes", case.nodes, 3, MOST_NODES, "")
    if len(case.at_min) > MOST_ASKED:
        wrong.add(f"at_min: {len(case.at_min)} times are given; use at most {MOST_ASKED}.")
    end = sum(phase.minutes for phase in phases)
    for i, minutes in enumerate(case.at_min[:MOST_ASKED]):
        if not (math.isfinite(minutes) and 0 <= minutes <= end + 1e-9):
            wrong.add(
                f"at_min[{i}]: {minutes:g} min lies outside the phases; use 0 to {end:g} min."
            )
    if case.core_reaches_c is not None:
        wrong.number("core_reaches_c", case.core_reaches_c, -80, 300, "°C")
    if case.ready_c is not None:
        for i, temp in enumerate(case.ready_c):
            wrong.number(f"ready_c[{i}]", temp, -80, 300, "°C")
        if not wrong.told and case.ready_c[0] >= case.ready_c[1]:
            wrong.add("ready_c: put the lower temperature first.")
    wrong.check()
    fine = FINEST_K if not body.is_box and (case.nodes or 0) <= 101 else 5 * FINEST_K
    found = course(body, case.start_c, phases, case.nodes or 0, fine)
    reaches = None
    if case.core_reaches_c is not None:
        reaches = crossing(found.minutes, found.core, case.core_reaches_c)
    return ChillResult(
        tuple(AtMinute(minutes, *found.at(minutes)) for minutes in case.at_min),
        reaches,
        _ready(found, case.ready_c),
        _ready(through_middle(found), case.ready_c),
        found.energy_error,
    )


def _ready(found: Course, range_c: tuple[float, float] | None) -> ReadyResult | None:
    window = ready_window(found, *range_c) if range_c else None
    return ReadyResult(*window) if window else None


def chill_words(case: ChillCase, found: ChillResult) -> str:
    """Say a case that was worked out in plain words."""
    lines = [
        (
            f"after {each.minutes:g} min: middle {each.core_c:.1f} °C, average "
            f"{each.mean_c:.1f}, top {each.top_c:.1f}, bottom {each.bottom_c:.1f}"
        )
        for each in found.at
    ]
    if case.core_reaches_c is not None:
        when = found.core_reaches_min
        lines.append(
            f"the middle does not reach {case.core_reaches_c:g} °C"
            if when is None
            else f"the middle reaches {case.core_reaches_c:g} °C after {when:.1f} min"
        )
    if case.ready_c is not None:
        low, high = case.ready_c
        lines.append(
            f"at no time is every part at {low:g} to {high:g} °C"
            if found.ready is None
            else f"every part at {low:g} to {high:g} °C from {found.ready.from_min:.1f} to "
            f"{found.ready.to_min:.1f} min"
        )
    lines.append(f"heat in and heat stored differ by {100 * found.energy_error:.2g} %")
    return "\n".join(lines)
