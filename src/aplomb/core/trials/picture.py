"""Measuring on a photograph of a cut piece: lengths by a scale, and leaves along a line.

A picture is an array of shape (rows, columns), bright 1.0 and dark 0.0; places on it are (x, y) in
pixels from the upper left corner.
"""

import itertools
import math

import numpy as np
from msgspec import Struct
from numpy.typing import NDArray

from aplomb.core.base.errors import AplombError, Problems

Grey = NDArray[np.float32]
Point = tuple[float, float]
LEAST_PX = 8.0
"""A line shorter than that measures nothing [px]."""
MOST_SAMPLES = 20_000
TREND, FINE, STANDS = 4.0, 16.0, 0.35
"""Uneven light changes more slowly than so many leaves; noise is finer than a leaf over so many; a
leaf stands out by such a share of the line's scatter [-]. Tried on rendered sections."""
MISSED = 0.04
"""So many of the leaves may be missed or split [-]; tried on rendered sections."""
UNEVEN = 0.28
"""Where every leaf is seen, the distances of tops scatter by less than that share [-], for few a
little more; chance groups of leaves too fine scatter more. Tried on rendered sections."""
ALIKE = 0.3
"""Lines side by side show the same leaves when they go together at least so much [-]."""
LINES = 9
"""Lines side by side on which leaves are counted [-]."""
LEAST_PX_A_LEAF = 4.7
"""Leaves closer together cannot be told apart [px]; tried on rendered sections."""


class Scale(Struct, frozen=True):
    """How large things on a picture are.

    Attributes
    ----------
    doubt : float
        One part in so many of every length that comes of setting the two points [-].
    """

    px_per_mm: float
    doubt: float

    def mm(self, first: Point, second: Point) -> float:
        """Give the distance of two places [mm]."""
        return math.dist(first, second) / self.px_per_mm

    def doubt_mm(self, first: Point, second: Point) -> float:
        """Give what a distance may be off by: setting four points, a pixel each [mm]."""
        apart = math.dist(first, second)
        return math.hypot(apart * self.doubt, math.sqrt(2.0)) / self.px_per_mm


def scale_of(first: Point, second: Point, apart_mm: float) -> Scale:
    """Set the scale by two places of known distance.

    Parameters
    ----------
    first, second : Point
        [px].
    apart_mm : float
        Their distance [mm].

    Raises
    ------
    FormulaError
        When they are too near each other or the distance cannot be.

    Notes
    -----
    Each place is put to about one pixel, so the distance is uncertain by √2 px.

    Examples
    --------
    >>> scale_of((0, 0), (300, 400), 50).px_per_mm
    10.0
    """
    wrong = Problems()
    wrong.number("distance", apart_mm, 0.1, 5000, "mm")
    px = math.dist(first, second)
    if not px >= LEAST_PX:
        wrong.add(f"scale: the two marks are {px:.0f} pixels apart; set them further apart.")
    wrong.check()
    return Scale(px / apart_mm, math.sqrt(2.0) / px)


def along(picture: Grey, first: Point, second: Point, aside_px: float = 0.0) -> Grey:
    """Give the brightness along a line, a sample a half pixel.

    Parameters
    ----------
    first, second : Point
        [px].
    aside_px : float
        The line is moved so far to its right [px].

    Returns
    -------
    array of shape (samples,)
        Bilinear; what lies outside the picture is its edge.
    """
    (x0, y0), (x1, y1) = first, second
    length = max(math.dist(first, second), 1e-9)
    many = int(min(MOST_SAMPLES, max(2, 2 * length)))
    aside = aside_px * np.array([-(y1 - y0), x1 - x0]) / length
    t = np.linspace(0.0, 1.0, many)
    x = np.clip(x0 + aside[0] + t * (x1 - x0), 0, picture.shape[1] - 1)
    y = np.clip(y0 + aside[1] + t * (y1 - y0), 0, picture.shape[0] - 1)
    left, top = np.floor(x).astype(int), np.floor(y).astype(int)
    right = np.minimum(left + 1, picture.shape[1] - 1)
    below = np.minimum(top + 1, picture.shape[0] - 1)
    fx, fy = x - left, y - top
    upper = picture[top, left] * (1 - fx) + picture[top, right] * fx
    lower = picture[below, left] * (1 - fx) + picture[below, right] * fx
    return np.asarray(upper * (1 - fy) + lower * fy, dtype=np.float32)


class Counted(Struct, frozen=True):
    """Leaves counted along a line.

    Attributes
    ----------
    leaves : float
        The middle of the counts of lines side by side [-].
    low, high : float
        Their spread, and one leaf that may be cut off at either end [-].
    at : tuple of float
        Where the leaves lie on the middle line, 0 at its first end, 1 at its second [-].
    px_a_leaf : float
        How far apart they lie [px].
    trusted : bool
        False where they lie too close, or stand out from the noise too little.
    why : str
        Why it is not trusted; empty when it is.
    """

    leaves: float
    low: float
    high: float
    at: tuple[float, ...]
    px_a_leaf: float
    trusted: bool
    why: str


def count_leaves(picture: Grey, first: Point, second: Point, *, wide_px: float = 24.0) -> Counted:
    """Count leaves along a line through a cut section.

    Bright leaves.

    Parameters
    ----------
    first, second : Point
        Ends of the line, across the leaves [px].
    wide_px : float
        Lines side by side lie within that width [px].

    Raises
    ------
    AplombError
        When the line is too short.

    Notes
    -----
    The thickness of a leaf is looked for first, by where the power of nine lines side by side
    lies. On each, light that changes more slowly is taken off by a running mean, what is much
    finer by a Gaussian, and the tops are counted that stand out. On rendered sections with blur,
    noise, a tilt of 3° and uneven light, counts of 12 to 150 leaves of unequal thickness come out
    within 5 % (or one and a half leaves) where they lie 7 pixels apart and more, and within 8 % at
    5 pixels, or at 7 and out of focus by 1.4 pixels.
    """
    from scipy.ndimage import gaussian_filter1d
    from scipy.signal import find_peaks

    length = math.dist(first, second)
    if length < 2 * LEAST_PX:
        raise AplombError(f"The line is {length:.0f} pixels long; draw it across all the leaves.")
    shifts = np.linspace(-wide_px / 2, wide_px / 2, LINES)
    lines = np.stack([along(picture, first, second, float(s)) for s in shifts])
    period = _period(lines)
    slow = max(3, round(TREND * period))
    flats = np.stack(
        [gaussian_filter1d(line, period / FINE) - _smooth(line, slow) for line in lines]
    )
    tops = [
        find_peaks(
            flat,
            prominence=max(STANDS * float(flat.std()), 1e-4),
            distance=max(1, round(period / 3.5)),
        )[0]
        for flat in flats
    ]
    counts = [len(each) for each in tops]
    middle = tops[LINES // 2]
    leaves = float(np.median(counts))
    spread = 1.4826 * float(np.median(np.abs(np.array(counts) - leaves)))
    doubt = 1 + MISSED * leaves + 2 * spread / math.sqrt(LINES)
    apart = length / max(leaves, 1.0)
    why = ""
    if leaves < 2:
        why = "No leaves can be seen along this line."
    elif apart < LEAST_PX_A_LEAF:
        why = (
            f"The leaves are {apart:.1f} pixels apart, too close to tell. Take a closer photograph."
        )
    elif spread > max(2.0, 0.12 * leaves):
        why = (
            "Lines next to each other give different counts: the line may cross the "
            "leaves at a slant. Draw it straight across."
        )
    elif _scatter(middle) > UNEVEN * (1 + 2 / leaves):
        why = "The leaves are very uneven: some may be too fine to see. Take a closer photograph."
    elif _together(flats) < ALIKE:
        why = "The leaves hardly show in this photograph: use more light, or make a cleaner cut."
    at = tuple(float(v) / (lines.shape[1] - 1) for v in middle)
    return Counted(leaves, max(0.0, leaves - doubt), leaves + doubt, at, apart, not why, why)


def _scatter(tops: NDArray[np.int_]) -> float:
    """How much the distances of tops differ, on their mean [-]."""
    apart = np.diff(tops)
    return float(apart.std() / apart.mean()) if len(apart) > 2 else 0.0


def _together(lines: Grey) -> float:
    """How much lines go together with the next ones, the middle of all [-]."""
    both = [np.corrcoef(a, b)[0, 1] for a, b in itertools.pairwise(lines) if a.std() and b.std()]
    return float(np.median(both)) if both else 0.0


def _smooth(line: Grey, wide: int) -> Grey:
    """Running mean over so many samples, ends mirrored."""
    if wide <= 1:
        return line
    wide = min(wide | 1, (len(line) - 1) | 1)
    half = wide // 2
    padded = np.pad(line, half, mode="reflect" if half < len(line) else "edge")
    total = np.concatenate([[0.0], np.cumsum(padded, dtype=np.float64)])
    return np.asarray((total[wide:] - total[:-wide]) / wide, dtype=np.float32)[: len(line)]


def _period(lines: Grey) -> float:
    """The strongest period of some lines [samples]."""
    many = lines.shape[1]
    slow = max(9, many // 6)
    power = np.zeros(many + 1)
    for line in lines:
        flat = (line - _smooth(line, slow)) * np.hanning(many)
        power += np.abs(np.fft.rfft(flat, 2 * many)) ** 2
    freq = np.arange(len(power)) / (2 * many)
    usable = (freq > 2.0 / many) & (freq < 0.25)
    if not usable.any() or not power[usable].sum():
        return float(many)
    # Where the power lies, round its highest place: leaves are never all of one thickness.
    weighed = np.where(usable, power, 0.0)
    top = int(np.argmax(np.convolve(weighed, np.hanning(9), mode="same")))
    low, high = int(0.6 * top), int(1.6 * top) + 2
    near = weighed[low:high]
    return float(near.sum() / (near * freq[low:high]).sum())
