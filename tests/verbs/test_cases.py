"""The verbs that scripts use: their answers, and how they refuse."""

import csv
import io
import json
import math
import sys

import pytest
from icalendar import Calendar
from msgspec.structs import replace

from aplomb.assets.shipped import demo, reference
from aplomb.book.book import Book
from aplomb.cli import main
from aplomb.core.batch.stock import Demand
from aplomb.exchange.formula_json import to_json
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench

FACE = {"temp_c": 4, "w_m2_k": 8}
PLAIN = {"density_kg_m3": 1000, "conductivity_w_m_k": 0.5, "heat_capacity_kj_kg_k": 2}
CHILL = {
    "block": {"thickness_mm": 30}, "constant": PLAIN, "start_c": 20,
    "phases": [{"minutes": 120, "above": FACE, "below": FACE}], "at_min": [120, 0, 30],
    "core_reaches_c": 14, "ready_c": [10, 14],
}  # fmt: skip
DAY = {
    "baker": [{"from_min": 300, "to_min": 900}], "sheeters": 1, "ovens": 1, "fridge_spaces": 4,
    "goal": "least_elapsed",
    "pastes": [
        {"name": name, "ready_by_min": 800, "ready_not_before_min": 500, "steps": [
            {"name": "mix", "minutes": 20, "needs": ["baker"], "rest_min": 30, "rest_max": 90,
             "fridge_spaces": 2},
            {"name": "roll", "minutes": 15, "needs": ["baker", "sheeter"], "rest_min": 10,
             "rest_max": 60, "fridge_spaces": 1},
            {"name": "bake", "minutes": 30, "needs": ["oven"]},
        ], "side": {"name": "fat", "minutes": 10, "needs": ["baker"], "rest_min": 15,
                    "rest_max": 120, "fridge_spaces": 1, "before": "roll"}}
        for name in ("A", "B")
    ],
}  # fmt: skip


@pytest.fixture
def ask(tmp_path, capsys):
    def run(verb, case, *words):
        path = tmp_path / "case.json"
        path.write_text(case if isinstance(case, str) else json.dumps(case))
        code = main([verb, str(path), *words])
        out = capsys.readouterr()
        return code, out.out, out.err

    return run


def told(ask, verb, case):
    code, out, err = ask(verb, case, "--json")
    assert (code, err) == (0, "")
    return json.loads(out)


def test_chill_gives_what_was_asked_in_its_order(ask):
    found = told(ask, "chill", CHILL)
    assert [each["minutes"] for each in found["at"]] == [120, 0, 30]
    assert found["at"][1]["core_c"] == found["at"][1]["top_c"] == 20
    assert found["at"][0]["core_c"] < found["at"][2]["core_c"]
    assert found["ready"]["from_min"] > found["core_reaches_min"] - 1
    assert found["energy_error"] < 1e-3


def test_chill_with_all_six_faces_is_quicker(ask):
    box = CHILL | {"block": {"thickness_mm": 30, "width_mm": 60, "length_mm": 80}}
    a, b = told(ask, "chill", CHILL), told(ask, "chill", box)
    assert b["core_reaches_min"] < 0.8 * a["core_reaches_min"]
    still = {"minutes": 120, "above": FACE, "below": FACE, "sides": {"temp_c": 4, "w_m2_k": 0}}
    insulated = told(ask, "chill", box | {"phases": [still]})
    assert insulated["core_reaches_min"] == pytest.approx(a["core_reaches_min"], rel=0.01)


def test_chill_on_a_bench_and_through_two_places(ask):
    stone = {
        "thickness_mm": 30,
        "conductivity_w_m_k": 2.8,
        "density_kg_m3": 2700,
        "heat_capacity_kj_kg_k": 0.8,
        "start_c": 22,
        "contact_w_m2_k": 250,
    }
    bench = {"bench": stone}
    warm = {"minutes": 20, "above": {"temp_c": 22, "w_m2_k": 8}, "below": bench}
    found = told(ask, "chill", CHILL | {"phases": [CHILL["phases"][0], warm], "at_min": [120, 140]})
    assert found["at"][1]["bottom_c"] > found["at"][1]["top_c"] > found["at"][0]["top_c"]


def test_chill_of_a_composition_with_fat_and_ice(ask):
    case = {k: v for k, v in CHILL.items() if k != "constant"} | {
        "composition": {
            "water": 0.32,
            "fat": 0.33,
            "protein": 0.05,
            "carbohydrate": 0.28,
            "fibre": 0.01,
            "ash": 0.01,
        },
        "fat": {"sfc": [[10, 52], [20, 20], [35, 0]], "latent_kj_kg": 85},
        "freezing": {"starts_c": -3.1, "water_fraction": 0.17},
        "phases": [
            {
                "minutes": 200,
                "above": {"temp_c": -18, "w_m2_k": 9},
                "below": {"temp_c": -18, "w_m2_k": 7},
            }
        ],
    }
    frozen = told(ask, "chill", case | {"at_min": [200]})["at"][0]
    never = told(ask, "chill", case | {"at_min": [200], "freezing": None})["at"][0]
    assert never["core_c"] < frozen["core_c"] - 2, "ice gives heat"
    molten = told(ask, "chill", case | {"fat": None})["core_reaches_min"]
    assert molten < told(ask, "chill", case)["core_reaches_min"]


def drop(case, *path):
    made = json.loads(json.dumps(case))
    at = made
    for key in path[:-1]:
        at = at[key]
    del at[path[-1]]
    return made


def put(case, value, *path):
    made = json.loads(json.dumps(case))
    at = made
    for key in path[:-1]:
        at = at[key]
    at[path[-1]] = value
    return made


@pytest.mark.parametrize(
    ("case", "field"),
    [
        (drop(CHILL, "start_c"), "start_c"),
        (put(CHILL, 0, "block", "thickness_mm"), "block.thickness_mm"),
        (put(CHILL, 500, "block", "thickness_mm"), "block.thickness_mm"),
        (put(CHILL, -3, "block", "thickness_mm"), "block.thickness_mm"),
        (put(CHILL, "30", "block", "thickness_mm"), "block.thickness_mm"),
        (put(CHILL, 100, "block", "width_mm"), "block.length_mm"),
        (put(CHILL, 1, "thick"), "thick"),
        (put(CHILL, {"water": 1}, "composition"), "constant, composition"),
        (drop(CHILL, "constant"), "constant, composition"),
        (put(CHILL, [], "phases"), "phases"),
        (put(CHILL, {"temp_c": 4}, "phases", 0, "above"), "phases[0].above.w_m2_k"),
        (put(CHILL, FACE, "phases", 0, "sides"), "phases[0].sides"),
        (put(CHILL, 0, "phases", 0, "minutes"), "phases[0].minutes"),
        (put(CHILL, [500], "at_min"), "at_min[0]"),
        (put(CHILL, [14, 10], "ready_c"), "ready_c"),
        (put(CHILL, 1e999, "start_c"), "start_c"),
        (put(CHILL, {"sfc": [[10, 5]], "latent_kj_kg": 80}, "fat"), "fat"),
        ("{", "JSON"), ("[1]", "case"), ("", "JSON"), ('{"block": ' + "[" * 3000, ""),
    ],
)  # fmt: skip
def test_a_case_that_cannot_be_used_names_the_field_in_a_line_or_two(ask, case, field):
    if not isinstance(case, str):
        case = json.dumps(case).replace("Infinity", "1e999")
    code, out, err = ask("chill", case, "--json")
    assert (code, out) == (2, "")
    assert field in err
    assert "Traceback" not in err
    assert 1 <= len(err.strip().splitlines()) <= 2


def test_chill_fit_gives_the_coefficient_with_its_interval(ask):
    minutes = list(range(5, 125, 5))
    found = told(ask, "chill", CHILL | {"at_min": minutes})
    case = {
        "block": {"thickness_mm": 30},
        "constant": PLAIN,
        "start_c": 20,
        "air_c": 4,
        "probe_depth_mm": 15,
        "minutes": minutes,
        "temp_c": [round(each["core_c"] + 0.4, 1) for each in found["at"]],
    }
    fitted = told(ask, "chill-fit", case)
    assert fitted["low_w_m2_k"] < 8 < fitted["high_w_m2_k"]
    assert fitted["w_m2_k"] == pytest.approx(8, rel=0.05)
    code, _, err = ask("chill-fit", case | {"minutes": minutes[:3]}, "--json")
    assert (code, "minutes" in err or "temp_c" in err) == (2, True)


def test_day_gives_a_timetable_that_holds(ask):
    found = told(ask, "day", DAY)
    assert found["possible"]
    assert found["elapsed_min"] == found["best_known"]
    starts = {(s["paste"], s["step"]): s["start_min"] for s in found["steps"]}
    for name in ("A", "B"):
        assert 30 <= starts[name, "roll"] - starts[name, "mix"] - 20 <= 90
        assert 15 <= starts[name, "roll"] - starts[name, "fat"] - 10 <= 120
        assert 500 <= starts[name, "bake"] + 30 <= 800
    assert abs(starts["A", "bake"] - starts["B", "bake"]) >= 30, "one oven"


def test_a_day_that_cannot_be_says_why_and_what_would_help(ask):
    tight = put(DAY, 340, "pastes", 0, "ready_by_min")
    tight = put(tight, 0, "pastes", 0, "ready_not_before_min")
    found = told(ask, "day", tight)
    assert not found["possible"]
    assert "A" in found["because"]
    (later,) = (r for r in found["remedies"] if r["what"] == "ready_later")
    assert later["paste"] == "A"
    moved = put(tight, 340 + later["minutes"], "pastes", 0, "ready_by_min")
    assert told(ask, "day", moved)["possible"]


def test_a_day_under_way(ask):
    plan = told(ask, "day", DAY)
    first = plan["steps"][0]
    now = first["start_min"] + 5
    under = DAY | {
        "now_min": now,
        "goal": "least_late",
        "overrun_min": 60,
        "so_far": [{k: first[k] for k in ("paste", "step", "start_min")}],
        "running": {"paste": first["paste"], "step": first["step"], "extra_min": 25},
    }
    found = told(ask, "day", under)
    assert found["possible"]
    assert found["steps"][0]["start_min"] == first["start_min"]
    assert all(s["start_min"] >= now for s in found["steps"][1:])


@pytest.mark.parametrize(
    ("case", "field"),
    [
        (put(DAY, "chef", "pastes", 0, "steps", 0, "needs", 0), "pastes[0].steps[0].needs[0]"),
        (put(DAY, 2.5, "pastes", 0, "steps", 0, "minutes"), "pastes[0].steps[0].minutes"),
        (put(DAY, "knead", "pastes", 0, "side", "before"), "pastes[0].side.before"),
        (put(DAY, "B", "pastes", 0, "name"), "pastes[1].name"),
        (put(DAY, "soonest", "goal"), "goal"),
        (put(DAY, [], "pastes"), "pastes"),
        (put(DAY, 5, "pastes", 0, "ready_by_min"), "ready_not_before_min"),
        (put(DAY, 10, "pastes", 0, "steps", 0, "rest_max"), "rest_max"),
    ],
)  # fmt: skip
def test_a_day_that_cannot_be_used_names_the_field(ask, case, field):
    code, out, err = ask("day", case, "--json")
    assert (code, out) == (2, "")
    assert field in err


@pytest.fixture
def formula_file(tmp_path):
    path = tmp_path / "regatta.json"
    path.write_bytes(to_json(demo().formulas[0]))
    return str(path)


def test_chill_and_out_of_a_formula(capsys, formula_file):
    assert main(["chill", formula_file, "--thick", "30", "--place", "fridge", "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    low, high = found["band"]
    assert low < found["ready"]["from_min"] < high
    assert found["skin_c"] < found["mean_c"] < found["core_c"]
    assert main(["chill", formula_file, "--thick", "1.2 in", "--place", "freezer", "--json"]) == 0
    frozen = json.loads(capsys.readouterr().out)
    assert frozen["ready"] is None
    assert frozen["instead"]["first"] == "Freezer"
    assert (
        main(
            [
                "out",
                formula_file,
                "--thick",
                "10",
                "--from",
                "6",
                "--room",
                "22",
                "--bench",
                "stone",
                "--json",
            ]
        )
        == 0
    )
    out = json.loads(capsys.readouterr().out)
    assert out["band"][0] < out["minutes"] < out["band"][1]


@pytest.mark.parametrize(
    ("words", "said"),
    [
        (["--thick", "0"], "thick"), (["--thick", "500"], "thick"), (["--thick", "nan"], ""),
        (["--thick", "30", "--from", "99"], "from"), ([], "thick"),
        (["--thick", "30", "--place", "cellar"], "cellar"),
    ],
)  # fmt: skip
def test_what_cannot_be_asked_of_a_formula(capsys, formula_file, words, said):
    assert main(["chill", formula_file, *words, "--json"]) == 2
    err = capsys.readouterr().err
    assert said in err
    assert "Traceback" not in err


def test_verbs_speak_in_plain_words_too(ask, capsys, formula_file):
    assert "middle" in ask("chill", CHILL)[1]
    assert "A: mix" in ask("day", DAY)[1]
    assert main(["out", formula_file, "--thick", "10"]) == 0
    assert "back into the cold" in capsys.readouterr().out


def test_a_case_comes_from_standard_input(capsys, monkeypatch):
    monkeypatch.setattr(sys, "stdin", io.TextIOWrapper(io.BytesIO(json.dumps(CHILL).encode())))
    assert main(["chill", "-", "--json"]) == 0
    assert math.isfinite(json.loads(capsys.readouterr().out)["core_reaches_min"])


@pytest.fixture
def book(tmp_path):
    work = Workbench(Book(tmp_path / "galley.aplomb"), reference())
    fill_with_demo(work)
    yield work
    work.close()


def test_the_day_of_a_book_for_a_calendar(capsys, book, tmp_path):
    demand = book.store.kitchen.demand
    book.store.put_demand("one paste", replace(demand, wants=demand.wants[:1]))
    book.journal.flush()
    ics = tmp_path / "day.ics"
    path = str(book.book.path)
    assert main(["day", path, "--date", "2026-12-05", "--ics", str(ics), "--json"]) == 0
    found = json.loads(capsys.readouterr().out)
    events = list(Calendar.from_ical(ics.read_bytes()).walk("VEVENT"))
    assert len(events) == len(found["steps"])
    assert {e["DTSTART"].dt.astimezone().date().isoformat() for e in events} <= {
        "2026-12-04",
        "2026-12-05",
    }
    assert any(e.walk("VALARM") for e in events)
    assert main(["day", path, "--date", "2026-12-05", "--ics", str(tmp_path / "day.csv")]) == 0
    rows = list(csv.reader((tmp_path / "day.csv").read_text("utf-8-sig").splitlines()))
    assert len(rows) == len(events) + 1
    assert "Regatta case paste" in capsys.readouterr().out


def test_a_book_that_wants_nothing_and_days_that_are_none(capsys, book, tmp_path):
    book.store.put_demand("nothing", replace(book.store.kitchen.demand, wants=Demand().wants))
    book.journal.flush()
    path = str(book.book.path)
    assert main(["day", path]) == 2
    assert "Nothing is ordered" in capsys.readouterr().err
    assert main(["day", path, "--date", "soon"]) == 2
    assert "2026-11-28" in capsys.readouterr().err
    assert main(["day", path, "--ics", str(tmp_path / "x.pdf")]) == 2
