"""The cold in words: what a rest does, from when to when, and what would do instead."""

from aplomb.core.base.figures import celsius_range, celsius_text, mm_text, num
from aplomb.core.base.places import KIND_WORDS, UNDER_WORDS, Place, usual_coefficient
from aplomb.core.cold.readiness import After, Band, FirstCold, Match, Out, Ready
from aplomb.core.paste.ingredient import STANDING_WORDS
from aplomb.core.study.cold import Rest, RestResult
from aplomb.core.study.study import Study

HOURS_FROM = 180.0
"""From so long on a time is said in hours [min]."""


def time_text(minutes: float | None) -> str:
    """Write a length of time, never finer than it is known.

    Parameters
    ----------
    minutes : float or None
        [min].

    Examples
    --------
    >>> time_text(56.6), time_text(484.0), time_text(None)
    ('57 min', '8.1 h', 'never')
    """
    if minutes is None:
        return "never"
    if minutes >= HOURS_FROM:
        return f"{num(minutes / 60, '.2g' if minutes < 600 else '.0f')} h"
    return f"{num(minutes, '.0f')} min"


def between_text(low: float, high: float) -> str:
    """Write a span of time, its unit once where both have the same.

    Parameters
    ----------
    low, high : float
        [min].

    Examples
    --------
    >>> between_text(36.0, 65.0), between_text(120.0, 240.0)
    ('36 to 65 min', '120 min to 4 h')
    """
    a, b = time_text(low), time_text(high)
    same = a.split()[-1] == b.split()[-1]
    return f"{a.split()[0]} to {b}" if same else f"{a} to {b}"


def wait_text(least: float, most: float | None) -> str:
    """Write how long something may wait.

    Parameters
    ----------
    least : float
        [min].
    most : float or None
        [min]; None for no most.

    Examples
    --------
    >>> wait_text(20, 1080), wait_text(0, 240), wait_text(30, None)
    ('20 min to 18 h', 'up to 4 h', '30 min or more')
    """
    if most is None:
        return f"{time_text(least)} or more"
    return between_text(least, most) if least else f"up to {time_text(most)}"


def band_text(band: Band) -> str:
    """Write a figure with its band: ``57 min (41 to 65)``.

    Parameters
    ----------
    band : Band
        [min].

    Examples
    --------
    >>> band_text(Band(56.6, 36.2, 65.0))
    '57 min (36 to 65)'
    """
    if band.low is None:
        return "never"
    most = "never" if band.high is None else time_text(band.high).removesuffix(" min")
    least = time_text(band.low).removesuffix(" min")
    if band.usual is None:
        return f"perhaps never; {least} min at the earliest"
    return f"{time_text(band.usual)} ({least} to {most})"


def rest_title(study: Study, rest: Rest) -> str:
    """Name a rest by what comes before it."""
    if rest.of == "dough":
        return "Dough, before the fat"
    if rest.of == "fat":
        return "Fat, before the dough"
    if rest.of == "shaped":
        return "Shaped pieces"
    turns = sum(step.is_turn for step in study.plan.steps[: rest.after])
    if turns == len(study.plan.turns) and turns:
        return "Before the final sheet"
    return f"After turn {turns}" if turns else "After enclosing"


def body_words(rest: Rest) -> str:
    """Say what rests where: ``27 mm from 16 °C in the Fridge``."""
    thick = mm_text(rest.thickness_mm, ".0f" if rest.thickness_mm >= 10 else ".1f")
    return f"{thick} from {celsius_text(rest.start_c, '.0f')}, {rest.place.name}"


def ready_text(found: Ready) -> str:
    """Say from when to when a body can be rolled, with the band of its beginning."""
    start, end = found.start, found.end
    if start.usual is None or end.usual is None:
        return "never ready this way"
    begin = "ready at once" if start.usual < 1 else f"ready from {band_text(start)}"
    if found.lasts:
        return f"{begin}, and stays ready"
    return f"{begin} to {time_text(end.usual)}"


def never_words(found: Ready, instead: FirstCold | None, range_c: tuple[float, float]) -> str:
    """Say why a body is never ready in a place, and what would do instead."""
    low, high = range_c
    course = found.course
    warm = float(course.warmest[-1])
    if warm > high:
        why = f"It stays warmer than {celsius_text(high, '.0f')} here."
    elif float(course.coldest[0]) < low and float(course.coldest.max()) < low:
        why = f"It stays colder than {celsius_text(low, '.0f')} here."
    else:
        why = (
            f"Never ready this way: when the middle reaches {celsius_text(high, '.0f')}, "
            f"the skin is at {celsius_text(found.coldest_c, '.0f')}."
        )
    if instead is None:
        return why
    return (
        f"{why} Instead, give it {time_text(instead.first_min)} in the "
        f"{instead.first.name.lower()}, then the {instead.then.name.lower()}: ready from "
        f"{time_text(instead.start_min)} to {time_text(instead.end_min)}."
    )


VERDICTS = {
    "soft": "still too soft inside",
    "ready": "ready",
    "hard": "too hard outside: let it stand first",
    "uneven": "too hard outside while still too soft inside",
}


def after_text(done: After, minutes: float) -> str:
    """Say what a rest of so many minutes really does.

    Parameters
    ----------
    minutes : float
        [min].
    """
    temps = celsius_range(done.skin_c, done.core_c, spec=".0f")
    return (
        f"After {time_text(minutes)} it is at {temps} from skin to middle: "
        f"{VERDICTS[done.verdict]}."
    )


def out_text(found: Out, limit_c: float) -> str:
    """Say how long a sheet may stay out."""
    if found.minutes.usual is None:
        return f"It can stay out: it does not reach {celsius_text(limit_c, '.0f')}."
    return (
        f"Back into the cold after {band_text(found.minutes)}, when it averages "
        f"{celsius_text(limit_c, '.0f')}."
    )


def match_words(found: Match) -> str:
    """Say how dough and fat come to one firmness: which goes in when."""
    if found.meet_min is None:
        never = "dough" if found.dough.never else "fat"
        return f"Dough and fat never become equally firm this way: the {never} is never ready."
    meet = time_text(found.meet_min)
    if not found.waits:
        return f"Both go in at the same time; dough and fat are equally firm after {meet}."
    later = time_text(found.wait_min)
    return (
        f"The fat goes in first, the dough {later} later; dough and fat are equally firm after "
        f"{meet}."
        if found.waits == "dough"
        else f"The dough goes in first, the fat {later} later; dough and fat are equally firm "
        f"after {meet}."
    )


def place_words(place: Place, temp_c: float) -> str:
    """Say what a place is like, and how sure its figure is."""
    if place.own_w_m2_k is not None:
        figure = f"{num(place.own_w_m2_k, '.3g')} W/m²K"
        if place.own_low_w_m2_k is not None and place.own_high_w_m2_k is not None:
            figure += (
                f" ({num(place.own_low_w_m2_k, '.3g')} to {num(place.own_high_w_m2_k, '.3g')})"
            )
        return f"{celsius_text(temp_c)}; your own figure {figure}, {place.own_from}"
    usual = usual_coefficient(place.kind, moving=place.moving)
    air = "moving air" if place.moving or place.kind == "blast" else "still air"
    wrap = "wrapped" if place.wrapped else "bare"
    return (
        f"{KIND_WORDS[place.kind]} at {celsius_text(temp_c).replace('-', '−')}, {air}, on "
        f"{UNDER_WORDS[place.under]}, {wrap}; {num(usual.above)} and {num(usual.below)} W/m²K "
        f"above and below, {STANDING_WORDS[usual.standing]}"
    )


def faces_words(rest: Rest) -> str:
    """Say how a body is taken: whether its sides count, and whether it is one body."""
    if rest.is_small:
        return "Small: heat passes through all six sides."
    if rest.of == "paste":
        return (
            "Wide for its height: hardly any heat passes through the sides. The "
            "leaves are calculated as one solid block."
        )
    return (
        "Calculated as one solid block."
        if rest.of in ("dough", "fat")
        else "Thin: the cold goes through at once."
    )


def rest_summary(study: Study, found: RestResult, range_c: tuple[float, float]) -> str:
    """Say all of a rest in a few sentences."""
    words = [f"{rest_title(study, found.rest)}: {body_words(found.rest)}."]
    words.append(faces_words(found.rest))
    if found.ready.never:
        words.append(never_words(found.ready, found.instead, range_c))
    else:
        text = ready_text(found.ready)
        words.append(f"{text[:1].upper()}{text[1:]}.")
    if found.done is not None and found.rest.step.rest_min is not None:
        words.append(after_text(found.done, found.rest.step.rest_min))
    return " ".join(words)
