"""Write docs/second-opinion.md from the rules: ``.venv/bin/python scripts/opinions_page.py``."""

import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT / "src"))

from aplomb.core.opinion.rules import page  # noqa: E402
from aplomb.core.study.cold_rules import listed  # noqa: E402

if __name__ == "__main__":
    (ROOT / "docs" / "second-opinion.md").write_text(page(listed()), encoding="utf-8")
