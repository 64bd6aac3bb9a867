"""A disk that is really full: a small one in memory, filled to the last page, then given room."""

import os
import random
import shutil
import subprocess
import tempfile
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QCoreApplication

from aplomb.book.book import Book
from aplomb.book.changes import Kept, StoreChange
from aplomb.core.paste.formula import Formula
from aplomb.desk.session import Session
from finders.texts import where


@contextmanager
def small_disk(kilobytes: int) -> Iterator[Path]:
    """Mount a disk of that size; raises OSError where that may not be done."""
    folder = Path(tempfile.mkdtemp(prefix="aplomb-disk-"))
    size = f"size={kilobytes}k,nr_inodes=400"
    done = subprocess.run(
        ["mount", "-t", "tmpfs", "-o", size, "tmpfs", folder], capture_output=True, check=False
    )
    if done.returncode:
        folder.rmdir()
        raise OSError(done.stderr.decode())
    try:
        yield folder
    finally:
        subprocess.run(["umount", "-l", folder], check=False)
        shutil.rmtree(folder, ignore_errors=True)


def fill(path: Path, leave: int) -> None:
    """Write a file until only so many bytes are left."""
    found = os.statvfs(path.parent)
    with path.open("ab") as file:
        room = found.f_bavail * found.f_frsize - leave
        try:
            while room > 0:
                file.write(bytes(min(room, 65_536)))
                room -= 65_536
            file.flush()
        except OSError:
            return


def held(rng: random.Random, folder: Path) -> str:
    """Work on a disk that gets full, then give it room; gives what is wrong with how that went."""
    session = Session(Book(folder / "a.aplomb"))
    session.shelf.add(Formula("Kiosk"), "new formula")
    if rng.random() < 0.4:  # a large book
        for n in range(rng.choice((3, 12))):
            big = Kept(f"rumour/{n}", "x" * 900_000)
            session.book.record([StoreChange("a", (Kept(big.key, None),), (big,))])
    session.flush()
    filler = folder / "filler"
    fill(filler, rng.choice((0, 0, 4096, 8192, 20_000, 60_000)))
    edits = rng.choice((1, 2, 5, 30))
    large = rng.random() < 0.5
    for n in range(edits):
        note = f"edit {n} " + ("y" * rng.choice((1500, 1900)) if large else "")
        session.shelf.edit("note", lambda f, note=note: replace(f, note=note))
        if rng.random() < 0.7:
            session.flush()
    if large:
        more = Kept("rumour/more", "z" * rng.choice((50_000, 3_000_000)))
        session.journal.note(StoreChange("more", (Kept(more.key, None),), (more,)))
    for _ in range(3):
        session.flush()
    trouble, waiting = session.journal.trouble, session.journal.unwritten
    if waiting and not trouble:
        return "changes wait without a word"
    if trouble and "full" not in trouble:
        return f"a full disk is called: {trouble[:70]}"
    wanted = session.formula
    filler.unlink()
    if not session.flush() or session.journal.unwritten:
        return f"room was made, and it still does not write: {session.journal.trouble[:70]}"
    if not session.close():
        return "it does not close"
    again = Book(folder / "a.aplomb")
    try:
        if again.read_only:
            return f"opened again: {again.read_only[:70]}"
        if [e.formula for e in again.entries()] != [wanted]:
            return "opened again, it is not what was written"
        if large and not any(kept.key == "rumour/more" for kept in again.store()):
            return "opened again, a large row is missing"
    finally:
        again.close()
    return ""


def find(cases: int, start: int = 0) -> tuple[Counter[str], dict[str, int]]:
    """Fill so many disks; gives faults with how often, and the first case of each."""
    app = QCoreApplication.instance() or QCoreApplication([])
    faults: Counter[str] = Counter()
    first: dict[str, int] = {}
    for case in range(start, start + cases):
        rng = random.Random(case)
        with small_disk(rng.choice((48_000, 64_000))) as folder:
            try:
                words = held(rng, folder)
            except Exception as error:  # noqa: BLE001  # this is what is looked for
                words = where(error)
        if words:
            faults[words] += 1
            first.setdefault(words, case)
    del app
    return faults, first
