"""What is typed about a material, made a change of the pantry."""

from typing import Any

from msgspec.structs import replace

from aplomb.core.base.composition import Composition
from aplomb.core.base.errors import AmountError
from aplomb.core.base.figures import decimal_sign, num
from aplomb.core.base.quantity import parse_amount, parse_percent
from aplomb.core.base.texts import free_name
from aplomb.core.paste.ingredient import ALLERGENS, Ingredient, Share
from aplomb.core.paste.pantry import Item, Pack, blend
from aplomb.work.figures.local import read_price
from aplomb.work.figures.typed import read_mass, read_temp
from aplomb.work.open_book.workbench import Workbench

NOTHING = ("", "–")
"""What an empty cell holds."""
_FIGURES = {"composition", "sfc", "enclose_c", "bulk_g_ml", "bulk_spread"}


class PantryEdits:
    """Edits of one material after another; each raises AplombError when it cannot be used.

    Attributes
    ----------
    key : str
        Of the material in hand.
    """

    def __init__(self, work: Workbench) -> None:
        self._work = work
        self.key = ""

    @property
    def material(self) -> Ingredient:
        """The material in hand."""
        return self._work.shelf.reference.pantry[self.key]

    def change(self, words: str, **changes: Any) -> None:
        """Make the material the user's with other figures; a blend's figures are then its own."""
        old = self.material
        if _FIGURES & set(changes):
            changes |= {"standing": "own", "source": "your own figures", "made_of": ()}
        new = replace(old, **changes)
        if new != old:
            pack = self._work.shelf.reference.pantry.pack(new.key)
            self._work.store.put_items(f"{words} of {new.name.lower()}", [Item(new.key, new, pack)])

    def name(self, text: str) -> None:
        """Take a name; two materials cannot have one."""
        name = " ".join(text.split())
        pantry = self._work.shelf.reference.pantry
        others = {m.name.casefold() for m in pantry if m.key != self.key}
        if name.casefold() in others:
            raise AmountError("another ingredient already has this name", text, 0, len(text))
        self.change("name", name=name)

    def allergens(self, text: str) -> None:
        """Take a list of allergens."""
        found = [" ".join(w.casefold().split()) for w in text.replace(";", ",").split(",")]
        found = [word for word in found if word not in (*NOTHING, "none")]
        wrong = [word for word in found if word not in ALLERGENS]
        if wrong:
            raise AmountError(
                f"“{wrong[0]}” must be one of {', '.join(ALLERGENS)}", text, 0, len(text)
            )
        self.change("allergens", allergens=tuple(dict.fromkeys(found)))

    def part(self, key: str, words: str, text: str) -> None:
        """Take a share of the composition in per cent."""
        value = _percent(text)
        if value > 100:
            raise AmountError("a share can be 100 % at most", text, 0, len(text))
        made: Composition = replace(self.material.composition, **{key: value / 100})
        changes: dict[str, Any] = {"composition": made}
        if key == "acid" and value and not self.material.acid_kind:
            changes["acid_kind"] = "acetic"
        self.change(words.lower(), **changes)

    def bulk(self, text: str) -> None:
        """Take the weight of a measure in grams per millilitre."""
        amount = None if text.strip() in NOTHING else parse_amount(text, decimal_sign())
        if amount is not None and not amount.bare:
            raise AmountError(f"enter grams per millilitre, e.g. {num(0.53)}", text, 0, len(text))
        self.change("weight per millilitre", bulk_g_ml=amount.value if amount else None)

    def spread(self, text: str) -> None:
        """Take how much a measure of it varies, in per cent."""
        self.change("spread", bulk_spread=_percent(text) / 100)

    def solid(self, temp: int, text: str) -> None:
        """Take the solid fat at a temperature [°C], in per cent; nothing for unknown."""
        solid = dict(self.material.sfc)
        solid.pop(temp, None)
        if text.strip() not in NOTHING:
            solid[float(temp)] = parse_percent(text, decimal_sign())
        self.change(f"solid fat at {temp} °C", sfc=tuple(sorted(solid.items())))

    def enclose(self, end: int, text: str) -> None:
        """Take an end of the working range, 0 for its low one; nothing for no range."""
        if text.strip() in NOTHING:
            self.change("working range", enclose_c=None)
            return
        value = read_temp(text)
        low, high = self.material.enclose_c or (
            (value, value + 4) if end == 0 else (value - 4, value)
        )
        self.change("working range", enclose_c=(value, high) if end == 0 else (low, value))

    def price(self, key: str, text: str) -> None:
        """Take pack, price, date or supplier; no pack or no price is no price."""
        reference = self._work.shelf.reference
        name = self.material.name.lower()
        if not text.strip() and key in ("pack", "price"):
            self._work.store.price(f"no price for {name}", self.key, None)
            return
        new = reference.pantry.pack(self.key) or Pack(1000.0, 0.0, reference.today)
        if key == "pack":
            new = replace(new, pack_g=read_mass(text))
        elif key == "price":
            price = read_price(text, reference.house.currency)
            new = replace(new, price=price, date=reference.today)
        elif key == "date":
            new = replace(new, date=text.strip())
        else:
            new = replace(new, supplier=text.strip()[:80])
        self._work.store.price(f"price of {name}", self.key, new)

    def new(self) -> str:
        """Put an empty material into the pantry; gives its key."""
        return self._add(
            Ingredient(
                "",
                self._free_name("New ingredient"),
                "other",
                Composition(),
                "own",
                "your own figures",
            ),
            None,
        )

    def copy(self) -> str:
        """Put a copy of the material in hand into the pantry, with its price; gives its key."""
        pack = self._work.shelf.reference.pantry.pack(self.key)
        name = self._free_name(f"{self.material.name[:66]} (own)")
        return self._add(replace(self.material, name=name), pack)

    def blended(self, keys: list[str]) -> str:
        """Put a blend of materials into the pantry, in equal shares; gives its key."""
        pantry = self._work.shelf.reference.pantry
        shares = tuple(Share(key, 1 / len(keys)) for key in keys)
        name = self._free_name(f"Blend with {pantry[keys[0]].name.lower()[:60]}")
        return self._add(blend(name, "", shares, pantry), None)

    def put_back(self) -> None:
        """Take what is supplied again; what is not supplied goes, unless a formula needs it."""
        pantry = self._work.shelf.reference.pantry
        supplied = self.key in pantry.supplied
        pack = pantry.pack(self.key) if supplied else None
        words = "restore supplied figures" if supplied else "remove"
        self._work.store.put_items(
            f"{words}: {self.material.name.lower()}", [Item(self.key, None, pack)]
        )

    def _free_name(self, name: str) -> str:
        return free_name(name, {m.name for m in self._work.shelf.reference.pantry})

    def _add(self, material: Ingredient, pack: Pack | None) -> str:
        key = self._work.shelf.reference.pantry.free_key(material.name)
        self._work.store.put_items(
            f"new ingredient {material.name.lower()}", [Item(key, replace(material, key=key), pack)]
        )
        return key


def _percent(text: str) -> float:
    return 0.0 if text.strip() in NOTHING else parse_percent(text, decimal_sign())
