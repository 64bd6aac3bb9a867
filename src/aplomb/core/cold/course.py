"""A body in the cold, what touches it, and its course: what conduction is asked and gives."""

from itertools import pairwise

import numpy as np
from msgspec import Struct

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import num
from aplomb.core.cold.material import Floats, Material


class Air(Struct, frozen=True, forbid_unknown_fields=True):
    """What lies against a face gives and takes heat at one temperature.

    Attributes
    ----------
    w_m2_k : float
        Surface coefficient, a wrap in it [W/(m²·K)].
    """

    temp_c: float
    w_m2_k: float


class Slab(Struct, frozen=True, forbid_unknown_fields=True):
    """A bench: a body of its own that the block lies on.

    Attributes
    ----------
    density_kg_m3 : float
        [kg/m³].
    start_c : float
        Temperature throughout when the block is laid on it [°C].
    contact_w_m2_k : float
        Between block and bench [W/(m²·K)].
    far : Air or None
        What its other face touches; None: no heat goes through it.
    """

    thickness_mm: float
    conductivity_w_m_k: float
    density_kg_m3: float
    heat_capacity_kj_kg_k: float
    start_c: float
    contact_w_m2_k: float
    far: Air | None = None


Face = Air | Slab


class Phase(Struct, frozen=True):
    """A stay in one place.

    Attributes
    ----------
    minutes : float
        [min].
    above, below : Air or Slab
        What the two large faces touch.
    sides : Air or None
        What the four narrow faces of a box touch; None: no heat goes through them.
    """

    minutes: float
    above: Face
    below: Face
    sides: Air | None = None


class Body(Struct, frozen=True):
    """A block as heat sees it.

    Attributes
    ----------
    width_mm, length_mm : float
        [mm]; 0 for a slab without end.
    """

    material: Material
    thickness_mm: float
    width_mm: float = 0.0
    length_mm: float = 0.0

    @property
    def is_box(self) -> bool:
        """True when heat goes through its narrow faces too."""
        return self.width_mm > 0 and self.length_mm > 0


class Course(Struct, frozen=True):
    """How a body's temperatures went, at the ends of the steps of time.

    Attributes
    ----------
    minutes : array of shape (times,)
        From the start, rising; the end of a phase stands once [min].
    core, mean, top, bottom : array of shape (times,)
        In the middle; on the mean over the volume; in the middle of the upper and of the lower
        face [°C].
    warmest, coldest : array of shape (times,)
        Over all parts [°C].
    depth_mm : array of shape (nodes,)
        From the upper face [mm].
    field : array of shape (times, nodes)
        Temperatures through the middle, from above [°C].
    energy_error : float
        What heat in and heat stored differ by, over the heat that was exchanged [-].
    """

    minutes: Floats
    core: Floats
    mean: Floats
    top: Floats
    bottom: Floats
    warmest: Floats
    coldest: Floats
    depth_mm: Floats
    field: Floats
    energy_error: float

    def at(self, minutes: float) -> tuple[float, float, float, float]:
        """Core, mean, top and bottom at a time [°C]; straight lines between the steps."""
        core, mean, top, bottom = (
            float(np.interp(minutes, self.minutes, each))
            for each in (self.core, self.mean, self.top, self.bottom)
        )
        return core, mean, top, bottom

    @property
    def end_min(self) -> float:
        """When it ends [min]."""
        return float(self.minutes[-1])


def crossing(minutes: Floats, values: Floats, level: float) -> float | None:
    """When a curve first comes to a level [min]; None when it does not.

    Parameters
    ----------
    level : float
        In the unit of the values.

    Returns
    -------
    float or None
        [min]. A curve that begins at the level is there at its beginning.

    Notes
    -----
    A straight line between neighbouring moments: the stepper keeps them so close that the curve
    bends by less than its own tolerance between them.

    Examples
    --------
    >>> crossing(np.array([0.0, 10.0]), np.array([20.0, 10.0]), 12.0)
    8.0
    """
    apart = values - level
    if apart[0] == 0:
        return float(minutes[0])
    beyond = np.nonzero(np.sign(apart) != np.sign(apart[0]))[0]
    if not len(beyond):
        return None
    i = int(beyond[0])
    share = apart[i - 1] / (apart[i - 1] - apart[i])
    return float(minutes[i - 1] + share * (minutes[i] - minutes[i - 1]))


def ready_window(found: Course, low_c: float, high_c: float) -> tuple[float, float] | None:
    """When a body can be worked: no part of it warmer, and none colder, than a range.

    Returns
    -------
    tuple of (from, to) or None
        The first such moments [min]; *to* is the end of the course when nothing ends them before.
        None when there is no such moment.

    Raises
    ------
    AplombError
        When the range is empty.

    Notes
    -----
    Between neighbouring moments both curves are straight lines, so the window can only begin or end
    where one of them crosses its level: those crossings are found, and each piece between is judged
    at its middle.
    """
    if low_c >= high_c:
        raise AplombError(f"ready: {num(low_c)} must be below {num(high_c)}")
    edges = [0.0]
    for values, level in ((found.warmest, high_c), (found.coldest, low_c)):
        apart = values - level
        for i, (a, b) in enumerate(pairwise(apart.tolist())):
            if (a > 0) != (b > 0) or (a < 0) != (b < 0):
                share = a / (a - b) if a != b else 0.0
                edges.append(
                    float(found.minutes[i] + share * (found.minutes[i + 1] - found.minutes[i]))
                )
    edges = sorted({*edges, found.end_min})
    begun: float | None = None
    for a, b in pairwise(edges):
        middle = (a + b) / 2
        warm = float(np.interp(middle, found.minutes, found.warmest))
        cold = float(np.interp(middle, found.minutes, found.coldest))
        if warm <= high_c and cold >= low_c:
            begun = a if begun is None else begun
        elif begun is not None:
            return begun, a
    return None if begun is None else (begun, found.end_min)
