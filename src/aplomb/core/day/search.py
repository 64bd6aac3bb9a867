"""One search of a day's model: with its work, its words on the way, and what can stop it."""

from collections.abc import Callable
from typing import Literal

from msgspec import Struct

from aplomb.core.day.model import Built, Expression
from aplomb.core.day.plan import (
    starts_of,
)
from aplomb.core.day.problem import Started

WALL_S = 120.0
"""A net below the measure of work: on a machine so slow that the measure says nothing [s]."""


SEED = 7


Ending = Literal["found", "none", "unknown"]


class Stopper:
    """Ends a search from another thread, with the best that there is."""

    def __init__(self) -> None:
        self._stopped = False
        self._end: Callable[[], None] | None = None

    def __call__(self) -> bool:
        """Tell whether it was stopped."""
        return self._stopped

    def watch(self, end: Callable[[], None] | None) -> None:
        """Take what ends the search that begins now; None when it is over."""
        self._end = end

    def stop(self) -> None:
        """End the search, and begin no other."""
        self._stopped = True
        if self._end is not None:
            self._end()


class Run(Struct, frozen=True):
    """What one search gave."""

    ended: Ending
    steps: tuple[Started, ...] = ()
    bound: int = 0
    value: int = 0
    proven: bool = False


def search(
    built: Built,
    aim: Expression,
    work: float,
    hint: tuple[Started, ...] = (),
    on_steps: Callable[[tuple[Started, ...], int], None] | None = None,
    stopped: Stopper | None = None,
    linear: int = 1,
) -> Run:
    """Minimise an aim over a model; no value is read before the status is known."""
    from ortools.sat.python import cp_model

    if built.impossible:
        return Run("none")
    model = built.model
    model.minimize(aim)
    model.clear_hints()  # type: ignore[no-untyped-call]
    for key, start in starts_of(hint).items():
        model.add_hint(built.starts[key], start)
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 1
    solver.parameters.random_seed = SEED
    solver.parameters.max_deterministic_time = work
    solver.parameters.max_time_in_seconds = WALL_S
    solver.parameters.linearization_level = linear

    class Watch(cp_model.CpSolverSolutionCallback):
        def on_solution_callback(self) -> None:
            if on_steps is not None:
                on_steps(built.plan_of(self.value), int(self.best_objective_bound))
            if stopper():
                self.stop_search()

    stopper = stopped or Stopper()
    stopper.watch(solver.stop_search)
    status = solver.solve(model, Watch())
    stopper.watch(None)
    if status not in (cp_model.OPTIMAL, cp_model.FEASIBLE):
        return Run("none" if status == cp_model.INFEASIBLE else "unknown")
    return Run(
        "found",
        built.plan_of(solver.value),
        round(solver.best_objective_bound),
        round(solver.objective_value),
        status == cp_model.OPTIMAL,
    )
