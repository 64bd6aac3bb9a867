"""Say nonsense in the voice of every device: it is refused in words, or kept and read again."""

import random
import tempfile
from collections import Counter
from pathlib import Path

from aplomb.assets.shipped import reference
from aplomb.book.book import Book
from aplomb.core.bench.acts import Temp, check_act
from aplomb.core.bench.readings import OVEN_AIR, RANGES
from aplomb.devices.protocol import (
    Oven,
    ProtocolError,
    Reading,
    Weight,
    read_line,
    read_oven_line,
    read_probe_line,
)
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.start import begin, plan_of, ready_formula
from aplomb.work.bench.watch import Probes
from aplomb.work.open_book.demo import fill_with_demo
from aplomb.work.open_book.workbench import Workbench
from finders.plans import BEGUN
from finders.texts import where

KINDS = {"scale": read_line, "probe": read_probe_line, "oven": read_oven_line}
NUMBERS = (
    "0", "4.5", "-80", "-80.1", "320", "320.1", "327.7", "480", "600", "600.1", "1e5", "nan", "inf",
    "-0", "999999999", "9999999999", "1,5", ".5", "5.", "--5", "1000000", "-273.15", "0x10", "٣",
)  # fmt: skip
SIGNS = (b"", b" ", b"\r", b"\x00", b"\xff", b"\xe2\x82", b"\x1b[2J", b"\t", b"x" * 300, b"\n")


def any_line(pick: random.Random, kind: str) -> bytes:
    """Make a line that a device of a kind might send, or should not."""
    n, m = pick.choice(NUMBERS), pick.choice(NUMBERS)
    unit = pick.choice(("C", "F", "K", "c", "", "g", "kg"))
    line = pick.choice(
        (
            f"weight {n} {unit} {pick.choice(('steady', 'moving', 'asleep'))}",
            f"temp {n} {unit}",
            f"temp {n} {unit} at {m} min",
            f"oven {n} {unit} set {m} {unit}",
            f"oven {n} {unit} off",
            f"oven {n} C off door open",
            f"scale X most {n} g step {m} g",
            "fault",
            f"fault {n}",
            f"{kind} {n}",
            "done tare",
            "",
        )
    )
    data = line.encode()
    for _ in range(pick.choice((0, 0, 0, 1, 3))):
        at = pick.randrange(len(data) + 1)
        data = data[:at] + pick.choice(SIGNS) + data[at:]
    return data


def find(cases: int, start: int = 0) -> tuple[Counter[str], dict[str, int], int]:
    """Say so many lines; gives faults, the first case of each, and how many were understood."""
    faults: Counter[str] = Counter()
    first: dict[str, int] = {}
    understood = 0
    with tempfile.TemporaryDirectory(prefix="aplomb-devices-") as folder:
        work = Workbench(Book(Path(folder) / "demo.aplomb"), reference())
        fill_with_demo(work)
        number = begin(work, plan_of(ready_formula(work, work.shelf.uid), BEGUN))
        run = LiveRun(work.book, number, work.store.reference.pantry, wait=True)
        probes = Probes(run, work.book.runs)
        for case in range(start, start + cases):
            pick = random.Random(case)
            kind = pick.choice(tuple(KINDS))
            line = any_line(pick, kind)
            words = ""
            try:
                said = KINDS[kind](line)
                understood += 1
                words = _kept(probes, kind, said)
            except ProtocolError as error:
                words = "" if str(error) else "refused without a word"
            except Exception as error:  # noqa: BLE001  # this is what is looked for
                words = f"{kind}: {where(error)}"
            if words:
                faults[words] += 1
                first.setdefault(words, case)
        run.writer.drain()
        run.close()
        work.close()
    return faults, first, understood


def _kept(probes: Probes, kind: str, said: object) -> str:
    """Keep what was said as a run does; gives what is wrong with how that went."""
    if isinstance(said, Weight):
        return "" if abs(said.grams) <= 1e6 else "a weight beyond all scales"
    if not isinstance(said, Reading | Oven):
        return ""
    low, high = RANGES[kind]
    if not low <= said.temp_c <= high:
        return f"{kind}: read beyond its range"
    name = OVEN_AIR if kind == "oven" else "p"
    probes.hear(name, said.temp_c)
    if name in probes.unkept:
        return f"{kind}: read and not kept"
    check_act(Temp("A", "of the oven", said.temp_c, name))
    probes.keep(0.0, all_of_it=True)
    probes._run.writer.drain()
    back = probes.kept(name)[1]
    return "" if back and abs(back[-1] - said.temp_c) <= 0.051 else f"{kind}: kept as another"
