"""Passes through a sheeter: how the gap is closed from the block to the sheet."""

import math

from aplomb.core.base.errors import AplombError
from aplomb.core.base.figures import num

MOST_PASSES = 40


def passes_mm(start_mm: float, end_mm: float, reduction: float) -> tuple[float, ...]:
    """List the gaps of a sheeter from a block to a sheet.

    Gaps [mm], each thinner than the one before, the last `end_mm`; only that when the block is
    no higher than it. The same share is taken off at each pass, as few passes as can be.

    Parameters
    ----------
    start_mm, end_mm : float
        Height of the block and of the sheet [mm], both above 0.
    reduction : float
        Most that one pass takes off, as a share of what is there [-], above 0 and below 1.

    Raises
    ------
    AplombError
        For a height or reduction outside its range.

    Notes
    -----
    n = ⌈ln(end/start) / ln(1 - reduction)⌉ passes with the ratio (end/start)^(1/n). A third to a
    half at a pass is usual at the most (recalled).

    Examples
    --------
    >>> [round(mm, 1) for mm in passes_mm(30.0, 8.0, 0.4)]
    [19.3, 12.4, 8.0]
    """
    if not (math.isfinite(start_mm) and math.isfinite(end_mm) and start_mm > 0 and end_mm > 0):
        raise AplombError("a block and a sheet need a thickness above 0 mm")
    if not 0 < reduction < 1:
        raise AplombError(
            "each pass must thin the sheet by more than 0 and less than all of it, not "
            f"{num(reduction)}"
        )
    if start_mm <= end_mm:
        return (end_mm,)
    many = math.ceil(math.log(end_mm / start_mm) / math.log(1 - reduction) - 1e-9)
    many = min(max(many, 1), MOST_PASSES)
    ratio = (end_mm / start_mm) ** (1 / many)
    return (*(start_mm * ratio**i for i in range(1, many)), end_mm)
