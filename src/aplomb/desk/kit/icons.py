"""Shipped icons in any colour."""

from functools import lru_cache

from PySide6.QtCore import QByteArray, QRectF
from PySide6.QtGui import QPainter
from PySide6.QtSvg import QSvgRenderer

from aplomb.assets import asset


@lru_cache(maxsize=64)
def _renderer(name: str, color: str) -> QSvgRenderer:
    text = asset("icons", f"{name}.svg").read_text(encoding="utf-8").replace("#000", color)
    return QSvgRenderer(QByteArray(text.encode()))


def paint_icon(painter: QPainter, name: str, where: QRectF, color: str) -> None:
    """Paint a shipped icon into a square."""
    _renderer(name, color).render(painter, where)
