"""A small run: two blocks of one paste, mixed together, turned twice with a rest between."""

from collections.abc import Sequence
from typing import Any

import pytest

from aplomb.core.bench.acts import Act, Press
from aplomb.core.bench.plan import RunPlan, Sheet, Task, Track, check_plan
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.line import Line

FORMULA = Formula(
    "Test paste", dough=(Line("plain-flour", 1000.0), Line("water", 500.0)),
    block=(Line("butter", 800.0),), turn_line="envelope 3 / 4",
)  # fmt: skip


def task(
    track: str, name: str, kind: Any, minutes: float = 5.0, after: Sequence[str] = (), **more: Any
) -> Task:
    return Task(f"{track}/{name}", track, name, name, kind, minutes, after=tuple(after), **more)


def make_plan(**more: Any) -> RunPlan:
    tracks = tuple(
        Track(key, "f1", "Test paste", block, 2, 1150.0)
        for block, key in enumerate(("A", "A1", "A2"))
    )
    sheet = Sheet(600.0, 200.0, 8.0)
    tasks = [
        task("A", "weigh", "weigh"),
        task("A", "mix", "mix", 6.0, ["A/weigh"], rest_min=20.0, rest_max=120.0, place="fridge"),
    ]
    for key in ("A1", "A2"):
        tasks += [
            task(key, "enclose", "enclose", 4.0, ["A/mix"], sheet=sheet, out_min=25.0),
            task(
                key,
                "turn 1",
                "turn",
                5.0,
                [f"{key}/enclose"],
                rest_min=30.0,
                rest_max=90.0,
                place="fridge",
                step=0,
                done=1,
                sheet=sheet,
                out_min=25.0,
            ),
            task(
                key,
                "turn 2",
                "turn",
                5.0,
                [f"{key}/turn 1"],
                rest_min=60.0,
                place="fridge",
                step=2,
                done=3,
                sheet=sheet,
                out_min=25.0,
            ),
        ]
    tasks.append(task("A", "cut", "cut", 10.0, ["A1/turn 2", "A2/turn 2"]))
    tasks.append(task("A", "bake", "bake", 25.0, ["A/cut"], hands=False))
    settings = {"counts_enclosing": False, **more}
    return check_plan(
        RunPlan(
            "Test",
            "2026-06-05T06:00:00+01:00",
            1.0,
            tracks,
            tuple(tasks),
            {"f1": FORMULA},
            {"f1": 3},
            **settings,
        )
    )


class Presser:
    """Presses by hand, by minutes."""

    def __init__(self) -> None:
        self.presses: list[Press] = []

    def __call__(self, minute: float, *acts: Act) -> "Presser":
        for act in acts:
            number = len(self.presses) + 1
            self.presses.append(Press(number, 60.0 * minute, f"wall {minute}", act))
        return self


@pytest.fixture
def plan() -> RunPlan:
    return make_plan()


@pytest.fixture
def press() -> Presser:
    return Presser()
