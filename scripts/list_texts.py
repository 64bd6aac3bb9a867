"""List every text that a user can meet, with the file it stands in; exit 1 when an old word is met.

``python scripts/list_texts.py`` prints ``file:line`` and the text, its places for values as {…};
``--only desk/day`` one room; ``--old`` only those with a word that is not ours any more.
"""

import argparse
import ast
import re
import sys
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
SOURCE = ROOT / "src" / "aplomb"
HOLE = "{…}"
OLD_WORDS = (
    r"\breckon",
    r"\bput by\b",
    r"\bat the (least|most|soonest)\b",
    r"(?<!there )\bis no\b(?! longer)",
    r"(?<!there )\bis none\b",
    r"\bsigns?\b",
    r"\bnought\b",
    r"\b(work|works|worked|working) (\w+ ){0,2}out\b",
    r"\banew\b",
    r"\bnot to be had\b",
    r"\bon the mean\b",
    r"\brecalled\b",
    r"\bmaterials?\b",
    r"\bbands?\b",
    r"\btake back\b",
    r"\btaken back\b",
    r"\bpast its day\b",
    r"\boff the middle\b",
    r"\bdraws? back\b",
    r"\bback to the cold\b",
    r"\bcut faces\b",
    r"\bbegin(s|ning)?\b",
    r"\bbegun\b",
)
"""What is never said to a user; `docs/glossary.md` has what is said."""
KEYS = re.compile(r"[a-z0-9_./#@:-]*|[A-Z][A-Za-z]*\.[a-z_]+|[\w-]+\.(json|svg|png|ttf|pdf|py)")


def texts(path: Path) -> Iterator[tuple[int, str]]:
    """Give the texts of a file with their lines: whole, values as {…}, no docstrings or keys."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    plain: set[int] = set()
    for node in ast.walk(tree):
        if isinstance(node, ast.Expr) and isinstance(node.value, ast.Constant):
            plain.add(id(node.value))
        if isinstance(node, ast.JoinedStr):
            plain.update(id(each) for each in ast.walk(node) if each is not node)
    for node in ast.walk(tree):
        if id(node) in plain:
            continue
        if isinstance(node, ast.Constant) and isinstance(node.value, str):
            text = node.value
        elif isinstance(node, ast.JoinedStr):
            text = "".join(
                str(each.value) if isinstance(each, ast.Constant) else HOLE for each in node.values
            )
        else:
            continue
        if is_said(text):
            yield node.lineno, text


def is_said(text: str) -> bool:
    """Tell whether a text is for people: words, and more than a key."""
    bare = text.replace(HOLE, "")
    if not re.search(r"[A-Za-z]{2}", bare) or KEYS.fullmatch(text.strip()):
        return False
    return not re.match(
        r"(SELECT|INSERT|UPDATE|DELETE|PRAGMA|CREATE|BEGIN|SAVEPOINT)\b|aplomb\.", text
    )


def old_words(text: str) -> list[str]:
    """Give the words of a text that are not ours any more."""
    return [found[0] for each in OLD_WORDS if (found := re.search(each, text, re.IGNORECASE))]


def main() -> int:
    """Print the texts; gives 1 when an old word is met among them."""
    parser = argparse.ArgumentParser(description=__doc__.splitlines()[0])
    parser.add_argument("--only", default="", help="files whose path begins so, below src/aplomb")
    parser.add_argument("--old", action="store_true", help="only texts with a word of old")
    asked = parser.parse_args()
    many = met = 0
    for path in sorted(SOURCE.rglob("*.py")):
        name = path.relative_to(SOURCE).as_posix()
        if not name.startswith(asked.only):
            continue
        for line, text in texts(path):
            old = old_words(text)
            many, met = many + 1, met + bool(old)
            if old or not asked.old:
                print(f"{name}:{line}\t{text!r}" + (f"\t← {', '.join(old)}" if old else ""))
    print(f"{many} texts, {met} with a word of old", file=sys.stderr)
    return 1 if met else 0


if __name__ == "__main__":
    sys.exit(main())
