"""As written: the list's own grams, through every edit, by one key each."""

import pytest
from PySide6.QtCore import Qt

from aplomb.core.paste.formula import Part, with_grams
from desk.conftest import BATCH, place, searched, shown

K = Qt.Key


def weighed(window):
    """What is weighed of each line of the dough and fat [g, exact], by part and material."""
    return {
        (w.part, w.line.material): w.exact_g
        for w in window.session.study.scaled.lines
        if w.part in (Part.DOUGH, Part.BLOCK)
    }


def written(window, times):
    formula = window.session.formula
    return {
        (part, n.material): n.grams * times
        for part in (Part.DOUGH, Part.BLOCK)
        for n in formula.lines(part)
    }


@pytest.mark.parametrize(("key", "times"), [(K.Key_H, 0.5), (K.Key_T, 1 / 3), (K.Key_D, 2.0)])
def test_one_key_makes_the_formula_as_written_so_many_times(window, person, key, times):
    window.show_stage(BATCH)
    window.batch.times["W"].setFocus()
    person.press(K.Key_W)
    assert weighed(window) == pytest.approx(written(window, 1.0))
    person.press(key)
    assert person.formula.batch.fixed == "written"
    assert weighed(window) == pytest.approx(written(window, times))
    window.session.journal.undo()
    assert weighed(window) == pytest.approx(written(window, 1.0))


def test_an_amount_that_is_typed_changes_one_line_of_the_batch(window, person):
    window.show_stage(BATCH)
    window.batch.times["W"].setFocus()
    person.press(K.Key_W)
    before = weighed(window)
    window.session.shelf.edit("salt", lambda f: with_grams(f, Part.DOUGH, 3, 77.0))
    after = weighed(window)
    assert {key for key in after if after[key] != before[key]} == {
        (Part.DOUGH, person.formula.dough[3].material)
    }


def test_a_factor_is_typed_in_any_way_and_a_wrong_one_is_told(window, person):
    window.show_stage(BATCH)
    field = window.batch.fields["written"]
    for text, times in (("3/4", 0.75), ("1 ½", 1.5), ("2", 2.0)):
        field.setFocus()
        person.type(text)
        assert person.formula.batch.times == times
    field.setFocus()
    person.type("a few")
    assert field.bad
    assert "how many times" in field.bad_reason
    assert person.formula.batch.times == 2.0
    person.press(K.Key_Escape)


def test_paste_that_is_left_over_is_kept_and_told(window, qtbot, person):
    window.show_stage(BATCH)
    window.batch.times["D"].setFocus()
    person.press(K.Key_D)
    searched(qtbot, place(window, "cut"))
    window.show_stage(BATCH)
    scaled = window.session.study.scaled
    assert scaled.as_cut
    assert scaled.over_g > 0
    assert "to keep" in " ".join(w.text() for w in window.batch.sums), shown(window.batch)
