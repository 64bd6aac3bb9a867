"""Press keys and click at random, and say what fell.

The walk runs in a process of its own, so that a crash is found too. Its home is a folder that goes
away with it; nothing outside is touched.
"""

import argparse
import faulthandler
import gc
import json
import os
import shutil
import subprocess
import sys
import tempfile
import time
import traceback
from collections import deque
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Any

GAP_S = 0.5
"""The window may be held so long by one thing that is done, of a usual processor's time [s]."""
USUAL_S = 0.11
"""What `slowness` does takes a usual processor so long [s]."""
UNDO_EVERY = 900
"""How many changes are made before all of them are undone [-]."""
FOUND_AGAIN, AGAIN_MS = 6, 30
"""So often, and after so long, it is asked whether the focus is found again [-, ms]."""
NOT_OURS = ("This plugin does not support", "not accepted by receiving widget")
"""What is said by the platform without a screen, and by the hand that presses."""
LAST_WORDS = 14
"""So many steps before a fault are told [-]."""


def slowness() -> float:
    """Tell how much slower than usual this processor is just now; 1 for one that is not [-]."""
    took = []
    for _ in range(3):
        began = time.thread_time()
        sum(i * i % 7 for i in range(1_000_000))
        took.append(time.thread_time() - began)
    return max(1.0, min(took) / USUAL_S)


def main(arguments: list[str] | None = None) -> int:
    """Run the walk in a process of its own; gives its exit code, 0 when nothing fell."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--seconds", type=float, default=60.0, help="how long")
    parser.add_argument("--seed", type=int, default=1, help="of the walk")
    parser.add_argument("--x", action="store_true", help="real input, through a virtual X server")
    parser.add_argument("--year", action="store_true", help="with the runs of a year in the book")
    parser.add_argument("--inside", default="", help=argparse.SUPPRESS)
    parser.add_argument("--verbose", action="store_true", help="tell every step")
    asked = parser.parse_args(arguments)
    if asked.inside:
        return walk(asked)
    home = tempfile.mkdtemp(prefix="aplomb-press-")
    try:
        return _supervise(asked, Path(home))
    finally:
        shutil.rmtree(home, ignore_errors=True)


def _supervise(asked: argparse.Namespace, home: Path) -> int:
    steps = home / "steps.txt"
    command = [
        sys.executable,
        str(Path(__file__).resolve().parents[2] / "scripts/press_at_random.py"),
        "--seconds",
        str(asked.seconds),
        "--seed",
        str(asked.seed),
        "--inside",
        str(steps),
        *(["--x"] if asked.x else []),
        *(["--verbose"] if asked.verbose else []),
        *(["--year"] if asked.year else []),
    ]
    surroundings = dict(os.environ, APLOMB_HOME=str(home / "aplomb"), HOME=str(home / "user"))
    (home / "user").mkdir()
    surroundings["QT_QPA_PLATFORM"] = "xcb" if asked.x else "offscreen"
    if asked.x:
        command = ["xvfb-run", "-a", "-s", "-screen 0 1600x1200x24", *command]
    done = subprocess.run(command, env=surroundings, check=False, cwd=home)
    if done.returncode < 0 or done.returncode > 1:
        print(f"seed {asked.seed}: it ended with {done.returncode}; the last steps were:")
        print(steps.read_text() if steps.exists() else "none")
        return 1
    return done.returncode


class Watch:
    """What must hold after every step."""

    def __init__(self, window: Any) -> None:
        self.window = window
        self.session = window.session
        self.faults: list[str] = []
        self.counts: dict[str, int] = {}
        self.before: dict[str, Any] = {}
        self.hand = ""
        self.path: Path | None = None
        self.starts: dict[Path, tuple[dict[str, Any], dict[str, str | None], int]] = {}
        self.changes = 0
        self.remember()

    def fault(self, words: str) -> None:
        """Note what fell; the same thing is counted, not told again."""
        self.counts[words] = self.counts.get(words, 0) + 1
        if self.counts[words] == 1:
            self.faults.append(words)

    def remember(self) -> None:
        """Keep what stands before a step."""
        session = self.session
        if session.book.path not in self.starts:
            session.flush()
            self.starts[session.book.path] = (
                {u: e.formula for u, e in session.shelf.entries.items()},
                rows_of(session),
                session.book.history.position(),
            )
        self.path, self.hand = session.book.path, session.uid
        self.before = {u: e.formula for u, e in session.shelf.entries.items()}

    def after(self, done: str) -> None:
        """Hold what stands now against what stood before the step."""
        session = self.session
        if session.book.path == self.path:
            now = {u: e.formula for u, e in session.shelf.entries.items()}
            self._others(done, now)
            self._newcomers(done, now)
            self.changes += now != self.before
        self._windows(done)
        self.remember()

    def _others(self, done: str, now: dict[str, Any]) -> None:
        in_hand = {self.hand, self.session.uid}
        day = self.window.pages.get("demand")
        if day is not None and self.window.page is day:
            return  # it applies its pieces to every formula that the day wants
        for uid in now.keys() & self.before.keys() - in_hand:
            if now[uid] is not self.before[uid] and now[uid] != self.before[uid]:
                self.fault(f"{done}: “{now[uid].name}” changed, which was not in hand")

    def _newcomers(self, done: str, now: dict[str, Any]) -> None:
        from msgspec.structs import replace

        from aplomb.work.open_book.shelf import first_formula

        for uid in now.keys() - self.before.keys():
            new = now[uid]
            if "Control" in done and done.endswith(" N") and new != first_formula(new.name):
                self.fault(f"{done}: a new formula holds something that was typed before")
            old = now.get(self.hand)
            copied = done.endswith("ControlModifier D") and old is not None
            if copied and replace(new, name=old.name) != old:
                self.fault(f"{done}: a copy is another than its original")

    def _windows(self, done: str) -> None:
        from PySide6.QtWidgets import QApplication

        for widget in QApplication.topLevelWidgets():
            if widget.isVisible() and not expected_window(widget, self.window):
                self.fault(f"{done}: a stray window {describe(widget)}")

    def lost_focus(self) -> str:
        """Say where the keyboard is lost; empty while something that is seen has it."""
        from PySide6.QtWidgets import QApplication

        modal = QApplication.activeModalWidget()
        if QApplication.activePopupWidget() is not None:
            return ""
        top = modal or self.window
        if not top.isActiveWindow():
            top.activateWindow()
            return ""
        focus = QApplication.focusWidget()
        if focus is None or not focus.isVisible() or not focus.isEnabled():
            return "a dialog" if modal else "the window"
        return ""

    def undo_all(self) -> None:
        """Undo to the start of this book; it must be as it was when it was first seen."""
        session = self.session
        session.flush()
        if session.journal.trouble:
            return
        formulas, store, stands = self.starts[session.book.path]
        while session.book.history.position() > stands:
            at = session.book.history.position()
            session.journal.undo()
            if session.book.history.position() >= at:
                self.fault(f"undo of “{session.book.history.next_words()[0]}” does not go on")
                break
        now = {u: e.formula for u, e in session.shelf.entries.items()}
        for uid in formulas.keys() | now.keys():
            if formulas.get(uid) != now.get(uid):
                there = formulas.get(uid) or now.get(uid)
                self.fault(f"undone to the start, “{there.name}” is another than it was")
        if store != rows_of(session):
            self.fault("undone to the start, the store is another than it was")
        self.changes = 0
        self.remember()


def rows_of(session: Any) -> dict[str, str | None]:
    """Give the store of the open book."""
    return {kept.key: kept.body for kept in session.store.rows()}


def from_where() -> str:
    """Say which line of the program is at work."""
    frames = [f for f in traceback.extract_stack() if "/aplomb/" in f.filename]
    return f"{Path(frames[-1].filename).name}:{frames[-1].lineno}" if frames else "Qt itself"


def describe(widget: Any) -> str:
    """Say which widget it is."""
    return f"{widget.metaObject().className()} “{widget.objectName()}”"


def expected_window(widget: Any, main: Any) -> bool:
    """True for the window itself, for dialogs and for what pops up."""
    from PySide6.QtCore import Qt
    from PySide6.QtWidgets import QDialog, QMenu

    if isinstance(widget, (type(main), QDialog, QMenu)):
        return True
    return widget.windowType() in (Qt.WindowType.Popup, Qt.WindowType.ToolTip) or (
        widget.metaObject().className() in ("QTipLabel", "QComboBoxPrivateContainer")
    )


def open_shown(path: Path | None, *, demo: bool) -> Any:
    """Open a window as the application does: what is worked out follows its first paint."""
    from aplomb.desk.app import open_window

    def refuse(why: Exception) -> None:
        raise why

    window = open_window(path, demo=demo, unready=refuse)
    window.resize(1280, 800)
    window.show()
    window.activateWindow()
    window.uncaught.spread()
    return window


def make_year(runs: int = 300) -> None:
    """Make the demo book with so many runs that were ended, each with its presses and readings."""
    from aplomb.assets.shipped import reference
    from aplomb.book.book import Book
    from aplomb.book.paths import demo_book
    from aplomb.book.runs import PressRow, ReadingRow
    from aplomb.core.bench.readings import pack
    from aplomb.work.bench.start import begin, plan_of, ready_formula
    from aplomb.work.open_book.demo import fill_with_demo
    from aplomb.work.open_book.workbench import Workbench

    demo_book().parent.mkdir(parents=True, exist_ok=True)
    work = Workbench(Book(demo_book()), reference())
    fill_with_demo(work)
    began = datetime(2025, 12, 1, 5, 0, tzinfo=UTC)
    first = begin(work, plan_of(ready_formula(work, work.shelf.uid), began))
    plan, all_runs = work.book.runs.plan(first), work.book.runs
    acts = ["begin", "end"]
    keys = [task["key"] for task in json.loads(plan)["tasks"]]
    presses = [
        PressRow(i + 1, 60.0 * i, "", f'{{"act":"{acts[i % 2]}","task":{json.dumps(key)}}}')
        for i, key in enumerate(key for key in keys for _ in acts)
    ]
    readings = [ReadingRow("p", n, pack([4.0 + n / 100] * 60)) for n in range(240)]
    for n in range(runs):
        at = began + timedelta(days=n)
        text = plan.replace(began.isoformat(timespec="milliseconds"), at.isoformat())
        number = all_runs.begin("Regatta case paste", at.isoformat(), text)
        all_runs.press(number, presses)
        all_runs.read(number, readings)
        all_runs.end(number, (at + timedelta(hours=8)).isoformat())
    work.close()


def walk(asked: argparse.Namespace) -> int:
    """Walk through the application in this process."""
    # Qt's own warnings and whatever is raised are faults; both are collected before it starts.
    faulthandler.enable()
    from PySide6.QtCore import QEvent, QObject, QTimer, qInstallMessageHandler
    from PySide6.QtWidgets import QWidget

    from aplomb.desk.app import make_application
    from aplomb.desk.kit.collecting import Collector
    from finders.hands import QtHand, XHand
    from finders.walk import Walk, top_widget

    app = make_application()
    app.setQuitOnLastWindowClosed(False)
    if asked.year:
        make_year()
    window = open_shown(None, demo=True)
    gc.freeze()
    collector = Collector(app)
    watch = Watch(window)

    class Shows(QObject):
        """Sees every window that is shown, however shortly."""

        def eventFilter(self, seen: QObject, event: QEvent) -> bool:
            shown = event.type() == QEvent.Type.Show and isinstance(seen, QWidget)
            if shown and seen.isWindow() and not expected_window(seen, watch.window):
                watch.fault(f"a stray window flashes: {describe(seen)}, {from_where()}")
            return False

    shows = Shows()
    app.installEventFilter(shows)

    def heard(_kind: object, _where: object, words: str) -> None:
        if not any(each in words for each in NOT_OURS):
            watch.fault(f"Qt says: {words}")

    qInstallMessageHandler(heard)
    slow = slowness()
    hand = XHand() if asked.x else QtHand()
    way = Walk(window, hand, asked.seed)
    steps: deque[str] = deque(maxlen=LAST_WORDS)
    log = Path(asked.inside)
    end = time.monotonic() + asked.seconds
    state = {"steps": 0, "told": 0, "worst": 0.0, "began": 0.0, "waited": 0}

    def tell_faults() -> None:
        new = [*watch.faults[state["told"] :]]
        state["told"] = len(watch.faults)
        for words in new:
            print(f"seed {asked.seed}, step {state['steps']}: {words}")
            for each in steps:
                print(f"    {each}")
        sys.stdout.flush()

    def act() -> None:
        QTimer.singleShot(max(1, hand.pause_ms), set_house)  # first: a dialog may hold this call
        state["steps"] += 1
        hand.turns += 1
        hand.longest_s = 0.0
        steps.append("…")
        log.write_text("\n".join(steps))
        state["began"] = time.thread_time()  # a step that opens a dialog is looked at from inside
        done = way.step()
        steps[-1] = done
        state["began"] = time.thread_time()
        if asked.verbose:
            print(f"{state['steps']} {done}", flush=True)

    def reopen() -> None:
        """The window was closed: what it held must be there when it is opened again."""
        held = {u: e.formula for u, e in watch.session.shelf.entries.items()}
        path = watch.session.book.path
        new = open_shown(path, demo=False)
        if held != {u: e.formula for u, e in new.session.shelf.entries.items()}:
            watch.fault(f"{steps[-1]}: what was held when it was closed is not what was kept")
        way.main = watch.window = new
        watch.session = new.session
        seen.clear()
        watch.remember()

    def set_house() -> None:
        QTimer.singleShot(max(1, hand.pause_ms), look)

    def look() -> None:
        if not watch.window.isVisible():
            reopen()
        lost = watch.lost_focus()
        if lost and state["waited"] < FOUND_AGAIN:
            state["waited"] += 1
            QTimer.singleShot(AGAIN_MS, look)
            return
        state["waited"] = 0
        if lost:
            watch.fault(f"{steps[-1]}: the focus is lost ({lost})")
        spent = max(hand.longest_s, time.thread_time() - state["began"])
        state["worst"] = max(state["worst"], spent)
        if spent > GAP_S * slow:
            watch.fault(f"the window was held for {spent:.2f} s by: {steps[-1]}")
        for report in watch.window.uncaught.faults[len(seen) :]:
            seen.append(report)
            watch.fault(f"raised: {report}")
        watch.after(steps[-1] if steps else "")
        if watch.changes > UNDO_EVERY and top_widget(watch.window) is watch.window:
            watch.undo_all()
        if state["told"] < len(watch.faults):
            tell_faults()
        if time.monotonic() > end or len(watch.faults) > 60:
            finish()
        else:
            QTimer.singleShot(0, act)

    def finish() -> None:
        top = top_widget(watch.window)
        if top is not watch.window:
            top.close()
            QTimer.singleShot(20, finish)
            return
        watch.undo_all()
        tell_faults()
        watch.window.close()
        app.quit()

    seen: list[str] = []
    QTimer.singleShot(50, act)
    app.exec()
    collector.deleteLater()
    print(
        f"seed {asked.seed}: {state['steps']} steps in {asked.seconds:.0f} s, "
        f"{len(watch.faults)} faults, longest hold {state['worst']:.2f} s of processor time"
    )
    sys.stdout.flush()
    os._exit(1 if watch.faults else 0)
