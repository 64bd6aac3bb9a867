"""The batch card as CSV, for a spreadsheet."""

import csv
import io

from aplomb.core.paste.formula import allergens, place_words
from aplomb.core.paste.pantry import Pantry
from aplomb.core.readings.readings import READING_WORDS
from aplomb.core.study.study import Study
from aplomb.exchange.cells import plain_number, safe


def card_csv(study: Study, pantry: Pantry) -> bytes:
    """Write the batch card as CSV.

    UTF-8 with a byte order mark (spreadsheets need it), commas, decimal points, one header.
    Rows: kind, part, item, grams exact, grams to weigh, percent on flour, value, unit, note.
    """
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\r\n")
    rows.writerow(
        ["kind", "part", "item", "exact_g", "weigh_g", "pct_on_flour", "value", "unit", "note"]
    )
    formula, flour = study.formula, study.accounts.flour_g
    rows.writerow(["formula", "", safe(formula.name), "", "", "", "", "", safe(formula.purpose)])
    for weighed in study.scaled.lines:
        line = weighed.line
        percent = f"{100 * line.grams / flour:.2f}" if flour > 0 else ""
        rows.writerow(
            [
                "line",
                weighed.part.value,
                safe(pantry[line.material].name),
                f"{weighed.exact_g:.2f}",
                plain_number(weighed.weigh_g, ".10g"),
                percent,
                "",
                "",
                safe(
                    "; ".join(
                        n for n in (place_words(line, weighed.part, study.plan), line.note) if n
                    )
                ),
            ]
        )
    rows.writerow(["plan", "", "turn line", "", "", "", study.plan.line(), "", ""])
    scaled = study.scaled
    for item, value, unit in (
        ("paste as mixed", f"{scaled.paste_g:.1f}", "g"),
        ("bench loss", f"{scaled.loss_g:.1f}", "g"),
        ("trim", f"{scaled.trim_g:.1f}", "g"),
        ("pieces", f"{scaled.pieces}", ""),
        ("per piece", f"{scaled.piece_g:.2f}", "g"),
        ("over", f"{scaled.over_g:.1f}", "g"),
        ("rounding difference", f"{scaled.drift_g:.2f}", "g"),
    ):
        rows.writerow(["batch", "", item, "", "", "", value, unit, ""])
    for key, (words, unit) in READING_WORDS.items():
        value = getattr(study.readings, key)
        if value is not None:
            rows.writerow(["reading", key, words, "", "", "", plain_number(value, ".6g"), unit, ""])
    for allergen in allergens(formula, pantry):
        rows.writerow(["allergen", "", allergen, "", "", "", "", "", ""])
    return b"\xef\xbb\xbf" + out.getvalue().encode()
