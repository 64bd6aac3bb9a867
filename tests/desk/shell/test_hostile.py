"""Whatever is typed into whatever field: nothing falls over, no figure becomes nonsense."""

import math
from itertools import cycle, islice

import pytest
from PySide6.QtWidgets import QApplication

from aplomb.desk.kit.typed import Field
from aplomb.work.commands import BATCH, FOLDS, PASTE
from aplomb.work.commands import PAGES as COMMANDS_OF_PAGES

BAD = ["", "0", "-5", "nan", "9e99", "999999999999", "abc", "1/0", "💥", "'; --", "1" * 300]
MOST_FIELDS = 14
"""A page has rows of the same fields; scripts/press_at_random.py types into all."""
PAGES = [page.key for page in COMMANDS_OF_PAGES]


def typed_everywhere(window, root, each=0):
    """Type some of it, in turn, into every field that is seen; gives how many there were."""
    many, turn = 0, cycle(BAD)
    for i in range(min(MOST_FIELDS, len(root.findChildren(Field)))):
        for text in islice(turn, each or len(BAD)):
            fields = root.findChildren(Field)
            if i >= len(fields) or not fields[i].isVisible() or fields[i].isReadOnly():
                continue
            field = fields[i]
            field.selectAll()
            field.insert(text)
            field.commit()
            QApplication.processEvents()
            many += 1
            study = window.session.study
            assert study is not None
            scaled = study.scaled
            figures = (scaled.paste_g, scaled.rolled_g, scaled.factor, study.accounts.flour_g)
            assert all(math.isfinite(f) and f >= 0 for f in figures), (field.accessibleName(), text)
            if field.bad:
                field.revert()
    return many


@pytest.mark.parametrize("key", PAGES)
def test_every_field_of_every_page(window, qtbot, key):
    window.open_page(key)
    QApplication.processEvents()
    typed_everywhere(window, window.pages[key], each=2)
    assert window.session.flush()


@pytest.mark.parametrize("stage", [PASTE, FOLDS, BATCH])
def test_every_field_of_every_stage(window, stage):
    window.show_stage(stage)
    QApplication.processEvents()
    assert typed_everywhere(window, window.shown_stage(), each=5) > 0
    assert window.session.flush()
