"""The laws that every make obeys, told as the list of those it breaks."""

import math
from collections import defaultdict

from aplomb.core.make.step import Make
from aplomb.core.paste.formula import Formula, Part


def broken(make: Make, formula: Formula, density_g_ml: float) -> list[str]:
    """Give what is wrong with a make, a line each; none when it holds.

    Parameters
    ----------
    formula : Formula
        As it was asked.
    density_g_ml : float
        Of the paste as it is rolled [g/mL].
    """
    return [
        *_entered(make),
        *_balance(make),
        *_order(make),
        *_weighed(make),
        *_oven(make),
        *_sheets(make, density_g_ml),
        *_goal(make, formula),
    ]


def _entered(make: Make) -> list[str]:
    """Over the steps each line enters once and wholly."""
    entered: dict[tuple[str, str, str], float] = defaultdict(float)
    for step in make.steps:
        for n in step.lines:
            entered[n.part.value, n.material, n.product] += n.grams
            if n.grams <= 0:
                yield_ = f"{step.key}: {n.material} enters with {n.grams} g"
                return [yield_]
    wanted: dict[tuple[str, str, str], float] = defaultdict(float)
    for n in make.lines:
        wanted[n.part.value, n.material, n.product] += n.grams
    return [
        f"{key}: {entered[key]:.6f} g enter of {wanted[key]:.6f} g"
        for key in {*entered, *wanted}
        if abs(entered[key] - wanted[key]) > 1e-6 * max(1.0, wanted[key])
    ]


def _balance(make: Make) -> list[str]:
    """Lines and stock weigh what pieces, scrap, loss and what is kept do."""
    g = make.gives
    into = make.lines_g + g.from_stock_g
    out = g.pieces_g + g.scrap_g + g.loss_g + g.kept_g
    told = []
    if abs(into - out) > 1e-6 * max(1.0, into):
        told.append(f"{into:.6f} g go in and {out:.6f} g come out")
    told += [f"{name} is {v}" for name, v in (("scrap", g.scrap_g), ("loss", g.loss_g)) if v < 0]
    return told


def _order(make: Make) -> list[str]:
    """What comes before is earlier, every unit is known, keys are unlike."""
    told, seen, units = [], set(), {u.key for u in make.units}
    for step in make.steps:
        told += [
            f"{step.key} comes after {key}, which does not" for key in step.after if key not in seen
        ]
        told += [
            f"{step.key} is done to {key}, which is no unit" for key in step.on if key not in units
        ]
        if step.key in seen:
            told.append(f"two steps are {step.key}")
        seen.add(step.key)
        if step.rest and not 0 <= step.rest.least_min <= step.rest.most_min:
            told.append(f"{step.key} rests {step.rest.least_min} to {step.rest.most_min}")
    longest: dict[str, float] = {}
    for step in make.steps:
        begin = max((longest[key] for key in step.after if key in longest), default=0.0)
        rest = step.rest.least_min if step.rest else 0.0
        longest[step.key] = begin + step.hands_min + step.alone_min + rest
    chain = max(
        (longest[s.key] - (s.rest.least_min if s.rest else 0.0) for s in make.steps), default=0.0
    )
    if make.elapsed_min < chain - 1e-6:
        told.append(f"{make.elapsed_min} min are less than the longest chain, {chain}")
    if abs(make.hands_min - sum(s.hands_min for s in make.steps)) > 1e-6:
        told.append("hands do not add up")
    return told


def _before(make: Make) -> dict[str, set[str]]:
    """All steps that come before each."""
    found: dict[str, set[str]] = {}
    for step in make.steps:
        found[step.key] = {*step.after, *(k for key in step.after for k in found.get(key, ()))}
    return found


def _weighed(make: Make) -> list[str]:
    """What enters was weighed before, in all what the make says the scale shows."""
    told = []
    before = _before(make)
    weighs = {
        s.key: {(n.part, n.material, n.product) for n in s.weighs} for s in make.steps if s.weighs
    }
    for step in make.steps:
        there = set().union(*(weighs[k] for k in before[step.key] if k in weighs), set())
        told += [
            f"{step.key}: {n.material} enters and was not weighed"
            for n in step.lines
            if (n.part, n.material, n.product) not in there
        ]
    on_scale: dict[tuple[Part, str, str], float] = defaultdict(float)
    for step in make.steps:
        if step.weighs and step.kind != "weigh":
            told.append(f"{step.key} weighs and is no weighing")
        for n in step.weighs:
            on_scale[n.part, n.material, n.product] += n.grams
    said: dict[tuple[Part, str, str], float] = defaultdict(float)
    for n in make.lines:
        said[n.part, n.material, n.product] += n.weigh_g
    told += [
        f"{key}: {on_scale[key]} g on the scale, {said[key]} g said"
        for key in {*on_scale, *said}
        if abs(on_scale[key] - said[key]) > 1e-6
    ]
    return told


def _oven(make: Make) -> list[str]:
    """One in, one bake and one out for each load; every tray is in one."""
    told = []
    for kind in ("load_in", "bake", "load_out"):
        many = sum(step.kind == kind for step in make.steps)
        if many != len(make.loads):
            told.append(f"{many} {kind} for {len(make.loads)} loads")
    trays: dict[str, int] = defaultdict(int)
    for load in make.loads:
        for product, many in load.trays:
            trays[product] += many
    if make.loads:
        told += [
            f"{t.product}: {trays[t.product]} trays are baked of {t.trays}"
            for t in make.trays
            if trays[t.product] != t.trays
        ]
    for t in make.trays:
        given = next((p.count for p in make.gives.pieces if p.product == t.product), 0)
        if t.pieces != given:
            told.append(f"{t.product}: {t.pieces} on trays, {given} made")
    return told


def _sheets(make: Make, density: float) -> list[str]:
    """Thickness, area and density make the mass of every last sheet; the cuts give the pieces."""
    told = []
    grams = {u.key: u.grams for u in make.units}
    cut: dict[str, int] = defaultdict(int)
    for step in make.steps:
        if step.kind != "cut":
            continue
        assert step.sheet is not None
        mass = step.sheet.volume_ml * density
        if abs(mass - grams[step.on[0]]) > 1e-6 * mass:
            told.append(
                f"{step.key}: a sheet of {mass:.4f} g, the unit has {grams[step.on[0]]:.4f}"
            )
        rolled = next(s for s in make.steps if s.kind == "sheet" and s.on[0] == step.on[0])
        assert rolled.roll_to is not None
        if abs(rolled.roll_to.volume_ml - step.sheet.volume_ml) > 1e-6 * step.sheet.volume_ml:
            told.append(f"{step.key}: the sheet is not what was rolled")
        for each in step.gives:
            cut[each.product] += each.count
    for step in make.steps:
        if step.kind == "relax" and step.gives:  # rolled by itself and not cut
            assert step.sheet is not None
            share = math.pi / 4 if step.round else 1.0
            mass = step.sheet.volume_ml * share * density
            if abs(mass - grams[step.on[0]]) > 1e-6 * mass:
                told.append(f"{step.key}: a piece of {mass:.4f} g has {grams[step.on[0]]:.4f}")
            for each in step.gives:
                cut[each.product] += each.count
    made = {p.product: p.count for p in make.gives.pieces}
    told += [
        f"{name}: {many} cut, {made.get(name)} given"
        for name, many in cut.items()
        if many != made.get(name, 0)
    ]
    return told


def _goal(make: Make, formula: Formula) -> list[str]:
    kinds = {s.kind for s in make.steps}
    told = []
    if make.goal.kind == "keep":
        last = make.steps[-1].kind
        if last != "store" or kinds & {"bake", "heat", "cut"}:
            told.append(f"paste to keep ends in {last}, with {kinds & {'bake', 'heat', 'cut'}}")
        if make.gives.kept_g <= 0:
            told.append("nothing is kept")
    if make.goal.kind == "as_written":
        on_pieces = (Part.FINISH,) if make.gives.pieces else ()
        for part in (Part.DOUGH, Part.BLOCK, Part.DUSTING, Part.BETWEEN, *on_pieces):
            for line in formula.lines(part):
                wanted = sum(n.grams for n in formula.lines(part) if n.material == line.material)
                got = sum(
                    n.grams
                    for n in make.lines
                    if n.part is part and n.material == line.material and not n.product
                )
                if abs(got - wanted * make.goal.factor) > 1e-9 * max(1.0, wanted):
                    told.append(
                        f"{line.material}: {got} g as written {wanted} × {make.goal.factor}"
                    )
    return told
