"""A bench in a window: its clock is put on by hand, its stand-ins speak quickly."""

import time
from collections.abc import Callable
from datetime import datetime
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from aplomb.core.bench.acts import End
from aplomb.desk.shell.window import Window
from aplomb.devices.simulated import SimulatedDevice
from aplomb.work.bench.clock import RunClock
from aplomb.work.commands import BENCH

K = Qt.Key


class HandClock:
    def __init__(self) -> None:
        self.wall_s = time.time()
        self.machine_s = 500.0

    def on(self, seconds: float) -> None:
        self.wall_s += seconds
        self.machine_s += seconds


@pytest.fixture
def hand(monkeypatch: pytest.MonkeyPatch) -> HandClock:
    made = HandClock()

    def clock(begun: datetime, quick: float) -> RunClock:
        return RunClock(begun, quick, lambda: made.wall_s, lambda: made.machine_s)

    monkeypatch.setattr("aplomb.work.bench.run.RunClock", clock)
    monkeypatch.setattr(SimulatedDevice, "every_s", 0.01)
    monkeypatch.setattr("aplomb.desk.bench.screen.SCAN_MS", 0)
    return made


class AtBench:
    """Someone at the bench, with keys only."""

    def __init__(self, window: Window, qtbot: QtBot, hand: HandClock) -> None:
        self.window, self.qtbot, self.hand = window, qtbot, hand
        self.weighs = False
        """Whether every line is weighed out; else the weighing is ended at once."""

    @property
    def stage(self) -> Any:
        return self.window.bench

    @property
    def control(self) -> Any:
        return self.stage.control

    @property
    def run(self) -> Any:
        return self.control.run

    @property
    def screen(self) -> Any:
        return self.stage.screen_

    def kept(self) -> None:
        end = time.monotonic() + 30
        while self.run is not None and (self.run.waiting or self.control._next):
            assert time.monotonic() < end
            QApplication.processEvents()
            time.sleep(0.0005)
        QApplication.processEvents()

    def key(self, key: Qt.Key, mods: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
        self.qtbot.keyClick(QApplication.focusWidget() or self.screen, key, mods)
        self.screen.act_on_typed()
        self.kept()

    def text(self, words: str) -> None:
        self.qtbot.keyClicks(QApplication.focusWidget(), words)
        self.qtbot.keyClick(QApplication.focusWidget(), K.Key_Return)
        self.kept()

    def begin(self) -> "AtBench":
        """Begin a run of the formula in hand."""
        self.window.show_stage(BENCH)
        self.stage.begin_one.setFocus()
        self.qtbot.keyClick(self.stage.begin_one, K.Key_Space)
        self.qtbot.waitUntil(lambda: self.screen.isVisible(), timeout=30_000)
        self.kept()
        return self

    def weigh_all(self) -> None:
        while self.control.line() is not None:
            self.weigh_line()

    def weigh_line(self) -> None:
        target, devices = self.control.line().step.target_g, self.control.devices
        self.key(K.Key_G, Qt.KeyboardModifier.ControlModifier)
        self.qtbot.waitUntil(
            lambda: devices.steady and devices.grams == pytest.approx(round(target), abs=0.51),
            timeout=30_000,
        )
        self.key(K.Key_Space)

    def step(self, answers: dict[str, str] | None = None) -> str:
        """Do what the screen wants next, with keys; gives the key of the task."""
        now = self.control.current()
        if self.control.ringing() is None and self.control.face == "step":
            if now.status in ("resting", "held", "waiting"):
                ready = [c.ready_s for c in self.run.order() if c.ready_s is not None]
                self.hand.on(max(1.0, min(ready) - self.run.now_s + 1.0))
                return now.task.key
            if now.status == "doing" and not now.task.hands:
                self.hand.on(60 * now.task.minutes + 1)
                return now.task.key
        if self.control.line() is not None and self.control.ringing() is None:
            if self.weighs:
                self.weigh_all()
            else:
                self.run.press(End(now.task.key))
                self.kept()
            return now.task.key
        if self.control.face == "ask":
            wanted = (answers or {}).pop(self.run.asking.key, "right")
            keys = [s.key for s in self.run.states()]
            self.key(getattr(K, f"Key_{keys.index(wanted) + 1}"))
            return now.task.key
        before = self.run.state.tasks[now.task.key].begun_s
        self.key(K.Key_Space)
        if before is None and self.run.state.tasks[now.task.key].begun_s is not None:
            self.hand.on(60 * now.task.minutes)
        return now.task.key

    def until(
        self, test: Callable[[Any], bool], most: int = 600, answers: dict[str, str] | None = None
    ) -> Any:
        """Work on until something holds."""
        for _ in range(most):
            if test(self.control.current()):
                return self.control.current()
            self.step(answers)
        raise AssertionError("it does not come to that")


@pytest.fixture
def at_bench(window: Window, qtbot: QtBot, hand: HandClock) -> AtBench:
    return AtBench(window, qtbot, hand)
