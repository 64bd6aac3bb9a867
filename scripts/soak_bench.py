"""Soak the bench: a simulated day of one paste in three blocks, at 100 × speed, with keys alone.

``python scripts/soak_bench.py [--quick 100] [--hours 12] [--book FILE]`` runs offscreen in real
time (twelve hours at 100 × are seven minutes) against the simulated scale, probes and oven, and
says what it found: steps, presses, alarms, the size of the readings, the longest the window was
held, and whether the record says what was done. It ends with 1 when something does not hold.
"""

import argparse
import os
import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
os.environ["APLOMB_HOME"] = tempfile.mkdtemp(prefix="aplomb-soak-")
sys.path.insert(0, str(ROOT / "src"))

from PySide6.QtCore import QEvent, QObject, Qt  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402
from PySide6.QtWidgets import QApplication  # noqa: E402

from aplomb.book.book import Book  # noqa: E402
from aplomb.core.bench.acts import End, Quiet, Seen  # noqa: E402
from aplomb.core.bench.state import state_of  # noqa: E402
from aplomb.desk.app import make_application  # noqa: E402
from aplomb.desk.bench import stage as stages  # noqa: E402
from aplomb.desk.session import Session  # noqa: E402
from aplomb.desk.shell.window import Window  # noqa: E402
from aplomb.work.bench.run import read_plan, read_presses  # noqa: E402
from aplomb.work.commands import BENCH  # noqa: E402
from aplomb.work.open_book.demo import fill_with_demo  # noqa: E402


class Meter(QObject):
    """How long the event loop is away at the most [s]."""

    def __init__(self) -> None:
        super().__init__()
        self.worst_s, self._last = 0.0, time.thread_time()
        self.startTimer(5)

    def timerEvent(self, _event: QEvent) -> None:
        """Take the processor time since the last turn."""
        now = time.thread_time()
        self.worst_s = max(self.worst_s, now - self._last)
        self._last = now


def main() -> int:
    """Run it."""
    ask = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    ask.add_argument("--quick", type=float, default=100.0)
    ask.add_argument("--hours", type=float, default=12.0)
    ask.add_argument("--book", type=Path, default=Path(os.environ["APLOMB_HOME"]) / "soak.aplomb")
    asked = ask.parse_args()
    stages.REHEARSAL = asked.quick
    app = make_application()
    session = Session(Book(asked.book))
    fill_with_demo(session.work)
    window = Window(session)
    window.resize(1280, 800)
    window.show()
    window.show_stage(BENCH)
    session.flush()
    window.bench.rehearse.setChecked(True)
    window.bench.begin_one.click()
    control, screen = window.bench.control, window.bench.screen_
    while control.run is None:
        QApplication.processEvents()
    meter = Meter()
    size = asked.book.stat().st_size
    began, soft, looked = time.monotonic(), 0, 0

    def live(ms: int) -> None:
        end = time.monotonic() + ms / 1000
        while time.monotonic() < end:
            QApplication.processEvents()
            time.sleep(0.003)

    def key(which: Qt.Key, mods: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        QTest.keyClick(screen, which, mods)
        live(30)

    run = control.run
    assert run is not None
    while run.now_s < 3600 * asked.hours:
        now = control.current()
        if now is None:
            break
        if control.ringing() is not None:
            key(Qt.Key.Key_Space)
        elif control.face == "ask":
            looked += 1
            bad = looked % 7 == 3 and now.task.kind == "turn"
            soft += bad
            key(Qt.Key.Key_2 if bad else Qt.Key.Key_1)
        elif control.line() is not None:
            key(Qt.Key.Key_G, Qt.KeyboardModifier.ControlModifier)
            live(700)
            key(Qt.Key.Key_Space)
        elif now.status in ("resting", "held", "waiting"):
            live(100)
        elif now.status == "doing" and run.now_s - (now.ready_s or 0) < 40 * now.task.minutes:
            live(60)
        else:
            key(Qt.Key.Key_Space)
    live(500)
    control.probes.keep(0.0, all_of_it=True)
    run.writer.drain()
    number, state, at = run.number, run.state, run.now_s
    grew = asked.book.stat().st_size - size
    faults = list(window.uncaught.faults)
    window.close()
    book = Book(asked.book)
    again = state_of(read_plan(book, number), read_presses(book, number))
    presses = read_presses(book, number)
    begun = time.perf_counter()
    rows = book.runs.readings(number)
    read_ms = 1000 * (time.perf_counter() - begun)
    book.close()
    done = sum(isinstance(p.act, End) for p in presses)
    alarms = sum(isinstance(p.act, Quiet) for p in presses)
    seen = sum(isinstance(p.act, Seen) and p.act.state == "soft" for p in presses)
    wrong = []
    if again.tasks != state.tasks:
        wrong.append("what is in the book is not what was shown")
    if seen != soft:
        wrong.append(f"{soft} blocks were too soft, {seen} are in the record")
    if faults:
        wrong.append(f"raised: {faults[0]}")
    told = (
        f"{at / 3600:.1f} h in {time.monotonic() - began:.0f} s; {done} steps",
        f"{len(presses)} presses, {alarms} alarms, {seen} too soft",
        f"{len(rows)} minutes of readings, book + {grew / 1000:.0f} kB, read in {read_ms:.1f} ms",
        f"longest hold {1000 * meter.worst_s:.0f} ms",
        "; ".join(wrong) or "all holds",
    )
    sys.stdout.write("; ".join(told) + "\n")
    del app
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.stdout.flush()
    code = main()
    sys.stdout.flush()
    os._exit(code)
