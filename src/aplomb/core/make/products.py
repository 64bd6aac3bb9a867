"""From the cut pieces to the pack: make-up by product, trays, the oven."""

from collections.abc import Sequence
from typing import Any

from aplomb.core.base.figures import mm_text
from aplomb.core.batch.blanks import slices_a_log
from aplomb.core.batch.scaled import Made
from aplomb.core.batch.trays import batch_trays
from aplomb.core.make import minutes as usual
from aplomb.core.make import words
from aplomb.core.make.blocks import Blocks
from aplomb.core.make.gathering import shared
from aplomb.core.make.making import Making
from aplomb.core.make.oven import add_loads
from aplomb.core.make.queue import loads_of_batch
from aplomb.core.make.step import LineOf, LoadOf, PiecesOf, RestAfter, TraysOf
from aplomb.core.paste.formula import Part, make_up_of
from aplomb.core.paste.make_up import MakeUp
from aplomb.core.paste.product import Product

DRY = 0.4
"""What holds less water than that is strewn on, not brushed [g/g]."""
MEAT = ("meat", "sausage", "chicken", "fish")
"""Words of a filling's name that mean it is handled raw with more care."""
FRY, SUGAR = ("fry", "fried"), ("caramel", "hot sugar")


def add_products(making: Making, blocks: Blocks) -> tuple[tuple[TraysOf, ...], tuple[LoadOf, ...]]:
    """Add every step from the pieces to the pack; gives the trays and loads."""
    products = _Products(making, blocks)
    products.fillings()
    tray_steps = products.pieces()
    loads = products.oven(tray_steps)
    return products.trays, loads


class _Products:
    def __init__(self, making: Making, blocks: Blocks) -> None:
        self.making, self.gather, self.cuts = making, making.gather, blocks.cuts
        scaled = making.study.scaled
        self.made: list[tuple[str, Product | None, Made]] = []
        by_name = {p.name: p for p in making.study.formula.products}
        for number, made in enumerate((*scaled.made, *scaled.from_offcuts), 1):
            if made.pieces > 0:
                self.made.append((f"p{number}", by_name.get(made.name), made))
        self.all = sum(made.pieces for _, _, made in self.made)
        plain = [m for _, p, m in self.made if p is None or not p.filling]
        self.plain = sum(m.pieces for m in plain)
        """Pieces that take the formula's own filling."""
        self.weighed: dict[str, str] = {}
        self.after: tuple[str, ...] = ()
        self.on_trays = batch_trays(making.study.formula, scaled, making.house)
        self.trays = tuple(
            TraysOf(t.name, t.trays, t.pieces, t.a_tray, t.tray_g) for t in self.on_trays
        )

    def _filling_of(self, name: str) -> list[LineOf]:
        return self.making.of(Part.FILLING, product=name)

    def fillings(self) -> None:
        """Weigh and cook what goes on pieces, before it is needed."""
        making, gather = self.making, self.gather
        own = making.of(Part.FILLING)
        finish = making.weighed(Part.FINISH)
        if own and self.plain:
            first = next((p for _, p, _ in self.made if p is not None and not p.filling), None)
            self._filling("filling", own, making.weighed(Part.FILLING), first)
        for key, product, made in self.made:
            lines = self._filling_of(made.name) if product else []
            gather.unit(key, "pieces", made.pieces * making.piece_g(made.name), made.name)
            if lines:
                weighs = making.weighed(Part.FILLING, product=made.name)
                self._filling(key, lines, weighs, product)
        if finish:
            grams = sum(n.grams for n in making.of(Part.FINISH))
            gather.unit("finish", "finish", grams)
            self.weighed["finish"] = gather.add(
                "weigh",
                "finish",
                pieces=len(finish),
                weighs=finish,
                words="Weigh the wash and topping",
            )

    def _filling(
        self, key: str, lines: list[LineOf], weighs: tuple[LineOf, ...], product: Product | None
    ) -> None:
        gather = self.gather
        if key == "filling":
            gather.unit(key, "filling", sum(n.grams for n in lines))
        meat = self._says(MEAT, "", lines)
        raw = (words.RAW_MEAT,) if meat else ()
        at = gather.add(
            "weigh",
            key,
            after=(),
            pieces=len(weighs),
            weighs=weighs,
            words=f"Weigh the filling{f' for {product.name}' if product else ''}",
            cautions=raw,
        )
        said = product.filling_is if product else ""
        inside = product.filling if product and key != "filling" else lines
        filled = any(n.grams > 0 for n in inside)
        if said in ("", "cooked") and filled:
            rest = RestAfter("room", usual.COOL_FILLING_MIN, usual.FILLING_MOST_MIN)
            at = gather.add("cook", key, rest=rest, cautions=raw)
        self.weighed[key] = at

    def _says(self, some: tuple[str, ...], text: str, lines: Sequence[LineOf] = ()) -> bool:
        names = [self.making.pantry[n.material].name.lower() for n in lines]
        return any(word in each for word in some for each in (text.lower(), *names))

    def pieces(self) -> list[str]:
        """Make up every product; gives the steps that set it on its trays."""
        found = []
        for key, product, made in self.made:
            self._begin(product, made)
            self._make_up(key, product, made)
            found.append(self._on_trays(key, made))
        return found

    def _begin(self, product: Product | None, made: Made) -> None:
        """Let the make-up come after every cut that gives such pieces."""
        cuts = [c.step for c in self.cuts if any(p.product == made.name for p in c.pieces)]
        if product is not None and product.offcut_g:
            cuts = [c.step for c in self.cuts]
        self.after = tuple(cuts)

    def _step(self, kind: str, key: str, **more: Any) -> None:
        """Add a step to some pieces, after the one before it."""
        self.after = (self.gather.add(kind, key, after=self.after, **more),)

    def _make_up(self, key: str, product: Product | None, made: Made) -> None:
        pieces, gives = made.pieces, (PiecesOf(made.name, made.pieces),)
        formula = self.making.study.formula
        way: MakeUp = make_up_of(formula, product) if product else "flat"
        lines, topping = self._parted(product)
        if product is None or not product.filling:
            own = self.making.of(Part.FILLING)
            lines = [*shared(own, pieces / self.plain if self.plain else 0.0), *lines]
        if way == "offcuts":
            told = words.SHAPING["offcuts"]
            self._step("shape", key, pieces=pieces, gives=gives, words=told)
        if way == "lining":
            told = "Ease the paste in, press it into the corners, dock the base"
            self._step("line", key, pieces=pieces, gives=gives, words=told)
        if way == "border":
            self._step("shape", key, pieces=pieces, words=words.SHAPING[way])
        if lines:
            self._step(
                "fill",
                key,
                more_after=[self.weighed[k] for k in (key, "filling") if k in self.weighed],
                pieces=pieces,
                lines=tuple(lines),
                words=_fill_words(way),
                sign=words.FILL_SIGNS.get(way, words.FILLED),
                cautions=self._fill_cautions(lines),
            )
        self._shaped(key, way, product, made)
        self._finished(key, way, product, made, topping)

    def _shaped(self, key: str, way: MakeUp, product: Product | None, made: Made) -> None:
        pieces = made.pieces
        if way == "log" and product is not None:
            self._log(key, product, made)
        elif way in ("two_parts", "stacked"):
            self._step("shape", key, pieces=pieces, words=words.SHAPING[way])
        if product is not None and product.pressed_length_mm:
            self._step("shape", key, pieces=pieces, words="Press or roll to its size")

    def _log(self, key: str, product: Product, made: Made) -> None:
        """Roll the sheets of a product up, chill the logs and cut them into slices."""
        chill = RestAfter("fridge", usual.LOG_CHILL_MIN, usual.USUAL_MOST_MIN)
        both = product.both_sides
        told = words.BOTH_SIDES if both else words.SHAPING["log"]
        self._step("roll_up", key, words=told, rest=chill, sign=words.ROLLED_SIGNS[both])
        logs = -(-made.pieces // slices_a_log(product))
        cut = "the log" if logs == 1 else f"{logs} logs"
        thick = mm_text(product.inner_mm, 1)
        self._step(
            "slice",
            key,
            pieces=made.pieces,
            gives=(PiecesOf(made.name, made.pieces),),
            words=f"Cut {cut} into slices {thick} thick",
            sign=words.SLICED_SIGNS[both],
            cautions=(words.KNIFE,),
        )

    def _finished(
        self,
        key: str,
        way: MakeUp,
        product: Product | None,
        made: Made,
        topping: list[LineOf],
    ) -> None:
        """Do what the product says of its end: docked, shaped, washed."""
        said = product.finish if product else ""
        if "dock" in said.lower():
            if way != "lining":
                self._step("dock", key, pieces=made.pieces)
            if said.strip().lower().rstrip(".") in ("dock", "docked"):
                said = ""
        if said and not _says_wash(said):
            self._step("shape", key, pieces=made.pieces, words=_capital(said))
            said = ""
        self._wash(key, made, said, topping)

    def _parted(self, product: Product | None) -> tuple[list[LineOf], list[LineOf]]:
        """Part what goes on a product into its filling and its topping."""
        if product is None:
            return [], []
        lines = self._filling_of(product.name)
        inside = {line.material for line in product.filling}
        return (
            [n for n in lines if n.material in inside],
            [n for n in lines if n.material not in inside],
        )

    def _wash(self, key: str, made: Made, said: str, topping: list[LineOf]) -> None:
        making = self.making
        finish = shared(making.of(Part.FINISH), made.pieces / self.all if self.all else 0.0)
        more = [self.weighed["finish"]] if finish else []
        if topping:
            more.append(self.weighed[key])
        finish = (*finish, *topping)
        if not finish and not said:
            return
        groups = making.groups_of(list(finish))
        strewn = not said and all(making.pantry[n.material].composition.water < DRY for n in finish)
        cautions = [words.RAW_EGG] if "egg" in groups or "egg" in said.lower() else []
        if self._says(SUGAR, said, finish):
            cautions.append(words.HOT_SUGAR)
        if self._says(FRY, said):
            cautions.append(words.FRYING)
        self._step(
            "wash",
            key,
            more_after=more,
            pieces=made.pieces,
            lines=finish,
            words=_capital(said) if said else "Top" if strewn else words.DONE["wash"],
            **({"sign": words.TOPPED} if strewn else {}),
            cautions=tuple(cautions),
        )

    def _fill_cautions(self, lines: Sequence[LineOf]) -> tuple[str, ...]:
        groups = self.making.groups_of(list(lines))
        found = [words.FILLED_COLD]
        if "egg" in groups:
            found.append(words.RAW_EGG)
        if self._says(MEAT, "", lines):
            found.append(words.RAW_MEAT)
        return tuple(found)

    def _on_trays(self, key: str, made: Made) -> str:
        plan, making = self.making.study.plan, self.making
        trays = next((t for t in self.trays if t.product == made.name), None)
        rest = making.rest("shaped", plan.shaped_rest, usual_min=usual.USUAL_SHAPED_MIN)
        if trays is not None and not trays.a_tray:
            making.trouble.append(
                f"No {made.name or 'piece'} fits on a tray of this house: set pieces a tray."
            )
        told = f"Set on {trays.trays} trays" if trays and trays.trays > 1 else "Set on its tray"
        return self.gather.add(
            "tray",
            key,
            after=self.after,
            pieces=made.pieces,
            rest=rest,
            gives=(PiecesOf(made.name, made.pieces),),
            words=told,
        )

    def oven(self, tray_steps: list[str]) -> tuple[LoadOf, ...]:
        """Heat, bake load by load, cool, pack."""
        making, gather = self.making, self.gather
        loads = loads_of_batch(making.study.formula, self.on_trays, making.house)
        step_of = {m.name: at for (_, _, m), at in zip(self.made, tray_steps, strict=True)}
        per_tray = {t.product: t.tray_g for t in self.trays}
        outs = add_loads(gather, loads, making.house.all_ovens, step_of, per_tray)
        if outs:
            gather.unit("baked", "pieces", 0.0)
            rest = RestAfter("room", usual.RACK_MIN, usual.RACK_MOST_MIN)
            gather.add("cool", "baked", after=outs, rest=rest)
            gather.add("pack", "baked", pieces=self.all, cautions=(words.PACK_COLD,))
        return loads


WASHES = ("egg", "milk", "wash", "sugar", "glaze", "brush", "syrup", "butter", "sprinkle", "water")


def _says_wash(text: str) -> bool:
    """Tell whether what is done at the end is a wash, not a shape."""
    return any(word in text.lower() for word in WASHES)


def _capital(text: str) -> str:
    return f"{text[:1].upper()}{text[1:]}"


def _fill_words(way: MakeUp) -> str:
    return {
        "folded": "Fill, wet the edge, fold over, seal, cut the vents",
        "log": "Spread the filling to near the edge",
        "lining": "Fill",
        "border": "Fill inside the border",
    }.get(way, "Fill")
