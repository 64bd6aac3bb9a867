"""The command line: the same computations, for scripts, and the door to the desk."""

import argparse
import gc
import io
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec

from aplomb.cli_parser import MOST_BLOCKS, command_parser, parser
from aplomb.core.base.errors import AplombError, TextError

if TYPE_CHECKING:
    from aplomb.core.study.study import Reference, Study
    from aplomb.verbs.make import Asked

BATCH_MASSES = (
    "paste_g", "strewn_g", "dust_g", "frozen_g", "scrap_in_g", "loss_g", "folded_g", "rolled_g",
    "trim_g", "over_g",
)  # fmt: skip
"""What goes into a batch and comes out of it; in and out are equal."""


def _check_book(word: str) -> None:
    """Refuse what is neither a command nor a book; only a name that is a book's makes a new one.

    Raises
    ------
    AplombError
        The text says what was likely meant.
    """
    path = Path(word)
    try:
        there = path.exists()
    except (OSError, ValueError):
        there = False
    if (word and there) or word.startswith("-") or path.suffix.lower() == ".aplomb":
        return
    from difflib import get_close_matches

    known = [*COMMANDS, "--help", "--demo", "--version", "--smoke"]
    near = get_close_matches(word.lower(), known, n=1, cutoff=0.6) or [
        each for each in known if each.lstrip("-") == word.lower()
    ]
    beside = path.with_name(f"{path.name}.aplomb") if path.name else path
    if not near and beside.is_file():
        near = [str(beside)]
    meant = f" Did you mean {near[0]}?" if near else ""
    raise AplombError(
        f"there is no command and no book “{word[:100]}”.{meant} A new book is made by a name that "
        "ends in .aplomb; aplomb --help lists the commands"
    )


def _say(found: dict[str, Any], words: str, as_json: bool) -> None:
    import json  # the window opens without it

    print(json.dumps(found, ensure_ascii=False) if as_json else words)


def _layers(options: argparse.Namespace) -> None:
    from aplomb.core.folds.counts import count
    from aplomb.core.folds.plan import Enclosure
    from aplomb.core.folds.turn_line import parse_plan

    plan = parse_plan(options.line)
    if plan.enclosure is Enclosure.PIECES:
        raise AplombError(
            "paste with fat in pieces has no fixed number of leaves; “aplomb figures” "
            "calculates the average to expect for a formula. The fold product is "
            f"{plan.product}"
        )
    counts = count(plan)
    found = {
        "line": plan.line(),
        "turns": len(plan.turns),
        "turns_with_enclosing": len(plan.turns) + 1,
        "creases": plan.creases,
        "product": counts.product,
        "fat_leaves": counts.fat,
        "dough_leaves": counts.dough,
        "leaves": counts.leaves,
    }
    words = (
        f"{plan.line()}\n{counts.fat} fat leaves and {counts.dough} dough leaves, "
        f"{counts.leaves} in all; fold product {counts.product}; {len(plan.turns)} turns "
        f"after enclosing, {plan.creases} creases"
    )
    _say(found, words, options.json)


def _figures(options: argparse.Namespace) -> None:
    from aplomb.core.readings.readings import READING_WORDS
    from aplomb.work.open_book.sources import study_from

    study, _ = study_from(options.formula)
    if options.json:
        print(msgspec.json.encode(study.readings).decode())
        return
    print(study.formula.name)
    for key, (words, unit) in READING_WORDS.items():
        value = getattr(study.readings, key)
        if value is not None:
            shown = f"{value:.0f}" if unit == "g" else f"{value:.4g}"
            mean = (
                " (expected average)" if study.readings.leaves_are_means and "leaves" in key else ""
            )
            print(f"{words:>18}  {shown} {unit}{mean}".rstrip())


def _batch(options: argparse.Namespace) -> None:
    study, known = _study_for(options)
    scaled = study.scaled
    if scaled.trouble:
        raise AplombError(scaled.trouble)
    masses = {key: round(getattr(scaled, key), 3) for key in BATCH_MASSES}
    lines = [
        {
            "part": w.part.value,
            "material": w.line.material,
            "product": w.product,
            "exact_g": round(w.exact_g, 3),
            "weigh_g": w.weigh_g,
        }
        for w in scaled.lines
    ]
    made = [
        {"product": m.name, "pieces": m.pieces, "good": m.good, "paste_g": round(m.paste_g, 3)}
        for m in scaled.made
    ]
    offcuts = [
        {"product": m.name, "pieces": m.pieces, "good": m.good, "offcut_g": round(m.paste_g, 3)}
        for m in scaled.from_offcuts
    ]
    if offcuts:
        masses["offcuts"] = offcuts
    found = {**masses, "blocks": scaled.blocks, "products": made, "lines": lines}
    if study.cut_trouble:
        found["trouble"] = study.cut_trouble
    words = [study.formula.name]
    words += [f"{m.pieces:>10} {m.name or 'pieces'} of {m.paste_g:.1f} g" for m in scaled.made]
    words += [
        f"{m.pieces:>10} {m.name} of {m.paste_g:.1f} g, made from scrap"
        for m in scaled.from_offcuts
    ]
    words += [
        f"{w.weigh_g:>10g} g  {known.pantry[w.line.material].name}"
        for w in scaled.lines
        if w.weigh_g > 0
    ]
    words.append(
        f"{scaled.paste_g:>10.0f} g of paste in {scaled.blocks} blocks, of which "
        f"{scaled.trim_g:.0f} g is trim"
    )
    words += [study.cut_trouble] if study.cut_trouble else []
    _say(found, "\n".join(words), options.json)


def _asked(options: argparse.Namespace) -> "Asked":
    """Give what the options say of the goal."""
    from aplomb.verbs.make import Asked

    return Asked(options.as_written, options.pieces, options.keep, options.batch)


def _study_for(options: argparse.Namespace, *, pieces: bool = False) -> "tuple[Study, Reference]":
    """Work a formula out for the goal that the options name; without one as its batch says.

    Parameters
    ----------
    pieces : bool
        Without a goal, as many pieces as are wanted.
    """
    from aplomb.verbs.make import Asked, study_asked
    from aplomb.work.open_book.sources import study_from

    asked = _asked(options)
    if asked == Asked() and not pieces:
        return study_from(options.formula)
    study, known, _ = study_asked(options.formula, asked)
    return study, known


def _make(options: argparse.Namespace) -> None:
    from aplomb.verbs import make

    found = make.make_asked(options.formula, _asked(options))
    if options.command == "trays":
        _give(make.trays_found(found), make.trays_words(found), options.json)
    else:
        _give(make.make_found(found), make.make_words(found), options.json)


def _cut(options: argparse.Namespace) -> None:
    from aplomb.core.kitchen.cut_plan import sheets_of

    if options.blocks < 0 or options.blocks > MOST_BLOCKS:
        raise AplombError(f"blocks: use 0 to {MOST_BLOCKS}, not {options.blocks}")
    study, known = _study_for(options, pieces=True)
    sheets = sheets_of(study, known.house, options.blocks)
    names = [product.name for product in study.formula.products]
    plans = []
    words = [study.formula.name]
    for plan in sheets.plans:
        given = dict(zip((names[i] for i in plan.products), plan.pieces(), strict=True))
        plans.append(
            {
                "length_mm": round(plan.sheet.length_mm, 3),
                "width_mm": round(plan.sheet.width_mm, 3),
                "thickness_mm": plan.sheet.height_mm,
                "rolled_length_mm": round(plan.rolled.length_mm, 3),
                "rolled_width_mm": round(plan.rolled.width_mm, 3),
                "sheets": plan.sheets,
                "blocks": plan.blocks,
                "in_pieces_pct": round(plan.yield_pct, 3),
                "pieces": given,
            }
        )
        words.append(
            (
                f"{plan.sheets} sheets of {plan.sheet.length_mm:.0f} × "
                f"{plan.sheet.width_mm:.0f} mm, {plan.sheet.height_mm:g} mm thick, from "
                f"{plan.blocks} blocks; {plan.yield_pct:.1f} % of the paste ends up in "
                "pieces: "
            )
            + ", ".join(f"{many} {name}" for name, many in given.items())
        )
    if options.svg is not None:
        from aplomb.desk.app import gui_for_printing
        from aplomb.desk.paper.cut_svg import cut_plan_svg
        from aplomb.disk import write_bytes

        app = gui_for_printing()
        write_bytes(options.svg, cut_plan_svg(sheets.plans[0], study.formula))
        del app
        words.append(f"drawing saved as {options.svg}")
    found = {
        "sheets": plans,
        "trim_pct": round(sheets.trim_pct, 3),
        "scrap_g": round(sheets.scrap_g, 3),
    }
    _say(found, "\n".join(words), options.json)


def _grams(options: argparse.Namespace) -> None:
    from aplomb.assets.shipped import reference
    from aplomb.core.base.quantity import parse_amount
    from aplomb.core.base.units import Kind
    from aplomb.core.paste.amounts import counted, disagreement, understand
    from aplomb.core.paste.ingredient import STANDING_WORDS

    amount = parse_amount(options.amount, options.decimal, options.measures)
    material = reference().pantry.named(options.material)
    amount = counted(amount, options.amount, material)
    known = understand(amount, material, None, options.amount)
    grams = known.grams
    found: dict[str, Any] = {
        "grams": round(grams, 4),
        "material": material.key,
        "read_as": amount.said,
    }
    words = f"{amount.said} {material.name} = {grams:.4g} g"
    if amount.kind is Kind.VOLUME:
        found |= {
            "ml": round(amount.value, 4),
            "g_per_ml": material.measure_g_ml,
            "spread": round(known.spread_pct / 100, 6),
        }
        words += f", from {amount.value:.4g} mL at {material.measure_g_ml:.3g} g/mL"
    if known.high_g > known.low_g:
        found |= {"low_g": round(known.low_g, 4), "high_g": round(known.high_g, 4)}
        packed = amount.kind is Kind.VOLUME and material.bulk_spread > 0
        why = f" ({STANDING_WORDS['memory']}; it depends how it is packed)" if packed else ""
        words += f"; probably {known.low_g:.4g} to {known.high_g:.4g} g{why}"
    told = [amount.asked] if amount.asked else []
    apart = disagreement(options.amount, material, options.measures, options.decimal)
    if apart is not None:
        told.append(
            f"two amounts are given, {apart.taken_g:.4g} g and {apart.other_g:.4g} g, "
            f"which differ by {apart.apart_pct:.2g} %; weigh it"
        )
    if told:
        found["doubts"] = told
        words += "".join(f"\nnot sure: {each}" for each in told)
    _say(found, words, options.json)


def _card(options: argparse.Namespace) -> None:
    from aplomb.disk import write_bytes
    from aplomb.work.open_book.sources import study_from

    study, known = study_from(options.formula)
    ending = options.out.suffix.lower()
    if ending == ".csv":
        from aplomb.exchange.card_csv import card_csv

        write_bytes(options.out, card_csv(study, known.pantry))
    elif ending == ".pdf":
        from aplomb.desk.app import gui_for_printing
        from aplomb.desk.paper.card import card_pdf

        app = gui_for_printing()
        write_bytes(options.out, card_pdf(study, known.pantry, known.house))
        del app
    else:
        raise AplombError(
            f"the name of the card must end in .pdf or .csv, not “{ending or options.out.name}”"
        )
    print(f"{study.formula.name}: card written to {options.out}")


def _chill(options: argparse.Namespace) -> None:
    from aplomb.verbs import chill, formula_cold
    from aplomb.verbs.reading import is_formula, read_case

    if options.thick is not None or is_formula(options.case):
        if options.thick is None:
            raise AplombError("thick: give the thickness of the block, e.g. --thick 30")
        of_formula = formula_cold.chill_formula(
            options.case, options.thick, options.start, options.place, options.body
        )
        _give(of_formula, formula_cold.chill_formula_words(of_formula), options.json)
        return
    case = read_case(options.case, chill.ChillCase)
    found = chill.chill(case)
    _give(found, chill.chill_words(case, found), options.json)


def _chill_fit(options: argparse.Namespace) -> None:
    from aplomb.verbs import chill_fit
    from aplomb.verbs.reading import read_case

    found = chill_fit.chill_fit(read_case(options.case, chill_fit.ChillFitCase))
    _give(found, chill_fit.chill_fit_words(found), options.json)


def _out(options: argparse.Namespace) -> None:
    from aplomb.verbs import formula_cold

    found = formula_cold.out_formula(
        options.formula, options.thick, options.start, options.room, options.bench
    )
    _give(found, formula_cold.out_formula_words(found), options.json)


def _day(options: argparse.Namespace) -> None:
    from aplomb.verbs import day
    from aplomb.verbs.reading import read_case

    if ".aplomb" in options.case:
        from aplomb.verbs.book_day import book_day, book_day_words

        of_book, view, answer = book_day(options.case, options.date, options.ics)
        _give(of_book, book_day_words(view, answer), options.json)
        return
    if options.date or options.ics:
        raise AplombError(
            "date, ics: these work with a book only; a case counts minutes "
            "from its start and has no date"
        )
    found = day.day(read_case(options.case, day.DayCase))
    _give(found, day.day_words(found), options.json)


def _learn(options: argparse.Namespace) -> None:
    from aplomb.verbs import trials
    from aplomb.verbs.reading import read_case

    case = read_case(options.case, trials.LearnCase)
    found = trials.learn_case(case)
    _give(found, trials.learn_words(case, found), options.json)


def _compare(options: argparse.Namespace) -> None:
    from aplomb.verbs import trials
    from aplomb.verbs.reading import read_case

    found = trials.compare_case(read_case(options.case, trials.CompareCase))
    _give(found, trials.compare_words(found), options.json)


def _triangle(options: argparse.Namespace) -> None:
    from aplomb.verbs import trials
    from aplomb.verbs.reading import read_case

    case = read_case(options.case, trials.TriangleCase)
    found = trials.triangle_case(case)
    _give(found, trials.triangle_words(case, found), options.json)


def _oven(options: argparse.Namespace) -> None:
    from aplomb.verbs import oven
    from aplomb.verbs.reading import read_case

    typed = options.case
    is_file = typed == "-" or typed.lower().endswith(".json")
    case = read_case(typed, oven.OvenCase) if is_file else oven.OvenCase(typed)
    found = oven.oven(case)
    _give(found, oven.oven_words(found, options.to), options.json)


def _trials(options: argparse.Namespace) -> None:
    from aplomb.verbs.trials_file import trials_file, trials_words

    found = trials_file(options.file, options.outcome, options.change)
    _give(found, trials_words(found), options.json)


def _give(found: msgspec.Struct, words: str, as_json: bool) -> None:
    print(msgspec.json.encode(found).decode() if as_json else words)


COMMANDS = {
    "layers": _layers,
    "figures": _figures,
    "grams": _grams,
    "batch": _batch,
    "cut": _cut,
    "make": _make,
    "trays": _make,
    "card": _card,
    "chill": _chill,
    "chill-fit": _chill_fit,
    "out": _out,
    "day": _day,
    "learn": _learn,
    "compare": _compare,
    "triangle": _triangle,
    "oven": _oven,
    "trials": _trials,
}


def main(arguments: list[str] | None = None) -> int:
    """Run Aplomb.

    Exit code: 0, or 2 when the input cannot be used.

    Parameters
    ----------
    arguments : list of str or None
        Without the program's name; None takes the process's own.
    """
    words = sys.argv[1:] if arguments is None else arguments
    for stream in (sys.stdout, sys.stderr):  # a name that is no UTF-8 can be said all the same
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    try:
        if words and words[0] in COMMANDS:
            return _command(words)
        if words:  # a mistyped command is told as such, whatever stands behind it
            _check_book(words[0])
        options = parser().parse_args(words)
        if options.book is not None:
            _check_book(options.book)
        # What is loaded at the start stays to the end: collecting garbage meanwhile only costs
        # time. The desk collects once its window stands.
        gc.disable()
        from aplomb.desk.app import run

        return run(
            None if options.book is None else Path(options.book),
            demo=options.demo,
            smoke=options.smoke,
        )
    except TextError as error:
        row, carets = error.pointed().split("\n")
        print(f"aplomb: {error.message}\n{_one_row(row, carets)}", file=sys.stderr)
        return 2
    except AplombError as error:
        print(f"aplomb: {error}", file=sys.stderr)
        return 2
    except BrokenPipeError:
        return 0


def _command(words: list[str]) -> int:
    """Do what a command asks; a mistake of ours is told in two lines, without a traceback."""
    options = command_parser().parse_args(words)
    try:
        COMMANDS[words[0]](options)
    except (AplombError, BrokenPipeError, ImportError):
        raise
    except Exception as error:  # noqa: BLE001  # scripts are told in words, whatever it is
        import traceback

        last = traceback.extract_tb(error.__traceback__)[-1]
        print(
            f"aplomb: {words[0]} failed through a mistake in Aplomb that is not yours: "
            f"{type(error).__name__} in {last.name}, line {last.lineno}.\n"
            "Nothing was changed. Please report it with what was asked.",
            file=sys.stderr,
        )
        return 1
    return 0


def _one_row(row: str, carets: str) -> str:
    """Set the wrong place in brackets, so that one line points at it."""
    start, end = carets.index("^"), len(carets)
    return f"  {row[:start]}»{row[start:end].rstrip() or ' '}«{row[end:]}"
