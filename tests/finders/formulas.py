"""Formulas at the ends of every range: any of them is worked out or refused in words."""

import random
from typing import get_args, get_type_hints

from msgspec.structs import replace

from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import AplombError
from aplomb.core.folds.working import LIMITS, Working
from aplomb.core.paste.formula import Batch, Formula, Part
from aplomb.core.paste.ingredient import GROUPS
from aplomb.core.paste.line import Line
from aplomb.core.paste.pantry import Item, Pack, Pantry, check_item
from aplomb.core.paste.product import Product

USUAL = ("plain_flour", "water", "salt", "butter", "lard", "strong_flour")
GRAMS = (0.0, 0.0001, 0.1, 1.0, 18.0, 500.0, 1000.0, 1e6)
MASSES = (0.1, 1.0, 40.0, 2500.0, 1e6)
ENCLOSURES = ("envelope", "thirds", "halves", "inverse", "portions", "pieces", "coil", "none")
STEPS = (
    "2", "3", "4", "4o", "5", "6", "q", "s4", "/", "/30", "+3", "+3:40", "+4:60:1", "r", "3@0.5",
    "4@8", "3@60", "t1", "t10", "t200", "t10f", "t10r",
)  # fmt: skip
SHARES = (None, 0.0, 10.0, 50.0, 90.0)


def any_pantry(pick: random.Random, pantry: Pantry) -> Pantry:
    """Give the pantry with some of its materials as a user may have changed them: without what
    they are named for, of another group, with other limits.

    Parameters
    ----------
    pick : Random
        Seeded.
    pantry : Pantry
    """
    items = []
    for key in pick.sample(sorted(m.key for m in pantry), 12) + pick.sample(USUAL, 3):
        old = pantry[key]
        parts = pick.choice(
            (
                {},
                {"fat": 1.0},
                {"water": 1.0},
                {"salt": 0.5},
                {"ash": 0.01},
                {"acid": 0.3},
                {"protein": 0.2, "carbohydrate": 0.7},
            )
        )
        made = replace(
            old,
            composition=Composition(**parts),
            group=pick.choice((old.group, *GROUPS)),
            bulk_g_ml=pick.choice((None, 0.05, 5.0)),
            sfc=pick.choice((old.sfc, ())),
            enclose_c=pick.choice((old.enclose_c, None, (0.0, 0.5))),
            made_of=(),
            standing="own",
            acid_kind=pick.choice((old.acid_kind, "")),
        )
        item = Item(key, made, pick.choice((None, Pack(0.01, 1e6), Pack(1e8, 0.0))))
        try:
            items.append(check_item(item))
        except AplombError:
            continue
    return pantry.holding([*pantry.items.values(), *items])


def any_formula(pick: random.Random, pantry: Pantry) -> Formula:
    """Make a formula whose every value is allowed, ends of ranges first.

    Parameters
    ----------
    pick : Random
        Seeded.
    pantry : Pantry
    """
    keys = [m.key for m in pantry]

    def line() -> Line:
        key = pick.choice(USUAL) if pick.random() < 0.6 else pick.choice(keys)
        grams = pick.choice(GRAMS) if pick.random() < 0.6 else 10 ** pick.uniform(-2, 4)
        return Line(key, grams, turn=pick.choice((0, 0, 1, 3, 99)))

    parts = {
        part.value: tuple(line() for _ in range(pick.choice((0, 1, 1, 2, 4))))
        for part in Part
        if part in (Part.DOUGH, Part.BLOCK) or pick.random() < 0.3
    }
    steps = " ".join(pick.choice(STEPS) for _ in range(pick.choice((0, 1, 3, 4, 7))))
    working = Working()
    if pick.random() < 0.3:
        name = pick.choice(list(LIMITS))
        _, low, high, _ = LIMITS[name]
        working = replace(working, **{name: pick.choice((low, high, (low + high) / 2))})
    fixed = pick.choice(("flour", "paste", "pieces", "packet"))
    batch = Batch(
        fixed=fixed,
        flour_g=pick.choice(MASSES),
        paste_g=pick.choice(MASSES),
        pieces=pick.choice((1, 60, 1_000_000)),
        packet_g=pick.choice(MASSES),
        piece_by=pick.choice(("weight", "size")),
        piece_g=pick.choice(MASSES),
        piece_length_mm=pick.choice((1.0, 100.0, 5000.0)),
        piece_width_mm=pick.choice((1.0, 100.0, 5000.0)),
        trim_pct=pick.choice(SHARES),
        loss_pct=pick.choice(SHARES),
        dust_pct=pick.choice(SHARES),
        bake_pct=pick.choice(SHARES),
        broken_pct=pick.choice(SHARES),
        blocks=pick.choice((1, 2, 10_000)),
        division_g=pick.choice((0.01, 1.0, 1000.0)),
        frozen_g=pick.choice((0.0, 0.0, 500.0, 1e6)),
    )
    products = []
    if pick.random() < 0.3:
        shape = pick.choice(get_args(get_type_hints(Product)["shape"]))
        products.append(
            Product(
                "Piece",
                shape,
                pick.choice((1.0, 80.0, 3000.0)),
                pick.choice((1.0, 80.0, 3000.0)),
                pick.choice((0.0, 20.0, 60.0)),
                wanted=pick.choice((0, 1, 60, 100_000)),
                points=((0.0, 0.0), (80.0, 0.0), (40.0, 60.0)) if shape == "outline" else (),
                sheet_mm=pick.choice((0.0, 3.0)) if shape != "slice" else 12.0,
                filling=(line(),),
                shrink_along_pct=pick.choice((0.0, 12.0)),
            )
        )
    return Formula(
        "Any",
        school=pick.choice(("classic", "rough", "gluten_free")),
        **parts,
        turn_line=f"{pick.choice(ENCLOSURES)} {steps}",
        sheet_mm=pick.choice((0.3, 3.0, 50.0)),
        roll_width_mm=pick.choice((0.0, 0.0, 20.0, 300.0, 5000.0)),
        fat_block_mm=pick.choice((1.0, 12.0, 100.0)),
        piece_fat_mm=pick.choice((0.5, 15.0, 100.0)),
        gathered_mm=pick.choice((5.0, 60.0, 500.0)),
        piece_spread_pct=pick.choice((0.0, 80.0)),
        piece_form=pick.choice(("cubes", "flakes", "crumbs", "gratings")),
        working=working,
        batch=batch,
        products=tuple(products),
        dough_c=pick.choice((0.0, 16.0, 40.0)),
        flour_moisture_pct=pick.choice((None, None, 2.0, 25.0)),
    )
