"""The leaf stack as a narrow picture, to be laid beside a photograph."""

import numpy as np
from PySide6.QtGui import QImage

from aplomb.core.folds.counts import FAT
from aplomb.core.folds.stack import Stack
from aplomb.desk.drawings.folded import DOUGH
from aplomb.desk.drawings.folded import FAT as FAT_INK


def strip_image(stack: Stack, wide: int, high: int) -> QImage:
    """Paint a stack, each row with the share of fat that falls into it.

    The top leaf above.

    Parameters
    ----------
    wide, high : int
        [px].
    """
    edges = np.concatenate([[0.0], np.cumsum(stack.shares[::-1])])
    fat = np.concatenate([[0.0], np.cumsum(stack.shares[::-1] * (stack.kinds[::-1] == FAT))])
    rows = np.interp(np.linspace(0, edges[-1], high + 1), edges, fat)
    share = np.clip(np.diff(rows) * high / edges[-1], 0, 1)[:, None]
    inks = [np.array([c.red(), c.green(), c.blue()], dtype=float) for c in (DOUGH, FAT_INK)]
    rgb = np.rint(inks[0] * (1 - share) + inks[1] * share).astype(np.uint32)
    column = 0xFF000000 | (rgb[:, 0] << 16) | (rgb[:, 1] << 8) | rgb[:, 2]
    pixels = np.ascontiguousarray(np.repeat(column[:, None], wide, axis=1).astype(np.uint32))
    return QImage(pixels.data, wide, high, wide * 4, QImage.Format.Format_RGB32).copy()
