"""Where the user's files are. ``APLOMB_HOME`` moves all of them."""

import os
from pathlib import Path


def home() -> Path:
    """Give the folder of the user's own books and settings."""
    set_to = os.environ.get("APLOMB_HOME")
    if set_to:
        return Path(set_to)
    data = os.environ.get("XDG_DATA_HOME")
    return (Path(data) if data else Path.home() / ".local" / "share") / "aplomb"


def own_book() -> Path:
    """Give the path of the user's own book."""
    return home() / "book.aplomb"


def demo_book() -> Path:
    """Give the path of the demo book; it is never mixed with the user's own."""
    return home() / "demo.aplomb"


def settings_file() -> Path:
    """Give the path of the settings."""
    return home() / "settings.json"
