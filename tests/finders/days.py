"""Solve made-up days of one to six pastes; a checker that shares no code tells what does not hold.

``PYTHONPATH=src:tests python -m finders.days [FROM] [TO]``
"""

import json
import random
import sys
from collections import Counter
from typing import Any

import msgspec

from aplomb.verbs.day import DayCase, day
from core.day.checker import wrong_with

Case = dict[str, Any]


def a_day(seed: int) -> Case:
    """Make a day up: with people or hands, benches and mixers, loads, stands, links, sides."""
    pick = random.Random(seed)
    pastes = [_paste(pick, f"p{i}") for i in range(pick.choice([1, 1, 2, 2, 3, 4, 6]))]
    case: Case = {"pastes": pastes, "fridge_spaces": pick.choice([None, 3, 8, 20])}
    hours = [{"from_min": 300, "to_min": 900}, {"from_min": 1740, "to_min": 2400}]
    if pick.random() < 0.4:
        case["people"] = [
            {"name": name, "shifts": hours if pick.random() < 0.6 else hours[:1]}
            for name in "MR"[: pick.choice([1, 2])]
        ]
        case["people"][0]["shifts"] = hours
    else:
        case["baker"], case["bakers"] = hours, pick.choice([1, 1, 2])
    for name in ("benches", "mixers"):
        if pick.random() < 0.5:
            case[name] = pick.choice([1, 2])
    if pick.random() < 0.3:
        case["not_before_min"] = pick.choice([330, 400, 600])
    if pick.random() < 0.4:
        case["loads"] = [
            {
                "name": f"l{i}",
                "minutes": pick.choice([15, 25]),
                "pastes": [
                    {"paste": p["name"], "after": "cut", "rest_min": 10}
                    for p in pick.sample(pastes, pick.randint(1, len(pastes)))
                ],
            }
            for i in range(pick.randint(1, 3))
        ]
    return case


def _paste(pick: random.Random, name: str) -> Case:
    turns = pick.randint(1, 4)
    steps: list[Case] = [
        {"name": "weigh", "minutes": pick.randint(5, 20), "needs": ["baker"], "rest_max": 120},
        {
            "name": "mix",
            "minutes": pick.randint(8, 15),
            "needs": ["baker", "mixer"],
            "rest_min": pick.choice([0, 20, 30]),
            "rest_max": 60,
            "stand_min": pick.choice([0, 15]),
            "fridge_spaces": 1,
        },
    ]
    steps += [
        {
            "name": f"turn {turn + 1}",
            "minutes": pick.randint(4, 12),
            "needs": ["baker", "bench", *(["sheeter"] if pick.random() < 0.3 else [])],
            "rest_min": pick.choice([0, 20, 40]),
            "rest_max": pick.choice([40, 60, 120]),
            "stand_min": pick.choice([0, 15]),
            "stand_most": 1100,
            "fridge_spaces": pick.choice([0, 1, 2]),
        }
        for turn in range(turns)
    ]
    steps.append({"name": "sheet", "minutes": 8, "needs": ["baker", "bench"], "no_wait": True})
    steps.append({"name": "cut", "minutes": 12, "needs": ["baker"], "rest_max": 300})
    steps.append({"name": "pack", "minutes": 5, "needs": ["baker"]})
    made: Case = {"name": name, "steps": steps, "ready_by_min": pick.choice([900, 2000, 2400])}
    if pick.random() < 0.6:
        made["side"] = {
            "name": "press", "minutes": 8, "needs": ["baker"], "before": "turn 1",
            "after": "weigh", "rest_min": 15, "rest_max": 200, "fridge_spaces": 1,
        }  # fmt: skip
    if turns > 2 and pick.random() < 0.3:
        made["links"] = [{"first": "turn 1", "then": f"turn {turns}", "rest_min": 60}]
    return made


def told_of(seed: int, work: float | None = None) -> tuple[list[str], str]:
    """Give what is wrong with the answer to one made-up day, and how it ended."""
    case = a_day(seed)
    answer = json.loads(
        msgspec.json.encode(day(msgspec.json.decode(json.dumps(case), type=DayCase), work))
    )
    if not answer["possible"]:
        return ([] if answer["because"] else ["no word of why"]), "not possible"
    return wrong_with(case, answer), "proven" if answer["proven"] else "found"


def find(first: int, last: int) -> tuple[dict[int, list[str]], Counter[str]]:
    """Give the seeds whose timetable does not hold, and how the days ended."""
    wrong: dict[int, list[str]] = {}
    ends: Counter[str] = Counter()
    for seed in range(first, last):
        told, end = told_of(seed)
        ends[end] += 1
        if told:
            wrong[seed] = told
    return wrong, ends


if __name__ == "__main__":
    first, last = (int(a) for a in (*sys.argv[1:], *("0", "300")[len(sys.argv) - 1 :]))
    wrong, ends = find(first, last)
    for seed, told in wrong.items():
        print(seed, told[:4])
    print(f"{len(wrong)} of {last - first} do not hold; {dict(ends)}")
    sys.exit(bool(wrong))
