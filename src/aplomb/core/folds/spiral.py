"""A sheet rolled tight to a log, or pressed: where each point of it came from."""

import math

import numpy as np
from numpy.typing import NDArray

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import num

Floats = NDArray[np.float32]

MOST_WINDINGS = 400.0


def unrolled(q: Floats, tau: Floats, turns: float) -> tuple[Floats, Floats]:
    """Find where points of a log's cut face lay in the sheet.

    Parameters
    ----------
    q : ndarray of float32
        Square of the radius over the log's [-], 0 in the middle to 1 outside.
    tau : ndarray of float32
        Angle over a whole turn [-], 0 to below 1.
    turns : float
        Windings N [-], at least 1 and at most `MOST_WINDINGS`.

    Returns
    -------
    along : ndarray of float32
        Place along the sheet, 0 at the end that is rolled in first, to 1.
    depth : ndarray of float32
        Height in the sheet, 0 at its lower face, which comes to lie outside, to 1.

    Raises
    ------
    AplombError
        For a number of windings outside its range.

    Notes
    -----
    On a ray at angle τ lie n leaves, one for each w = k + τ < N, and the leaf k has a share
    (2k + 1 + 2τ) / (n² + 2nτ) of the face near the ray. The place along the sheet is the integral
    of those shares, so that areas are kept exactly.
    """
    if not 1 <= turns <= MOST_WINDINGS:
        raise AplombError(
            f"a coil of {num(turns, '.3g')} windings cannot be drawn, only 1 to "
            f"{num(MOST_WINDINGS)}; change the thickness of its sheet"
        )
    whole, rest = int(turns), np.float32(turns - int(turns))
    many = np.where(tau < rest, whole + 1, whole).astype("f4")
    filled = q * (many * many + 2 * many * tau)
    reach = np.sqrt(tau * tau + filled) - tau
    k = np.minimum(np.floor(reach), many - 1)
    outward = (filled - (k * k + 2 * k * tau)) / (2 * k + 1 + 2 * tau)
    starts = _starts(turns)
    first = np.minimum(tau, rest)
    along = starts.take(k.astype(np.intp)) + _piece(first, k, np.float32(whole + 1), 0.0)
    beyond = np.maximum(tau - rest, 0)
    along += np.where(beyond > 0, _piece(tau, k, np.float32(whole), float(rest)), 0)
    return np.clip(along, 0, 1).astype("f4"), np.clip(1 - outward, 0, 1).astype("f4")


def _piece(tau: Floats, k: Floats, n: np.float32, start: float) -> Floats:
    """Integrate (2k + 1 + 2τ) / (n² + 2nτ) from `start` to τ."""
    made = (tau - start) / n + (2 * k + 1 - n) / (2 * n) * np.log((n + 2 * tau) / (n + 2 * start))
    return np.asarray(made, "f4")


def _starts(turns: float) -> Floats:
    """Place along the sheet at which each winding begins."""
    whole, rest = int(turns), turns - int(turns)
    k = np.arange(whole + 1, dtype="f4")
    first = _piece(np.full_like(k, rest), k, np.float32(whole + 1), 0.0)
    second = _piece(np.ones_like(k), k, np.float32(whole), rest)
    lengths = first + np.where(k < whole, second, 0)
    return np.concatenate([[0.0], np.cumsum(lengths, dtype="f8")[:-1]]).astype("f4")


def pressed(x: Floats, z: Floats) -> tuple[Floats, Floats]:
    """Carry points of a log pressed to a rectangle back to the round log.

    Parameters
    ----------
    x, z : ndarray of float32
        Shares of the rectangle's width and height [-].

    Returns
    -------
    q, tau : ndarray of float32
        As `unrolled` takes them.

    Notes
    -----
    Concentric squares become concentric circles and areas are kept: Shirley and Chiu, “A low
    distortion map between disk and square”, Journal of Graphics Tools 2 (1997).
    """
    a, b = 2 * x - 1, 2 * z - 1
    wide = np.abs(a) >= np.abs(b)
    radius = np.where(wide, a, b)
    with np.errstate(divide="ignore", invalid="ignore"):
        ratio = np.where(radius == 0, 0, np.where(wide, b, a) / np.where(radius == 0, 1, radius))
    eighth = ratio / 8
    tau = np.where(wide, eighth, np.float32(0.25) - eighth) + np.where(radius < 0, 0.5, 0)
    tau = tau - np.floor(tau)
    return (radius * radius).astype("f4"), np.minimum(tau, np.float32(0.9999999)).astype("f4")


def round_log(x: Floats, z: Floats) -> tuple[Floats, Floats]:
    """Give places in the square about a round log as `unrolled` takes them; q > 1 lies outside.

    Notes
    -----
    With a = 2x - 1 and b = 2z - 1, q = a² + b² is the share of the log within that radius, and
    τ = atan2(b, a) / 2π the share of a winding.
    """
    a, b = 2 * x - 1, 2 * z - 1
    tau = np.arctan2(b, a) / np.float32(2 * math.pi)
    tau = tau - np.floor(tau)
    return (a * a + b * b).astype("f4"), np.minimum(tau, np.float32(0.9999999)).astype("f4")
