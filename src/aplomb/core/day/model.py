"""A day as a constraint model (CP-SAT), whole or with one of its limits let out."""

from collections.abc import Callable
from itertools import pairwise
from typing import Any, Literal

from msgspec import Struct

from aplomb.core.day.problem import LOADS, DayProblem, Gap, Key, Started, gaps_of, last_loads, taken

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
    "benches",
    "mixers",
    "day_earlier",
]
MOST_LATER = 7 * 1440
"""A ready time or a shift is moved by so much at the most [min]."""
MORE_SPACES = 200


NONE_THERE: dict[str, str] = {
    "baker": "a step needs a baker, and there is none",
    "sheeter": "a step needs a sheeter, and there is none",
    "oven": "a step needs an oven, and there is none",
    "bench": "a step needs a bench, and there is none",
    "mixer": "a step needs a mixer, and there is none",
}
LETS = {
    "second_baker": "baker", "ovens": "oven", "sheeters": "sheeter", "benches": "bench",
    "mixers": "mixer",
}  # fmt: skip
"""What there is one more of when a limit is let out."""


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
        self.now = max(problem.now_min or 0, problem.not_before_min)
        self.horizon = _horizon(problem)
        self.steps = problem.steps
        self.starts: dict[Key, cp_model.IntVar] = {}
        self.breaks: list[Expression] = []
        self.let: cp_model.IntVar | None = None
        self.who: dict[Key, list[cp_model.IntVar]] = {}
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
            **dict.fromkeys(("ovens", "sheeters", "benches", "mixers"), 1),
        }
        if self.relaxed.what:
            self.let = self.model.new_int_var(0, most[self.relaxed.what], "let")

    def _hours(self) -> list[tuple[int, int]]:
        """Shifts, the last with what it may run over."""
        shifts = [(s.from_min, s.to_min) for s in self.problem.shifts]
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
        if self.problem.people:
            self._by_people()

    def _no_hours(self, key: Key, took: int) -> str:
        if not self.problem.shifts:
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

    def _by_people(self) -> None:
        """Each step for hands is one person's, whole within one of their shifts."""
        from ortools.sat.python import cp_model

        people = [(p.name, [(s.from_min, s.to_min) for s in p.shifts]) for p in self.problem.people]
        if self.relaxed.what == "second_baker":
            people.append(("", self._hours()))
        names = [name for name, _ in people]
        given = {(e.paste, e.step): e.who for e in (*self.problem.held, *self.problem.so_far)}
        last = max((to for _, to in self._hours()), default=0)
        intervals: list[list[Any]] = [[] for _ in people]
        for key, step in self.steps.items():
            took, begun = self.took(key), self.started.get(key)
            if "baker" not in step.needs or (begun is not None and begun + took <= self.now):
                continue
            mine = []
            for i, (_, shifts) in enumerate(people):
                here = self.model.new_bool_var("")
                mine.append(here)
                if begun is None:
                    spans = [
                        [max(a, self.now), over - took]
                        for a, b in shifts
                        if (over := b + (self.problem.overrun_min if b >= last else 0)) - took
                        >= max(a, self.now)
                    ]
                    domain = cp_model.Domain.from_intervals(spans)
                    if not spans:
                        self.model.add(here == 0)
                        continue
                    self.model.add_linear_expression_in_domain(
                        self.starts[key], domain
                    ).only_enforce_if(here)
                intervals[i].append(
                    self.model.new_optional_fixed_size_interval_var(
                        self.starts[key], took, here, ""
                    )
                )
            self.model.add_exactly_one(mine)
            self.who[key] = mine
            wanted = given.get(key, "")
            if wanted and wanted in names:
                self.model.add(mine[names.index(wanted)] == 1)
        for each in intervals:
            self.model.add_no_overlap(each)
        if self.relaxed.what == "second_baker":
            assert self.let is not None
            self.model.add(self.let == 1)

    def _rest(self) -> None:
        model = self.model
        uses: dict[str, list[tuple[Expression, int]]] = {"fridge": [], "freezer": []}
        standing = {"fridge": 0, "freezer": 0}
        for gap in gaps_of(self.problem):
            end = self.starts[gap.first] + self.took(gap.first)
            start = self.starts[gap.then]
            past = gap.then in self.started
            if not past:
                self._hold(gap, end, start)
            if not gap.spaces or past:
                continue
            ended = self.started.get(gap.first)
            begin: Expression = end
            if ended is not None:
                begin = max(ended + self.took(gap.first), self.now)
                standing[gap.held_in] += gap.spaces if begin == self.now else 0
            size = model.new_int_var(0, self.horizon, "")
            held = model.new_interval_var(begin, size, start, "")
            uses[gap.held_in].append((held, gap.spaces))
        spaces = {"fridge": self.problem.fridge_spaces, "freezer": self.problem.freezer_spaces}
        for where, there in spaces.items():
            if not uses[where] or there is None:
                continue
            most: Expression = max(there, standing[where])
            if self.relaxed.what == f"{where}_spaces":
                assert self.let is not None
                most = most + self.let
            model.add_cumulative([u for u, _ in uses[where]], [n for _, n in uses[where]], most)

    def _hold(self, gap: Gap, end: Expression, start: Expression) -> None:
        from ortools.sat.python import cp_model

        model = self.model
        if not self.soft:
            model.add(start >= end + gap.least)
            if gap.most is not None and gap.stand_min:
                most = self.horizon if gap.stand_most is None else gap.stand_most
                spans = [[gap.least, gap.most], [gap.most + gap.stand_min, most]]
                either = cp_model.Domain.from_intervals([s for s in spans if s[0] <= s[1]])
                model.add_linear_expression_in_domain(start - end, either)
            elif gap.most is not None:
                model.add(start <= end + gap.most)
            return
        less = model.new_int_var(0, gap.least, "")
        model.add(start - end + less >= gap.least)
        model.add(start >= end)
        self.breaks.append(3 * less)
        if gap.most is not None:
            more = model.new_int_var(0, self.horizon, "")
            model.add(start - end - more <= gap.most)
            self.breaks.append(more)

    def _share(self) -> None:
        """Nothing twice at once: hands, sheeters, ovens, benches, mixers."""
        let = LETS.get(self.relaxed.what)
        for need in NONE_THERE:
            most = self.problem.there(need)
            if most is None or (need == "baker" and self.problem.people):
                continue
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
        for sooner, later in pairwise(self.problem.loads):
            if (LOADS, later.name) not in self.started:
                later_in = self.starts[LOADS, later.name]
                self.model.add(later_in >= self.starts[LOADS, sooner.name])

    def _ready(self) -> None:
        self.lates: list[Expression] = []
        self.elapsed: list[Expression] = []
        self.ends: list[Expression] = []
        for paste in self.problem.pastes:
            last = (paste.name, paste.steps[-1].name)
            end = self.starts[last] + self.took(last)
            of_loads = [(LOADS, name) for name in last_loads(self.problem, paste.name)]
            if of_loads:
                ends = [end, *(self.starts[key] + self.took(key) for key in of_loads)]
                end = self.model.new_int_var(0, 2 * self.horizon, "")
                self.model.add_max_equality(end, ends)
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
        names = [person.name for person in self.problem.people]

        def by(key: Key) -> str:
            mine = self.who.get(key, ())
            chosen = next((i for i, here in enumerate(mine) if value(here)), len(names))
            return names[chosen] if chosen < len(names) else ""

        found = [
            Started(key[0], key[1], int(value(start)), by(key))
            for key, start in self.starts.items()
        ]
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
    last = max((shift.to_min for shift in problem.shifts), default=0) + problem.overrun_min
    ready = [n for p in problem.pastes for n in (p.ready_by_min, p.ready_not_before_min) if n]
    longest = 0
    for paste in problem.pastes:
        steps = paste.all_steps
        longest = max(
            longest, sum(taken(s, paste.name, problem) + max(0, s.rest_min) for s in steps)
        )
    work = sum(taken(s, p.name, problem) for p in problem.pastes for s in p.steps if s.needs)
    work += sum(load.minutes for load in problem.loads)
    now = max(problem.now_min or 0, problem.not_before_min)
    return max(last, *ready, now, 0) + longest + work + 1440
