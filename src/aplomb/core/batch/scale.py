"""From a formula to a batch: one thing is fixed, the rest follows."""

import math

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.accounts import Accounts
from aplomb.core.paste.formula import IN_THE_PASTE, Batch, Formula, Line, Part
from aplomb.core.paste.pantry import Pantry


class Weighed(Struct, frozen=True):
    """One line of a batch.

    Attributes
    ----------
    part : Part
    line : Line
        As in the formula.
    exact_g, weigh_g : float
        Scaled mass, and that rounded to the scale's division [g].
    """

    part: Part
    line: Line
    exact_g: float
    weigh_g: float

    @property
    def drift_g(self) -> float:
        """What rounding adds [g]."""
        return self.weigh_g - self.exact_g

    @property
    def drift_pct(self) -> float:
        """What rounding adds, on the exact mass [%]; 0 for a line of nothing."""
        return 100 * self.drift_g / self.exact_g if self.exact_g > 0 else 0.0


class Scaled(Struct, frozen=True):
    """A batch worked out.

    Attributes
    ----------
    factor : float
        Batch over formula as written [-].
    lines : tuple of Weighed
    paste_g : float
        Paste as mixed [g], before rounding.
    strewn_g : float
        What is strewn in between the folds [g].
    rolled_g : float
        What is strewn in and paste that reaches the final sheet [g], after bowl and bench loss.
    trim_g : float
        Cut away [g].
    piece_g : float
        One raw piece [g].
    pieces : int
        Whole pieces it gives [-].
    over_g : float
        Rolled paste left after whole pieces and trim [g].
    each_g : float
        One block of paste before it is rolled [g].
    drift_g : float
        What rounding adds to the paste [g].
    trouble : str
        Why it cannot be worked out; empty when it can.
    """

    factor: float
    lines: tuple[Weighed, ...] = ()
    paste_g: float = 0.0
    strewn_g: float = 0.0
    rolled_g: float = 0.0
    trim_g: float = 0.0
    piece_g: float = 0.0
    pieces: int = 0
    over_g: float = 0.0
    each_g: float = 0.0
    drift_g: float = 0.0
    trouble: str = ""

    @property
    def written_pieces(self) -> float | None:
        """Pieces that the formula as written gives [-]; None without any."""
        return self.pieces / self.factor if self.pieces and self.factor > 0 else None

    @property
    def loss_g(self) -> float:
        """Paste that stays on bowl, bench and pin [g]."""
        return self.paste_g + self.strewn_g - self.rolled_g


def rounded(grams: float, division_g: float) -> float:
    """Round a mass to the scale's division; what is there never becomes nothing.

    Parameters
    ----------
    grams, division_g : float
        Mass and division [g], division above 0.

    Returns
    -------
    float
        The nearest multiple, halves up; at least one division when `grams` is above zero.
    """
    steps = math.floor(grams / division_g + 0.5)
    if grams > 0:
        steps = max(1, steps)
    return round(steps * division_g, 6)


def piece_mass_g(formula: Formula, accounts: Accounts) -> float | None:
    """Mass of one raw piece [g], by weight or from its size and the paste's density."""
    batch = formula.batch
    if batch.piece_by == "weight":
        return batch.piece_g
    density = accounts.rolled_density_g_ml
    if density is None:
        return None
    return batch.piece_length_mm * batch.piece_width_mm * formula.sheet_mm / 1000 * density


def packet_material(formula: Formula, pantry: Pantry) -> str | None:
    """Key of the fat whose packet is used up: the chosen one, or the largest in the block."""
    there = {line.material for line in (*formula.dough, *formula.block) if line.grams > 0}
    if formula.batch.packet_material in there:
        return formula.batch.packet_material
    fats = [
        line
        for part in (formula.block, formula.dough)
        for line in sorted(part, key=lambda each: -each.grams)
        if line.grams > 0 and pantry[line.material].is_fat
    ]
    return fats[0].material if fats else None


def packet_used_g(formula: Formula, pantry: Pantry) -> float:
    """How much of the packet's fat the formula as written uses [g]; 0 without fat."""
    material = packet_material(formula, pantry)
    return sum(n.grams for n in (*formula.dough, *formula.block) if n.material == material)


def followed(formula: Formula, pantry: Pantry, accounts: Accounts, scaled: Scaled) -> Batch:
    """Give the formula's batch with all that is not fixed set to what follows.

    Parameters
    ----------
    formula : Formula
    pantry : Pantry
    accounts : Accounts
        Of the same formula.
    scaled : Scaled
        Of the same formula.

    Returns
    -------
    Batch
        The same batch, whichever of its four wishes is then fixed: switching from pieces to paste
        changes nothing by itself. A wish that cannot follow stays as it is.
    """
    batch = formula.batch
    found = {
        "pieces": scaled.pieces,
        "paste": scaled.paste_g,
        "flour": accounts.flour_g * scaled.factor,
        "packet": packet_used_g(formula, pantry) * scaled.factor,
    }
    names = {"pieces": "pieces", "paste": "paste_g", "flour": "flour_g", "packet": "packet_g"}
    changes = {
        names[what]: value for what, value in found.items() if what != batch.fixed and value > 0
    }
    return replace(batch, **changes)


def scale(formula: Formula, pantry: Pantry, accounts: Accounts) -> Scaled:
    """Scale a formula to what its batch fixes.

    Parameters
    ----------
    formula : Formula
    pantry : Pantry
    accounts : Accounts
        Of the same formula.

    Returns
    -------
    Scaled
        With `trouble` said when there is nothing to scale by.

    Notes
    -----
    Mixed paste × (1 - loss) and what is strewn in are rolled; rolled × (1 - trim) is pieces. The
    masses add up: mixed + strewn = loss + trim + pieces + what is over. A filling is weighed for
    whole pieces.
    """
    batch = formula.batch
    if accounts.paste_g <= 0:
        return Scaled(0.0, trouble="There is nothing to scale yet: the formula has no weight.")
    keep_rolled = 1 - batch.loss_pct / 100
    keep_cut = 1 - batch.trim_pct / 100
    piece = piece_mass_g(formula, accounts)
    if piece is None:
        return Scaled(0.0, trouble="The paste has no volume; give the pieces by weight.")
    if batch.fixed == "flour":
        if accounts.flour_g <= 0:
            return Scaled(0.0, trouble="Flour is fixed, and the formula has none.")
        factor = batch.flour_g / accounts.flour_g
    elif batch.fixed == "paste":
        factor = batch.paste_g / accounts.paste_g
    elif batch.fixed == "pieces":
        rolled_g = accounts.paste_g * keep_rolled + accounts.between_g
        factor = batch.pieces * piece / keep_cut / rolled_g
    else:
        used = packet_used_g(formula, pantry)
        if used <= 0:
            return Scaled(0.0, trouble="A packet of fat is fixed, and the formula has no fat.")
        factor = batch.packet_g / used
    paste = accounts.paste_g * factor
    strewn = accounts.between_g * factor
    rolled = paste * keep_rolled + strewn
    good = rolled * keep_cut
    pieces = math.floor(good / piece + 1e-9)
    lines = tuple(
        _weighed(part, line, pieces if part is Part.FILLING else factor, batch.division_g)
        for part, _, line in formula.all_lines()
    )
    return Scaled(
        factor=factor,
        lines=lines,
        paste_g=paste,
        strewn_g=strewn,
        rolled_g=rolled,
        trim_g=rolled - good,
        piece_g=piece,
        pieces=pieces,
        over_g=max(0.0, good - pieces * piece),
        each_g=paste / batch.blocks,
        drift_g=sum(w.drift_g for w in lines if w.part in IN_THE_PASTE),
    )


def _weighed(part: Part, line: Line, factor: float, division_g: float) -> Weighed:
    exact = line.grams * factor
    return Weighed(part, line, exact, rounded(exact, division_g))
