"""What ships with the application: reference data, the demo book, fonts and icons."""

from pathlib import Path

_FOLDER = Path(__file__).parent
"""Files beside the code: some are handed to the toolkit and to players of sound by their path."""


def asset(*path: str) -> Path:
    """Give a shipped file, as ``asset("icons", "shelf.svg")``."""
    return _FOLDER.joinpath(*path)
