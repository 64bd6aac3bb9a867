"""Measuring on pictures rendered from known sections, with blur, noise, tilt and uneven light."""

import math

import numpy as np
import pytest
from scipy.ndimage import gaussian_filter

from aplomb.core.base.errors import AplombError
from aplomb.core.trials.picture import along, count_leaves, scale_of

WIDE = 360


def rendered(leaves, seed, *, px=7.0, blur=0.8, noise=0.05, tilt=0.0, light=0.3, uneven=0.25):
    """Render a cut piece: bright leaves with dark gaps of unequal thickness on a dark ground."""
    rng = np.random.default_rng(seed)
    thick = np.clip(rng.normal(1.0, uneven, 2 * leaves + 1), 0.35, 2.0)
    edges = np.concatenate([[0.0], np.cumsum(thick)])
    edges *= leaves * px / edges[-1]
    high = math.ceil(leaves * px + 60)
    y, x = np.mgrid[0 : 4 * high, 0:WIDE].astype(float)  # each pixel gathers the light of four
    y = y / 4 - 0.375
    down = y - 30 - (x - WIDE / 2) * math.tan(math.radians(tilt))
    place = np.searchsorted(edges, np.clip(down, 0.01, edges[-1] - 0.01)) - 1
    picture = np.where(place % 2 == 1, 0.8, 0.35)
    picture[(down < 0) | (down > edges[-1])] = 0.1
    picture *= 1 + light * np.sin(x / 90 + 1) + light * (y / high - 0.5)
    picture = picture.reshape(high, 4, WIDE).mean(axis=1)
    picture = gaussian_filter(picture, blur) + rng.normal(0, noise, picture.shape)
    top = (WIDE / 2, 30.0)
    return np.clip(picture, 0, 1).astype(np.float32), top, (WIDE / 2, 30.0 + leaves * px)


@pytest.mark.parametrize("leaves", [12, 81])
@pytest.mark.parametrize(
    "how",
    [
        {}, {"blur": 1.4}, {"noise": 0.1}, {"tilt": 3.0}, {"light": 0.45}, {"px": 5.0},
        {"px": 12.0}, {"uneven": 0.1},
        {"blur": 1.1, "noise": 0.08, "tilt": 2.0, "light": 0.35},
    ],
    ids=str,
)  # fmt: skip
def test_leaves_are_counted_as_well_as_is_promised(leaves, how):
    """Rendered truth; three seeds, and the doubt that is told holds the truth in most."""
    held, off = 0, 0.08 if how.get("px") == 5.0 or how.get("blur") == 1.4 else 0.05
    for seed in range(3):
        counted = count_leaves(*rendered(leaves, seed, **how))
        assert counted.leaves == pytest.approx(leaves, abs=max(1.5, off * leaves))
        held += counted.low <= leaves <= counted.high
        assert counted.trusted, counted.why
    assert held >= 2


@pytest.mark.parametrize("px", [1.5, 2.2, 3.0, 3.5])
def test_leaves_too_close_are_mostly_not_trusted(px):
    """Chance groups of leaves too fine to be seen look like leaves: they scatter more."""
    found = [
        count_leaves(*rendered(leaves, seed, px=px)) for leaves in (60, 120) for seed in range(3)
    ]
    assert sum(c.trusted for c in found) <= 2
    assert all(c.trusted or c.why for c in found)


def test_a_picture_of_nothing_has_no_leaves():
    flat = np.full((200, 200), 0.5, dtype=np.float32)
    counted = count_leaves(flat, (100, 10), (100, 190))
    assert counted.leaves < 2
    assert not counted.trusted


def test_noise_alone_is_not_trusted():
    noise = np.random.default_rng(3).random((400, 300)).astype(np.float32)
    assert not count_leaves(noise, (150, 10), (150, 390)).trusted


def test_the_places_of_the_leaves_lie_on_the_bright_ones():
    picture, top, foot = rendered(20, 5, noise=0.0, light=0.0)
    counted = count_leaves(picture, top, foot)
    line = along(picture, top, foot)
    values = [line[round(at * (len(line) - 1))] for at in counted.at]
    assert np.mean(values) > 0.6


@pytest.mark.parametrize("turned", [0, 30, 77, 90, 180])
def test_a_line_reads_the_same_whichever_way_the_picture_lies(turned):
    """A straight edge, read at any angle: bilinear reading of a plane is exact."""
    angle = math.radians(turned)
    y, x = np.mgrid[0:200, 0:200].astype(float)
    plane = (0.002 * (x * math.cos(angle) + y * math.sin(angle)) + 0.3).astype(np.float32)
    centre, reach = 100.0, 60.0
    ends = [
        (centre + s * reach * math.cos(angle), centre + s * reach * math.sin(angle))
        for s in (-1, 1)
    ]
    line = along(plane, *ends)
    assert line[-1] - line[0] == pytest.approx(0.24, abs=1e-3)
    assert np.diff(line).min() > 0


def test_lengths_by_the_scale():
    """A 3-4-5 triangle: hand calculation."""
    scale = scale_of((10, 10), (310, 410), 100.0)
    assert scale.px_per_mm == 5.0
    assert scale.mm((0, 0), (0, 90)) == 18.0
    assert 0 < scale.doubt_mm((0, 0), (0, 90)) < 0.5


def test_the_doubt_of_a_length_holds_the_truth():
    """Points set a pixel off at random: two of three within the doubt, nearly all in two."""
    rng = np.random.default_rng(11)
    off = []
    for _ in range(400):
        a, b, c, d = (
            np.array(p) + rng.normal(0, 1 / math.sqrt(2), 2)
            for p in ((0, 0), (500, 0), (100, 50), (100, 300))
        )
        scale = scale_of(tuple(a), tuple(b), 100.0)
        off.append((scale.mm(tuple(c), tuple(d)) - 50.0) / scale.doubt_mm(tuple(c), tuple(d)))
    assert np.mean(np.abs(off) < 1) > 0.62
    assert np.mean(np.abs(off) < 2) > 0.93


@pytest.mark.parametrize(
    "act",
    [
        lambda: scale_of((0, 0), (3, 4), 10),
        lambda: scale_of((0, 0), (300, 4), 0),
        lambda: scale_of((0, 0), (300, 4), math.nan),
        lambda: scale_of((0, 0), (math.nan, 4), 10),
        lambda: count_leaves(np.zeros((9, 9), np.float32), (1, 1), (2, 2)),
    ],
)
def test_what_cannot_be_measured_is_refused(act):
    with pytest.raises(AplombError):
        act()


def test_lines_that_leave_the_picture_read_its_edge():
    picture = np.ones((50, 50), dtype=np.float32)
    assert along(picture, (-40, 10), (400, 10)).min() == 1.0
