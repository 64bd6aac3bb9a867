"""Measure what the budgets are about, in one run: ``.venv/bin/python benchmarks/run.py``.

Start and memory are given against a bare Qt window of the same size, both as fresh processes in
turn. The rest is timed inside this process, offscreen; repainting is forced and counted.
"""

import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
os.environ["QT_QPA_PLATFORM"] = "offscreen"
HOME = tempfile.mkdtemp(prefix="aplomb-bench-")
os.environ["APLOMB_HOME"] = HOME
sys.path.insert(0, str(ROOT / "src"))

BARE = """
import resource
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication, QWidget
app = QApplication([])
window = QWidget()
window.resize(1280, 800)
window.show()
window.repaint()
QTimer.singleShot(0, window.close)
app.exec()
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""
OURS = """
import resource
from aplomb.cli import main
main(["--demo", "--smoke"])
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""

FILLED = """
import resource
from aplomb import cli
import aplomb.book.book, aplomb.work.commands
from aplomb.desk.shell.window import Window
fill = Window._fill
def fill_and_close(self):
    fill(self)
    self.repaint()
    self.close()
Window._fill = fill_and_close
cli.main(["--demo"])
print(resource.getrusage(resource.RUSAGE_SELF).ru_maxrss)
"""
"""To the second paint: with all figures, the second opinion and what is settled."""


def process(code: str) -> tuple[float, int]:
    """Run Python code in a process of its own; give seconds and peak memory [kB]."""
    environment = os.environ | {"PYTHONPATH": str(ROOT / "src")}
    environment.pop("PYTHONDONTWRITEBYTECODE", None)  # as on a user's machine: compiled once
    start = time.perf_counter()
    done = subprocess.run(
        [sys.executable, "-c", code], env=environment, capture_output=True, text=True, check=True
    )
    return time.perf_counter() - start, int(done.stdout.split()[-1])


def start(runs: int = 9) -> None:
    """Compare our start with a bare window's, in turn."""
    process(OURS), process(FILLED), process(BARE)
    ours, bare, times, memories, filled = [], [], [], [], []
    for _ in range(runs):
        bare.append(process(BARE))
        ours.append(process(OURS))
        times.append(ours[-1][0] / bare[-1][0])
        memories.append(ours[-1][1] / bare[-1][1])
        filled.append(process(FILLED)[0] / bare[-1][0])
    print(
        f"start to first paint   {statistics.median(t for t, _ in ours):.3f} s, bare window "
        f"{statistics.median(t for t, _ in bare):.3f} s: {statistics.median(times):.2f} ×  (≤ 1.75)"
    )
    print(f"start to all figures   {statistics.median(filled):.2f} × a bare window")
    print(
        f"memory                 {statistics.median(m for _, m in ours) / 1024:.0f} MB, bare "
        f"{statistics.median(m for _, m in bare) / 1024:.0f} MB: "
        f"{statistics.median(memories):.2f} ×  (≤ 2.5)"
    )


def timed(name: str, act: Callable[[int], object], runs: int, budget: str) -> None:
    """Time something many times; print median and 95th percentile."""
    for i in range(5):
        act(i)
    times = []
    for i in range(runs):
        begin = time.perf_counter()
        act(i + 5)
        times.append((time.perf_counter() - begin) * 1000)
    times.sort()
    p95 = times[int(0.95 * len(times))]
    print(f"{name:22} median {statistics.median(times):.2f} ms, p95 {p95:.2f} ms  ({budget})")


def core() -> None:
    """Time an edit, and growth with lines and turns."""
    from msgspec.structs import replace

    from aplomb.assets.shipped import demo, reference
    from aplomb.core.folds.stack import stack_of
    from aplomb.core.folds.turn_line import parse_plan
    from aplomb.core.paste.formula import Part, with_grams
    from aplomb.core.paste.line import Line
    from aplomb.core.study.study import make_study

    known = reference()
    formula = demo().formulas[0]
    timed(
        "edit, 9 lines",
        lambda i: make_study(with_grams(formula, Part.DOUGH, 0, 2000 + i), known),
        500,
        "≤ 2 / ≤ 4",
    )
    for lines in (20, 40, 80):
        keys = [m.key for m in known.pantry]
        long = replace(
            formula, dough=tuple(Line(keys[i % len(keys)], 10.0 + i) for i in range(lines))
        )
        timed(
            f"edit, {lines} lines",
            lambda i, f=long: make_study(with_grams(f, Part.DOUGH, 0, 2000 + i), known),
            200,
            "linear",
        )
    for turns in (4, 8, 16, 32):
        many = replace(formula, turn_line="envelope " + "3 / " * turns)
        timed(
            f"edit, {turns} turns",
            lambda i, f=many: make_study(with_grams(f, Part.DOUGH, 0, 2000 + i), known),
            100,
            "linear",
        )
    plan = parse_plan("envelope 3 3 3 3 3 3")

    def fresh(i: int) -> object:
        stack_of.cache_clear()
        return stack_of(plan, 0.4 + i * 1e-6)

    timed("stack of 729", fresh, 200, "≤ 30 with the section")
    rough = next(f for f in demo().formulas if f.school == "rough")
    for name, line, working, want in (
        ("pieces", "pieces 3 3 4 3 4 3", {}, "≤ 30"),
        ("bends", "envelope 3 3 4 3 4 3", {"hinge_pct": 80.0}, "beside"),
        (
            "all of it",
            "envelope 3 3 4 3 4 3",
            {"hinge_pct": 80.0, "uneven_pct": 20.0, "border_mm": 8.0, "misfold_mm": 4.0},
            "beside",
        ),
        ("coil", "coil 3 4 3", {}, "beside"),
    ):
        made = replace(rough, turn_line=line, working=replace(rough.working, **working))
        section = make_study(made, known).section()
        timed(f"1200×400, {name}", lambda _i, s=section: s.kinds(400, 1200), 20, want)
    import tracemalloc

    section = make_study(replace(rough, turn_line="pieces 3 3 4 3 4 3"), known).section()
    tracemalloc.start()
    section.kinds(400, 1200)
    print(f"memory of a section    {tracemalloc.get_traced_memory()[1] / 2**20:.1f} MB  (≤ 50)")
    tracemalloc.stop()


def desk() -> None:
    """Time keystrokes, the section and the lens in a real window, painted each time."""
    from msgspec.structs import replace
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from aplomb.core.paste.formula import Part
    from aplomb.desk.app import make_application, open_window
    from aplomb.work.commands import FOLDS, PASTE

    app = make_application()
    window = open_window(None, demo=True)
    window.resize(1280, 800)
    window.show()
    window.activateWindow()
    window.show_stage(PASTE)
    session = window.session
    QApplication.processEvents()
    cards = window.paste.cards

    def painted() -> None:
        QApplication.processEvents()  # paints what has changed

    field = cards[Part.DOUGH].rows[0].grams

    def key(i: int) -> None:
        QTest.keyClick(field, Qt.Key.Key_1 if i % 5 else Qt.Key.Key_Home)
        painted()

    QApplication.processEvents()
    cards[Part.DOUGH].focus_line(0, 0)
    timed("keystroke, painted", key, 100, "p95 ≤ 16")
    field.revert()

    def commit(i: int) -> None:
        field.selectAll()
        QTest.keyClicks(field, str(2900 + i))
        field.commit()
        painted()

    timed("edit taken, painted", commit, 100, "with 4 keystrokes")
    base = session.formula
    assert base is not None
    for i, words in enumerate(("envelope 3 3 3 3 3 3", "pieces 3 3 3 3 3 3")):
        session.shelf.change("bench", replace(base, turn_line=words))

        def recut(j: int) -> None:
            formula = session.formula
            assert formula is not None
            session.shelf.change("bench", replace(formula, sheet_mm=2.0 + 0.01 * (j % 100)))
            painted()

        timed(f"section, {('729 leaves', 'pieces')[i]}", recut, 60, "≤ 30")

        def drag(j: int) -> None:
            window.section._move(0.2 + 0.005 * (j % 100), 0.5)
            painted()

        timed("lens drag", drag, 100, "≤ 16.7")
    bent = replace(base, working=replace(base.working, hinge_pct=80.0, border_mm=8.0))
    session.shelf.change("bench", bent)
    window.show_stage(FOLDS)
    QApplication.processEvents()
    timed("lens drag, bends", drag, 100, "≤ 16.7")
    for words, formula in (("", base), (", bends", bent)):
        session.shelf.change("bench", formula)
        window.open_page("inside")
        page = window.pages["inside"]
        most = page.slider.maximum()
        for value in range(0, most + 1, 25):  # every section is cut once
            page.slider.setValue(value)
            painted()

        def slide(j: int, page: object = page, most: int = most) -> None:
            page.slider.setValue((j * 7) % most)
            painted()

        timed(f"slider over the plan{words}", slide, 200, "≤ 16.7")
        window._leave_page()
    session.flush()
    window.close()
    del app


def shelf(formulas: int = 10_000) -> None:
    """Time a large book against an empty one: open, and search as one types."""
    from msgspec.structs import replace

    from aplomb.assets.shipped import demo
    from aplomb.book.book import Book, new_uid, now
    from aplomb.book.changes import Change
    from aplomb.book.entry import Entry
    from aplomb.desk.session import Session
    from aplomb.desk.shelf.stage import ShelfModel

    shipped = demo().formulas
    path = Path(HOME) / "large.aplomb"
    book = Book(path)
    changes = []
    for i in range(formulas):
        made = replace(shipped[i % 4], name=f"{shipped[i % 4].name} {i}")
        entry = Entry(new_uid(), float(i), now(), made)
        changes.append(Change("add", entry.uid, None, entry))
    book.record(changes)
    book.close()

    def opening(where: Path) -> None:
        session = Session(Book(where))
        session.book.close()

    timed("open an empty book", lambda _i: opening(Path(HOME) / "none.aplomb"), 7, "")
    timed(f"open {formulas} formulas", lambda _i: opening(path), 3, "start ≤ 1.5 × empty")
    session = Session(Book(path))
    model = ShelfModel(session)
    words = ["k", "ki", "kio", "kios", "kiosk", "kiosk 7"]
    timed("search, a keystroke", lambda i: model.search(words[i % 6]), 60, "≤ 16")
    session.book.close()


def pantry(materials: int = 5000) -> None:
    """Time an edit, a search and a price with many own materials; solving; the other fats."""
    from msgspec.structs import replace

    from aplomb.assets.shipped import demo, reference
    from aplomb.core.lists.reading import read_list
    from aplomb.core.paste.formula import Line, Part, with_grams
    from aplomb.core.paste.pantry import Item
    from aplomb.core.readings.choices import likely_fats
    from aplomb.core.study.solve import solve
    from aplomb.core.study.study import make_study
    from aplomb.core.study.wanted import Target
    from aplomb.exchange.pantry_csv import read_supplier_file, write_pantry

    shipped, book = reference(), demo()
    base = shipped.pantry.holding(book.items)
    items = list(book.items)
    for i in range(materials):
        like = list(shipped.pantry)[i % 60]
        key = f"own_{i}"
        items.append(Item(key, replace(like, key=key, name=f"{like.name} no. {i}")))
    large = shipped.pantry.holding(items)
    known = replace(shipped, pantry=large, house=book.house, today="2026-11-23")
    keys = [m.key for m in base]
    long = replace(
        book.formulas[0], dough=tuple(Line(keys[i % len(keys)], 10.0 + i) for i in range(36))
    )
    timed(
        "edit, 40 lines, 5000 m.",
        lambda i: make_study(with_grams(long, Part.DOUGH, 0, 2000 + i), known),
        200,
        "≤ 2 / ≤ 4",
    )
    words = ["b", "bu", "but", "butt", "butter", "no. 77"]
    said = (Path(__file__).parents[1] / "tests/core/lists/said.txt").read_text().splitlines()
    rows = [row.partition("|")[0].strip() for row in said if row and row[0] != "#"]
    lists = ["\n".join(rows[i : i + 60]) for i in range(0, len(rows) - 59, 60)]
    fresh = [shipped.pantry.holding(book.items) for _ in range(2 * len(lists) + 5)]
    timed(
        "60 lines, first reading",
        lambda i: read_list(lists[i % len(lists)], fresh[i]),
        2 * len(lists),
        "≤ 30",
    )
    timed("60 lines, the next key", lambda i: read_list(lists[0] + "x" * i, base), 20, "")
    timed("pantry search, a key", lambda i: large.search(words[i % 6]), 60, "≤ 16")
    timed("pantry made anew", lambda _i: shipped.pantry.holding(items), 10, "a price changed")
    timed(
        "four other fats",
        lambda _i: likely_fats(book.formulas[0], large, book.house, 200.0),
        60,
        "with each edit of Paste",
    )
    study = make_study(book.formulas[0], known)
    easy = (Target("fat_product_pct", 75), Target("salt_pct", 1.8), Target("dough_water_pct", 52))
    hard = (Target("pure_fat_pct", 90), Target("fat_product_pct", 80), *easy[1:])
    timed("solve, met", lambda _i: solve(study, large, easy), 40, "≤ 50")
    timed("solve, in the way", lambda _i: solve(study, large, hard), 40, "≤ 50")
    far = make_study(long, known)
    timed("solve, 40 lines", lambda _i: solve(far, large, easy), 40, "≤ 50")
    timed("solve, 40, in the way", lambda _i: solve(far, large, hard), 20, "≤ 50")
    sheet = write_pantry(large)
    timed(
        "sheet of 5000 read", lambda _i: read_supplier_file(sheet, large), 3, "beside nothing: once"
    )


def large_desk(materials: int = 5000, lines: int = 36) -> None:
    """Time what a person feels with many materials and a long formula: Enter, and a search."""
    from msgspec.structs import replace
    from PySide6.QtCore import Qt
    from PySide6.QtTest import QTest
    from PySide6.QtWidgets import QApplication

    from aplomb.core.paste.formula import Line, Part
    from aplomb.core.paste.pantry import Item
    from aplomb.desk.app import make_application, open_window
    from aplomb.work.commands import PASTE

    app = QApplication.instance() or make_application()
    os.environ["APLOMB_HOME"] = tempfile.mkdtemp(prefix="aplomb-bench-")
    window = open_window(None, demo=True)
    window.resize(1280, 800)
    window.show()
    session = window.session
    base = list(session.reference.pantry)
    items = []
    for i in range(materials):
        like, key = base[i % 60], f"own_{i}"
        items.append(Item(key, replace(like, key=key, name=f"{like.name} no. {i}")))
    session.store.put_items("many materials", items)
    long = tuple(Line(base[i % 60].key, 10.0 + i) for i in range(lines))
    session.shelf.edit("long", lambda f: replace(f, dough=long))
    window.show_stage(PASTE)
    app.processEvents()
    field = window.paste.cards[Part.DOUGH].rows[0].grams

    def enter(i: int) -> None:
        field.setFocus()
        field.selectAll()
        field.insert(str(1000 + i))
        QTest.keyClick(field, Qt.Key.Key_Return)
        app.processEvents()

    timed("Enter, 40 lines, 5000", enter, 60, "one edit, what changed repainted")
    window.open_page("pantry")
    page = window.pages["pantry"]
    words = "butter no. 77"

    def letter(i: int) -> None:
        if i % len(words) == 0:
            page.search.clear()
        QTest.keyClick(page.search, words[i % len(words)])
        app.processEvents()

    timed("search painted, 5000", letter, 65, "≤ 16")
    window.close()


def batch() -> None:
    """Time the cut plan's search and the day's demand."""
    from msgspec.structs import replace

    from aplomb.assets.shipped import demo, reference
    from aplomb.core.batch.stock import Demand, Want
    from aplomb.core.kitchen.cut_plan import sheets_of
    from aplomb.core.kitchen.demand import plan_day
    from aplomb.core.make.goal import goal_of
    from aplomb.core.make.make import make_of
    from aplomb.core.paste.product import Product
    from aplomb.core.study.study import make_study

    shipped, book = reference(), demo()
    known = replace(shipped, pantry=shipped.pantry.holding(book.items), house=book.house)
    base = book.formulas[0]
    shapes: tuple[Product, ...] = (
        Product("Case", shape="case", length_mm=80, width_mm=80, inner_mm=45),
        Product("Slice", length_mm=120, width_mm=60),
        Product("Corner", shape="triangle", length_mm=110, width_mm=90, lean=0.5),
        Product("Round", shape="round", length_mm=95, width_mm=95),
        Product("Strip", shape="strip", length_mm=240, width_mm=30),
    )
    for many in (1, 3, 5):

        def search(i: int, many: int = many) -> object:
            wanted = tuple(replace(p, wanted=12 + i % 5) for p in shapes[:many])
            return sheets_of(make_study(replace(base, products=wanted), known), known.house)

        timed(f"cut plan, {many} products", search, 40, "≤ 200")
    wide = replace(
        base,
        products=tuple(replace(p, wanted=120) for p in shapes),
        batch=replace(base.batch, blocks=12),
    )
    study = make_study(wide, known)
    goal = goal_of(wide)
    print(f"  (the make below: {study.scaled.blocks} blocks, 5 products)")
    timed("make, 12 blocks", lambda _i: make_of(study, known.pantry, known.house, goal), 60, "≤ 10")
    alone = make_study(base, known)
    timed("make of the demo", lambda _i: make_of(alone, known.pantry, known.house, goal), 60, "≤ 3")
    for many in (60, 240):
        studies, wants = {}, []
        for i in range(many // 10):
            products = tuple(replace(shapes[j % 5], name=f"{j}", wanted=1) for j in range(10))
            formula = replace(book.formulas[i % 3], name=f"{i}", products=products)
            studies[f"u{i}"] = make_study(formula, known)
            wants += [Want(f"u{i}", p.name, 20 + j) for j, p in enumerate(products)]
        day = Demand("A day", "", tuple(wants))
        timed(
            f"day of {many} products",
            lambda _i, d=day, s=studies: plan_day(d, s, known),
            20,
            "≤ 100" if many == 60 else "linear",
        )


def cold_and_day() -> None:
    """Time the heat of a block, a formula's cold, and days of 3 and 6 pastes through the worker."""
    from threading import Event

    from msgspec.structs import replace

    from aplomb.assets.shipped import demo, reference
    from aplomb.core.cold.conduction import course
    from aplomb.core.cold.course import Air, Body, Phase
    from aplomb.core.day.problem import DayPaste, DayProblem, DayStep, Running, Shift, SideStep
    from aplomb.core.paste.bodies import bodies_of
    from aplomb.core.study.cold import cold_of
    from aplomb.core.study.study import make_study
    from aplomb.work.day.server import Reply
    from aplomb.work.day.solving import DaySolver

    shipped, book = reference(), demo()
    known = replace(shipped, pantry=shipped.pantry.holding(book.items), house=book.house)
    paste = bodies_of(book.formulas[0], known.pantry).paste
    assert paste is not None
    for name, air in (("24 h in a fridge", 4.0), ("24 h in a freezer", -18.0)):
        face = Air(air, 7.0)

        def day_of(_i: int, face: Air = face) -> object:
            return course(Body(paste, 30.0), 20.0, [Phase(1440, face, face)], 41)

        timed(name, day_of, 40, "≤ 10")

    def whole(i: int) -> object:
        own = replace(known.house, shop_c=18 + 0.01 * i)  # nothing is remembered
        study = make_study(book.formulas[0], replace(known, house=own))
        return cold_of(study, known.pantry, own)

    timed("cold of a formula", whole, 8, "beside the window")

    def paste_of(n: int) -> DayPaste:
        steps = [
            DayStep("weigh", 15, ("baker",), 0, 240, 1),
            DayStep("mix", 20, ("baker",), 20, 300, 1),
            *(
                DayStep(
                    f"turn {i}",
                    8 + i,
                    ("baker", "sheeter"),
                    30 if i % 2 else 0,
                    200 if i % 2 else 10,
                    1,
                )
                for i in range(5)
            ),
            DayStep("sheet", 15, ("baker", "sheeter"), 10, 40),
            DayStep("cut", 25 + n, ("baker",), 20, 200, 3),
            *(DayStep(f"oven {i}", 25, ("oven",), 0, 60) for i in range(9)),
            DayStep("cool", 5, (), 30, 300),
            DayStep("pack", 10, ("baker",)),
        ]
        side = SideStep("fat", 10, "turn 0", ("baker",), 20, 240, 1)
        return DayPaste(f"P{n}", tuple(steps), 2250 - 20 * n, None, (side,))

    came = Event()
    seen: dict[str, float] = {}
    begun = [0.0]
    last: list[Reply] = []

    def take(reply: Reply) -> None:
        seen.setdefault(reply.kind, time.perf_counter() - begun[0])
        if reply.kind in ("answer", "trouble", "ready"):
            last[:] = [reply]
            came.set()

    solver = DaySolver(take)
    begun[0] = time.perf_counter()
    solver.warm_up()
    came.wait(60)
    print(f"{'solver up':22} {seen['ready']:.2f} s")
    for many in (3, 6):
        day = DayProblem(
            (Shift(240, 1080), Shift(1680, 2400)),
            tuple(map(paste_of, range(many))),
            fridge_spaces=14,
        )
        came.clear()
        seen.clear()
        begun[0] = time.perf_counter()
        solver.ask(day)
        came.wait(120)
        answer = last[0].answer
        assert answer is not None
        assert answer.plan is not None, answer.because
        plan, steps = answer.plan, sum(len(p.all_steps) for p in day.pastes)
        print(
            f"{f'day of {many} pastes':22} {steps} steps: valid after {1000 * seen['best']:.0f} ms "
            f"(≤ {300 if many == 3 else 5000}), ended after {seen['answer']:.1f} s (≤ 5), "
            f"{plan.elapsed_min} min, at best {plan.best_known}, proven: {plan.proven}"
        )
        if many == 3:
            now = plan.steps[12].start_min + 1
            begun_steps = tuple(s for s in plan.steps if s.start_min < now)
            under = replace(
                day,
                now_min=now,
                so_far=begun_steps,
                overrun_min=120,
                goal="least_late",
                running=Running(begun_steps[-1].paste, begun_steps[-1].step, 20),
            )
            came.clear()
            seen.clear()
            begun[0] = time.perf_counter()
            solver.ask(under)
            came.wait(60)
            print(f"{'planned again':22} valid after {1000 * seen['best']:.0f} ms (≤ 300)")
    solver.close()


def bench_and_trials() -> None:
    """Time a run of the demo's day as it grows, its readings, and learning."""
    import tempfile
    from datetime import UTC, datetime
    from pathlib import Path

    import numpy as np

    from aplomb.assets.shipped import reference
    from aplomb.book.book import Book
    from aplomb.book.runs import ReadingRow
    from aplomb.core.bench.acts import Begin, Count, End, Press
    from aplomb.core.bench.readings import Minute, pack, series, unpack
    from aplomb.core.bench.state import alarms, coming, gone_on, in_order, state_of
    from aplomb.core.trials.model import model_of
    from aplomb.core.trials.next_trial import suggest
    from aplomb.core.trials.trial import Made, Piece, Trial
    from aplomb.work.bench.start import begin, plan_of, ready_formula
    from aplomb.work.open_book.demo import fill_with_demo
    from aplomb.work.open_book.workbench import Workbench

    with tempfile.TemporaryDirectory() as folder:
        work = Workbench(Book(Path(folder) / "b.aplomb"), reference())
        fill_with_demo(work)
        plan = plan_of(ready_formula(work, work.shelf.uid), datetime.now(UTC))
        for many in (200, 2000):
            acts = [act for task in plan.tasks for act in (Begin(task.key), End(task.key))]
            acts += [Count(plan.tasks[1].key, "dust", 1, 10.0)] * (many - len(acts))
            presses = [Press(i, 60.0 * i, "", act) for i, act in enumerate(acts, 1)]
            timed(f"run of {many} presses", lambda _i, p=presses: state_of(plan, p), 40, "linear")
        state = state_of(plan, presses[:20])
        whole = state_of(plan, presses)
        timed("one press more", lambda _i: gone_on(plan, whole, presses[-1]), 200, "≤ 2")

        def look(i: int) -> object:
            order = in_order(coming(plan, state, 60.0 * i), "", {})
            return order, alarms(plan, state, 60.0 * i)

        timed("what wants hands", look, 200, "≤ 2")
        number = begin(work, plan)
        body = pack([12 + i / 100 for i in range(60)])
        for hour in range(12):
            work.book.runs.read(
                number,
                [
                    ReadingRow(f"probe {n}", 60 * hour + m, body)
                    for m in range(60)
                    for n in range(4)
                ],
            )

        def read(_i: int) -> object:
            rows = work.book.runs.readings(number)
            return series(Minute(r.minute, unpack(r.body)) for r in rows if r.probe == "probe 1")

        timed("12 h of four probes", read, 20, "read in ms")
        work.close()
    rng = np.random.default_rng(1)
    kept = [
        Trial(
            f"t{i}",
            "b",
            "f",
            "u",
            "2026-01-01",
            made=Made(
                float(rng.uniform(2, 30)),
                chill_min=float(rng.uniform(20, 140)),
                bake_c=float(rng.uniform(180, 220)),
                baker=str(int(rng.integers(6))),
            ),
            pieces=(Piece(4.0, 4.0 * max(1.0, float(rng.normal(4, 1)))),),
        )
        for i in range(2000)
    ]
    timed("all factors, 2,000", lambda _i: model_of(kept), 10, "≤ 200, beside the window")
    model = model_of(kept[:40])
    limits = {"fat_leaf_um": (5.0, 25.0), "bake_c": (185.0, 215.0)}
    timed("next trial", lambda _i: suggest(model, limits, Made(), rng), 10, "beside the window")


def photograph() -> None:
    """Read, open and measure a photograph of 12 MP in a thread; the longest pause of this one."""
    import threading

    import numpy as np
    from PySide6.QtGui import QImage
    from PySide6.QtWidgets import QApplication

    from aplomb.core.trials.picture import count_leaves
    from aplomb.desk.trials.photo_file import grey_of, opened, take_in

    app = QApplication.instance() or QApplication([])
    noise = (np.random.default_rng(1).random((3000, 4000)) * 255).astype(np.uint8)
    path = Path(HOME) / "12mp.jpg"
    QImage(noise.tobytes(), 4000, 3000, 4000, QImage.Format.Format_Grayscale8).save(str(path))
    made = take_in(path, original=False)
    image = opened(made.body)
    grey = grey_of(image)
    for name, act in (
        ("read 12 MP", lambda: take_in(path, original=False)),
        ("open it", lambda: opened(made.body)),
        ("count leaves", lambda: count_leaves(grey, (1500.0, 10.0), (1500.0, 2200.0))),
    ):
        worker = threading.Thread(target=act)
        begin = last = time.perf_counter()
        worst = 0.0
        worker.start()
        while worker.is_alive():
            app.processEvents()
            time.sleep(0.001)
            now = time.perf_counter()
            worst, last = max(worst, now - last), now
        took = 1000 * (time.perf_counter() - begin)
        print(f"{name:22} {took:.0f} ms, longest pause {1000 * worst:.0f} ms  (≤ 50)")


if __name__ == "__main__":
    print(f"{os.cpu_count()} processors, Python {sys.version.split()[0]}")
    start()
    core()
    desk()
    shelf()
    pantry()
    batch()
    cold_and_day()
    bench_and_trials()
    photograph()
    large_desk()
    print(
        f"peak of this process   {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB"
    )
