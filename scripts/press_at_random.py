"""Press keys and click at random over the whole application; exit 0 when nothing fell."""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
sys.path[:0] = [str(ROOT / "src"), str(ROOT / "tests")]

from finders.press import main  # noqa: E402

if __name__ == "__main__":
    sys.exit(main())
