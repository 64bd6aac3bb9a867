"""A device on a serial line or a network address, listened to beside everything else."""

import os
import re
import socket
import threading
import time
from collections.abc import Callable
from typing import TYPE_CHECKING

from aplomb.core.base.errors import AplombError
from aplomb.devices.protocol import (
    LONGEST_LINE,
    WHO,
    Fault,
    Message,
    ProtocolError,
)

if TYPE_CHECKING:
    from serial import Serial

SILENT_S = 2.0
"""A device that says nothing for so long does not answer."""
AGAIN_S = 1.0
"""After so long a lost device is looked for again."""
BAUD = 9600
SPEEDS = (1200, 2400, 4800, 9600, 19_200, 38_400, 57_600, 115_200)
"""Speeds of a serial line [baud]; the first one that is said nothing of is `BAUD`."""
WHO_AGAIN_S = 3.0
"""Who it is is asked again after so long, until it is answered: a device may boot late [s]."""
READ_S = 0.2
CONNECT_S = 3.0
"""So long an address is waited for [s]."""
CHUNK = 4096
"""Bytes that are read from an address at once [-]."""
STOP_S = 0.05
"""So long a listener that is stopped is waited for [s]."""


_SPEED = re.compile(r"\s*(?:@|\bat\b)\s*(\d{1,7})\s*(?:baud|bd)?\s*$", re.IGNORECASE)
_ADDRESS = re.compile(r"(?:(?:socket|tcp)://)?(\[[0-9a-fA-F:.]+\]|[A-Za-z0-9._-]+):(\d{1,5})/?")


def read_port(text: str, kind: str = "scale") -> str:
    """Read where a device is: a device of this computer, or a network address.

    The device's path, or the address as ``socket://host:port``.

    Parameters
    ----------
    text : str
        As typed: ``/dev/ttyUSB0``, ``scale.local:4001``, ``socket://192.0.2.7:4001``.
    kind : str
        What it is called when it cannot be read.

    Raises
    ------
    AplombError
        For anything else: what a serial library understands besides could write files.
    """
    typed = text.strip()
    if typed.startswith("/"):
        device, speed = _with_speed(typed, kind)
        real = os.path.realpath(device) if "\0" not in device else ""
        if real.startswith("/dev/") and real != "/dev/":
            return device if speed == BAUD else f"{device}@{speed}"
    elif (found := _ADDRESS.fullmatch(typed)) and 0 < int(found[2]) < 65_536:
        return f"socket://{found[1]}:{int(found[2])}"
    raise AplombError(
        f"“{typed[:60]}” is not a {kind}’s port; enter a device like /dev/ttyUSB0, or an address "
        "like 192.0.2.7:4001"
    )


def _with_speed(typed: str, kind: str) -> tuple[str, int]:
    """Take a speed off the end of a port, as in ``/dev/ttyUSB0 at 19200``."""
    found = _SPEED.search(typed)
    if found is None:
        return typed, BAUD
    speed = int(found[1])
    if speed not in SPEEDS:
        known = ", ".join(str(each) for each in SPEEDS)
        raise AplombError(f"{speed} is not a speed for a {kind}; use one of {known}")
    return typed[: found.start()], speed


class Lost(Fault, frozen=True):
    """The device is not there, or does not answer."""


class TcpLine:
    """A line to a network address, read as a serial one is.

    Parameters
    ----------
    address : str
        As `read_port` gives it.

    Raises
    ------
    OSError
        When nobody answers there, or hangs up.
    """

    in_waiting = CHUNK

    def __init__(self, address: str) -> None:
        host, _, port = address.removeprefix("socket://").rpartition(":")
        self._socket = socket.create_connection((host.strip("[]"), int(port)), timeout=CONNECT_S)
        self._socket.settimeout(READ_S)

    def __enter__(self) -> "TcpLine":
        return self

    def __exit__(self, *_: object) -> None:
        self._socket.close()

    def write(self, data: bytes) -> None:
        """Send."""
        self._socket.sendall(data)

    def read(self, most: int) -> bytes:
        """Read what has come; empty when nothing comes for a while."""
        try:
            got = self._socket.recv(most)
        except TimeoutError:
            return b""
        if not got:
            raise ConnectionResetError("hung up")
        return got


def _opened(port: str, speed: int) -> "TcpLine | Serial":
    if port.startswith("socket:"):
        return TcpLine(port)
    import serial

    line: Serial = serial.serial_for_url(port, do_not_open=True, baudrate=speed, timeout=READ_S)
    line.exclusive = True
    line.open()
    return line


class Listener:
    """Listens to a device in a thread of its own, and looks for it again when it is lost.

    Parameters
    ----------
    port : str
        A serial port as ``/dev/ttyUSB0``, or an address as ``socket://host:port``.
    heard : callable
        Takes every `Message`, and `Lost` when the device is gone; called in that thread. A line
        that cannot be read comes as a `Fault`.
    """

    KIND = "device"

    def __init__(self, port: str, heard: Callable[[Message], None]) -> None:
        self.port = port
        self._heard = heard
        self._stop = threading.Event()
        self.thread = threading.Thread(target=self._run, name=self.KIND, daemon=True)

    def start(self) -> None:
        """Begin to listen."""
        self.thread.start()

    def stop(self) -> None:
        """Stop listening; one that still waits for an address to answer is not waited for."""
        self._stop.set()
        self._heard = _nobody
        if self.thread.is_alive():
            self.thread.join(STOP_S)

    def read(self, line: bytes) -> Message | None:
        """Read a line of this kind of device; None for one that nobody need hear."""
        raise NotImplementedError

    @property
    def named(self) -> bool:
        """True once it has said who it is."""
        return True

    def wants(self) -> bytes:
        """What is to be said to it now; nothing at all mostly."""
        return b""

    def _run(self) -> None:
        while not self._stop.is_set():
            try:
                self._listen()
            except (OSError, ValueError) as error:  # pyserial's own errors are OSErrors
                self._heard(Lost(_words(self.KIND, self.port, error)))
                self._stop.wait(AGAIN_S)
            except AplombError as error:
                self._heard(Lost(str(error)))
                return
            except Exception as error:  # noqa: BLE001  # a listener that dies says nothing for ever
                self._heard(Lost(f"the {self.KIND} cannot be read ({type(error).__name__})"))
                self._stop.wait(AGAIN_S)

    def _listen(self) -> None:
        port, speed = _with_speed(read_port(self.port, self.KIND), self.KIND)
        with _opened(port, speed) as line:
            line.write(WHO)
            asked = time.monotonic()
            silent, rest, endless = 0.0, b"", False
            while not self._stop.is_set():
                if said := self.wants():
                    line.write(said)
                if not self.named and time.monotonic() - asked > WHO_AGAIN_S:
                    line.write(WHO)
                    asked = time.monotonic()
                got = line.read(max(1, line.in_waiting))
                silent = 0.0 if got else silent + READ_S
                if silent >= SILENT_S:
                    self._heard(Lost(f"no answer from the {self.KIND}; is it switched on?"))
                    silent = 0.0
                rest += got
                *lines, rest = rest.split(b"\n")
                if endless and lines:  # what is left of a line that was too long says nothing
                    lines, endless = lines[1:], False
                for each in lines:
                    self._take(each)
                if len(rest) > LONGEST_LINE:
                    if not endless:
                        self._take(rest)
                    rest, endless = b"", True

    def _take(self, line: bytes) -> None:
        if not line.strip():
            return
        try:
            message = self.read(line)
        except ProtocolError as error:
            message = Fault(str(error))
        if message is not None:
            self._heard(message)


def _nobody(_message: Message) -> None:
    """Nobody hears any more."""


def _words(device: str, port: str, error: Exception) -> str:
    kind = getattr(error, "errno", None)
    if kind in (11, 16, 35) or "lock" in str(error).lower():
        return (
            f"the {device} at {port} is in use by another program, or by another "
            f"{device} set up here; free it, or choose another port"
        )
    if kind == 13:
        return (
            f"you do not have permission to use {port}; ask to be added to its group, "
            "often called dialout"
        )
    if kind in (2, 6, 19, 5):
        return f"no {device} at {port}; plug it in, or choose another port"
    return f"the {device} at {port} does not answer; plug it in, or choose another port"


def ports() -> list[tuple[str, str]]:
    """List the serial ports of this computer: each with what it says of itself."""
    from serial.tools.list_ports import comports

    return [(found.device, found.description or found.device) for found in comports()]
