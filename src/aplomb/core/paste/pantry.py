"""The pantry: materials by key with their prices, found by any of their names."""

import math
import re
from collections.abc import Iterable, Iterator, Mapping
from functools import cached_property

from msgspec import Struct

from aplomb.core.base.composition import mixed
from aplomb.core.base.errors import AplombError, FormulaError, Problems
from aplomb.core.base.figures import num
from aplomb.core.base.quantity import LARGEST_G
from aplomb.core.base.sound import check_sound
from aplomb.core.paste.fat_profile import profile
from aplomb.core.paste.ingredient import Ingredient, Share, Standing, check_material


class Pack(Struct, frozen=True, forbid_unknown_fields=True):
    """What a pack of a material costs.

    Attributes
    ----------
    pack_g : float
        Mass of the pack [g], above 0.
    price : float
        Price of the pack, in the book's currency.
    date : str
        Day of the price, ISO 8601; empty when it is not known.
    """

    pack_g: float
    price: float
    date: str = ""
    supplier: str = ""


class Item(Struct, frozen=True, forbid_unknown_fields=True):
    """What a book holds on one material.

    Attributes
    ----------
    material : Ingredient or None
        An own material, or the own version of a supplied one; None: as supplied.
    pack : Pack or None
        Its price; None when it is not known.
    """

    key: str
    material: Ingredient | None = None
    pack: Pack | None = None


def check_item(item: Item) -> Item:
    """Give the item back if every figure in it can be used; raises FormulaError otherwise.

    Raises
    ------
    FormulaError
        With the reason in words.
    """
    wrong = Problems()
    pack = item.pack
    if pack is not None:
        wrong.number("pack", pack.pack_g, 0.01, LARGEST_G, "g")
        wrong.number("price", pack.price, 0, 10_000_000, "")
        if pack.date and not re.fullmatch(r"\d{4}-[01]\d-[0-3]\d", pack.date):
            wrong.add(f"price date: “{pack.date}” cannot be read; write it as 2026-11-23.")
    if item.material is not None:
        try:
            check_material(item.material)
        except FormulaError as error:
            wrong.told += error.problems
    check_sound(item, wrong)
    wrong.check()
    return item


_Entry = tuple[str, str, str]
"""What is searched of a material, its name, both folded; and its key."""


class Pantry:
    """Materials by key; immutable once made.

    Parameters
    ----------
    materials : iterable of Ingredient
        As supplied. Later ones replace earlier ones of the same key.
    items : iterable of Item
        What a book holds: own materials, own versions of supplied ones, prices.
    """

    def __init__(self, materials: Iterable[Ingredient], items: Iterable[Item] = ()) -> None:
        self.supplied: Mapping[str, Ingredient] = {m.key: m for m in materials}
        self.items: Mapping[str, Item] = {item.key: item for item in items}
        self._by_key = dict(self.supplied)
        for item in self.items.values():
            if item.material is not None:
                self._by_key[item.key] = item.material
        self._narrowed: tuple[str, list[_Entry]] | None = None

    @cached_property
    def _entries(self) -> "list[_Entry]":
        """Texts to search, names and keys, short names first; made when first wanted."""
        entries = [
            (f"{m.name} {m.also} {m.group}".casefold(), m.name.casefold(), key)
            for key, m in self._by_key.items()
        ]
        entries.sort(key=lambda entry: (len(entry[1]), entry[1]))
        return entries

    @cached_property
    def _called(self) -> dict[str, tuple[str, ...]]:
        """Keys by every whole name and by-name, in lower case."""
        made: dict[str, tuple[str, ...]] = {}
        for key, material in self._by_key.items():
            for name in (material.name, *material.also.split(", ")):
                folded = name.casefold().strip()
                if folded:
                    made[folded] = (*made.get(folded, ()), key)
        return made

    def holding(self, items: Iterable[Item]) -> "Pantry":
        """Give this pantry, as supplied, with what a book holds."""
        return Pantry(self.supplied.values(), items)

    def __iter__(self) -> Iterator[Ingredient]:
        return iter(self._by_key.values())

    def __len__(self) -> int:
        return len(self._by_key)

    def __contains__(self, key: str) -> bool:
        return key in self._by_key

    def __getitem__(self, key: str) -> Ingredient:
        try:
            return self._by_key[key]
        except KeyError:
            raise AplombError(f"the pantry has no ingredient “{key}”") from None

    @cached_property
    def own_fats(self) -> tuple[str, ...]:
        """Keys of the book's own fats, looked for once."""
        materials = (item.material for item in self.items.values())
        return tuple(m.key for m in materials if m is not None and m.is_fat)

    def is_own(self, key: str) -> bool:
        """Tell whether the book made this material, or changed the supplied one."""
        item = self.items.get(key)
        return item is not None and item.material is not None

    def pack(self, key: str) -> Pack | None:
        """Give the pack and price of a material; None when it is not known."""
        item = self.items.get(key)
        return item.pack if item else None

    def per_gram(self, key: str, _depth: int = 0) -> float | None:
        """Price of a gram; None when it is not known.

        A blend without a price of its own costs what its parts cost. Water costs nothing unless
        it is given a price.
        """
        pack = self.pack(key)
        if pack is not None:
            return pack.price / pack.pack_g
        if key == "water":
            return 0.0
        made_of = self._by_key[key].made_of if key in self._by_key and _depth < 5 else ()
        parts = [(s.share, self.per_gram(s.material, _depth + 1)) for s in made_of]
        if not parts or any(each is None for _, each in parts):
            return None
        return sum(share * each for share, each in parts if each is not None)

    def search(self, words: str) -> list[Ingredient]:
        """Find materials whose names hold every word, the closest first.

        What is called just so comes first: “butter” is butter, “flour” is plain flour. Then names
        that begin with the words, by their length.

        Parameters
        ----------
        words : str
            Any words, case does not matter.
        """
        folded = words.casefold()
        before = self._narrowed
        # what holds more letters is among what holds fewer
        found = before[1] if before and folded.startswith(before[0]) else self._entries
        for word in folded.split():
            found = [entry for entry in found if word in entry[0]]
        self._narrowed = (folded, found)
        start = " ".join(folded.split())
        called = {key for key in (self._called.get(start, ())) if key in self._by_key}
        named = [entry for entry in found if entry[2] in called]
        first = [e for e in found if e[1].startswith(start) and e[2] not in called]
        rest = [e for e in found if not e[1].startswith(start) and e[2] not in called]
        return [self._by_key[key] for _, _, key in (*named, *first, *rest)]

    def named(self, words: str) -> Ingredient:
        """Find the one material that is meant.

        Raises
        ------
        AplombError
            When none or several fit; the text names what there is.
        """
        folded = " ".join(words.casefold().replace("_", " ").split())
        for material in self if folded else ():
            known = (material.name, material.key.replace("_", " "), *material.also.split(", "))
            if folded in (name.casefold() for name in known):
                return material
        found = self.search(words) if folded else []
        if len(found) == 1:
            return found[0]
        if not found:
            some = ", ".join(m.name for m in list(self)[:6])
            raise AplombError(
                f"the pantry has no “{words}”; it has {some} and {len(self) - 6} more"
            )
        names = ", ".join(m.name for m in found[:8])
        raise AplombError(f"“{words}” could be {names}; say which")

    def free_key(self, name: str) -> str:
        """Make a key of a name that no material has yet."""
        base = re.sub(r"[^a-z0-9]+", "_", name.casefold()).strip("_")[:60] or "material"
        key, number = base, 2
        while key in self:
            key, number = f"{base}_{number}", number + 1
        return key


MOST_IN_A_BLEND = 4


def blend(name: str, key: str, shares: tuple[Share, ...], pantry: Pantry) -> Ingredient:
    """Make a material of up to four others.

    Composition, solid fat and working range are the mass- or fat-weighted means of the parts,
    an approximation: mixed fats may come out softer. Allergens are those of all parts.

    Parameters
    ----------
    shares : tuple of Share
        Adding to 1 [g/g].
    pantry : Pantry
        Holding the parts.

    Raises
    ------
    AplombError
        For a blend of nothing, of more than four, with a share outside 0 to 1, shares that do not
        add to 1, parts of different kinds, or one that holds itself.

    Notes
    -----
    Composition: Σ sᵢ cᵢ. Solid fat: Σ sᵢ fᵢ SFCᵢ(T) / Σ sᵢ fᵢ, with fᵢ the fat of each; eutectic
    mixtures come out softer than this.
    """
    there = tuple(s for s in shares if s.share != 0)
    if not there:
        raise AplombError("give at least one share above 0 %")
    if len(there) > MOST_IN_A_BLEND:
        raise AplombError(f"a blend of {len(there)} is too many; up to {MOST_IN_A_BLEND} fit")
    for share in there:
        if not math.isfinite(share.share) or not 0 < share.share <= 1:
            raise AplombError(f"a share is 0 to 100 %, not {num(100 * share.share, '.6g')} %")
        _no_circle(share.material, key, pantry, name)
    total = sum(share.share for share in there)
    if abs(total - 1) > 1e-6:
        raise AplombError(
            f"the shares add up to {num(100 * total, '.4g')} %; they must add up to 100 %"
        )
    parts = [(share.share, pantry[share.material]) for share in there]
    kinds = {"flour" if m.is_flour else m.group for _, m in parts}
    if len(kinds) > 1 and kinds - {"flour", "binder"}:
        named = " and ".join(sorted(kinds))
        raise AplombError(f"blend one kind of ingredient only, not {named}")
    standings = {m.standing for _, m in parts}
    standing: Standing = standings.pop() if len(standings) == 1 else "memory"
    fat = profile([(share, m) for share, m in parts if m.is_fat])
    bulks = [(share, m.bulk_g_ml) for share, m in parts]
    volume = sum(share / bulk for share, bulk in bulks if bulk)
    return Ingredient(
        key=key,
        name=name,
        group="fat" if kinds == {"fat"} else "flour" if "flour" in kinds else parts[0][1].group,
        composition=mixed([(share, m.composition) for share, m in parts]),
        standing=standing,
        source="blended: "
        + ", ".join(f"{num(100 * s, '.4g')} % {m.name.lower()}" for s, m in parts),
        allergens=tuple(sorted({a for _, m in parts for a in m.allergens})),
        bulk_g_ml=1 / volume if all(bulk for _, bulk in bulks) else None,
        bulk_spread=max(m.bulk_spread for _, m in parts),
        enclose_c=fat.enclose_c if fat else None,
        sfc=fat.sfc if fat else (),
        latent_kj_kg=fat.latent_kj_kg if fat else None,
        made_of=there,
    )


def _no_circle(part: str, whole: str, pantry: Pantry, name: str, depth: int = 0) -> None:
    if part == whole or depth > 8:
        raise AplombError(f"{name} cannot be made of itself; remove it from the blend")
    for share in pantry[part].made_of:
        _no_circle(share.material, whole, pantry, name, depth + 1)
