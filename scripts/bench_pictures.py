"""Pictures of the bench: a run of the demo's regatta paste on a clock put on by hand."""

import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QEventLoop, QTimer

from aplomb.book.settings import ProbeSetting
from aplomb.desk.bench.hub import Hub
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


def kept(hub: Hub) -> None:
    """Wait until what was pressed is in the book."""
    while hub.run is not None and hub.run.waiting:
        wait(5)


def step(hub: Hub, hand: HandClock) -> None:
    """Do what comes next, as a baker for whom all goes well."""
    run, now = hub.run, hub.current()
    assert run is not None
    assert now is not None
    line = hub.line()
    if hub.ringing() is None and line is not None:
        weighing = hub.weighing()
        assert weighing is not None
        weighing.take(line.step.target_g, "scale")
    elif hub.face == "ask":
        hub.answer("right")
    elif hub.ringing() is None and now.status in ("resting", "held"):
        hand.on(60)
        wait(12)
    elif hub.ringing() is None and now.status == "doing":
        hand.on(45 * now.task.minutes)
        hub.go_on()
    else:
        hub.go_on()
    kept(hub)


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
    hub = window.bench.hub
    while hub.run is None:
        wait(10)

    def until(kind: str, *statuses: str) -> None:
        for _ in range(MOST_STEPS):
            now = hub.current()
            there = now is not None and now.task.kind == kind and now.status in statuses
            if there and hub.ringing() is None and hub.face == "step":
                return
            step(hub, hand)

    def grab(name: str) -> None:
        wait(400)
        hub.told = ""
        window.bench.screen_.refresh()
        wait(60)
        if wanted(name):
            window.grab().save(str(folder / f"{name}.png"))
            print(name)

    until("mix", "doing")
    for _ in range(3):
        hub.do(lambda run: run.count("water", 1))
        kept(hub)
    hand.on(130)
    grab("bench-mix")
    until("turn", "doing")
    hand.on(70)
    hub.do(lambda run: run.count("dust", 1))
    kept(hub)
    grab("bench-turn")
    until("turn", "resting")
    while True:
        now = hub.current()
        assert now is not None
        assert hub.run is not None
        if now.ready_s is None or now.ready_s - hub.run.now_s < 400:
            break
        hand.on(10)
        wait(14)
        if hub.ringing() is not None:
            hub.go_on()
            kept(hub)
    grab("bench-rest")
    window.bench.leave_screen()
