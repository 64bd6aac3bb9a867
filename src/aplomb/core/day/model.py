"""A day as a constraint model (CP-SAT), whole or with one of its limits let out."""

from collections.abc import Callable
from itertools import pairwise
from typing import Any, Literal

from msgspec import Struct

from aplomb.core.day.problem import DayProblem, DayStep, Key, SideStep, Started, taken

Expression = Any
"""A variable of the solver, a sum of some, or a number: its own types of them overlap."""
Letting = Literal[
    "",
    "ready_later",
    "baker_earlier",
    "baker_later",
    "fridge_spaces",
    "freezer_spaces",
    "second_baker",
    "ovens",
    "sheeters",
]
MOST_LATER = 7 * 1440
"""A ready time or a shift is moved by so much at the most [min]."""
MORE_SPACES = 200


NONE_THERE: dict[str, str] = {
    "baker": "a step needs a baker, and there is none",
    "sheeter": "a step needs a sheeter, and there is none",
    "oven": "a step needs an oven, and there is none",
}


class Relaxed(Struct, frozen=True):
    """One limit that is let out, by as little as will do.

    Attributes
    ----------
    what : Letting
        '' for none.
    paste : str
        Whose ready time; empty for all at once.
    shift : int
        Which shift of the baker.
    """

    what: Letting = ""
    paste: str = ""
    shift: int = 0


class Built:
    """A model with the variables that a plan is read from."""

    def __init__(self, problem: DayProblem, relaxed: Relaxed, *, soft: bool) -> None:
        from ortools.sat.python import cp_model  # slow to import, and only the solver wants it

        self.problem, self.relaxed, self.soft = problem, relaxed, soft
        self.model = cp_model.CpModel()
        self.started = {(e.paste, e.step): e.start_min for e in problem.so_far}
        self.held = {(e.paste, e.step): e.start_min for e in problem.held}
        self.now = problem.now_min or 0
        self.horizon = _horizon(problem)
        self.steps = problem.steps
        self.starts: dict[Key, cp_model.IntVar] = {}
        self.breaks: list[Expression] = []
        self.let: cp_model.IntVar | None = None
        self.impossible = ""
        self._let_out()
        self._begin()
        if not self.impossible:
            self._rest()
            self._share()
            self._order()
            self._ready()

    def took(self, key: Key) -> int:
        """How long a step takes [min]."""
        return taken(self.steps[key], key[0], self.problem)

    def _let_out(self) -> None:
        most = {
            "ready_later": MOST_LATER,
            "baker_earlier": MOST_LATER,
            "baker_later": MOST_LATER,
            "fridge_spaces": MORE_SPACES,
            "freezer_spaces": MORE_SPACES,
            "second_baker": 1,
            "ovens": 1,
            "sheeters": 1,
        }
        if self.relaxed.what:
            self.let = self.model.new_int_var(0, most[self.relaxed.what], "let")

    def _hours(self) -> list[tuple[int, int]]:
        """Shifts, the last with what it may run over."""
        shifts = [(s.from_min, s.to_min) for s in self.problem.baker]
        last = max((to for _, to in shifts), default=0)
        return [
            (begin, to + (self.problem.overrun_min if to == last else 0)) for begin, to in shifts
        ]

    def _begin(self) -> None:
        from ortools.sat.python import cp_model

        hours = self._hours()
        moved = self.relaxed.what in ("baker_earlier", "baker_later")
        for key, step in self.steps.items():
            name = f"{key[0]}/{key[1]}"
            fixed = self.started.get(key)
            if fixed is not None:
                self.starts[key] = self.model.new_constant(fixed)
                continue
            took = self.took(key)
            if "baker" in step.needs and not moved:
                spans = [
                    (max(begin, self.now), to - took)
                    for begin, to in hours
                    if to - took >= max(begin, self.now)
                ]
                if not spans:
                    self.impossible = self.impossible or self._no_hours(key, took)
                    return
                domain = cp_model.Domain.from_intervals([list(span) for span in spans])
                start = self.model.new_int_var_from_domain(domain, name)
            else:
                start = self.model.new_int_var(self.now, self.horizon, name)
                if "baker" in step.needs:
                    self._in_moved_hours(start, took, hours)
            self.starts[key] = start
            if key in self.held:
                self.model.add(start == self.held[key])

    def _no_hours(self, key: Key, took: int) -> str:
        if not self.problem.baker:
            return f"the baker has no working hours, and “{key[1]}” needs hands"
        longest = max(to - begin for begin, to in self._hours())
        if took > longest:
            return (
                f"“{key[1]}” of {key[0]} needs hands for {took} min, and the longest "
                f"shift is {longest} min"
            )
        return f"no shift is left for “{key[1]}” of {key[0]} ({took} min)"

    def _in_moved_hours(self, start: Expression, took: int, hours: list[tuple[int, int]]) -> None:
        """A step lies in one of the shifts, of which one begins sooner or ends later."""
        assert self.let is not None
        chosen = []
        for i, (begin, to) in enumerate(hours):
            here = self.model.new_bool_var("")
            sooner = self.let if (self.relaxed.what, i) == ("baker_earlier", self._shift) else 0
            later = self.let if (self.relaxed.what, i) == ("baker_later", self._shift) else 0
            self.model.add(start + sooner >= begin).only_enforce_if(here)
            self.model.add(start + took <= to + later).only_enforce_if(here)
            chosen.append(here)
        self.model.add_exactly_one(chosen)

    @property
    def _shift(self) -> int:
        return self.relaxed.shift

    def _gaps(self) -> list[tuple[Key, Key]]:
        found: list[tuple[Key, Key]] = []
        for paste in self.problem.pastes:
            found += [
                ((paste.name, a.name), (paste.name, b.name)) for a, b in pairwise(paste.steps)
            ]
            found += [((paste.name, s.name), (paste.name, s.before)) for s in paste.sides]
        return found

    def _rest(self) -> None:
        model = self.model
        uses: dict[str, list[tuple[Expression, int]]] = {"fridge": [], "freezer": []}
        standing = {"fridge": 0, "freezer": 0}
        for before, after in self._gaps():
            step = self.steps[before]
            end = self.starts[before] + self.took(before)
            start = self.starts[after]
            past = after in self.started
            if not past:
                self._hold(step, end, start)
            if not step.fridge_spaces or past:
                continue
            ended = self.started.get(before)
            begin: Expression = end
            if ended is not None:
                begin = max(ended + self.took(before), self.now)
                standing[step.held_in] += step.fridge_spaces if begin == self.now else 0
            size = model.new_int_var(0, self.horizon, "")
            held = model.new_interval_var(begin, size, start, "")
            uses[step.held_in].append((held, step.fridge_spaces))
        spaces = {"fridge": self.problem.fridge_spaces, "freezer": self.problem.freezer_spaces}
        for where, there in spaces.items():
            if not uses[where] or there is None:
                continue
            most: Expression = max(there, standing[where])
            if self.relaxed.what == f"{where}_spaces":
                assert self.let is not None
                most = most + self.let
            model.add_cumulative([u for u, _ in uses[where]], [n for _, n in uses[where]], most)

    def _hold(self, step: "DayStep | SideStep", end: Expression, start: Expression) -> None:
        model = self.model
        if not self.soft:
            model.add(start >= end + step.rest_min)
            if step.rest_max is not None:
                model.add(start <= end + step.rest_max)
            return
        less = model.new_int_var(0, step.rest_min, "")
        model.add(start - end + less >= step.rest_min)
        model.add(start >= end)
        self.breaks.append(3 * less)
        if step.rest_max is not None:
            more = model.new_int_var(0, self.horizon, "")
            model.add(start - end - more <= step.rest_max)
            self.breaks.append(more)

    def _share(self) -> None:
        """Nothing twice at once: hands, sheeters, ovens."""
        there = {
            "baker": self.problem.bakers,
            "sheeter": self.problem.sheeters,
            "oven": self.problem.ovens,
        }
        letting = {"second_baker": "baker", "ovens": "oven", "sheeters": "sheeter"}
        let = letting.get(self.relaxed.what)
        for need, most in there.items():
            uses: list[Expression] = []
            demands: list[int] = []
            begun: list[tuple[int, int]] = []
            for key, step in self.steps.items():
                took = self.took(key)
                if need not in step.needs or took <= 0:
                    continue
                if key in self.started:
                    begun.append((max(self.started[key], self.now), self.started[key] + took))
                    continue
                uses.append(self.model.new_fixed_size_interval_var(self.starts[key], took, ""))
                demands.append(1)
            if not uses:
                continue
            if most < 1 and let != need:
                self.impossible = self.impossible or NONE_THERE[need]
                return
            for start, end, many in busy(begun, most):
                uses.append(self.model.new_fixed_size_interval_var(start, end - start, ""))
                demands.append(many)
            if let == need:
                assert self.let is not None
                self.model.add_cumulative(uses, demands, most + self.let)
            elif most == 1:
                self.model.add_no_overlap(uses)
            else:
                self.model.add_cumulative(uses, demands, most)

    def _order(self) -> None:
        """One paste has left the bench before another comes to it."""
        begun = {paste for paste, _ in self.started}
        for first, last, second in self.problem.after:
            if second in begun:
                continue
            left = self.starts[first, last] + self.took((first, last))
            for key, step in self.steps.items():
                if key[0] == second and "baker" in step.needs:
                    self.model.add(self.starts[key] >= left)

    def _ready(self) -> None:
        self.lates: list[Expression] = []
        self.elapsed: list[Expression] = []
        self.ends: list[Expression] = []
        for paste in self.problem.pastes:
            last = (paste.name, paste.steps[-1].name)
            end = self.starts[last] + self.took(last)
            self.ends.append(end)
            self.elapsed.append(end - self.starts[paste.name, paste.steps[0].name])
            if paste.ready_not_before_min is not None and last not in self.started:
                self.model.add(end >= paste.ready_not_before_min)
            if paste.ready_by_min is None:
                continue
            if self.problem.goal == "least_late":
                late = self.model.new_int_var(0, self.horizon, "")
                self.model.add(late >= end - paste.ready_by_min)
                self.lates.append(late)
            elif self.relaxed.what == "ready_later" and self.relaxed.paste in ("", paste.name):
                assert self.let is not None
                self.model.add(end <= paste.ready_by_min + self.let)
            else:
                self.model.add(end <= paste.ready_by_min)

    @property
    def aim(self) -> Expression:
        """What the goal minimises."""
        return sum(self.lates) if self.problem.goal == "least_late" else sum(self.elapsed)

    def plan_of(self, value: Callable[[Expression], Any]) -> tuple[Started, ...]:
        """Read the steps off a solution, in the order of time."""
        found = [Started(key[0], key[1], int(value(start))) for key, start in self.starts.items()]
        return tuple(sorted(found, key=lambda each: (each.start_min, each.paste)))


def busy(begun: list[tuple[int, int]], most: int) -> list[tuple[int, int, int]]:
    """What is taken up by steps that have begun, never more than there is.

    Parameters
    ----------
    begun : list of (from, to)
        [min].

    Returns
    -------
    list of (from, to, how many)

    Examples
    --------
    >>> busy([(0, 10), (5, 20)], 1)
    [(0, 5, 1), (5, 10, 1), (10, 20, 1)]
    """
    edges = sorted({edge for span in begun for edge in span})
    found = []
    for a, b in pairwise(edges):
        many = sum(start <= a and b <= end for start, end in begun)
        if many and b > a:
            found.append((a, b, min(many, max(most, 1))))
    return found


def _horizon(problem: DayProblem) -> int:
    last = max((shift.to_min for shift in problem.baker), default=0) + problem.overrun_min
    ready = [n for p in problem.pastes for n in (p.ready_by_min, p.ready_not_before_min) if n]
    longest = 0
    for paste in problem.pastes:
        steps = paste.all_steps
        longest = max(
            longest, sum(taken(s, paste.name, problem) + max(0, s.rest_min) for s in steps)
        )
    work = sum(taken(s, p.name, problem) for p in problem.pastes for s in p.steps if s.needs)
    return max(last, *ready, problem.now_min or 0, 0) + longest + work + 1440
