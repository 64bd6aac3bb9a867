"""Formulas, goals and houses made up at random, within what a bakery would have; seeded."""

import random

from msgspec.structs import replace

from aplomb.core.base.house import House
from aplomb.core.base.ovens import Oven
from aplomb.core.make.goal import Goal
from aplomb.core.oven.programme import BakeStep, Programme
from aplomb.core.paste.formula import Batch, Formula
from aplomb.core.paste.line import Line
from aplomb.core.paste.make_up import MAKE_UPS
from aplomb.core.paste.product import UNTRIMMED, CutPart, Cutting, Product

LINES = (
    "envelope 3 4 / 3 4 /", "thirds 3@9 3@9 /30 3@9 3@8 /", "halves 4 / 4 /45", "inverse 4 4 /60 3",
    "portions +3@9 +3@9 /30 +3@9 3@8 /60", "portions +3:40 / +3 / 3", "pieces 3 3 / 4 3 /60",
    "pieces /20 4 4 /", "coil /120", "coil", "envelope t10 3 t5 / 4 /30-60@freezer /40", "none 3 3",
    "dough/60 fat/30 envelope 3 / q / s4 shaped/30", "envelope r /60", "thirds 6 / 5 /",
)  # fmt: skip
FATS = ("butter", "butter_salted", "margarine_pastry", "lard", "shortening")
EXTRA = ("egg_whole", "sugar", "vinegar_cider", "milk_whole", "salt")


def formula(pick: random.Random, pantry: object) -> Formula:
    """Make up a formula."""
    there = [key for key in (*FATS, *EXTRA) if key in pantry]  # type: ignore[operator]
    fats = [key for key in there if key in FATS]
    extra = [key for key in there if key in EXTRA]
    flour = pick.choice([240.0, 500.0, 1000.0, 2375.5])
    dough = [Line("plain_flour", flour), Line("water", flour * pick.uniform(0.4, 0.6))]
    dough += [Line(key, flour * pick.uniform(0.001, 0.05)) for key in pick.sample(extra, 2)]
    block = [Line(pick.choice(fats), flour * pick.uniform(0.4, 1.1))]
    if pick.random() < 0.3:
        block.append(Line("plain_flour", flour * pick.uniform(0.05, 0.3)))
    line = pick.choice(LINES)
    between = (Line("sugar", flour * 0.1, turn=pick.choice([0, 1])),) if pick.random() < 0.3 else ()
    batch = Batch(
        fixed=pick.choice(["pieces", "pieces", "paste", "flour", "written"]),
        flour_g=pick.uniform(300, 6000),
        paste_g=pick.uniform(500, 12_000),
        pieces=pick.randint(1, 200),
        piece_by=pick.choice(["weight", "size"]),
        piece_g=pick.uniform(15, 200),
        blocks=pick.choice([1, 1, 1, 2, 3]),
        division_g=pick.choice([0.1, 1, 2, 5]),
        times=pick.choice([0.5, 1.0, 2.0, 3.0]),
        broken_pct=pick.choice([None, 0, 5]),
        loss_pct=pick.choice([None, 0, 3]),
        frozen_g=pick.choice([0, 0, 0, 900.0, 2600.0]),
        frozen_blocks=pick.choice([1, 2]),
        frozen_turns=pick.choice([None, 0, 2]),
        frozen_where=pick.choice(["freezer", "fridge"]),
    )
    fat_mm = pick.choice([(0.0, 0.0), (0.0, 0.0), (250.0, 180.0)])
    products = tuple(_product(pick, i) for i in range(pick.choice([0, 1, 1, 2, 3])))
    return Formula(
        name=f"Made up {pick.randrange(10_000)}",
        dough=tuple(dough),
        block=tuple(block),
        dusting=(Line("plain_flour", flour * 0.03),) if pick.random() < 0.8 else (),
        between=between,
        filling=(Line("apricot_jam", 12),) if pick.random() < 0.2 else (),
        finish=(Line("egg_whole", flour * 0.02),) if pick.random() < 0.5 else (),
        turn_line=line,
        sheet_mm=pick.choice([2.0, 3.0, 4.0]),
        roll_width_mm=pick.choice([0.0, 0.0, 0.0, 300.0]),
        enclose_width_mm=pick.choice([None, None, 0.0, 220.0]),
        fat_length_mm=fat_mm[0],
        fat_width_mm=fat_mm[1],
        batch=batch,
        products=products,
        cutting=Cutting(
            edge_mm=pick.choice([0, 5, 10]),
            lies_on=pick.choice(["bench", "bench", "tray"]),
            scrap_pct=pick.choice([0, 10]),
            scrap_g=pick.choice([0, 300]),
        ),
    )


def _product(pick: random.Random, at: int) -> Product:
    shape = pick.choice(
        ["rectangle", "triangle", "round", "case", "strip", "frame", "lining", "slice"]
    )
    long = pick.uniform(60, 160)
    wide = pick.uniform(15, 30) if shape == "strip" else pick.uniform(60, 120)
    inner = {"case": long * 0.5, "frame": 12.0, "lining": 10.0, "slice": 12.0}.get(shape, 0.0)
    steps = (BakeStep(pick.choice([190.0, 200.0]), pick.choice([18.0, 25.0])),)
    made = Product(
        f"Product {at}",
        shape=shape,  # type: ignore[arg-type]
        length_mm=long,
        width_mm=wide,
        inner_mm=inner,
        wanted=pick.choice([0, 12, 24, 48, 130]),
        gap_mm=pick.choice([0, 3]),
        sheet_mm=pick.choice([0, 0, 2.5]),
        shrink_along_pct=pick.choice([0, 4]),
        filling=(Line("leek_filling", 30),) if pick.random() < 0.4 else (),
        topping=(Line("poppy_seed", 1),) if pick.random() < 0.3 else (),
        finish=pick.choice(["", "egg on top only; dock the base", "twist twice"]),
        bake=Programme(steps) if pick.random() < 0.5 else Programme(),
        make_up=pick.choice([*MAKE_UPS, "", "", ""]) if pick.random() < 0.3 else "",
        filling_is=pick.choice(["", "raw", "bought"]),  # type: ignore[arg-type]
        parts=(CutPart("lid", 50.0),) if pick.random() < 0.1 else (),
    )
    if shape in UNTRIMMED and not made.parts and pick.random() < 0.25:
        return replace(made, untrimmed=True, wanted=min(made.wanted, 24))
    return replace(made, offcut_g=15.0, wanted=5) if at and pick.random() < 0.3 else made


def house(pick: random.Random) -> House:
    """Make up a house."""
    ovens = tuple(
        Oven(f"Oven {i}", trays=pick.choice([1, 3, 5]), heat_min=15.0 + 5 * i)
        for i in range(pick.choice([1, 1, 2]))
    )
    return House(
        bench_mm=pick.choice([900.0, 1500.0, 2400.0]),
        bench_deep_mm=pick.choice([600.0, 800.0]),
        belt_mm=pick.choice([0.0, 0.0, 600.0]),
        bowl_most_g=pick.choice([1500.0, 4000.0, 9000.0]),
        bakers=pick.choice([1, 2]),
        ovens=len(ovens),
        oven_list=ovens if pick.random() < 0.7 else (),
    )


def goal(pick: random.Random) -> Goal | None:
    """Make up a goal; None for the one that the formula states."""
    return pick.choice(
        [
            None,
            None,
            Goal("pieces"),
            Goal("pieces", pieces=pick.randint(1, 90)),
            Goal("batch"),
            Goal("as_written", factor=pick.choice([1.0, 0.5, 1 / 3, 2.0])),
            Goal("keep", blocks=pick.randint(1, 4)),
        ]
    )
