"""Plant small faults in the code, one at a time, and see which of them the nearest tests notice.

``python scripts/plant_faults.py --faults 200 --seed 1`` prints, by room, how many of the faults
that the tests run through were noticed, and lists those that lived on. Exit 0 when at least
four of five were noticed over all, and seven of ten in every room.
"""

import argparse
import ast
import random
import re
import shutil
import subprocess
import sys
import tempfile
from collections import defaultdict
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import NamedTuple

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "aplomb"
ROOMS = ("core", "work", "book", "exchange", "devices", "verbs", "desk")
MOST_TESTS = 6
"""So many files of tests are near to a module [-]."""
LONGEST_S = 240
"""Tests that take longer with a fault in the code have noticed it [s]."""
ENOUGH, ENOUGH_IN_A_ROOM = 0.8, 0.7
COVER = """
import sys, threading
def pytest_configure(config):
    lines = set()
    def within(frame, event, _arg):
        if event == "line":
            lines.add(frame.f_lineno)
        return within
    def at_call(frame, _event, _arg):
        return within if frame.f_code.co_filename.endswith({name!r}) else None
    config._lines = lines
    sys.settrace(at_call)
    threading.settrace(at_call)
def pytest_unconfigure(config):
    sys.settrace(None)
    open({out!r}, "w").write(" ".join(map(str, sorted(config._lines))))
"""
SWAPPED: dict[type, type] = {
    ast.Lt: ast.LtE, ast.LtE: ast.Lt, ast.Gt: ast.GtE, ast.GtE: ast.Gt, ast.Eq: ast.NotEq,
    ast.NotEq: ast.Eq, ast.Is: ast.IsNot, ast.IsNot: ast.Is, ast.In: ast.NotIn, ast.NotIn: ast.In,
    ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult, ast.And: ast.Or,
    ast.Or: ast.And,
}  # fmt: skip


class Fault(NamedTuple):
    """Where a fault is planted, and what stands there then."""

    path: Path
    line: int
    words: str
    text: str


def faults_in(path: Path) -> list[Fault]:
    """List every fault that can be planted in a file; each is the whole text with it."""
    source = path.read_text(encoding="utf-8")
    lines = source.split("\n")
    found = []

    def planted(node: ast.AST, new: str, words: str) -> None:
        if node.lineno != node.end_lineno:
            return
        row = lines[node.lineno - 1].encode()
        changed = row[: node.col_offset] + new.encode() + row[node.end_col_offset :]
        text = "\n".join([*lines[: node.lineno - 1], changed.decode(), *lines[node.lineno :]])
        found.append(Fault(path, node.lineno, words, text))

    told = {id(n.value) for n in ast.walk(ast.parse(source)) if isinstance(n, ast.Expr)}
    for node in ast.walk(ast.parse(source)):
        if id(node) in told or not hasattr(node, "lineno"):
            continue
        was = ast.unparse(node)
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in SWAPPED:
            other = ast.Compare(node.left, [SWAPPED[type(node.ops[0])]()], node.comparators)
        elif isinstance(node, ast.BinOp) and type(node.op) in SWAPPED:
            other = ast.BinOp(node.left, SWAPPED[type(node.op)](), node.right)
        elif isinstance(node, ast.BoolOp):
            other = ast.BoolOp(SWAPPED[type(node.op)](), node.values)
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.Not):
            other = node.operand
        elif isinstance(node, ast.Constant) and type(node.value) in (int, float):
            other = ast.Constant(node.value + 1)
        elif isinstance(node, ast.Constant) and type(node.value) is bool:
            other = ast.Constant(not node.value)
        else:
            continue
        new = ast.unparse(ast.fix_missing_locations(other))
        planted(node, f"({new})", f"{was[:60]} → {new[:60]}")
    return found


def nearest(path: Path) -> list[str]:
    """Give the test files that are near to a module: its mirror first, then who imports it."""
    within = path.relative_to(SOURCE)
    dotted = "aplomb." + ".".join(within.with_suffix("").parts)
    room, name = dotted.rpartition(".")[::2]
    mirror = ROOT / "tests" / within.parent / f"test_{within.name}"
    there = [mirror] if mirror.exists() else []
    wanted = re.compile(
        rf"from {re.escape(dotted)} import|import {re.escape(dotted)}\b"
        rf"|from {re.escape(room)} import [^\n]*\b{name}\b"
    )
    others = sorted((ROOT / "tests").rglob("test_*.py"))
    there += [p for p in others if p != mirror and wanted.search(p.read_text(encoding="utf-8"))]
    beside = ROOT / "tests" / within.parent
    if len(there) < 2 and beside.is_dir():
        there += [p for p in sorted(beside.glob("test_*.py")) if p not in there]
    return [str(p.relative_to(ROOT)) for p in there[:MOST_TESTS]]


def _tree(folder: Path) -> Path:
    """Copy what is kept of the project, for one fault after another."""
    for name in ("src", "tests", "docs", "scripts", "requirements"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
    for name in ("pyproject.toml", "README.md", "CHANGELOG.md", "aplomb", "test"):
        shutil.copy(ROOT / name, folder / name)
    return folder


def _pytest(tree: Path, tests: list[str], *more: str) -> bool:
    words = [
        sys.executable,
        "-B",
        "-m",
        "pytest",
        "-q",
        "-x",
        "-p",
        "no:cacheprovider",
        "--hypothesis-seed=1",
        *more,
        *tests,
    ]
    surroundings = {
        "PATH": "/usr/bin:/bin",
        "QT_QPA_PLATFORM": "offscreen",
        "LC_ALL": "C.UTF-8",
        "HOME": str(tree),
        "PYTHONPATH": str(tree),
    }
    try:
        done = subprocess.run(
            words, cwd=tree, env=surroundings, capture_output=True, timeout=LONGEST_S, check=False
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def lines_run(tree: Path, path: Path, tests: list[str]) -> set[int]:
    """Give the lines of a module that its nearest tests run through."""
    out = tree / "lines.txt"
    out.unlink(missing_ok=True)
    name = str(path.relative_to(ROOT / "src"))
    (tree / "cover_one.py").write_text(COVER.format(name=name, out=str(out)), encoding="utf-8")
    _pytest(tree, tests, "-p", "cover_one")
    return {int(word) for word in out.read_text().split()} if out.exists() else set()


def tried(work: tuple[Path, list[Fault]]) -> list[tuple[Fault, str]]:
    """Try the faults of one module; says of each “noticed”, “lived” or “not run”."""
    path, some = work
    tests = nearest(path)
    if not tests:
        return [(fault, "not run") for fault in some]
    with tempfile.TemporaryDirectory() as folder:
        tree = _tree(Path(folder))
        run = lines_run(tree, path, tests)
        target = tree / path.relative_to(ROOT)
        sound, told = target.read_text(encoding="utf-8"), []
        for fault in some:
            if fault.line not in run:
                told.append((fault, "not run"))
                continue
            target.write_text(fault.text, encoding="utf-8")
            told.append((fault, "lived" if _pytest(tree, tests) else "noticed"))
            target.write_text(sound, encoding="utf-8")
        return told


def main() -> int:
    """Plant the faults asked for; gives 0 when enough of them were noticed."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--faults", type=int, default=200)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--room", choices=ROOMS, help="one room only")
    asked = parser.parse_args()
    rng = random.Random(asked.seed)
    rooms = (asked.room,) if asked.room else ROOMS
    files = [p for room in rooms for p in sorted((SOURCE / room).rglob("*.py"))]
    every = [fault for path in files for fault in faults_in(path)]
    chosen: dict[Path, list[Fault]] = defaultdict(list)
    for fault in rng.sample(every, min(asked.faults, len(every))):
        chosen[fault.path].append(fault)
    by_room: dict[str, list[str]] = defaultdict(list)
    with ThreadPoolExecutor(2) as two:
        for told in two.map(tried, chosen.items()):
            for fault, what in told:
                where = fault.path.relative_to(SOURCE)
                by_room[where.parts[0]].append(what)
                if what == "lived":
                    print(f"lived: {where}:{fault.line}: {fault.words}", flush=True)
    whole = [what for some in by_room.values() for what in some]
    enough = True
    for room, some in (*sorted(by_room.items()), ("all", whole)):
        run = [what for what in some if what != "not run"]
        share = run.count("noticed") / len(run) if run else 1.0
        enough &= share >= (ENOUGH if room == "all" else ENOUGH_IN_A_ROOM)
        print(
            f"{room:10} {run.count('noticed')} of {len(run)} noticed ({share:.0%}), "
            f"{len(some) - len(run)} not run"
        )
    return 0 if enough else 1


if __name__ == "__main__":
    sys.exit(main())
