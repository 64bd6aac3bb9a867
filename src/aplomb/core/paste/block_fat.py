"""The fat of a formula's block, taken as one."""

from aplomb.core.paste.fat_profile import FatProfile, profile
from aplomb.core.paste.formula import Formula
from aplomb.core.paste.pantry import Pantry


def block_fat(formula: Formula, pantry: Pantry) -> FatProfile | None:
    """Work out what the fats of the block are like together; None without any."""
    lines = [(line.grams, pantry[line.material]) for line in formula.block]
    return profile([(grams, material) for grams, material in lines if material.is_fat])
