"""Several makes of one day or run: what crosses them, the ovens' queue above all."""

from collections.abc import Sequence

from msgspec import Struct
from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.make.elapsed import elapsed_min
from aplomb.core.make.gathering import Gathering
from aplomb.core.make.oven import add_loads
from aplomb.core.make.queue import Tray, loads_of_trays
from aplomb.core.make.step import LoadOf, Make, MakeStep

OF_OVEN = ("heat", "load_in", "bake", "load_out")
"""Kinds of step that the makes of a work share."""
AFTER_OVEN = ("cool", "pack")
"""Kinds of step that wait for them."""
BETWEEN = "/"


class Work(Struct, frozen=True):
    """One or more makes, done together.

    Attributes
    ----------
    makes : tuple of Make
        Each as it is alone.
    steps : tuple of MakeStep
        Of all, by ``make/key``, the first make being 1; the oven's by their own keys.
    loads : tuple of LoadOf
        One queue over all makes; its trays are named by ``make/product``.
    hands_min, elapsed_min : float
        Hands' time, and from the first step to the last with the hands there are [min].
    from_stock_g : float
        What comes out of stock [g].
    trouble : tuple of str
        What cannot be, in words.
    """

    makes: tuple[Make, ...]
    steps: tuple[MakeStep, ...]
    loads: tuple[LoadOf, ...]
    hands_min: float
    elapsed_min: float
    from_stock_g: float
    trouble: tuple[str, ...] = ()

    @property
    def trays(self) -> int:
        """Trays of all makes [-]."""
        return sum(t.trays for make in self.makes for t in make.trays)

    @property
    def shared(self) -> int:
        """Loads in which trays of several makes bake together [-]."""
        return sum(
            len({name.partition(BETWEEN)[0] for name, _ in load.trays}) > 1 for load in self.loads
        )


def work_of(makes: Sequence[Make], house: House) -> Work:
    """Put makes together: ovens are heated once, and one queue of loads follows.

    Trays of several makes share a load where they are baked alike; each make waits for its last
    load before it cools and is packed.
    """
    steps: list[MakeStep] = []
    step_of: dict[str, str] = {}
    per_tray: dict[str, float] = {}
    called: dict[str, str] = {}
    queue: list[Tray] = []
    for number, make in enumerate(makes, 1):
        own = [s for s in make.steps if s.kind not in OF_OVEN]
        steps += [_prefixed(step, number) for step in own]
        products = {u.key: u.name for u in make.units if u.of == "pieces"}
        for step in own:
            if step.kind == "tray":
                name = _named(number, products.get(step.on[0], ""))
                step_of[name] = _named(number, step.key)
        for trays in make.trays:
            load = next(
                (n for n in make.loads if any(name == trays.product for name, _ in n.trays)), None
            )
            if load is not None:
                name = _named(number, trays.product)
                per_tray[name] = trays.tray_g
                called[name] = trays.product or make.name
                queue.append(Tray(name, trays.trays, load.programme, load.minutes))
    loads = loads_of_trays(queue, house.all_ovens)
    gather = Gathering(sheeter=house.belt_mm > 0)
    add_loads(gather, loads, house.all_ovens, step_of, per_tray, called)
    before = [step for step in steps if step.kind not in AFTER_OVEN]
    after = [_after_oven(step, loads) for step in steps if step.kind in AFTER_OVEN]
    placed = (*before, *gather.steps, *after)
    return Work(
        tuple(makes),
        placed,
        loads,
        sum(step.hands_min for step in placed),
        elapsed_min(placed, house.hands, house.mixers),
        sum(make.gives.from_stock_g for make in makes),
        tuple(f"{make.name}: {told}" for make in makes for told in make.trouble),
    )


def _named(number: int, name: str) -> str:
    return f"{number}{BETWEEN}{name}"


def _prefixed(step: MakeStep, number: int) -> MakeStep:
    """Give a step of a make by its key in the work."""
    return replace(
        step,
        key=_named(number, step.key),
        on=tuple(_named(number, unit) for unit in step.on),
        after=tuple(_named(number, key) for key in step.after),
    )


def _after_oven(step: MakeStep, loads: Sequence[LoadOf]) -> MakeStep:
    """Let the cooling of a make come after the last of its loads."""
    if step.kind != "cool":
        return step
    make = step.key.partition(BETWEEN)[0]
    mine = [n for n in loads if any(name.partition(BETWEEN)[0] == make for name, _ in n.trays)]
    return replace(step, after=tuple(f"{load.key}.load_out" for load in mine))
