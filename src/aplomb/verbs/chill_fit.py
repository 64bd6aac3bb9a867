"""The case ``chill-fit``: a place's coefficient from a probe."""

import numpy as np
from msgspec import Struct

from aplomb.core.base.errors import Problems
from aplomb.core.cold.fit import Fitted, fit_coefficient
from aplomb.core.cold.material import Constant, Freezing, Melting
from aplomb.verbs.chill import BlockCase, CompositionCase, read_body


class ChillFitCase(Struct, frozen=True, forbid_unknown_fields=True):
    """What a probe in a block said while both its faces were in one air."""

    block: BlockCase
    start_c: float
    air_c: float
    probe_depth_mm: float
    minutes: tuple[float, ...]
    temp_c: tuple[float, ...]
    constant: Constant | None = None
    composition: CompositionCase | None = None
    fat: Melting | None = None
    freezing: Freezing | None = None


class ChillFitResult(Struct, frozen=True):
    """What is given back.

    Attributes
    ----------
    w_m2_k, low_w_m2_k, high_w_m2_k : float
        The likeliest, and the ends of the 95 % interval [W/(m²·K)].
    probe_offset_k : float
        What the probe seems to read too high [K].
    probe_depth_mm : float
        Where its tip seems to lie [mm].
    scatter_k : float
        Of the readings round the curve [K].
    set_aside : int
        Readings far off the curve, which counted for less [-].
    """

    w_m2_k: float
    low_w_m2_k: float
    high_w_m2_k: float
    probe_offset_k: float
    probe_depth_mm: float
    scatter_k: float
    set_aside: int


def chill_fit(case: ChillFitCase) -> ChillFitResult:
    """Work the case out.

    Raises
    ------
    AplombError
        Naming every field that cannot be used.
    """
    wrong = Problems()
    body = read_body(case.block, case.constant, case.composition, case.fat, case.freezing, wrong)
    wrong.number("start_c", case.start_c, -80, 300, "°C")
    wrong.number("air_c", case.air_c, -80, 300, "°C")
    wrong.number("probe_depth_mm", case.probe_depth_mm, 0, case.block.thickness_mm, "mm")
    wrong.check()
    found: Fitted = fit_coefficient(
        body,
        case.start_c,
        case.air_c,
        case.probe_depth_mm,
        np.array(case.minutes, dtype=float),
        np.array(case.temp_c, dtype=float),
    )
    return ChillFitResult(
        found.w_m2_k,
        found.low_w_m2_k,
        found.high_w_m2_k,
        found.offset_k,
        found.depth_mm,
        found.scatter_k,
        found.set_aside,
    )


def chill_fit_words(found: ChillFitResult) -> str:
    """Say what was fitted in plain words."""
    aside = (
        f"\n{found.set_aside} readings are far off the curve and were left out"
        if found.set_aside
        else ""
    )
    return (
        f"{found.w_m2_k:.2f} W/(m²·K), 95 % likely between {found.low_w_m2_k:.2f} and "
        f"{found.high_w_m2_k:.2f}\nthe probe seems to read {found.probe_offset_k:+.2f} K "
        f"off and to sit {found.probe_depth_mm:.1f} mm deep; readings scatter by "
        f"{found.scatter_k:.2f} K{aside}"
    )
