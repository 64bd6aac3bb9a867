"""Weigh-out and order lists as CSV."""

import csv
import io
from collections.abc import Mapping, Sequence

from aplomb.core.batch.weighing import weigh_steps
from aplomb.core.kitchen.orders import order_list
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.study import Study
from aplomb.exchange.cells import plain_number, safe


def _written(rows: Sequence[Sequence[object]]) -> bytes:
    out = io.StringIO()
    csv.writer(out, lineterminator="\r\n").writerows(rows)
    return b"\xef\xbb\xbf" + out.getvalue().encode()


def weigh_csv(studies: Sequence[Study], pantry: Pantry) -> bytes:
    """Write the weigh-out lists of some batches.

    UTF-8 with a byte order mark, commas, decimal points. Columns: formula, mix (0 for the whole
    batch), part, material, for which product, grams to weigh, how far off is near enough.
    """
    rows: list[Sequence[object]] = [
        ("formula", "mix", "part", "material", "product", "weigh_g", "near_g")
    ]
    for study in studies:
        for step in weigh_steps(study.scaled, pantry, study.formula.batch.division_g):
            line = step.weighed
            rows.append(
                (
                    safe(study.formula.name),
                    step.mix,
                    line.part.value,
                    safe(pantry[line.line.material].name),
                    safe(line.product),
                    plain_number(step.target_g, ".10g"),
                    plain_number(step.near_g, ".3g"),
                )
            )
    return _written(rows)


def order_csv(studies: Sequence[Study], pantry: Pantry, stock: Mapping[str, float]) -> bytes:
    """Write the order list of some batches.

    Parameters
    ----------
    stock : mapping of float, by material
        On the shelf [g].

    Returns
    -------
    bytes
        As `weigh_csv`. Columns: supplier, material, needed, in stock, pack, packs to buy, cost, day
        of the price; empty where it is not known.
    """
    rows: list[Sequence[object]] = [
        ("supplier", "material", "needed_g", "stock_g", "pack_g", "packs", "cost", "price_date")
    ]
    rows += [
        (
            safe(line.supplier),
            safe(line.name),
            *(plain_number(g, ".10g") for g in (line.needed_g, line.stock_g, line.pack_g)),
            line.packs if line.pack_g else "",
            "" if line.cost is None else f"{line.cost:.2f}",
            line.date,
        )
        for line in order_list([s.scaled for s in studies], pantry, stock).lines
    ]
    return _written(rows)
