"""The house itself: what a fresh machine and a newcomer rely on."""

import os
import re
import subprocess
import sys
import tomllib
from pathlib import Path

import pytest

from aplomb import __version__

ROOT = Path(__file__).resolve().parent.parent


@pytest.mark.parametrize("name", ["run", "dev"])
def test_requirements_are_pinned_by_hash_without_addresses(name):
    text = (ROOT / "requirements" / f"{name}.txt").read_text()
    pins = re.findall(r"^([a-z0-9-]+)==([\w.]+)", text, re.MULTILINE)
    assert len(pins) >= 3
    assert text.count("--hash=sha256:") >= len(pins)
    assert "://" not in text
    assert " @ " not in text


def test_run_and_dev_agree():
    pins = [
        dict(
            re.findall(
                r"^([a-z0-9-]+)==([\w.]+)", (ROOT / "requirements" / f).read_text(), re.MULTILINE
            )
        )
        for f in ("run.txt", "dev.txt")
    ]
    assert pins[0].items() <= pins[1].items()


def test_the_binding_is_pinned_below_the_release_that_aborts():
    text = (ROOT / "requirements" / "run.txt").read_text()
    found = re.search(r"pyside6-essentials==(\d+)\.(\d+)", text)
    assert (6, 9) <= (int(found[1]), int(found[2])) < (6, 12)


NAMES = {"PySide6": "PySide6-Essentials", "serial": "pyserial", "shiboken6": "PySide6-Essentials"}
"""What a package is called where it is installed from, where that is not how it is imported."""


IMPORTED = re.compile(
    r"^[ ]*(?:from[ ]+(?=[\w.]+[ ]+import\b)|import[ ]+(?=[\w.]+(?:[ ]+as[ ]+\w+)?$))(\w+)",
    re.MULTILINE,
)
"""A statement of its own line; the linter lets nobody import two on one."""


def test_what_is_imported_is_in_the_one_list_of_what_is_needed():
    """`pip install .` takes what run.in names: every import of the program, and nothing else."""
    rows = (ROOT / "requirements" / "run.in").read_text().splitlines()
    named = {re.split(r"[><=]", row)[0] for row in rows if row and not row.startswith("#")}
    imported = set()
    for path in (ROOT / "src").rglob("*.py"):
        imported |= set(IMPORTED.findall(path.read_text(encoding="utf-8")))
    imported -= set(sys.stdlib_module_names) | {"aplomb"}
    assert {NAMES.get(name, name) for name in imported} == named
    project = tomllib.loads((ROOT / "pyproject.toml").read_text())
    assert "dependencies" in project["project"]["dynamic"], "no second list"
    assert project["tool"]["setuptools"]["dynamic"]["dependencies"] == {
        "file": ["requirements/run.in"]
    }


@pytest.mark.parametrize("name", ["aplomb", "test", ".ci/run"])
def test_the_doors_open(name):
    assert os.access(ROOT / name, os.X_OK)


@pytest.mark.parametrize("name", ["aplomb", "test", "scripts/set-up.sh"])
def test_shell_scripts_are_sound_shell(name):
    subprocess.run(["sh", "-n", ROOT / name], check=True)


@pytest.mark.parametrize(
    "page", ["README.md", "CONTRIBUTING.md", "docs/architecture.md", "docs/formula-format.md"]
)
def test_what_the_pages_link_to_is_there(page):
    path = ROOT / page
    links = re.findall(r"\]\(([^)#:]+)\)", path.read_text(encoding="utf-8"))
    missing = [link for link in links if not (path.parent / link).exists()]
    assert not missing


def test_pictures_are_few_and_linked():
    pictures = sorted(p.name for p in (ROOT / "docs" / "screenshots").glob("*.png"))
    readme = (ROOT / "README.md").read_text(encoding="utf-8")
    assert 4 <= len(pictures) < 20
    assert all(name in readme for name in pictures)


def test_the_changelog_knows_this_version():
    assert f"## {__version__}" in (ROOT / "CHANGELOG.md").read_text(encoding="utf-8")


def test_the_launcher_passes_its_arguments_on():
    done = subprocess.run(
        [ROOT / "aplomb", "layers", "envelope 3  4", "--json"],
        capture_output=True,
        text=True,
        check=True,
        cwd="/",
    )
    assert '"product": 12' in done.stdout
    done = subprocess.run(
        [ROOT / "aplomb", "layers", "envelope 9"], capture_output=True, text=True, check=False
    )
    assert done.returncode == 2


def test_a_study_is_made_without_numpy():
    """NumPy is slow to import, so it comes when a section is drawn, not at the start."""
    code = (
        "import sys\n"
        "from aplomb.assets.shipped import demo, reference\n"
        "from aplomb.core.study.study import make_study\n"
        "for formula in demo().formulas:\n"
        "    make_study(formula, reference())\n"
        "assert 'numpy' not in sys.modules, 'NumPy was imported'\n"
        "assert 'scipy' not in sys.modules, 'SciPy was imported'\n"
    )
    done = subprocess.run(
        [sys.executable, "-c", code],
        env=os.environ | {"PYTHONPATH": str(ROOT / "src")},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stderr
