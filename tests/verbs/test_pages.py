"""The worked examples of the verbs' pages are true."""

import json
import re
from pathlib import Path

import pytest

from aplomb.cli import main

PAGES = Path(__file__).parents[2] / "docs" / "verbs"


@pytest.mark.parametrize(
    "verb",
    ["chill", "chill-fit", "day", "learn", "compare", "triangle", "oven", "make", "trays"],
)
def test_the_example_of_the_page_gives_what_it_says(verb, tmp_path, capsys):
    text = (PAGES / f"{verb}.md").read_text("utf-8")
    case, told = (json.loads(each) for each in re.findall(r"```json\n(.*?)```", text, re.DOTALL))
    path = tmp_path / "case.json"
    path.write_text(json.dumps(case))
    assert main([verb, str(path), "--json"]) == 0
    same(json.loads(capsys.readouterr().out), told)


def same(found, told, where=""):
    if isinstance(told, dict):
        assert found.keys() == told.keys(), where
        for key in told:
            same(found[key], told[key], f"{where}.{key}")
    elif isinstance(told, list):
        assert len(found) == len(told), where
        for i, each in enumerate(told):
            same(found[i], each, f"{where}[{i}]")
    elif isinstance(told, float) and "energy_error" not in where:
        assert found == pytest.approx(told, rel=2e-3, abs=0.02), where
    elif "energy_error" not in where:
        assert found == told, where


def test_every_verb_has_its_page():
    assert {p.stem for p in PAGES.glob("*.md")} >= {
        "chill",
        "chill-fit",
        "day",
        "out",
        "learn",
        "compare",
        "triangle",
        "oven",
        "make",
        "trays",
    }
