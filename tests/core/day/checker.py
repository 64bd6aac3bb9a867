"""Whether a timetable holds, told from the case and the answer of ``day`` alone: plain dicts."""

from collections import defaultdict
from itertools import pairwise
from typing import Any

Case = dict[str, Any]


def wrong_with(case: Case, answer: Case) -> list[str]:
    """Give everything that is wrong with the answer to a case that says it is possible."""
    at = {(s["paste"], s["step"]): s for s in answer["steps"]}
    told = _listed(case, answer)
    if told:
        return told
    told += _rests(case, at)
    told += _hands(case, at)
    for thing, most in (
        ("sheeter", case.get("sheeters", 1)),
        ("oven", case.get("ovens", 1)),
        ("bench", case.get("benches")),
        ("mixer", case.get("mixers")),
    ):
        if most is not None:
            told += _at_once(thing, int(most), [(s, at[k]) for k, s in _steps(case)])
    told += _spaces(case, at)
    told += _ready(case, at, answer)
    return told


def _steps(case: Case) -> list[tuple[tuple[str, str], Case]]:
    found = []
    for paste in case["pastes"]:
        sides = [*([paste["side"]] if paste.get("side") else []), *paste.get("sides", [])]
        found += [((paste["name"], s["name"]), s) for s in [*paste["steps"], *sides]]
    for load in case.get("loads", []):
        found.append((("", load["name"]), {"needs": ["oven"], **load}))
    return found


def _listed(case: Case, answer: Case) -> list[str]:
    wanted = sorted(key for key, _ in _steps(case))
    got = sorted((s["paste"], s["step"]) for s in answer["steps"])
    told = [] if wanted == got else [f"{len(got)} steps are listed of {len(wanted)}"]
    minutes = {key: step["minutes"] for key, step in _steps(case)}
    return told + [
        f"{s['step']} does not take its minutes"
        for s in answer["steps"]
        if s["end_min"] - s["start_min"] != minutes.get((s["paste"], s["step"]))
    ]


def _rests(case: Case, at: Case) -> list[str]:
    told = []

    def held(rest: Case, first: tuple[str, str], then: tuple[str, str]) -> None:
        minutes = at[then]["start_min"] - at[first]["end_min"]
        least, most = rest.get("rest_min", 0), rest.get("rest_max")
        if rest.get("no_wait"):
            least = most = 0
        fits = minutes >= least and (most is None or minutes <= most)
        stand, limit = rest.get("stand_min", 0), rest.get("stand_most")
        if most is not None and stand and minutes >= most + stand:
            fits = minutes >= least and (limit is None or minutes <= limit)
        if not fits:
            told.append(f"{minutes} min between {first} and {then}")

    for paste in case["pastes"]:
        name = paste["name"]
        for a, b in pairwise(paste["steps"]):
            held(a, (name, a["name"]), (name, b["name"]))
        sides = [*([paste["side"]] if paste.get("side") else []), *paste.get("sides", [])]
        for side in sides:
            held(side, (name, side["name"]), (name, side["before"]))
            if side.get("after"):
                held({}, (name, side["after"]), (name, side["name"]))
        for link in paste.get("links", []):
            held(link, (name, link["first"]), (name, link["then"]))
    for name, first, then in case.get("no_wait", []):
        held({"rest_max": 0}, (name, first), (name, then))
    for load in case.get("loads", []):
        for of in load["pastes"]:
            held(of, (of["paste"], of["after"]), ("", load["name"]))
            if of.get("before"):
                held({}, ("", load["name"]), (of["paste"], of["before"]))
    for a, b in pairwise(case.get("loads", [])):
        if at["", b["name"]]["start_min"] < at["", a["name"]]["start_min"]:
            told.append(f"load {b['name']} goes in before {a['name']}")
    return told


def _hands(case: Case, at: Case) -> list[str]:
    told, mine = [], defaultdict(list)
    people = {p["name"]: p["shifts"] for p in case.get("people", [])}
    for key, step in _steps(case):
        if "baker" not in step.get("needs", []):
            continue
        placed = at[key]
        who = placed.get("who", "")
        shifts = people.get(who, []) if people else case["baker"]
        begin, end = placed["start_min"], placed["end_min"]
        if not any(s["from_min"] <= begin and end <= s["to_min"] for s in shifts):
            told.append(f"{key} lies outside the hours{f' of {who}' if who else ''}")
        mine[who].append((begin, end))
    for who, spans in mine.items():
        most = 1 if people else int(case.get("bakers", 1))
        told += [
            f"more than {most} hands{f' of {who}' if who else ''} at {minute}"
            for minute, end in spans
            if end > minute and sum(a <= minute < b for a, b in spans) > most
        ]
    return told


def _at_once(thing: str, most: int, steps: list[tuple[Case, Case]]) -> list[str]:
    spans = [(p["start_min"], p["end_min"]) for s, p in steps if thing in s.get("needs", [])]
    return [
        f"more than {most} of {thing} at {minute}"
        for minute, end in spans
        if end > minute and sum(a <= minute < b for a, b in spans) > most
    ]


def _spaces(case: Case, at: Case) -> list[str]:
    most = case.get("fridge_spaces")
    spans = []
    for paste in case["pastes"]:
        name = paste["name"]
        pairs = [(a, a["name"], b["name"]) for a, b in pairwise(paste["steps"])]
        sides = [*([paste["side"]] if paste.get("side") else []), *paste.get("sides", [])]
        pairs += [(s, s["name"], s["before"]) for s in sides]
        pairs += [(link, link["first"], link["then"]) for link in paste.get("links", [])]
        for rest, first, then in pairs:
            many = rest.get("fridge_spaces", 0)
            if many:
                spans.append((at[name, first]["end_min"], at[name, then]["start_min"], many))
    if most is None:
        return []
    return [
        f"more than {most} spaces at {minute}"
        for minute, end, _ in spans
        if end > minute and sum(n for a, b, n in spans if a <= minute < b) > most
    ]


def _ready(case: Case, at: Case, answer: Case) -> list[str]:
    told, elapsed = [], 0
    soonest = case.get("not_before_min", 0)
    told += [f"{key} begins before {soonest}" for key, s in at.items() if s["start_min"] < soonest]
    for paste in case["pastes"]:
        name = paste["name"]
        ends = [at[name, paste["steps"][-1]["name"]]["end_min"]]
        ends += [
            at["", load["name"]]["end_min"]
            for load in case.get("loads", [])
            if any(of["paste"] == name and not of.get("before") for of in load["pastes"])
        ]
        by, early = paste.get("ready_by_min"), paste.get("ready_not_before_min")
        if by is not None and max(ends) > by:
            told.append(f"{name} is late")
        if early is not None and max(ends) < early:
            told.append(f"{name} is early")
        elapsed += max(ends) - at[name, paste["steps"][0]["name"]]["start_min"]
    if answer["elapsed_min"] != elapsed:
        told.append(f"{answer['elapsed_min']} min are said, {elapsed} counted")
    if answer["best_known"] > elapsed:
        told.append(f"the bound {answer['best_known']} is above a plan of {elapsed}")
    return told
