"""Whether every figure of a formula can be used."""

from aplomb.core.base.errors import Problems, TurnLineError
from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.base.sound import check_sound
from aplomb.core.base.texts import LONGEST_TEXT
from aplomb.core.folds.turn_line import parse_plan
from aplomb.core.folds.working import check_working
from aplomb.core.oven.programme import check_programme
from aplomb.core.paste.formula import (
    LEAST_TIMES,
    LONGEST_NAME,
    MOST_LINES,
    MOST_PIECES,
    MOST_SHARES,
    MOST_TIMES,
    SMALLEST_G,
    Batch,
    Formula,
)
from aplomb.core.paste.pantry import Pantry
from aplomb.core.paste.product import (
    MOST_PRODUCTS,
    check_cutting,
    check_product,
)


def check(
    formula: Formula, pantry: Pantry | None = None, *, longest: int = LONGEST_TEXT
) -> Formula:
    """Give the formula back if every value in it can be used.

    Parameters
    ----------
    pantry : Pantry or None
        When given, every material must stand in it.
    longest : int
        Longest text [signs].

    Raises
    ------
    FormulaError
        Listing all that is wrong, each with its place and what is wanted.
    """
    wrong = Problems()
    number = wrong.number

    if not formula.name.strip() or len(formula.name) > LONGEST_NAME:
        wrong.add(f"name: use 1 to {LONGEST_NAME} characters.")
    lines = formula.all_lines()
    if len(lines) > MOST_LINES:
        wrong.add(f"lines: {len(lines)} is too many; up to {MOST_LINES} fit.")
    for part, i, line in lines[:MOST_LINES]:
        number(f"{part.value} line {i + 1} ({line.material})", line.grams, 0, LARGEST_G, "g")
        if not 0 <= line.turn <= 99:
            wrong.add(f"{part.value} line {i + 1}: turn {line.turn} is not possible; use 0 to 99.")
        if pantry is not None and line.material not in pantry:
            wrong.add(f"{part.value} line {i + 1}: the pantry has no “{line.material}”.")
    try:
        parse_plan(formula.turn_line)
    except TurnLineError as error:
        wrong.add(f"turn_line: {error.message} (at character {error.start + 1}).")
    _check_sizes(formula, wrong)
    check_working(formula.working, wrong)
    _check_batch(formula.batch, wrong)
    _check_products(formula, pantry, wrong)
    check_cutting(formula.cutting, wrong)
    number("dough_c", formula.dough_c, 0, 40, "°C")
    number("held_back_pct", formula.held_back_pct, 0, 60, "%")
    if formula.flour_moisture_pct is not None:
        number("flour_moisture_pct", formula.flour_moisture_pct, 2, 25, "% (or null)")
    if formula.mixing_min is not None:
        number("mixing_min", formula.mixing_min, 0.5, 60, "min (or null)")
    check_programme(formula.bake, "bake", wrong)
    check_sound(formula, wrong, longest)
    wrong.check()
    return formula


def _check_sizes(formula: Formula, wrong: Problems) -> None:
    number = wrong.number
    number("sheet_mm", formula.sheet_mm, 0.3, 50, "mm")
    if formula.roll_width_mm:
        number("roll_width_mm", formula.roll_width_mm, 20, 5000, "mm (or 0)")
    if formula.enclose_width_mm:
        number("enclose_width_mm", formula.enclose_width_mm, 20, 5000, "mm (or 0, or null)")
    number("fat_block_mm", formula.fat_block_mm, 1, 100, "mm")
    if formula.fat_length_mm or formula.fat_width_mm:
        number("fat_length_mm", formula.fat_length_mm, 10, 5000, "mm (or 0 for both)")
        number("fat_width_mm", formula.fat_width_mm, 10, 5000, "mm (or 0 for both)")
    number("piece_fat_mm", formula.piece_fat_mm, 0.5, 100, "mm")
    number("gathered_mm", formula.gathered_mm, 5, 500, "mm")
    number("piece_spread_pct", formula.piece_spread_pct, 0, 80, "%")


def _check_batch(batch: Batch, wrong: Problems) -> None:
    number = wrong.number
    for name in ("flour_g", "paste_g", "packet_g", "piece_g"):
        number(f"batch.{name}", getattr(batch, name), SMALLEST_G, LARGEST_G, "g")
    number("batch.pieces", batch.pieces, 1, MOST_PIECES, "pieces")
    number("batch.blocks", batch.blocks, 1, 10_000, "blocks")
    number("batch.shares", batch.shares, 1, MOST_SHARES, "parts")
    number("batch.piece_length_mm", batch.piece_length_mm, 1, 5000, "mm")
    number("batch.piece_width_mm", batch.piece_width_mm, 1, 5000, "mm")
    for name in ("trim_pct", "loss_pct", "dust_pct", "bake_pct", "broken_pct"):
        given = getattr(batch, name)
        if given is not None:
            number(f"batch.{name}", given, 0, 100 if name == "dust_pct" else 90, "%")
    number("batch.division_g", batch.division_g, 0.01, 1000, "g")
    number("batch.frozen_g", batch.frozen_g, 0, LARGEST_G, "g")
    number("batch.frozen_blocks", batch.frozen_blocks, 1, 10_000, "blocks")
    if batch.frozen_turns is not None:
        number("batch.frozen_turns", batch.frozen_turns, 0, 200, "turns (or null)")
    number("batch.times", batch.times, LEAST_TIMES, MOST_TIMES, "times")


def _check_products(formula: Formula, pantry: Pantry | None, wrong: Problems) -> None:
    products = formula.products
    if len(products) > MOST_PRODUCTS:
        wrong.add(f"products: {len(products)} is too many; up to {MOST_PRODUCTS} fit.")
    names = [product.name for product in products]
    for i, product in enumerate(products[:MOST_PRODUCTS]):
        place = f"product {i + 1} ({product.name})"
        check_product(product, place, wrong)
        if product.name in names[:i]:
            wrong.add(f"{place}: there is another of that name.")
        for line in (*product.filling, *product.topping):
            if pantry is not None and line.material not in pantry:
                wrong.add(f"{place}: the pantry has no “{line.material}”.")
