"""How a reading was reached: the sum, with the numbers in it."""

from aplomb.core.base.figures import cm_text, g_text, mm_text, num
from aplomb.core.folds.plan import Enclosure
from aplomb.core.folds.sizes import logs_of
from aplomb.core.folds.windings import windings
from aplomb.core.study.study import Study


def explain(study: Study, key: str) -> str:
    """Say how a reading was reached: the sum, with the numbers in it.

    One or two sentences; what is missing when the reading cannot be had.

    Parameters
    ----------
    key : str
        Name of a reading.
    """
    a, r, f = study.accounts, study.readings, study.formula
    flour = f"{g_text(a.flour_g, '.4g')} flour"
    value = getattr(r, key)
    if value is None:
        if key.startswith("cost"):
            return study.no_cost or "There are no pieces yet."
        if key.endswith("_pct") and a.flour_g <= 0:
            return "There is no flour yet, and this is a percentage on flour."
        return study.fold_trouble or "There is no fat block yet, so there are no fat leaves."
    fat = a.enclosed_fat_g + a.dough_fat_g
    share = study.fat_share_after()
    sums = {
        "fat_product_pct": f"fat as weighed: {g_text(a.enclosed_fat_g, '.4g')} enclosed + "
        f"{g_text(a.dough_fat_g, '.4g')} in the dough = {g_text(fat, '.4g')}; "
        f"{g_text(fat, '.4g')} ÷ {flour} = {num(value, '.1f')} %",
        "enclosed_fat_pct": f"{g_text(a.enclosed_fat_g, '.4g')} ÷ {flour} = {num(value, '.1f')} %",
        "dough_fat_pct": f"{g_text(a.dough_fat_g, '.4g')} ÷ {flour} = {num(value, '.1f')} %",
        "fat_on_dough_pct": f"{g_text(a.enclosed_fat_g, '.4g')} enclosed fat ÷ "
        f"{g_text(a.dough_g, '.4g')} dough = {num(value, '.1f')} %",
        "pure_fat_pct": f"fat by composition {g_text(a.pure_fat_g, '.4g')} ÷ {flour} = "
        f"{num(value, '.1f')} %",
        "fat_on_total_pct": f"fat as weighed, {g_text(fat, '.4g')} ÷ {g_text(a.paste_g, '.4g')} "
        f"paste = {num(value, '.1f')} %",
        "dough_water_pct": (
            "water in the dough, from everything in it except the flour, "
            f"{g_text(a.dough_water_g, '.4g')} ÷ {g_text(a.dough_flour_g, '.4g')} flour in the "
            f"dough = {num(value, '.1f')} %"
        ),
        "total_water_pct": f"({g_text(a.dough_water_g, '.4g')} in the dough + "
        f"{g_text(a.block_water_g, '.4g')} in the fat block) ÷ {flour} = {num(value, '.1f')} %",
        "acid_pct": (
            f"{g_text(a.acid_product_g, '.3g')} of vinegar, juice and acid "
            f"contains {g_text(a.acid_g, '.3g')} acid, as acetic; ÷ {flour} = "
            f"{num(value, '.2f')} %"
        ),
        "dough_water_14_pct": (
            f"flour at {num(r.flour_moisture_pct or 0, '.1f')} % "
            f"moisture would weigh {g_text(a.dough_flour_14_g, '.4g')} "
            f"at 14 %; that leaves {g_text(a.dough_water_14_g, '.4g')} "
            f"water beside it: {num(value, '.1f')} %"
        ),
        "energy_kj_per_piece": (
            f"{g_text(r.piece_eaten_g or 0, '.3g')} raw with filling and finish; fat 37, "
            "carbohydrate and protein 17, fibre 8, acid 13 kJ per gram (Regulation (EU) No "
            f"1169/2011) = {value:.0f} kJ; baking drives off only water"
        ),
        "salt_pct": f"({g_text(a.salt_added_g, '.3g')} weighed + {g_text(a.salt_hidden_g, '.3g')} "
        f"in other ingredients) ÷ {flour} = {num(value, '.2f')} %",
        "fat_volume_share": f"{num(a.block_ml, '.4g')} mL fat block ÷ {num(a.paste_ml, '.4g')} "
        f"mL paste = {num(value, '.3f')}",
        "fat_leaf_um": f"{mm_text(f.sheet_mm)} × {num(share, '.3f')} fat by volume ÷ "
        f"{num(r.fat_leaves or 0, '.6g')} fat leaves = {num(value, '.3g')} µm",
        "dough_leaf_um": f"{mm_text(f.sheet_mm)} × {num(1 - share, '.3f')} dough by volume ÷ "
        f"{num(r.dough_leaves or 0, '.6g')} dough leaves = {num(value, '.3g')} µm",
    }
    if key in sums:
        return sums[key]
    if key in ("fat_leaves", "dough_leaves", "leaves", "product"):
        return _explain_leaves(study)
    return num(value, ".6g")


def _explain_leaves(study: Study) -> str:
    r, f = study.readings, study.formula
    if r.fat_leaves is None:
        return study.fold_trouble or "No leaves yet: the fat block is empty."
    panels = " × ".join(str(step.panels) for step in study.plan.turns) or "1"
    first = study.turns[0]
    if study.in_pieces:
        unlike = ""
        if f.piece_form != "cubes" or f.piece_spread_pct:
            unlike = f" (allowing for {f.piece_form} and their spread in size)"
        return (
            f"Average to expect along a line: {num(r.fat_volume_share or 0, '.3f')} fat "
            f"by volume × {mm_text(f.gathered_mm)} gathered thickness ÷ "
            f"{mm_text(f.piece_fat_mm)} pieces{unlike} = "
            f"{num(first.fat_leaves or 0, '.2f')} to start; × {panels} = "
            f"{num(r.fat_leaves or 0, '.4g')}"
        )
    if study.plan.rolls_up:
        return _explain_log(study)
    return (
        f"{study.plan.enclosure.value}: {num(first.fat_leaves or 0)} fat and "
        f"{num(first.dough_leaves or 0)} dough leaves to start; × {panels} = {r.product} "
        f"panels; where two leaves of the same kind meet, they become one: {r.fat_leaves} "
        f"fat, {r.dough_leaves} dough, {r.leaves} in all"
    )


def _explain_log(study: Study) -> str:
    r = study.readings
    coil = study.plan.enclosure is Enclosure.COIL
    middle = ", and in the middle the fat meets itself" if coil else ""
    length, thick = logs_of(study.plan, study.enclosing, study.worked, study.formula.working)[0]
    return (
        f"A sheet with fat on {cm_text(length)} of its length, {mm_text(thick)} thick, "
        "rolled tight: √(length ÷ (π × thickness)) = "
        f"{num(windings(length, thick), '.1f')} windings. A line through the middle "
        f"crosses each one twice{middle}; with all the folds that makes "
        f"{num(r.fat_leaves or 0, '.4g')} fat leaves and "
        f"{num(r.dough_leaves or 0, '.4g')} dough leaves there, and fewer to either side"
    )
