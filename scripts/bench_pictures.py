"""Pictures of the bench: a run of the demo's regatta paste on a clock put on by hand."""

import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer

from aplomb.book.settings import ProbeSetting
from aplomb.desk.bench.run_control import RunControl
from aplomb.desk.shell.window import Window
from aplomb.devices.simulated import SimulatedDevice
from aplomb.work.bench import run as runs
from aplomb.work.bench.clock import RunClock
from aplomb.work.commands import BENCH

MOST_STEPS = 400


class HandClock:
    """Time that passes when it is told to."""

    def __init__(self) -> None:
        self.wall_s, self.machine_s = time.time(), 0.0

    def on(self, seconds: float) -> None:
        """Let so much pass [s]."""
        self.wall_s += seconds
        self.machine_s += seconds


def wait(ms: int) -> None:
    """Let the window live for a while."""
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


def kept(control: RunControl) -> None:
    """Wait until what was pressed is in the book."""
    while control.run is not None and control.run.waiting:
        wait(5)


def step(control: RunControl, hand: HandClock) -> None:
    """Do what comes next, as a baker for whom all goes well."""
    run, now = control.run, control.current()
    assert run is not None
    assert now is not None
    line = control.line()
    if control.ringing() is None and line is not None:
        weighing = control.weighing()
        assert weighing is not None
        weighing.take(line.step.target_g, "scale")
    elif control.face == "ask":
        control.answer("right")
    elif control.ringing() is None and now.status in ("resting", "held"):
        hand.on(60)
        wait(12)
    elif control.ringing() is None and now.status == "doing":
        hand.on(45 * now.task.minutes)
        control.go_on()
    else:
        control.go_on()
    kept(control)


def take_bench(window: Window, folder: Path, wanted: Callable[[str], bool]) -> None:
    """Take the pictures of the bench whose names are wanted."""
    names = ("bench-mix", "bench-turn", "bench-rest")
    if not any(wanted(name) for name in names):
        return
    hand = HandClock()
    runs.RunClock = lambda begun, quick: RunClock(  # type: ignore[assignment,misc]
        begun, quick, lambda: hand.wall_s, lambda: hand.machine_s
    )
    SimulatedDevice.every_s = 0.01
    window.session.keep(probes=(ProbeSetting("probe A1"), ProbeSetting("probe A2")), sound=False)
    window.session.shelf.select(next(iter(window.session.shelf.entries)))
    window.show_stage(BENCH)
    window.bench.begin_one.click()
    control = window.bench.control
    while control.run is None:
        wait(10)

    def until(kind: str, *statuses: str) -> None:
        for _ in range(MOST_STEPS):
            now = control.current()
            there = now is not None and now.task.kind == kind and now.status in statuses
            if there and control.ringing() is None and control.face == "step":
                return
            step(control, hand)

    def grab(name: str) -> None:
        wait(400)
        control.told = ""
        window.bench.screen_.refresh()
        wait(60)
        if wanted(name):
            window.grab().save(str(folder / f"{name}.png"))
            print(name)

    until("mix", "doing")
    for _ in range(3):
        control.do(lambda run: run.count("water", 1))
        kept(control)
    hand.on(130)
    grab("bench-mix")
    until("turn", "doing")
    hand.on(70)
    control.do(lambda run: run.count("dust", 1))
    kept(control)
    grab("bench-turn")
    until("turn", "resting")
    while True:
        now = control.current()
        assert now is not None
        assert control.run is not None
        if now.ready_s is None or now.ready_s - control.run.now_s < 400:
            break
        hand.on(10)
        wait(14)
        if control.ringing() is not None:
            control.go_on()
            kept(control)
    grab("bench-rest")
    window.bench.leave_screen()
