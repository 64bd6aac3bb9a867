"""Weigh-out list, steps, order list and allergen sheet."""

from aplomb.core.base.figures import celsius_text, g_text, mass_text
from aplomb.core.base.texts import counted
from aplomb.core.batch.weighing import WeighStep, weigh_steps
from aplomb.core.folds.plan import step_name
from aplomb.core.kitchen.orders import OrderLine, order_list
from aplomb.core.paste.formula import PART_NAMES, Part, allergens, place_words
from aplomb.core.study.study import Study
from aplomb.desk.drawings.folded import paint_enclosing, paint_fold
from aplomb.desk.paper.canvas import Canvas
from aplomb.desk.paper.job import Job
from aplomb.desk.paper.page import (
    GREY,
    MARGIN,
    WIDE,
    PrintedPage,
    font,
)
from aplomb.work.figures.local import currency_text
from aplomb.work.words.making import additions, after_the_turns, before_the_turns
from aplomb.work.words.measured import line_words
from aplomb.work.words.steps import block_words, blocks_words, step_words, water_words

INNER = WIDE - 2 * MARGIN


def paint_weigh_list(canvas: Canvas, job: Job) -> None:
    """Paint the weigh-out list: in weighing order, a box to tick for each line and mix."""
    for i, study in enumerate(job.studies):
        if i:
            canvas.new_page()
        _weigh_list(PrintedPage(canvas, f"Weigh-out · {study.formula.name}"), study, job)


def _weigh_list(page: PrintedPage, study: Study, job: Job) -> None:
    mixes = study.scaled.mixes
    page.head("Weigh-out", study.formula.name, job.words(study))
    if len(mixes) > 1:
        words = ", ".join(
            counted(b, f"mix {n} for 1 block", f"mix {n} for {{}} blocks")
            for n, b in enumerate(mixes, 1)
        )
        page.y += (
            page.text(
                MARGIN,
                page.y,
                INNER,
                f"The bowl is too small for one mix; make {len(mixes)}: {words}.",
                font(12),
            )
            + 1
        )
    division = study.formula.batch.division_g
    last: tuple[Part, int] | None = None
    for step in weigh_steps(study.scaled, job.pantry, division):
        part = step.weighed.part
        if (part, step.mix) != last:
            last = (part, step.mix)
            of = f", mix {step.mix} of {step.mixes}" if step.mix else ""
            page.title_line(PART_NAMES[part] + of)
        page.room(12)
        _weigh_line(page, step, study, job)
    scrap = study.scaled.scrap_in_g
    if scrap > 0:
        page.title_line("Before the last rolling")
        _tick_line(page, "Scrap from earlier batches", scrap, "stacked flat, never balled")
    page.room(20)
    page.rule(page.y + 1)
    page.y += 2.5
    page.text(
        MARGIN,
        page.y,
        INNER,
        (
            "Weighed by ____________________     Date, time ____________________     Paste "
            "as mixed ____________ g"
        ),
        font(11),
    )
    page.y += 8


def _weigh_line(page: PrintedPage, step: WeighStep, study: Study, job: Job) -> None:
    weighed = step.weighed
    material = job.pantry[weighed.line.material]
    note = [
        line_words(job.house, material, weighed, step.target_g),
        place_words(weighed.line, weighed.part, study.plan),
        weighed.line.note,
        weighed.product,
        block_words(step),
    ]
    if weighed.part is Part.DOUGH and material.is_water:
        share = step.blocks / study.scaled.blocks if step.mix else 1.0
        note.append(water_words(study, job.pantry, share))
    _tick_line(page, material.name, step.target_g, "; ".join(n for n in note if n))


def _tick_line(page: PrintedPage, name: str, grams: float, said: str) -> None:
    page.tick_box(MARGIN, page.y + 0.9, 5.0)
    page.text(MARGIN + 9, page.y, 96, name, font(14))
    page.text(MARGIN + 9, page.y + 5.6, 120, said, font(10), GREY)
    page.text(MARGIN + 105, page.y - 0.6, 40, g_text(grams, 2), font(17, 700), right=True)
    page.text(MARGIN + 150, page.y + 0.8, 32, "__________", font(12), GREY, right=True)
    page.y += 10.4 if said else 8.0


def paint_steps(canvas: Canvas, job: Job) -> None:
    """Paint mixing and folding in words with sizes, a box to tick for each step."""
    for i, study in enumerate(job.studies):
        if i:
            canvas.new_page()
        _steps(PrintedPage(canvas, f"Steps · {study.formula.name}"), study, job)


def _steps(page: PrintedPage, study: Study, job: Job) -> None:
    page.head(
        "Mixing and folding",
        study.formula.name,
        job.words(study),
    )
    f = study.formula
    mixing = [
        f"Dough after mixing: {celsius_text(f.dough_c)}"
        + (f"; water {cold}." if (cold := water_words(study, job.pantry)) else ".")
    ]
    mixing += [f"{job.pantry[line.material].name}: {line.note}." for line in f.dough if line.note]
    mixing.append("Stop when the dough leaves the bowl clean and a handful holds when squeezed.")
    if study.scaled.blocks > 1:
        mixing.append(f"Divide dough and fat for {blocks_words(study.scaled)}.")
    make = job.make(study)
    mixing += before_the_turns(make)
    _step(page, study, "Mix", mixing, None, drawn=False)
    turn = 0
    for place in range(len(study.plan.steps) + 1):
        step = study.plan.steps[place - 1] if place else None
        words = step_words(study, place, job.house)
        if step is None:
            title = f"Enclose: {study.plan.enclosure.value}"
        elif step.is_turn:
            turn += 1
            title = f"Turn {turn} of {len(study.plan.turns)}: {step_name(step).split(',')[0]}"
        else:
            title = words.big
        lines = [words.todo, *words.after.split("\n")]
        if step is not None and step.is_turn:
            lines += additions(make, job.pantry, turn)
        if step is None or step.is_turn:
            lines.insert(0, words.big + ".")
        _step(page, study, title, [n for n in lines if n], place, drawn=True)
    for told in after_the_turns(make, job.pantry):
        _step(page, study, told.title, list(told.lines), None, drawn=False)


def _step(
    page: PrintedPage, study: Study, title: str, lines: list[str], place: int | None, *, drawn: bool
) -> None:
    page.room(30)
    x = MARGIN + (34 if drawn else 9)
    if drawn and place is not None:
        step = study.plan.steps[place - 1] if place else None
        if step is None or step.is_turn:
            room = page.screen(MARGIN + 8, page.y + 0.5, 23, 14.5)
            if step is None:
                paint_enclosing(page.painter, room, study.enclosing)
            else:
                paint_fold(page.painter, room, step)
            page.painter.restore()
    page.tick_box(MARGIN, page.y + 0.8, 5.0)
    top = page.y
    page.y += page.text(x, page.y, WIDE - MARGIN - x, title, font(14, 600)) + 0.3
    for line in lines:
        page.y += page.text(x, page.y, WIDE - MARGIN - x, line, font(11.5), wrap=True)
    page.y = max(page.y + 3, top + (18 if drawn and place is not None else 10))


def paint_order(canvas: Canvas, job: Job) -> None:
    """Paint the order list: by supplier, in whole packs, what is in stock taken off."""
    page = PrintedPage(canvas, f"Order list · {job.name}")
    order = order_list(job.batches, job.pantry, job.stock)
    sign = job.house.currency
    whole = order.cost()
    big = f"{currency_text(whole, sign)} in all" if whole is not None else ""
    of = ", ".join(study.formula.name for study in job.studies)
    page.head("Order list", f"{job.name}: {of}" if job.name != of else of, big)
    for supplier in order.suppliers:
        lines = [n for n in order.lines if n.supplier == supplier]
        buy = [n for n in lines if n.short_g > 0]
        if buy:
            cost = order.cost(supplier)
            words = supplier or "Supplier not known"
            page.title_line(words + (f", {currency_text(cost, sign)}" if cost else ""))
            page.table(
                ("", "needed", "in stock", "buy", "cost", "left over"),
                [_order_row(n, sign) for n in buy],
                (24.0, 24.0, 34.0, 22.0, 24.0),
                ticked=True,
            )
    there = [n for n in order.lines if n.short_g <= 0]
    if there:
        page.title_line("In stock, nothing to buy")
        page.table(
            ("", "needed", "in stock", "left over"),
            [
                (n.name, mass_text(n.needed_g), mass_text(n.stock_g), mass_text(n.left_g))
                for n in there
            ],
            (26.0, 26.0, 26.0),
        )
    if not order.lines:
        page.text(MARGIN, page.y, INNER, "Nothing to order yet.", font(12), GREY)


def _order_row(line: OrderLine, sign: str) -> tuple[str, ...]:
    pack = f"{line.packs} × {mass_text(line.pack_g)}" if line.pack_g else "pack size not known"
    return (
        line.name,
        mass_text(line.needed_g),
        mass_text(line.stock_g) if line.stock_g else "–",
        pack,
        "–" if line.cost is None else currency_text(line.cost, sign),
        mass_text(line.left_g) if line.packs else "–",
    )


def paint_allergens(canvas: Canvas, job: Job) -> None:
    """Paint the allergen sheet: what each paste holds, and from which material."""
    page = PrintedPage(canvas, f"Allergens · {job.name}")
    of = ", ".join(study.formula.name for study in job.studies)
    page.head("Allergens", f"{job.name}: {of}" if job.name != of else of)
    for study in job.studies:
        f = study.formula
        found = allergens(f, job.pantry)
        page.title_line(f.name)
        words = ", ".join(found) if found else "none listed for these ingredients"
        page.y += (
            page.text(MARGIN, page.y, INNER, f"Contains: {words}", font(16, 700), wrap=True) + 1.5
        )
        rows = []
        for key in f.materials():
            material = job.pantry[key]
            if material.allergens:
                rows.append((material.name, ", ".join(material.allergens)))
        page.table(("Ingredient", "contains"), rows, (110.0,))
        for product in f.products:
            own = sorted(
                {
                    a
                    for n in (*product.filling, *product.topping)
                    for a in job.pantry[n.material].allergens
                }
            )
            if own:
                page.y += page.text(
                    MARGIN,
                    page.y,
                    INNER,
                    f"{product.name} also contains: {', '.join(own)}",
                    font(12),
                )
        page.y += 2
    gluten_free = any(study.formula.school == "gluten_free" for study in job.studies)
    wheat = any(study.formula.school != "gluten_free" for study in job.studies)
    notes = [
        "Taken from the pantry: check it against every label and the supplier’s data.",
        "This list does not cover cross-contact from bench, pin, sheeter belt or dusting flour.",
    ]
    if gluten_free:
        notes.append(
            "Gluten-free means at most 20 mg/kg in the food as sold (Codex CXS 118-1979)."
            + (
                " Wheat flour is used the same day: make the gluten-free paste first."
                if wheat
                else ""
            )
        )
    notes.append(
        "Local food law, the manufacturers’ instructions and your professional rules come first."
    )
    page.room(24)
    page.y += 2
    page.y += page.text(MARGIN, page.y, INNER, " ".join(notes), font(10.5), GREY, wrap=True)
