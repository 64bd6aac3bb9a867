"""A formula: an immutable value; everything shown is a pure function of it."""

from enum import Enum
from typing import Any, Literal

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.errors import AmountError, AplombError
from aplomb.core.base.figures import g_text
from aplomb.core.folds.pieces_form import Form
from aplomb.core.folds.plan import Plan
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.folds.working import Working
from aplomb.core.oven.programme import Programme
from aplomb.core.paste.line import Line
from aplomb.core.paste.make_up import MakeUp, usual_make_up
from aplomb.core.paste.pantry import Pantry
from aplomb.core.paste.product import (
    Cutting,
    Product,
)

School = Literal["classic", "rough", "gluten_free", "portions", "coil", "gathered", "lining", "log"]


class Part(Enum):
    """Where a line stands."""

    DOUGH = "dough"
    BLOCK = "block"
    DUSTING = "dusting"
    BETWEEN = "between"
    FILLING = "filling"
    FINISH = "finish"


PART_NAMES = {
    Part.DOUGH: "Dough",
    Part.BLOCK: "Fat block",
    Part.DUSTING: "Dusting",
    Part.BETWEEN: "Between the folds",
    Part.FILLING: "Filling",
    Part.FINISH: "Finish",
}
"""Words of each part, for every place that shows one."""

PART_PLACES = {
    Part.DOUGH: "the dough",
    Part.BLOCK: "the fat block",
    Part.DUSTING: "the dusting",
    Part.BETWEEN: "what goes between the folds",
    Part.FILLING: "the filling",
    Part.FINISH: "the finish",
}
"""Each part within a sentence."""

IN_THE_PASTE = (Part.DOUGH, Part.BLOCK)
"""The parts that make up the paste."""


MixingWay = Literal["together", "kneaded"]
MIXING_WORDS: dict[MixingWay, str] = {"together": "only just together", "kneaded": "kneaded"}


class Batch(Struct, frozen=True, forbid_unknown_fields=True):
    """What you want of a batch: one thing is fixed, the rest follows.

    Attributes
    ----------
    fixed : {'flour', 'paste', 'pieces', 'packet', 'written'}
        Which of the next is fixed; ``written`` for the formula's own grams, `times` over.
    flour_g, paste_g : float
        Flour, or paste as mixed [g].
    pieces : int
        Pieces wanted [-].
    packet_g : float
        Packet of fat to be used up [g].
    packet_material : str
        Which fat; empty for the largest in the fat block.
    piece_by : {'weight', 'size'}
        What a piece is given by.
    piece_g : float
        Mass of a raw piece [g].
    piece_length_mm, piece_width_mm : float
        Size of a piece as cut [mm]; its thickness is the formula's final sheet.
    trim_pct : float or None
        Share of the rolled paste that is cut away [%]. This and the next four are None for what the
        book's own batches say, or else the default.
    loss_pct : float or None
        Share of the mixed paste that stays on bowl, bench and pin [%].
    dust_pct : float or None
        Share of the dusting flour that the paste takes up [%].
    bake_pct : float or None
        What a piece loses in the oven [%].
    broken_pct : float or None
        Share of the pieces that break or are put aside [%].
    blocks : int
        Blocks that the paste is divided into before enclosing [-].
    shares : int
        Parts of equal weight that a finished block is shared out into [-]; 1 for a whole one.
    division_g : float
        Division of the scale [g].
    frozen_g : float
        Blocks from stock, frozen or cold, that are rolled with it [g].
    frozen_blocks : int
        How many blocks that is [-].
    frozen_turns : int or None
        Turns that they have had [-]; None for all.
    frozen_where : {'freezer', 'fridge'}
        Where they lie: those from the fridge need no thawing.
    times : float
        As written: so many times the formula [-].
    """

    fixed: Literal["flour", "paste", "pieces", "packet", "written"] = "paste"
    flour_g: float = 1000.0
    paste_g: float = 2500.0
    pieces: int = 60
    packet_g: float = 1000.0
    packet_material: str = ""
    piece_by: Literal["weight", "size"] = "weight"
    piece_g: float = 40.0
    piece_length_mm: float = 100.0
    piece_width_mm: float = 100.0
    trim_pct: float | None = None
    loss_pct: float | None = None
    dust_pct: float | None = None
    bake_pct: float | None = None
    broken_pct: float | None = None
    blocks: int = 1
    shares: int = 1
    division_g: float = 1.0
    frozen_g: float = 0.0
    frozen_blocks: int = 1
    frozen_turns: int | None = None
    frozen_where: Literal["freezer", "fridge"] = "freezer"
    times: float = 1.0


class Formula(Struct, frozen=True, forbid_unknown_fields=True):
    """A paste: what is in it, how it is folded, what is made of it.

    Attributes
    ----------
    school : School
        Which bands it is held against.
    dough, block, dusting, between, filling, finish : tuple of Line
        `between` is strewn in at a turn and counted apart from dough and fat; `filling` is of one
        piece.
    turn_line : str
        The plan, as `aplomb.core.folds.plan` reads it.
    sheet_mm : float
        Thickness of the final sheet [mm].
    roll_width_mm : float
        Width every sheet is rolled to [mm]; 0 for what follows from the block before it.
    enclose_width_mm : float or None
        Width of the dough when the fat is enclosed, borders counted [mm]; 0 for a block as wide as
        it is long; None for the rolled width, where there is one.
    fat_block_mm : float
        Thickness of the fat block when enclosed [mm].
    fat_length_mm, fat_width_mm : float
        Size of the fat block [mm]: its thickness then follows from its mass. 0 for a block of
        `fat_block_mm`, whose size follows.
    piece_fat_mm, gathered_mm : float
        For paste in pieces: size of a piece of fat and height of the gathered mass [mm].
    piece_form : {'cubes', 'flakes', 'crumbs', 'gratings'}
        What the pieces are.
    piece_spread_pct : float
        How unlike they are: sizes lie within ± this share of the mean [%].
    working : Working
        Borders, bends, flaps and thickness as they really are.
    products : tuple of Product
        What is made of it; without any, the batch's own piece.
    cutting : Cutting
        How the final sheet is cut.
    dough_c : float
        Wanted temperature of the dough after mixing [°C].
    held_back_pct : float
        Share of the dough's own water that is held back and added to feel [%]; a tenth to a seventh
        is common practice.
    flour_moisture_pct : float or None
        Measured moisture of the flour in hand [%]; None: as the pantry has it.
    mixing : {'together', 'kneaded'}
        Just brought together, or kneaded until it is elastic.
    mixing_min : float or None
        How long that takes [min]; None for what is usual.
    bake : Programme
        How what is made of it is baked, where a product says nothing else.
    dismissed : tuple of str
        Keys of opinions the user has put aside.
    """

    name: str
    purpose: str = ""
    note: str = ""
    school: School = "classic"
    dough: tuple[Line, ...] = ()
    block: tuple[Line, ...] = ()
    dusting: tuple[Line, ...] = ()
    between: tuple[Line, ...] = ()
    filling: tuple[Line, ...] = ()
    finish: tuple[Line, ...] = ()
    turn_line: str = "envelope 3 4 / 3 4 /"
    sheet_mm: float = 3.0
    roll_width_mm: float = 0.0
    enclose_width_mm: float | None = None
    fat_block_mm: float = 12.0
    fat_length_mm: float = 0.0
    fat_width_mm: float = 0.0
    piece_fat_mm: float = 15.0
    gathered_mm: float = 60.0
    piece_form: Form = "cubes"
    piece_spread_pct: float = 0.0
    working: Working = Working()
    batch: Batch = Batch()
    products: tuple[Product, ...] = ()
    cutting: Cutting = Cutting()
    dough_c: float = 16.0
    held_back_pct: float = 10.0
    flour_moisture_pct: float | None = None
    mixing: MixingWay = "together"
    mixing_min: float | None = None
    bake: Programme = Programme()
    dismissed: tuple[str, ...] = ()

    @property
    def wanted(self) -> tuple[Product, ...]:
        """Products of which some pieces are wanted, and paste is made for."""
        return tuple(p for p in self.products if p.is_cut)

    @property
    def of_offcuts(self) -> tuple[Product, ...]:
        """Products that are wanted and made of what is cut away."""
        return tuple(p for p in self.products if p.wanted > 0 and p.offcut_g)

    @property
    def plan(self) -> Plan:
        """The turn line as read; raises TurnLineError."""
        return parse_plan(self.turn_line)

    def lines(self, part: Part) -> tuple[Line, ...]:
        """Give the lines of one part."""
        lines: tuple[Line, ...] = getattr(self, part.value)
        return lines

    def with_lines(self, part: Part, lines: tuple[Line, ...]) -> "Formula":
        """Give this formula with one part replaced."""
        return replace(self, **{part.value: lines})

    def all_lines(self) -> list[tuple[Part, int, Line]]:
        """Give every line with its part and place in it."""
        return [(part, i, line) for part in Part for i, line in enumerate(self.lines(part))]

    def product_lines(self) -> list[tuple[Product, Line]]:
        """Give every line of filling and topping with its product."""
        return [(p, line) for p in self.products for line in (*p.filling, *p.topping)]

    def materials(self) -> list[str]:
        """Give the keys of all materials, of the products too, each once, in their order."""
        lines = [line for _, _, line in self.all_lines()] + [n for _, n in self.product_lines()]
        return list(dict.fromkeys(line.material for line in lines))


LONGEST_NAME = 120
SMALLEST_G = 0.1
"""Least mass that a batch can be fixed by [g]."""
LEAST_TIMES, MOST_TIMES = 0.001, 1000.0
"""How many times a formula is made as written, at least and at most [-]."""
MOST_SHARES = 48
"""Most parts of a finished block [-]."""
MOST_PIECES = 1_000_000
MOST_LINES = 200


def flour_grams(formula: Formula, pantry: Pantry) -> float:
    """All flour and starch in dough and fat block, dusting not counted [g]."""
    return sum(
        line.grams for line in (*formula.dough, *formula.block) if pantry[line.material].is_flour
    )


def paste_grams(formula: Formula) -> float:
    """Dough and fat block together, as the formula is written [g]."""
    return sum(line.grams for line in (*formula.dough, *formula.block))


def lines_on(formula: Formula, product: Product | None) -> tuple[Line, ...]:
    """Give the filling and topping of one piece of a product, or of the batch's own [g].

    A product that has no filling of its own takes the formula's.
    """
    if product is None:
        return formula.filling
    return (*(product.filling or formula.filling), *product.topping)


def make_up_of(formula: Formula, product: Product) -> MakeUp:
    """Give how a product is made up: as said, or as usual for its shape and filling."""
    filling = product.filling or formula.filling
    return product.make_up or usual_make_up(
        product.shape,
        filled=any(line.grams > 0 for line in filling),
        parts=bool(product.parts),
        of_offcuts=product.offcut_g > 0,
    )


def with_product(formula: Formula, at: int, **changes: Any) -> Formula:
    """Give the formula with fields of one of its products changed.

    Raises
    ------
    AplombError
        When it has no such product.
    """
    products = list(formula.products)
    if not 0 <= at < len(products):
        raise AplombError("This product is no longer in the formula; nothing was changed.")
    products[at] = replace(products[at], **changes)
    return replace(formula, products=tuple(products))


def mean_filling(formula: Formula) -> tuple[Line, ...]:
    """Give the filling and topping of one piece, of several products on the mean [g]."""
    wanted = formula.wanted
    whole = sum(product.wanted for product in wanted)
    if not wanted:
        return formula.filling
    shares = [
        (line, product.wanted / whole) for product in wanted for line in lines_on(formula, product)
    ]
    return tuple(replace(line, grams=line.grams * share) for line, share in shares)


def allergens(formula: Formula, pantry: Pantry) -> list[str]:
    """List the allergens of everything in the formula and on its products, sorted."""
    lines = [line for _, _, line in formula.all_lines()] + [n for _, n in formula.product_lines()]
    found = {each for n in lines if n.grams > 0 for each in pantry[n.material].allergens}
    return sorted(found)


def block_allergens(formula: Formula, pantry: Pantry) -> list[str]:
    """List the allergens of a block of paste: not of what goes on its pieces later, sorted."""
    lines = [*formula.dough, *formula.block, *formula.dusting, *formula.between]
    return sorted({a for n in lines if n.grams > 0 for a in pantry[n.material].allergens})


def turn_of(line: Line, plan: Plan) -> int:
    """Give the turn that a line between the folds is strewn at, 1 for the first; 0 without any."""
    turns = len(plan.turns)
    return min(line.turn, turns) if line.turn else turns


def place_words(line: Line, part: Part, plan: Plan) -> str:
    """Say where a line goes that the part alone does not tell: its turn, or grams a piece."""
    if part is Part.BETWEEN:
        return f"at turn {turn_of(line, plan)} of {len(plan.turns)}"
    if part is Part.FILLING:
        return f"{g_text(line.grams, '.4g')} per piece"
    return ""


def with_grams(formula: Formula, part: Part, index: int, grams: float, typed: str = "") -> Formula:
    """Give the formula with one line's mass changed; all other masses stay.

    Parameters
    ----------
    part, index : Part, int
        Which line.
    grams : float
        Mass [g].
    typed : str
        How it was written, when not in grams.
    """
    lines = list(formula.lines(part))
    lines[index] = replace(lines[index], grams=grams, typed=typed)
    return formula.with_lines(part, tuple(lines))


def with_percent(
    formula: Formula, pantry: Pantry, part: Part, index: int, percent: float, text: str = ""
) -> Formula:
    """Give the formula with one line's percentage on flour changed.

    For a flour in dough or block, the other flours give way in proportion, so that all flour
    stays what it was. For any other line its mass changes.

    Parameters
    ----------
    part, index : Part, int
        Which line.
    percent : float
        Wanted percentage on flour [%].
    text : str
        As typed, for the error.

    Raises
    ------
    AmountError
        Without flour; for the only flour; for a flour above 100 %.
    """
    flour = flour_grams(formula, pantry)
    if flour <= 0:
        raise AmountError(
            "percentages are on flour, and there is no flour yet; add some first",
            text,
            0,
            len(text),
        )
    line = formula.lines(part)[index]
    if part is Part.FILLING:
        raise AmountError("a filling is in grams per piece", text, 0, len(text))
    if part not in IN_THE_PASTE or not pantry[line.material].is_flour:
        return with_grams(formula, part, index, percent / 100 * flour)
    if percent > 100:
        raise AmountError("a flour can be 100 % of the flour at most", text, 0, len(text))
    others = flour - line.grams
    if others <= 0:
        if percent == 100:
            return formula
        raise AmountError(
            "this is the only flour, so it is 100 %; add another or change its grams",
            text,
            0,
            len(text),
        )
    factor = flour * (1 - percent / 100) / others
    for where in IN_THE_PASTE:
        lines = []
        for i, each in enumerate(formula.lines(where)):
            if (where, i) == (part, index):
                lines.append(replace(each, grams=flour * percent / 100, typed=""))
            elif pantry[each.material].is_flour:
                lines.append(replace(each, grams=each.grams * factor, typed=""))
            else:
                lines.append(each)
        formula = formula.with_lines(where, tuple(lines))
    return formula


def scaled(formula: Formula, factor: float) -> Formula:
    """Give the formula with every mass times a factor; a filling stays that of one piece."""
    for part in Part:
        if part is Part.FILLING:
            continue
        formula = formula.with_lines(
            part,
            tuple(
                replace(line, grams=line.grams * factor, typed="") for line in formula.lines(part)
            ),
        )
    return formula


def programme_of(formula: Formula, product: str = "") -> Programme:
    """Give how a product of a formula is baked: its own programme, or the formula's.

    Without steps when nothing is said.

    Parameters
    ----------
    product : str
        Its name; empty for the first wanted.
    """
    some = [p for p in formula.products if p.name == product] or list(formula.wanted[:1])
    own = some[0].bake if some else Programme()
    return own if own.steps else formula.bake
