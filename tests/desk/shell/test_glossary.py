"""The words of the trade: one list, on its page, in the tool tips, in the texts."""

import re
import sys
from pathlib import Path

from PySide6.QtWidgets import QLabel

from aplomb.assets.shipped import glossary
from aplomb.core.opinion.rules import RULES
from aplomb.core.study.cold_rules import COLD_RULES
from aplomb.desk.shell.explaining import explain

ROOT = Path(__file__).resolve().parents[3]
sys.path.insert(0, str(ROOT / "scripts"))
import list_texts  # noqa: E402


def test_sixty_words_of_two_lines_each_stand_on_their_page():
    words = glossary()
    assert len(words) >= 60
    assert list(words) == sorted(words)
    assert all(20 < len(each.says) <= 160 and each.says.endswith(".") for each in words.values())
    page = (ROOT / "docs" / "glossary.md").read_text("utf-8")
    rows = re.findall(r"^\| \*\*(.+?)\*\* \| (.+?) \| (.+?) \|$", page, re.MULTILINE)
    assert rows == [(w.word, w.says, ", ".join(w.also)) for w in words.values()]


def test_no_synonym_is_a_word_of_its_own():
    words = glossary()
    also = [name for each in words.values() for name in each.also]
    assert not set(also) & set(words)
    assert len(also) == len(set(also))


def test_a_caption_says_what_it_means(window):
    label = QLabel("Turn line", window)
    other = QLabel("Scrap, g", window)
    other.setToolTip("its own")
    explain(window)
    assert label.toolTip().startswith("The whole plan of folds and rests in one line of text")
    assert other.toolTip() == "its own"


def test_no_text_has_a_word_of_old():
    """What is understood when it is typed, kept in files or said in a pattern is no text."""
    known = {
        "core/base/numbers.py", "core/lists/reading.py", "core/day/old_names.py",
        "core/lists/amounts.py", "core/oven/bake_line.py",
        "exchange/pantry_csv.py", "work/figures/typed.py", "book/tables.py",
    }  # fmt: skip
    met = [
        f"{name}:{line}: {text}"
        for path in sorted(list_texts.SOURCE.rglob("*.py"))
        if (name := path.relative_to(list_texts.SOURCE).as_posix()) not in known
        for line, text in list_texts.texts(path)
        if list_texts.old_words(text)
        and text != "draws back"  # a state's key, as presses in books name it
        and not (name == "work/commands.py" and text.islower())  # words one may search by
    ]
    assert met == []


def test_the_first_page_counts_the_rules_that_are_there():
    readme = " ".join((ROOT / "README.md").read_text("utf-8").split())
    (many,) = re.findall(r"second opinion has (\d+) rules", readme)
    assert int(many) == len(RULES) + len(COLD_RULES)
