"""Start Aplomb as ``python -m aplomb``."""

import os
import signal
import sys

OLDEST = (3, 11)


def _heal(error: ImportError) -> None:
    """Have the launcher set up anew what cannot be imported, once; else say what to do."""
    launcher = os.environ.get("APLOMB_LAUNCHER", "")
    if launcher and "APLOMB_HEALED" not in os.environ:
        os.environ["APLOMB_HEALED"] = "1"
        os.environ["APLOMB_HEAL"] = "0" if "cannot open shared object" in str(error) else "1"
        os.environ.pop("PYTHONPATH", None)
        for stamp in ("run", "dev", "python"):  # none of them is true any more
            path = os.path.join(sys.prefix, f"aplomb-{stamp}.txt")  # noqa: PTH118  # any Python
            if os.path.exists(path) and os.access(sys.prefix, os.W_OK):  # noqa: PTH110
                os.remove(path)  # noqa: PTH107
        os.execv("/bin/sh", ["/bin/sh", launcher, *sys.argv[1:]])
    sys.stderr.write(
        f"aplomb: {error}. Some packages it needs are missing or damaged; delete the "
        "folder .venv and start again.\n"
    )


def start() -> int:
    """Start, and end quietly when the terminal says so."""
    if sys.version_info < OLDEST:
        sys.stderr.write(
            "aplomb: Python 3.11 or newer is needed; this is %d.%d\n" % sys.version_info[:2]  # noqa: UP031
        )
        return 1
    signal.signal(signal.SIGINT, signal.SIG_DFL)  # until a window deals with it itself
    try:
        from aplomb.cli import main

        return main()
    except ImportError as error:
        if (error.name or "").startswith("aplomb"):
            raise
        _heal(error)
        return 1


if __name__ == "__main__":
    sys.exit(start())
