"""The toolkit, loaded first, and Python's own ``import`` put back behind it.

The binding puts an ``__import__`` of its own in place of Python's, which from then on reads the
source of every module that is imported, in search of a dialect of the binding that is not used
here. That took a tenth of the time to the first figures, and some at every later import.
"""

import builtins
from importlib import import_module


def load() -> None:
    """Load the toolkit, leaving Python's import as it was."""
    plain = builtins.__import__
    import_module("PySide6.QtCore")
    builtins.__import__ = plain
