"""The line protocol of scales, probes and ovens, read and written. docs/devices.md has it."""

import math
import re

from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.bench.readings import RANGES

LONGEST_LINE = 200
"""Bytes; a longer line is no line of this protocol."""
MOST_G = 1_000_000.0


class ProtocolError(AplombError):
    """A line that a device sent cannot be read."""


class Weight(Struct, frozen=True):
    """What lies on a scale.

    Attributes
    ----------
    grams : float
        Above the tare [g].
    steady : bool
        False while it is still moving.
    """

    grams: float
    steady: bool


class Identity(Struct, frozen=True):
    """What a scale says of itself.

    Attributes
    ----------
    most_g, step_g : float
        Its most, and its division [g].
    """

    name: str
    most_g: float
    step_g: float


class Reading(Struct, frozen=True):
    """What a probe shows.

    Attributes
    ----------
    minutes : float or None
        Since the probe began to log [min]; None where it does not say.
    """

    temp_c: float
    minutes: float | None = None


class Oven(Struct, frozen=True):
    """What an oven shows.

    Attributes
    ----------
    temp_c : float
        Its air [°C].
    set_c : float or None
        What it is set to [°C]; None while it is off.
    """

    temp_c: float
    set_c: float | None
    door_open: bool = False


class Named(Struct, frozen=True):
    """A probe or an oven says who it is."""

    kind: str
    name: str


class Done(Struct, frozen=True):
    """A command was carried out: ``tare``."""

    what: str


class Fault(Struct, frozen=True):
    """A device says what is wrong with it."""

    words: str


Message = Weight | Identity | Reading | Oven | Named | Done | Fault

TARE, WHO = b"tare\n", b"who\n"
"""What is said to a scale; probes and ovens are only asked `WHO`: no oven is set from here."""

_NUMBER = r"([-+]?\d{1,9}(?:\.\d{1,6})?)"
_AT = rf"(?: at {_NUMBER} min)?"
_WEIGHT = re.compile(rf"weight {_NUMBER} (g|kg) (steady|moving){_AT}")
_WHO = re.compile(rf"scale (\S.{{0,60}}?) most {_NUMBER} g step {_NUMBER} g")
_TEMP = re.compile(rf"temp {_NUMBER} ([cf]){_AT}")
_PROBE = re.compile(r"(probe|oven) ([a-z].{0,60})")
_OVEN = re.compile(rf"oven {_NUMBER} ([cf]) (?:set {_NUMBER} ([cf])|off)(?: (door open))?{_AT}")


def read_line(line: bytes) -> Message:
    """Read a line of a scale.

    Parameters
    ----------
    line : bytes
        With or without its line feed.

    Raises
    ------
    ProtocolError
        When it is none of these; the text shows what came.
    """
    text, shown = _plain(line, "scale")
    if found := _WEIGHT.fullmatch(text):
        grams = float(found[1]) * (1000 if found[2] == "kg" else 1)
        if not math.isfinite(grams) or abs(grams) > MOST_G:
            raise ProtocolError(f"the scale sent an impossible weight: “{shown}”")
        return Weight(grams, found[3] == "steady")
    if found := _WHO.fullmatch(text):
        return Identity(found[1], float(found[2]), float(found[3]))
    if text == "done tare":
        return Done("tare")
    return _fault(text, shown, "scale")


def read_probe_line(line: bytes) -> Message:
    """Read a line of a probe.

    Parameters
    ----------
    line : bytes
        With or without its line feed.

    Raises
    ------
    ProtocolError
        When it is none of these; the text shows what came.
    """
    text, shown = _plain(line, "probe")
    if found := _TEMP.fullmatch(text):
        temp_c = _celsius(found[1], found[2])
        if not _shows("probe", temp_c):
            raise ProtocolError(f"the probe sent an impossible temperature: “{shown}”")
        return Reading(temp_c, float(found[3]) if found[3] else None)
    if (who := _PROBE.fullmatch(text)) and who[1] == "probe":
        return Named("probe", who[2])
    return _fault(text, shown, "probe")


def read_oven_line(line: bytes) -> Message:
    """Read a line of an oven.

    Parameters
    ----------
    line : bytes
        With or without its line feed.

    Raises
    ------
    ProtocolError
        When it is none of these; the text shows what came.
    """
    text, shown = _plain(line, "oven")
    if found := _OVEN.fullmatch(text):
        temp_c = _celsius(found[1], found[2])
        set_c = _celsius(found[3], found[4]) if found[3] else None
        if not _shows("oven", temp_c) or not _shows("oven", set_c or 0.0):
            raise ProtocolError(f"the oven sent an impossible temperature: “{shown}”")
        return Oven(temp_c, set_c, bool(found[5]))
    if (who := _PROBE.fullmatch(text)) and who[1] == "oven":
        return Named("oven", who[2])
    return _fault(text, shown, "oven")


def _shows(kind: str, temp_c: float) -> bool:
    low, high = RANGES[kind]
    return low <= temp_c <= high


def _celsius(number: str, unit: str) -> float:
    return (float(number) - 32) / 1.8 if unit == "f" else float(number)


def _plain(line: bytes, device: str) -> tuple[str, str]:
    shown = line[:40].decode("utf-8", "backslashreplace").strip()
    if len(line) > LONGEST_LINE:
        raise ProtocolError(
            f"the {device} sent a line of {len(line)} characters, which is too long: “{shown}…”"
        )
    try:
        return " ".join(line.decode("ascii").split()).lower(), shown
    except UnicodeDecodeError:
        raise ProtocolError(
            f"the {device} sent something that is not text: “{shown}”; check its speed"
        ) from None


def _fault(text: str, shown: str, device: str) -> Fault:
    if text == "fault" or text.startswith("fault "):
        return Fault(text.removeprefix("fault").strip() or "unknown")
    raise ProtocolError(
        f"the {device} sent “{shown}”, which Aplomb does not understand; "
        "check the device’s settings"
    )


def write_weight(weight: Weight) -> bytes:
    """Write what lies on a scale as it says it."""
    return f"weight {weight.grams:.1f} g {'steady' if weight.steady else 'moving'}\n".encode()


def write_identity(identity: Identity) -> bytes:
    """Write what a scale says of itself."""
    return f"scale {identity.name} most {identity.most_g:g} g step {identity.step_g:g} g\n".encode()


def write_reading(reading: Reading) -> bytes:
    """Write what a probe shows as it says it."""
    at = "" if reading.minutes is None else f" at {reading.minutes:.2f} min"
    return f"temp {reading.temp_c:.2f} C{at}\n".encode()


def write_oven(oven: Oven) -> bytes:
    """Write what an oven shows as it says it."""
    wanted = "off" if oven.set_c is None else f"set {oven.set_c:.0f} C"
    door = " door open" if oven.door_open else ""
    return f"oven {oven.temp_c:.1f} C {wanted}{door}\n".encode()
