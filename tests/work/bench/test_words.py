"""What the bench says of a step agrees with the formula, the house and what was pressed."""

import pytest

from aplomb.core.base.figures import mm_text
from aplomb.core.batch.water import held_back_g
from aplomb.core.bench.acts import Begin, Count, End, Hold
from aplomb.core.bench.state import alarms
from aplomb.work.bench import finish, words


@pytest.fixture
def run(opened):
    return opened()


@pytest.fixture
def pantry(work):
    return work.store.reference.pantry


def study_of(work, run, task):
    return finish.studies_of(work, run)[run.plan.track(task.track).uid]


def card(work, run, task):
    return words.card_of(run, task, study_of(work, run, task), work.store.reference.pantry)


def tasks(run, *kinds):
    return [task for task in run.plan.tasks if task.kind in kinds]


def do(run, hand, task):
    run.press(Begin(task.key))
    hand.on(60 * task.minutes)
    run.press(End(task.key))


def test_a_sheet_is_rolled_to_the_size_of_its_task(work, run):
    seen = 0
    for task in tasks(run, "turn", "sheet"):
        if task.sheet is None:
            continue
        told = " ".join(card(work, run, task).todo)
        high = task.sheet.thickness_mm
        thick = mm_text(high, 1) if task.kind == "sheet" else mm_text(high)
        assert f"{thick} thick" in told
        assert told.startswith("Roll to ")
        seen += 1
    assert seen > 3


def test_the_tally_follows_the_presses_and_the_house_s_way_of_counting(run, hand):
    track = tasks(run, "turn")[0].track
    planned = len([t for t in run.plan.tasks_of(track) if t.kind == "turn"])
    how = "counted" if run.plan.counts_enclosing else "not counted"
    extra = 1 if run.plan.counts_enclosing else 0
    assert words.tally_words(run, track) == f"0 of {planned + extra} turns, enclosing {how}"
    for task in run.plan.tasks_of(track):
        do(run, hand, task)
        if task.kind == "turn":
            break
    assert words.tally_words(run, track).startswith(f"{1 + extra} of ")


def test_the_mixes_share_the_dough_and_the_water_held_back(work, run, pantry):
    mixes = tasks(run, "mix")
    by_track = {mix.track: [m for m in mixes if m.track == mix.track] for mix in mixes}
    for some in by_track.values():
        assert sum(words.mix_share(run, mix) for mix in some) == pytest.approx(1.0)
        study = study_of(work, run, some[0])
        whole = held_back_g(study.formula, pantry, study.scaled.factor)
        held = [words.held_back_of(run, mix, study, pantry) for mix in some]
        assert sum(held) == pytest.approx(whole)
    assert words.held_back_of(run, tasks(run, "cut")[0], study, pantry) == 0.0


def test_what_was_counted_is_told_with_what_is_left(work, run, pantry):
    mix = tasks(run, "mix")[0]
    held = words.held_back_of(run, mix, study_of(work, run, mix), pantry)
    run.press(Count(mix.key, "water", 2, run.times.spoon_g("water")))
    (told,) = [w for w in words.count_words(run, mix, held) if "held back" in w]
    assert (
        f"2 × {run.times.spoon_g('water'):.0f} g = {2 * run.times.spoon_g('water'):.0f} g" in told
    )
    assert told.endswith(f"of {held:.0f} g held back")


@pytest.mark.parametrize(
    ("kind", "said"),
    [
        ("cut", "blade"),
        ("bake", "Hot oven: wear gloves and"),
        ("heat", "steam"),
        ("pack", "food law"),
    ],
)
def test_what_can_hurt_is_told_where_it_can(work, run, pantry, kind, said):
    for task in tasks(run, kind):
        formula = study_of(work, run, task).formula
        assert said in words.caution_of(run, task, formula, pantry)


def test_a_step_that_is_under_way_tells_what_is_left_and_then_what_it_is_over(run, hand):
    first = run.current().task
    run.press(Begin(first.key))
    begun = run.now_s
    hand.on(60 * first.minutes - 65)
    (now,) = [each for each in run.order() if each.task.key == first.key]
    left = 60 * first.minutes - (run.now_s - begun)
    assert words.coming_words(run, now) == f"{words.clock_words(left)} to go"
    hand.on(95)
    assert words.coming_words(run, now) == "0:30 over"
    over = [a for a in alarms(run.plan, run.state, run.now_s) if a.task == first.key]
    for alarm in over:
        title, todo = words.alarm_words(run, alarm)
        assert words.task_title(first) in title
        assert todo


def test_every_task_has_something_to_do(work, opened):
    for entry in list(work.shelf.entries.values())[::2]:  # blocks, pieces, gluten-free
        run = opened(name=entry.name)
        for task in run.plan.tasks:
            made = card(work, run, task)
            assert made.title[:1].isupper()
            assert made.todo
            assert all(made.todo)
            assert "None" not in " ".join((*made.todo, made.stop, made.caution))


def test_how_long_a_block_is_held_and_where():
    held = Hold("A1/turn 2", "bench", 4.6, "")
    assert words.answered_words(held) == "Leave it on the bench for 5 min."
