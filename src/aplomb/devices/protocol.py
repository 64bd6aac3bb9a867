"""The line protocol of scales and probes, read and written. docs/devices.md has it."""

import math
import re

from msgspec import Struct

from aplomb.core.base.errors import AplombError

LONGEST_LINE = 200
"""Bytes; a longer line is no line of this protocol."""
MOST_G = 1_000_000.0
COLDEST_C, HOTTEST_C = -80.0, 400.0
"""What a probe in a kitchen can show [°C]."""


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
    name : str
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
    temp_c : float
        [°C].
    minutes : float or None
        Since the probe began to log [min]; None where it does not say.
    """

    temp_c: float
    minutes: float | None = None


class Done(Struct, frozen=True):
    """A command was carried out: ``tare``."""

    what: str


class Fault(Struct, frozen=True):
    """A device says what is wrong with it."""

    words: str


Message = Weight | Identity | Reading | Done | Fault

TARE, WHO = b"tare\n", b"who\n"
"""What is said to a scale; a probe is only asked `WHO`."""

_NUMBER = r"([-+]?\d{1,9}(?:\.\d{1,6})?)"
_WEIGHT = re.compile(rf"weight {_NUMBER} (g|kg) (steady|moving)")
_WHO = re.compile(rf"scale (\S.{{0,60}}?) most {_NUMBER} g step {_NUMBER} g")
_TEMP = re.compile(rf"temp {_NUMBER} ([cf])(?: at {_NUMBER} min)?")
_PROBE = re.compile(r"probe \S.{0,60}")


def read_line(line: bytes) -> Message:
    """Read a line of a scale.

    Parameters
    ----------
    line : bytes
        With or without its line feed.

    Returns
    -------
    Weight, Identity, Done or Fault

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

    Returns
    -------
    Reading, Done or Fault
        `Done` when it says who it is.

    Raises
    ------
    ProtocolError
        When it is none of these; the text shows what came.
    """
    text, shown = _plain(line, "probe")
    if found := _TEMP.fullmatch(text):
        temp = float(found[1])
        temp_c = (temp - 32) / 1.8 if found[2] == "f" else temp
        if not COLDEST_C <= temp_c <= HOTTEST_C:
            raise ProtocolError(f"the probe sent an impossible temperature: “{shown}”")
        return Reading(temp_c, float(found[3]) if found[3] else None)
    if _PROBE.fullmatch(text):
        return Done("who")
    return _fault(text, shown, "probe")


def _plain(line: bytes, device: str) -> tuple[str, str]:
    shown = line[:40].decode("utf-8", "backslashreplace").strip()
    if len(line) > LONGEST_LINE:
        raise ProtocolError(f"the {device} sent a line of {len(line)} signs: “{shown}…”")
    try:
        return " ".join(line.decode("ascii").split()).lower(), shown
    except UnicodeDecodeError:
        raise ProtocolError(f"the {device} sent no text: “{shown}”") from None


def _fault(text: str, shown: str, device: str) -> Fault:
    if text == "fault" or text.startswith("fault "):
        return Fault(text.removeprefix("fault").strip() or "unknown")
    raise ProtocolError(f"the {device} sent “{shown}”, which it should not send")


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
