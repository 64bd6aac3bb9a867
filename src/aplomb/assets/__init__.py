"""What ships with the application: reference data, the demo book, fonts and icons."""

from importlib import resources
from importlib.resources.abc import Traversable


def asset(*path: str) -> Traversable:
    """Give a shipped file, as ``asset("icons", "shelf.svg")``."""
    return resources.files(__name__).joinpath(*path)
