"""Elapsed minutes and the clock on the wall: they differ in the night it is put forward or back."""

from datetime import date, datetime, time, timedelta, tzinfo


class DayClock:
    """Turns elapsed minutes from 00:00 of a first day into local time, and back.

    Parameters
    ----------
    first : date
        The first day.
    zone : tzinfo or None
        Where the bakery is; None for this machine's.
    """

    def __init__(self, first: date, zone: tzinfo | None = None) -> None:
        self.first, self._zone = first, zone
        self._midnight = self._wall(first, 0).timestamp()

    def _wall(self, day: date, minutes: int) -> datetime:
        naive = datetime.combine(day, time()) + timedelta(minutes=minutes)
        return naive.replace(tzinfo=self._zone) if self._zone else naive.astimezone()

    def moment(self, elapsed_min: float) -> datetime:
        """Give the local time of elapsed minutes.

        Aware of its zone.
        """
        stamp = self._midnight + 60 * elapsed_min
        if self._zone is not None:
            return datetime.fromtimestamp(stamp, self._zone)
        return datetime.fromtimestamp(stamp).astimezone()

    def elapsed(self, day: int, minute_of_day: int) -> int:
        """Give the elapsed minutes of a time on the wall.

        Parameters
        ----------
        day : int
            0 for the first day.
        minute_of_day : int
            As the clock shows it [min from midnight].

        Returns
        -------
        int
            [min]. A time that the clock leaves out is that much later.
        """
        wall = self._wall(self.first + timedelta(days=day), minute_of_day)
        return round((wall.timestamp() - self._midnight) / 60)

    def elapsed_now(self, now: datetime) -> int:
        """Give the elapsed minutes of a moment [min]; negative before the first day."""
        return int((now.timestamp() - self._midnight) // 60)

    def hours(self, days: int, hours: tuple[tuple[int, int], ...]) -> list[tuple[int, int]]:
        """Give the working hours of so many days as elapsed minutes.

        Parameters
        ----------
        hours : tuple of (from, to)
            Each day [min from midnight].

        Returns
        -------
        list of (from, to)
            [min].
        """
        return [
            (self.elapsed(day, begin), self.elapsed(day, end))
            for day in range(days)
            for begin, end in hours
        ]
