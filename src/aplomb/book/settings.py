"""Settings of the application: one declared table, kept as JSON."""

from pathlib import Path
from typing import Annotated, Literal

import msgspec

from aplomb.book.paths import settings_file


class ProbeSetting(msgspec.Struct, frozen=True):
    """A probe of the bench: its name, and where it is found; empty for a simulated one."""

    name: str
    port: str = ""


class Settings(msgspec.Struct, frozen=True):
    """What the user has set.

    Attributes
    ----------
    text_pct : int
        Size of text, 80 to 200 [%].
    opinion_open : bool
        Whether the second opinion is unfolded.
    section_open : bool
        Whether the section is shown below Paste and Folds.
    last_book : str
        The book opened last; empty for the user's own.
    scale_port, probe_port : str
        A serial port or an address; empty for the simulated one.
    oven_port : str
        As those.
    probes : tuple of ProbeSetting
        Probes of the bench.
    screen_px_mm : float
        Pixels to a millimetre on this screen, as measured; 0 for what the screen says of itself.
    sound : bool
        Whether alarms are heard too.
    """

    theme: Literal["light", "dark"] = "light"
    text_pct: Annotated[int, msgspec.Meta(ge=80, le=200)] = 100
    opinion_open: bool = True
    section_open: bool = True
    last_book: str = ""
    scale_port: str = ""
    probe_port: str = ""
    oven_port: str = ""
    probes: tuple[ProbeSetting, ...] = ()
    screen_px_mm: Annotated[float, msgspec.Meta(ge=0, le=100)] = 0.0
    sound: bool = True


def load(path: Path | None = None) -> Settings:
    """Read the settings; what cannot be read counts as not set."""
    try:
        return msgspec.json.decode((path or settings_file()).read_bytes(), type=Settings)
    except (OSError, msgspec.DecodeError):
        return Settings()


def keep(settings: Settings, path: Path | None = None) -> None:
    """Keep the settings; a disk that refuses costs only the setting, so it is not reported."""
    where = path or settings_file()
    try:
        where.parent.mkdir(parents=True, exist_ok=True)
        beside = where.with_suffix(".new")
        beside.write_bytes(msgspec.json.format(msgspec.json.encode(settings), indent=1))
        beside.replace(where)
    except OSError:
        return
