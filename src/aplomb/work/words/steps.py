"""A plan in words for a person at the bench: what to do at each step, with its sizes."""

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.figures import (
    bare_text,
    celsius_text,
    cm_text,
    g_text,
    kg_text,
    length_unit,
    mass_text,
    mm_range,
    mm_text,
    number_text,
    rolled_sides,
    rolled_text,
    weight_text,
)
from aplomb.core.base.house import House
from aplomb.core.base.texts import counted
from aplomb.core.batch.blanks import Blank
from aplomb.core.batch.blocks import PRESSED
from aplomb.core.batch.scaled import Scaled
from aplomb.core.batch.water import held_back_g
from aplomb.core.batch.weighing import WeighStep
from aplomb.core.folds.boxes import Box
from aplomb.core.folds.enclosing import Enclosing
from aplomb.core.folds.kinds import kind_of
from aplomb.core.folds.passes import passes_mm
from aplomb.core.folds.plan import Enclosure, rest_words
from aplomb.core.folds.step import Step, Way
from aplomb.core.paste.formula import Part
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Study


class StepWords(Struct, frozen=True):
    """What is said of a step: over the drawing, large, and below it in two paragraphs."""

    drawing: str
    big: str
    todo: str
    after: str = ""


def rectangle(box: Box) -> str:
    """Write the size of a sheet as people roll it: 57.5 × 20 cm."""
    return rolled_sides(box.length_mm, box.width_mm)


def blank_size(blank: Blank, places: int = 1) -> str:
    """Write the size of what is cut, without its unit: ⌀ 71, or 120 × 80."""
    sides = [bare_text(side, "mm", places) for side in (blank.length_mm, blank.width_mm)]
    return f"⌀ {sides[0]}" if blank.round else " × ".join(sides)


def counts_as_cut(mine: Sequence[tuple[int, Blank]]) -> bool:
    """Say whether what is cut of a product is counted apart from its pieces."""
    return len(mine) > 1 or mine[0][1].a_piece != 1


def what_is_cut(blank: Blank) -> str:
    """Name an outline, and how many make a piece where it is not one.

    Examples
    --------
    >>> from aplomb.core.batch.blanks import Blank
    >>> what_is_cut(Blank("", 71.0, 71.0, (71.0, 71.0), 3959.0, 2.0, round=True))
    'round, 2 each'
    """
    what = blank.what or ("round" if blank.round else "piece")
    if blank.a_piece > 1:
        return f"{what}, {number_text(blank.a_piece, 0)} each"
    if blank.a_piece < 1:
        return f"{what}, {number_text(1 / blank.a_piece, 0)} pieces from each"
    return what


def fold_words(step: Step) -> str:
    """Say how a sheet is folded, within a sentence."""
    return kind_of(step).told.format(panels=step.panels)


SHARE_NAMES = {2: "half", 3: "third", 4: "quarter"}
"""What a part of a block is called."""


def dough_and_fat_words(study: Study) -> str:
    """Say what dough and fat of one block weigh; empty for an empty paste.

    The fat as it is weighed out, and as much dough as makes the block with it.
    """
    scaled, a = study.scaled, study.accounts
    if scaled.factor <= 0 or a.block_g <= 0:
        return ""
    fat_g = block_fat_g(study)
    dough_g = (a.dough_g + a.block_g) * scaled.a_block - fat_g
    one = " each" if scaled.blocks > 1 else ""
    fat = "fat block" if study.plan.enclosure in PRESSED else "fat"
    return f"dough {weight_text(dough_g)}, {fat} {weight_text(fat_g)}{one}"


def block_fat_g(study: Study) -> float:
    """Fat of one block as it is weighed out [g]."""
    scaled = study.scaled
    return study.accounts.block_g * scaled.a_block * scaled.over_exact(Part.BLOCK)


def share_words(study: Study) -> str:
    """Say what the parts weigh that a finished block is shared out into; empty for whole ones."""
    scaled, shares = study.scaled, study.formula.batch.shares
    if shares < 2 or scaled.finished_g <= 0:
        return ""
    name = SHARE_NAMES.get(shares, "part")
    plural = {"half": "halves"}.get(name, f"{name}s")
    return (
        f"each finished block cut into {shares} {plural} of "
        f"{weight_text(scaled.finished_g / shares)}"
    )


def offcut_words(study: Study) -> str:
    """Say what is made of offcuts, and when they do not give all of it; empty for nothing."""
    found = []
    for product, made in zip(study.formula.of_offcuts, study.scaled.from_offcuts, strict=True):
        few = f" of {number_text(product.wanted, 0)} ordered" if made.good < product.wanted else ""
        each = f"of {weight_text(product.offcut_g)}"
        found.append(f"{number_text(made.pieces, 0)} {product.name}{few} {each}")
    return f"from scrap: {', '.join(found)}" if found else ""


def batch_facts(study: Study) -> list[str]:
    """Say what a block is made of, what it is shared out into, and what its offcuts give."""
    each = (dough_and_fat_words(study), share_words(study), offcut_words(study))
    return [words for words in each if words]


def block_words(step: WeighStep) -> str:
    """Say how a weighed line of the fat block is parted over blocks; empty for any other."""
    if step.weighed.part is not Part.BLOCK or step.blocks < 2:
        return ""
    return f"{step.blocks} blocks, {g_text(step.block_g, 1)} each"


def trim_words(step: Step) -> str:
    """Say what is trimmed."""
    edges = {"all": "all edges", "folded": "the folded edges", "rolled": "the rolled edges"}
    return f"Trim {mm_text(step.trim_mm)} off {edges[step.edges]}"


COLD_WORDS = {
    "": "in the cold", "fridge": "in the fridge", "freezer": "in the freezer",
    "blast": "in the blast chiller", "room": "in the room",
}  # fmt: skip


def rest_title(step: Step) -> str:
    """Say a rest as the title of a step.

    Examples
    --------
    >>> rest_title(Step(Way.REST, rest_min=30.0, most_min=60.0, place="freezer"))
    'Rest in the freezer, 30 to 60 min'
    """
    kind = step.place.rstrip("0123456789")
    number = step.place[len(kind) :]
    bare = replace(step, place="")
    long = rest_words(bare).removeprefix("rest").strip()
    where = f"{COLD_WORDS[kind]}{' ' if number else ''}{number}"
    return f"Rest {where}{', ' if long else ''}{long}"


def step_words(study: Study, place: int, house: House) -> StepWords:
    """Say what is done at a place of the ribbon.

    Parameters
    ----------
    place : int
        0 for the enclosing, 1 for the plan's first step.
    house : House
        With the sheeter.
    """
    each = f"{kg_text(study.scaled.each_g, '.2f')} per block"
    if place == 0:
        words = _enclosing_words(study, each)
        return replace(words, after=_joined(rests_before(study), words.after))
    words = _step_words(study, place, house, each)
    if place == len(study.plan.steps):
        words = replace(words, after=_joined(words.after, rest_of_shaped(study)))
    return words


def _joined(*lines: str) -> str:
    return "\n".join(line for line in lines if line)


def _step_words(study: Study, place: int, house: House, each: str) -> StepWords:
    step, moment = study.plan.steps[place - 1], study.turns[place]
    if step.way is Way.REST:
        return StepWords(
            "",
            rest_title(step),
            (
                "Go by the block, not the clock: roll again when a thumb "
                f"leaves a dent of about {mm_text(6)} and the fat neither cracks nor smears."
            ),
        )
    if step.way is Way.TRIM:
        number = sum(s.way is Way.TRIM for s in study.plan.steps[:place]) - 1
        trims = study.worked.trims
        left = f"What is left: {rectangle(trims[number].left)}." if number < len(trims) else ""
        return StepWords(
            "",
            trim_words(step),
            (
                "Cut straight down with a long sharp blade: dragging it seals the leaves. "
                "Stack the scrap flat for bases and oven tests."
            ),
            left,
        )
    if moment.size is None:
        return StepWords("", "No size yet", study.fold_trouble or study.scaled.trouble)
    sheet, block = moment.size.sheet, moment.size.block
    how = fold_words(step)
    if step.way is Way.PORTION:
        bare = ", and fold the bare part over first" if step.covered is None else ""
        how = (
            f"spread {weight_text(portion_g(study, place))} of the fat on {len(step.spread_on)} "
            f"of {step.panels} panels{bare}"
        )
    turn = (
        ", then turn it so that the closed edge is on the right" if step.way is not Way.ROLL else ""
    )
    todo = (
        f"{mm_text(sheet.height_mm)} thick; brush off the flour, square the corners, {how}{turn}."
    )
    before = study.block_after(place - 1)
    if step.way is Way.ROLL:
        thick = cm_text(block.height_mm, ".1f")
        after = f"A log {thick} thick and {rolled_text(block.width_mm)} long"
    else:
        after = f"Folded: {rectangle(block)}, {mm_text(block.height_mm, '.0f')}"
    if before is not None:
        after += f"\n{direction_words(before, sheet)}"
        after += passes_words(before, sheet, house)
    return StepWords(f"Sheet to scale, {each}", f"Roll to {rectangle(sheet)}", todo, after)


def rests_before(study: Study) -> str:
    """Say how dough and fat rest by themselves before they meet; empty where nothing is written."""
    plan = study.plan
    told = [
        f"{who}: {rest_title(rest).removeprefix('Rest ')}"
        for who, rest in (("Dough", plan.dough_rest), ("Fat", plan.fat_rest))
        if rest is not None
    ]
    return f"Before enclosing: {'; '.join(told)}." if told else ""


def rest_of_shaped(study: Study) -> str:
    """Say how the shaped pieces rest before the oven; empty where nothing is written."""
    rest = study.plan.shaped_rest
    return "" if rest is None else f"Shaped pieces: {rest_title(rest).removeprefix('Rest ')}."


def direction_words(before: Box, sheet: Box) -> str:
    """Say which way is rolled how far, after the quarter turn.

    What was the block's width lies along the rolling now, and its folded ends at the sides.
    """
    along = sheet.length_mm / before.width_mm
    across = sheet.width_mm / before.length_mm
    words = f"Stretched {number_text(along, 1)}\u00a0× towards the open ends"
    if across >= 1.05:  # it is never rolled narrower: only a width that was typed could ask for it
        words += f", {number_text(across, 1)}\u00a0× sideways"
    return words


def passes_words(before: Box, sheet: Box, house: House) -> str:
    """Say the gaps of the sheeter from a block to a sheet; nothing without a sheeter."""
    if house.belt_mm <= 0:
        return ""
    gaps = passes_mm(before.height_mm, sheet.height_mm, house.pass_pct / 100)
    listed = " → ".join(bare_text(gap, "mm", 1) for gap in (before.height_mm, *gaps))
    return f"\nSheeter: {listed} {length_unit()}"


def portion_g(study: Study, place: int) -> float:
    """Fat of one block that is spread at a turn, the `place`-th step of the plan from 1 [g]."""
    shares = study.plan.portion_shares()
    number = sum(s.way is Way.PORTION for s in study.plan.steps[:place]) - 1
    return block_fat_g(study) * shares[number]


def _enclosing_words(study: Study, each: str) -> StepWords:
    how = study.enclosing
    drawing = f"Ready to enclose, to scale, {each}"
    if how is None:
        return StepWords(drawing, "No size yet", study.scaled.trouble or study.fold_trouble)
    if how.fat is None:
        words = (
            "The cold pieces of fat stay whole; the water only just binds the dough."
            if study.in_pieces
            else ""
        )
        if study.plan.enclosure is Enclosure.PORTIONS:
            words = "No fat is enclosed here: it goes in by portions, at the steps marked +."
        return StepWords(drawing, "Gather the dough", words)
    if how.shape == "coil":
        return StepWords(
            drawing,
            f"Sheet {rectangle(how.dough)}",
            (
                f"{mm_text(study.formula.working.coil_mm)} thick with its fat; spread the fat "
                f"{mm_text(how.fat.height_mm, 2)} thick and roll up tight."
            ),
            f"A log {cm_text(how.done.height_mm, '.1f')} thick and "
            f"{rolled_text(how.done.width_mm)} "
            "long",
        )
    return StepWords(
        drawing,
        f"Fat {rectangle(how.fat)}, {mm_text(how.fat.height_mm, 1)}",
        f"{dough_words(how).capitalize()}. {_border_words(study)} Dough and fat must be equally "
        "firm.",
        f"Enclosed: {rectangle(how.done)}, {mm_text(how.done.height_mm, '.0f')}",
    )


def dough_words(how: Enclosing) -> str:
    """Say how large the dough is that goes round the fat."""
    if how.shape == "cross":
        return (
            f"dough in a cross, {rolled_text(how.dough.length_mm)} from tip to tip: middle "
            f"{mm_text(how.dough.height_mm, '.0f')} thick, flaps "
            f"{mm_text(how.dough.height_mm / 4, '.1f')} thick"
        )
    return f"dough {rectangle(how.dough)}, {mm_text(how.dough.height_mm, '.0f')}"


def _border_words(study: Study) -> str:
    working = study.formula.working
    if working.border_mm or working.overlap_mm:
        both = [
            f"{mm_text(value)} of {what}"
            for value, what in ((working.border_mm, "bare border"), (working.overlap_mm, "overlap"))
            if value
        ]
        return f"Allowing {' and '.join(both)}."
    return f"These sizes close exactly: leave a bare border of {mm_range(5, 10)} to seal."


def rolled_to(box: Box) -> str:
    """Say what a last sheet is rolled to: up to the next half centimetre or quarter inch.

    A little larger is cut away with the edges; a little smaller has no room for the last row.
    """
    return rolled_sides(box.length_mm, box.width_mm, up=True)


def rolled_size(box: Box, *, is_round: bool) -> str:
    """Say what a last sheet or round is rolled to, a round by what it is across."""
    if not is_round:
        return rolled_to(box)
    return f"a round of {rolled_text(max(box.length_mm, box.width_mm), up=True)}"


def blocks_words(scaled: Scaled) -> str:
    """Say how many blocks there are of which weight, those that are alike together."""
    said = [
        f"{counted(group.blocks, '1 block', '{} blocks')} of {mass_text(group.each_g)}"
        for group in scaled.groups
    ]
    return " and ".join(said)


def batch_words(study: Study, *, keep: bool = False) -> str:
    """Say what a batch gives, and of how much paste; of one to keep, its blocks."""
    scaled = study.scaled
    if scaled.trouble:
        return scaled.trouble
    if keep:
        return f"{blocks_words(scaled)}, to keep".replace(" ", "\u00a0")
    pieces = " · ".join(
        f"{number_text(m.pieces, 0)} {m.name or f'pieces of {g_text(m.paste_g, 1)}'}"
        for m in scaled.made
    )
    each = f" · {blocks_words(scaled)}" if scaled.blocks > 1 else ""
    where = study.formula.batch.frozen_where
    frozen = f" · {mass_text(scaled.frozen_g)} from the {where}" if scaled.frozen_g > 0 else ""
    words = f"{pieces} · {mass_text(scaled.paste_g)} of paste{each}{frozen}"
    return words.replace(" ", "\u00a0").replace("\u00a0·\u00a0", " · ")  # breaks at the points


def water_words(study: Study, pantry: Pantry, share: float = 1.0) -> str:
    """Say how cold the water must be, what ice does it, and how much is held back.

    Parameters
    ----------
    share : float
        Of the batch's water, for one mix [-].
    """
    back = held_back_g(study.formula, pantry, study.scaled.factor * share)
    held = f"; hold back {g_text(back, 0)}" if back >= 1 else ""
    return _cold_words(study, share) + held


def _cold_words(study: Study, share: float) -> str:
    water, wanted = study.water, study.formula.dough_c
    if water is None:
        return ""
    if not water.reached:
        return f"for a dough of {celsius_text(wanted)}: this cannot be reached with water alone"
    if water.ice_g <= 0:
        return f"at {celsius_text(water.needed_c, 0)}, for a dough of {celsius_text(wanted)}"
    ice = g_text(water.ice_g * share, 0)
    if water.only_ice:
        return f"{ice} as ice, for a dough of {celsius_text(wanted)}"
    return (
        f"at {celsius_text(water.needed_c, 0)}, or with {ice} of it as ice, for a "
        f"dough of {celsius_text(wanted)}"
    )
