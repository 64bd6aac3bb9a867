"""What is in cycles is let go of in the window's thread, whoever allocates."""

import gc
import threading

from aplomb.desk.kit.collecting import Collector


class Told:
    """Part of a cycle; tells in which thread it goes."""

    def __init__(self, threads):
        self.me, self.threads = self, threads

    def __del__(self):
        self.threads.append(threading.current_thread())


def test_a_cycle_goes_in_the_windows_thread(qapp, qtbot):
    where = []
    made = Collector()
    gc.collect()
    Told(where)

    def allocate():
        kept = [[] for _ in range(20_000)]  # far beyond Python's own threshold
        kept.clear()

    busy = threading.Thread(target=allocate)
    busy.start()
    busy.join()
    assert not where, "nothing is collected beside the window"
    Told(where)
    kept = [[] for _ in range(2000)]
    qtbot.waitUntil(lambda: len(where) == 2, timeout=20_000)
    assert set(where) == {threading.main_thread()}
    assert len(kept) == 2000
    assert not gc.isenabled()
    made.deleteLater()
