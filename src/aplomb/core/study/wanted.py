"""What can be wanted of a formula, as targets of a solution."""

from collections.abc import Callable
from typing import Literal

from msgspec import Struct

from aplomb.core.base.figures import num, weight_text
from aplomb.core.paste.formula import Formula, Part
from aplomb.core.paste.ingredient import Ingredient
from aplomb.core.paste.pantry import Pantry

Wanted = Literal[
    "fat_product_pct",
    "enclosed_fat_pct",
    "dough_fat_pct",
    "fat_on_dough_pct",
    "pure_fat_pct",
    "dough_water_pct",
    "total_water_pct",
    "salt_pct",
    "acid_pct",
    "flour_protein_pct",
    "fat_on_total_pct",
    "flour_g",
    "paste_g",
    "cost_per_piece",
    "material_g",
    "fat_share_pct",
]


Sense = Literal["is", "at most", "at least"]


Give = Callable[[Part, Ingredient], float]
"""What a gram of a material in a part counts."""


WANTED_WORDS: dict[Wanted, tuple[str, str]] = {
    "fat_product_pct": ("Fat on flour", "%"),
    "pure_fat_pct": ("Pure fat on flour", "%"),
    "enclosed_fat_pct": ("Enclosed fat on flour", "%"),
    "dough_fat_pct": ("Fat in the dough on flour", "%"),
    "fat_on_dough_pct": ("Fat on dough", "%"),
    "fat_on_total_pct": ("Fat on total", "%"),
    "dough_water_pct": ("Dough water", "%"),
    "total_water_pct": ("Total water", "%"),
    "salt_pct": ("Salt from all sources", "%"),
    "acid_pct": ("Acid, as acetic", "%"),
    "flour_protein_pct": ("Protein of the flour", "%"),
    "fat_share_pct": ("Share of the block’s fat", "%"),
    "material_g": ("Weight of a whole packet", "g"),
    "cost_per_piece": ("Cost per piece", ""),
    "flour_g": ("Flour", "g"),
    "paste_g": ("Paste", "g"),
}
"""Words and unit of what can be wished for."""


class Target(Struct, frozen=True):
    """One thing that is wanted or kept.

    Attributes
    ----------
    value : float
        In the unit of `WANTED_WORDS`.
    material : str
        Key, for a packet or a share.
    kept : bool
        True for a reading that stays what it is, False for one that is wanted.
    """

    what: Wanted
    value: float
    sense: Sense = "is"
    material: str = ""
    kept: bool = False

    def words(self, pantry: Pantry) -> str:
        """Say it, as ``fat on flour is 75 %``."""
        name, unit = WANTED_WORDS[self.what]
        if self.material and self.material in pantry:
            name = f"{pantry[self.material].name}, {name[0].lower()}{name[1:]}"
        sense = "stays" if self.kept else self.sense
        if unit == "g":
            return f"{name} {sense} {weight_text(self.value)}"
        return f"{name} {sense} {num(self.value, '.6g')}{' ' + unit if unit else ''}"


class Solved(Struct, frozen=True):
    """The answer.

    Attributes
    ----------
    formula : Formula or None
        With the grams that do it; None when nothing does.
    changed : tuple of (Part, place, before [g], after [g])
        The lines that change.
    conflict : tuple of str
        Targets and locks that cannot stand together, in words; empty when it is solved.
    nearest : float or None
        How near the first target can be brought when it cannot be met, in its unit.
    """

    formula: Formula | None
    changed: tuple[tuple[Part, int, float, float], ...] = ()
    conflict: tuple[str, ...] = ()
    nearest: float | None = None
