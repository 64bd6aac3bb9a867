"""The clock of a run: seconds since it began, which only go on, whatever the wall says."""

import time
from collections.abc import Callable
from datetime import datetime, timedelta

NOTICED_S = 1.0
"""The computer's clock was moved when it is off by more than that [s]."""


FARTHEST_S = 6e9
"""No moment of a run is farther from its beginning, whatever damage says [s]."""


def machine_s() -> float:
    """Seconds that go on while the machine sleeps too, and that nobody can set [s]."""
    return time.clock_gettime(time.CLOCK_BOOTTIME)


class RunClock:
    """Seconds since a run began.

    Parameters
    ----------
    begun : datetime
        By the wall, with its zone.
    quick : float
        So many of its seconds pass in one of ours [-].
    wall : callable
        Gives the wall's time as seconds since 1970 [s].
    machine : callable
        Gives seconds that nobody can set [s].

    Attributes
    ----------
    shift_s : float
        What the wall was moved by since the run began, in the run's own seconds [s].

    Notes
    -----
    Within one process the wall is held against the machine's own count; over a restart against
    the last press.
    """

    def __init__(
        self,
        begun: datetime,
        quick: float = 1.0,
        wall: Callable[[], float] = time.time,
        machine: Callable[[], float] = machine_s,
    ) -> None:
        self.begun, self.quick = begun, quick
        self._start = begun.timestamp()
        self._wall, self._machine = wall, machine
        self.shift_s = 0.0
        self._here = begun.astimezone().utcoffset() == begun.utcoffset()
        self._based = (wall(), machine())

    def now_s(self) -> float:
        """Seconds since the run began; never before its start [s]."""
        return max(0.0, (self._wall() - self._start) * self.quick + self.shift_s)

    def go_on_from(self, last_s: float) -> float | None:
        """After a restart: what must be added when the wall says less than the last press [s].

        None when it does not.
        """
        missing = last_s - ((self._wall() - self._start) * self.quick + self.shift_s)
        if missing <= NOTICED_S * self.quick:
            return None
        self.shift_s += missing
        return missing

    def moved(self) -> float | None:
        """Tell what the wall was moved by since this was last asked, and make up for it [s].

        None when it was not.
        """
        wall, machine = self._wall(), self._machine()
        off = (wall - self._based[0]) - (machine - self._based[1])
        if abs(off) <= NOTICED_S:
            return None
        self._based = (wall, machine)
        added = -off * self.quick
        self.shift_s += added
        return added

    def moment(self, at_s: float) -> datetime:
        """Give what the wall shows, or would, at a moment of the run [s].

        By the zone of this machine, summer time and all, for a run that was begun in it.
        """
        since_s = (at_s - self.shift_s) / self.quick
        shown = self.begun + timedelta(seconds=max(-FARTHEST_S, min(FARTHEST_S, since_s)))
        return shown.astimezone() if self._here else shown

    def wall_text(self) -> str:
        """Write what the wall shows now, ISO 8601."""
        return datetime.fromtimestamp(self._wall()).astimezone().isoformat(timespec="milliseconds")
