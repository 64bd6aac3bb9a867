"""The values of a make: units, steps, what enters where, what is weighed, what it gives."""

from msgspec import Struct

from aplomb.core.folds.boxes import Box
from aplomb.core.make.goal import Goal
from aplomb.core.oven.programme import Programme
from aplomb.core.paste.formula import Part


class LineOf(Struct, frozen=True):
    """So much of one line of a formula.

    Attributes
    ----------
    product : str
        Name of the product that it is for; empty for a line of the formula.
    grams : float
        Exact, or as the scale weighs it, as the place says [g].
    """

    part: Part
    material: str
    product: str
    grams: float


class MakeLine(Struct, frozen=True):
    """A line of the make.

    Attributes
    ----------
    grams, weigh_g : float
        Exact, and as the scale weighs it [g].
    """

    part: Part
    material: str
    product: str
    grams: float
    weigh_g: float


class Unit(Struct, frozen=True):
    """What a step is done to.

    Attributes
    ----------
    key : str
        ``dough``, ``fat``, ``b2``, ``b2.s1``, ``p1``, ``l4``.
    of : str
        What it is: ``dough``, ``fat``, ``block``, ``stock``, ``sheet``, ``pieces``, ``load``.
    grams : float
        What it weighs raw [g].
    name : str
        Of a product or an oven; empty for any other.
    allergens : tuple of str
        What is in it so far, sorted: in a block not what goes on its pieces later.
    """

    key: str
    of: str
    grams: float
    name: str = ""
    allergens: tuple[str, ...] = ()


class RestAfter(Struct, frozen=True):
    """A rest after a step.

    Attributes
    ----------
    place : str
        The kind of place: fridge, freezer, blast, room.
    least_min, most_min : float
        From when to when it may end [min].
    stand_min : float
        How long it stands before it goes on when it lay longer than its most [min].
    cold_known : bool
        True when it was calculated for this block in this place, or is written.
    """

    place: str
    least_min: float
    most_min: float
    stand_min: float = 0.0
    cold_known: bool = False


class PiecesOf(Struct, frozen=True):
    """So many pieces of a product."""

    product: str
    count: int


class MakeStep(Struct, frozen=True):
    """One step.

    Attributes
    ----------
    key : str
        Unit, kind and which of its kind: ``b2.turn.3``. It never changes with words.
    op : str
        What the day groups by: ``turn 3``.
    on : tuple of str
        Keys of the units it is done to.
    lines : tuple of LineOf
        What enters the paste, or the product, here [g, exact].
    weighs : tuple of LineOf
        Of a weighing: what the scale shall show.
    sheet : Box or None
        As it is folded or cut [mm].
    roll_to : Box or None
        Before it draws back [mm].
    gives : tuple of PiecesOf
        Pieces that it gives.
    hands_min, alone_min : float
        Hands' time, and what goes by itself [min].
    needs : tuple of str
        Of hands, bench, mixer, sheeter, oven.
    after : tuple of str
        Keys of the steps that come before.
    words : str
        What is done, in a sentence.
    sign : str
        What ends it.
    cautions : tuple of str
        What can hurt, at this step.
    done : int
        Steps of the plan done when it ends [-].
    round : bool
        Its sheet is a round, as long and wide as across.
    programme : Programme or None
        Of a load.
    """

    key: str
    op: str
    kind: str
    on: tuple[str, ...]
    lines: tuple[LineOf, ...] = ()
    weighs: tuple[LineOf, ...] = ()
    sheet: Box | None = None
    roll_to: Box | None = None
    gives: tuple[PiecesOf, ...] = ()
    hands_min: float = 0.0
    alone_min: float = 0.0
    needs: tuple[str, ...] = ("hands",)
    rest: RestAfter | None = None
    after: tuple[str, ...] = ()
    words: str = ""
    sign: str = ""
    cautions: tuple[str, ...] = ()
    done: int = 0
    round: bool = False
    programme: Programme | None = None


class TraysOf(Struct, frozen=True):
    """Trays of one product.

    Attributes
    ----------
    pieces : int
        Raw pieces [-].
    a_tray : int
        Pieces on a full tray [-]; 0 when none fits.
    tray_g : float
        What lies on a full one [g].
    """

    product: str
    trays: int
    pieces: int
    a_tray: int
    tray_g: float


class LoadOf(Struct, frozen=True):
    """One load of an oven.

    Attributes
    ----------
    oven, at : str, int
        Name of the oven, and which of the house's it is, from 0.
    trays : tuple of (product, trays)
        What is in it.
    first, last : int
        Trays, 1 for the one that went into the cold first [-].
    in_min, out_min : float
        From when the oven is switched on [min].
    waits_min : float
        How long its trays stay in the cold after the first load is in [min].
    """

    key: str
    oven: str
    at: int
    trays: tuple[tuple[str, int], ...]
    minutes: float
    in_min: float
    out_min: float
    programme: Programme
    first: int = 1
    last: int = 1
    waits_min: float = 0.0

    @property
    def many(self) -> int:
        """Trays in it [-]."""
        return sum(n for _, n in self.trays)


class GivenPieces(Struct, frozen=True):
    """Pieces that a make gives.

    Attributes
    ----------
    each_g : float
        One raw, with all that is on it [g].
    """

    product: str
    count: int
    each_g: float


class Gives(Struct, frozen=True):
    """Where everything goes, raw [g]."""

    pieces: tuple[GivenPieces, ...]
    scrap_g: float
    loss_g: float
    kept_g: float
    from_stock_g: float

    @property
    def pieces_g(self) -> float:
        """All pieces [g]."""
        return sum(each.count * each.each_g for each in self.pieces)


class Make(Struct, frozen=True):
    """One formula, one goal, and every step of it.

    Attributes
    ----------
    trouble : tuple of str
        What cannot be, in words.
    """

    uid: str
    name: str
    goal: Goal
    lines: tuple[MakeLine, ...]
    units: tuple[Unit, ...]
    steps: tuple[MakeStep, ...]
    trays: tuple[TraysOf, ...]
    loads: tuple[LoadOf, ...]
    gives: Gives
    hands_min: float
    elapsed_min: float
    trouble: tuple[str, ...] = ()

    @property
    def lines_g(self) -> float:
        """All lines [g]."""
        return sum(line.grams for line in self.lines)

    def as_weighed(self, line: LineOf) -> float:
        """What the scale shows of so much of a line [g]."""
        key = line.part, line.material, line.product
        mine = [n for n in self.lines if (n.part, n.material, n.product) == key]
        exact, shown = sum(n.grams for n in mine), sum(n.weigh_g for n in mine)
        return line.grams * shown / exact if exact > 0 and shown > 0 else line.grams

    def step(self, key: str) -> MakeStep | None:
        """Give a step by its key; None when there is none."""
        return next((step for step in self.steps if step.key == key), None)
