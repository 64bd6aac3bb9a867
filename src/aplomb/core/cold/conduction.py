"""Heat through a body from place to place: a slab, or a box that gives off heat on all its sides.

The state is the enthalpy of each cell, so that melting fat and freezing water take exactly the heat
they take. Time goes on in steps of an implicit method of the second order whose error is kept
small, whatever the material does.
"""

import math

import numpy as np

from aplomb.core.base.errors import AplombError
from aplomb.core.cold.course import Air, Body, Course, Phase, Slab
from aplomb.core.cold.material import Floats, curves
from aplomb.core.cold.pile import BOX_NODES, SIDE_NODES, SLAB_NODES, BandedLines, Pile
from aplomb.core.cold.slab import GAMMA, OneColumn

TOLERANCE_K = 0.09
"""Change that one step may miss at the first order [K]; at the second it misses far less."""
FINE_K = 0.01
"""The same where figures are given out, not drawn [K]."""
ROUGH_K, ROUGH_NODES, ROUGH_SIDE_NODES = 0.3, 13, 7
"""For a box of which only a time is asked: within 0.5 % of the fine one's, in a tenth of the work
[K, -, -]."""
FIRST_STEP_S, LONGEST_STEP_S = 0.05, 14_400.0
MOST_STEPS = 20_000
TOO_SLOW = "the cooling of this block could not be calculated; check the figures of its ingredients"


class _Step:
    """One state of a pile: what flows, and the ways by which it can go on."""

    def __init__(self, pile: Pile, rows: Floats) -> None:
        self.pile = pile
        self.temp, self.slope, carried = pile.read(rows)
        self.links = pile.down(carried)
        self.side_links = [pile.across(carried, axis + 1) for axis in range(len(pile.sides))]
        flow = self.links * (self.temp[:-1] - self.temp[1:])
        gain = pile.air * (pile.air_c - self.temp)
        gain[:-1] -= flow
        gain[1:] += flow
        self.rate = gain / pile.width
        self.heat_in = self._into_block(self.temp, 1.0)
        for axis, links in enumerate(self.side_links):
            rate, heat = self._sideways(axis, links, self.temp, pile.side.temp_c)
            self.rate[pile.first : pile.last] += rate
            self.heat_in += heat

    def _into_block(self, temp: Floats, here: float) -> Floats:
        """Heat through the upper and the lower face into the block [W/m², or W in a box].

        `here` 0 leaves the air's own temperature out: what a small change of `temp` adds.
        """
        pile = self.pile
        first, last = pile.first, pile.last
        top = (
            self.links[first - 1] * (temp[first - 1] - temp[first])
            if first
            else pile.air[0] * (here * pile.air_c[0] - temp[0])
        )
        bottom = (
            self.links[last - 1] * (temp[last] - temp[last - 1])
            if last < len(temp)
            else pile.air[-1] * (here * pile.air_c[-1] - temp[-1])
        )
        return np.array([(top * pile.area).sum(), (bottom * pile.area).sum(), 0.0])

    def _sideways(
        self, axis: int, links: Floats, temp: Floats, air_c: float
    ) -> tuple[Floats, Floats]:
        pile = self.pile
        cube = temp[pile.first : pile.last].reshape(pile.shape)
        cube = np.moveaxis(cube, axis + 1, 0)
        flow = links * (cube[:-1] - cube[1:])
        gain = np.zeros_like(cube)
        gain[:-1] -= flow
        gain[1:] += flow
        from_air = pile.side.w_m2_k * (air_c - cube[-1])
        gain[-1] += from_air
        gain /= pile.sides[axis].width.reshape(-1, 1, 1)
        other = pile.sides[1 - axis].width
        heat = (from_air * pile.depth.width[:, None] * other[None, :]).sum()
        return np.moveaxis(gain, 0, axis + 1).reshape(-1, pile.columns), np.array([0, 0, heat])

    def ready(self, reach: float) -> None:
        """Make the lines ready for steps of this reach: γ times the step of time [s]."""
        pile = self.pile
        self.reach = reach
        out = np.broadcast_to(pile.air, self.temp.shape).copy()
        out[:-1] += self.links
        out[1:] += self.links
        self.lines = [_bands(self.links, out, self.slope, pile.width, reach)]
        for axis, links in enumerate(self.side_links):
            slope = self.slope[pile.first : pile.last].reshape(pile.shape)
            slope = np.moveaxis(slope, axis + 1, 0)
            out = np.zeros_like(slope)
            out[:-1] += links
            out[1:] += links
            out[-1] += pile.side.w_m2_k
            flat = (len(slope), -1)
            width = pile.sides[axis].width[:, None]
            self.lines.append(
                _bands(
                    links.reshape(len(slope) - 1, -1),
                    out.reshape(flat),
                    slope.reshape(flat),
                    width,
                    reach,
                )
            )

    def solve(self, right: Floats) -> tuple[Floats, Floats]:
        """Solve direction by direction; and the heat that went into the block on the way."""
        pile = self.pile
        found = self.lines[0].solve(right)
        heat = self._into_block(self.slope * found, 0.0)
        for axis, links in enumerate(self.side_links):
            block = found[pile.first : pile.last].reshape(pile.shape)
            turned = np.moveaxis(block, axis + 1, 0)
            solved = self.lines[axis + 1].solve(turned.reshape(len(turned), -1))
            back = np.moveaxis(solved.reshape(turned.shape), 0, axis + 1)
            found = found.copy()
            found[pile.first : pile.last] = back.reshape(-1, pile.columns)
            heat = heat + self._sideways(axis, links, self.slope * found, 0.0)[1]
        return found, self.reach * heat


def _bands(links: Floats, out: Floats, slope: Floats, width: Floats, reach: float) -> BandedLines:
    scale = reach / width
    below, above = np.zeros_like(out), np.zeros_like(out)
    below[1:] = -scale[1:] * links * slope[:-1]
    above[:-1] = -scale[:-1] * links * slope[1:]
    return BandedLines(below, 1 + scale * out * slope, above)


class _Log:
    """What is kept of every step."""

    def __init__(self) -> None:
        self.seconds: list[float] = []
        self.fields: list[Floats] = []
        self.heat = np.zeros(3)
        self.exchanged = 0.0

    def keep(self, seconds: float, temp: Floats) -> None:
        if self.seconds and seconds <= self.seconds[-1]:
            return
        self.seconds.append(seconds)
        self.fields.append(temp)


def _march(
    pile: Pile, rows: Floats, from_s: float, for_s: float, log: _Log, tolerance_k: float
) -> Floats:
    """Go on through one phase; gives the rows at its end."""
    done, reach = 0.0, min(FIRST_STEP_S, for_s)
    state = _Step(pile, rows)
    block = slice(pile.first, pile.last)
    log.keep(from_s, state.temp[block])
    for _ in range(MOST_STEPS):
        if done >= for_s * (1 - 1e-12):
            return rows
        step = min(reach, for_s - done)
        if for_s - done < 1.5 * step:
            step = for_s - done if for_s - done <= step else (for_s - done) / 2
        state.ready(GAMMA * step)
        first, heat = state.solve(state.rate)
        heat = heat + state.heat_in
        ahead = _Step(pile, rows + step * first)
        second, more = state.solve(ahead.rate - 2 * first)
        change = 0.5 * step * (first + second)
        wrong = float(np.max(np.abs(change * state.slope)))
        if wrong > 1.1 * tolerance_k and step > 1e-4:
            reach = step * max(0.2, 0.9 * math.sqrt(tolerance_k / wrong))
            continue
        rows = rows + step * first + change
        # The heat of the two stages, as the method adds them up.
        taken = step * (0.5 * heat + 0.5 * (ahead.heat_in + more))
        log.heat += taken
        log.exchanged += float(np.abs(taken).sum())
        done += step
        state = _Step(pile, rows)
        log.keep(from_s + done, state.temp[block])
        grown = 0.9 * math.sqrt(tolerance_k / max(wrong, 1e-9))
        reach = min(LONGEST_STEP_S, step * min(3.0, max(0.3, grown)))
    raise AplombError(TOO_SLOW)


def course(
    body: Body,
    start_c: float,
    phases: list[Phase],
    nodes: int = 0,
    tolerance_k: float = TOLERANCE_K,
    side_nodes: int = SIDE_NODES,
) -> Course:
    """Follow a body through places.

    Parameters
    ----------
    start_c : float
        Its temperature throughout at the start [°C].
    phases : list of Phase
        At least one.
    nodes : int
        Points across its thickness, at least 3; 0 for as many as are needed [-].
    side_nodes : int
        From the middle of a box to its side, at least 3 [-].
    tolerance_k : float
        Change that one step may miss at the first order [K].

    Raises
    ------
    AplombError
        When a temperature is outside the range where the material is known.

    Notes
    -----
    ∂H/∂t = ∇·(k(T)·∇T) by finite volumes, faces by Newton's law or in contact with a bench that is
    worked out with the block. Steps of time by the two-stage Rosenbrock method of the second order
    with γ = 1 - 1/√2, in a box with the directions factorised one after the other (Verwer, Spee,
    Blom & Hundsdorfer 1999, *A second-order Rosenbrock method applied to photochemical dispersion
    problems*, SIAM J. Sci. Comput. 20).
    """
    if not phases:
        raise AplombError("phases: give at least one")
    nodes = nodes or (BOX_NODES if body.is_box else SLAB_NODES)
    touched = [start_c, *(temp for phase in phases for temp in _temps(phase))]
    known = curves(body.material, start_c, min(touched), max(touched))
    log = _Log()
    block = np.full((nodes, side_nodes**2 if body.is_box else 1), float(known.enthalpy_at(start_c)))
    begun, seconds = block.copy(), 0.0
    read = None
    for phase in phases:
        for_s = 60 * phase.minutes
        if not body.is_box and isinstance(phase.above, Air) and isinstance(phase.below, Air):
            read = read or OneColumn(known, body.thickness_mm / 1000, nodes)
            block = _quick(read, phase.above, phase.below, block, for_s, seconds, log, tolerance_k)
        else:
            pile = Pile(body, known, phase, nodes, side_nodes)
            rows = _march(pile, pile.begin(block), seconds, for_s, log, tolerance_k)
            block = rows[pile.first : pile.last].copy()
        seconds += for_s
    log.fields[0] = np.full_like(log.fields[0], start_c)  # as it was said, not as it was read back
    return _course(Pile(body, known, phases[-1], nodes, side_nodes), log, block - begun)


def _quick(
    column: OneColumn,
    above: Air,
    below: Air,
    block: Floats,
    for_s: float,
    from_s: float,
    log: _Log,
    tolerance_k: float,
) -> Floats:
    went = column.march(
        block[:, 0],
        for_s,
        (above.temp_c, above.w_m2_k),
        (below.temp_c, below.w_m2_k),
        tolerance_k,
        FIRST_STEP_S,
        LONGEST_STEP_S,
        MOST_STEPS,
    )
    if went is None:
        raise AplombError(TOO_SLOW)
    for seconds, temp in zip(went.seconds, went.temps, strict=True):
        log.keep(from_s + seconds, temp[:, None])
    log.heat[0] += went.taken
    log.exchanged += went.exchanged
    return went.heat[:, None]


def _temps(phase: Phase) -> list[float]:
    found = [
        face.temp_c if isinstance(face, Air) else face.start_c
        for face in (phase.above, phase.below)
    ]
    found += [
        face.far.temp_c
        for face in (phase.above, phase.below)
        if isinstance(face, Slab) and face.far is not None
    ]
    return [*found, *([phase.sides.temp_c] if phase.sides else [])]


def _course(pile: Pile, log: _Log, stored: Floats) -> Course:
    fields = np.stack(log.fields)
    weights = np.outer(pile.depth.width, pile.area)
    middle = fields[:, :, 0]
    nodes = middle.shape[1]
    core = middle[:, nodes // 2]
    if nodes % 2 == 0:
        core = 0.5 * (core + middle[:, nodes // 2 - 1])
    apart = abs(float(log.heat.sum()) - float((stored * weights).sum()))
    return Course(
        minutes=np.array(log.seconds) / 60,
        core=core,
        mean=np.tensordot(fields, weights, 2) / weights.sum(),
        top=middle[:, 0],
        bottom=middle[:, -1],
        warmest=fields.max(axis=(1, 2)),
        coldest=fields.min(axis=(1, 2)),
        depth_mm=pile.depth.at * 1000,
        field=middle,
        energy_error=apart / log.exchanged if log.exchanged > 0 else 0.0,
    )
