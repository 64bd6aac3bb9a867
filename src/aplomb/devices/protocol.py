"""The line protocol of a scale: what is said either way, read and written. docs/devices.md."""

import math
import re

from msgspec import Struct

from aplomb.core.base.errors import AplombError

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
    name : str
    most_g, step_g : float
        Its most, and its division [g].
    """

    name: str
    most_g: float
    step_g: float


class Done(Struct, frozen=True):
    """A command was carried out: ``tare``."""

    what: str


class Fault(Struct, frozen=True):
    """A device says what is wrong with it."""

    words: str


Message = Weight | Identity | Done | Fault

TARE, WHO = b"tare\n", b"who\n"
"""What is said to a scale."""

_NUMBER = r"([-+]?\d{1,9}(?:\.\d{1,6})?)"
_WEIGHT = re.compile(rf"weight {_NUMBER} (g|kg) (steady|moving)")
_WHO = re.compile(rf"scale (\S.{{0,60}}?) most {_NUMBER} g step {_NUMBER} g")


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
    shown = line[:40].decode("utf-8", "backslashreplace").strip()
    if len(line) > LONGEST_LINE:
        raise ProtocolError(f"the scale sent a line of {len(line)} signs: “{shown}…”")
    try:
        text = " ".join(line.decode("ascii").split()).lower()
    except UnicodeDecodeError:
        raise ProtocolError(f"the scale sent no text: “{shown}”") from None
    if found := _WEIGHT.fullmatch(text):
        grams = float(found[1]) * (1000 if found[2] == "kg" else 1)
        if not math.isfinite(grams) or abs(grams) > MOST_G:
            raise ProtocolError(f"the scale sent an impossible weight: “{shown}”")
        return Weight(grams, found[3] == "steady")
    if found := _WHO.fullmatch(text):
        return Identity(found[1], float(found[2]), float(found[3]))
    if text == "done tare":
        return Done("tare")
    if text == "fault" or text.startswith("fault "):
        return Fault(text.removeprefix("fault").strip() or "unknown")
    raise ProtocolError(f"the scale sent “{shown}”, which it should not send")


def write_weight(weight: Weight) -> bytes:
    """Write what lies on a scale as it says it."""
    return f"weight {weight.grams:.1f} g {'steady' if weight.steady else 'moving'}\n".encode()


def write_identity(identity: Identity) -> bytes:
    """Write what a scale says of itself."""
    return f"scale {identity.name} most {identity.most_g:g} g step {identity.step_g:g} g\n".encode()
