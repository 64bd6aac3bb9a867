"""The pantry: materials by key, found by any of their names."""

from collections.abc import Iterable, Iterator

from aplomb.core.errors import AplombError
from aplomb.core.paste.ingredient import Ingredient


class Pantry:
    """Materials by key; immutable once made.

    Parameters
    ----------
    materials : iterable of Ingredient
        Later ones replace earlier ones of the same key.
    """

    def __init__(self, materials: Iterable[Ingredient]) -> None:
        self._by_key = {material.key: material for material in materials}
        self._folded = {
            key: f"{m.name} {m.also} {m.group}".casefold() for key, m in self._by_key.items()
        }

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
            raise AplombError(f"the pantry has no material “{key}”") from None

    def search(self, words: str) -> list[Ingredient]:
        """Find materials whose names hold every word, the closest first.

        Parameters
        ----------
        words : str
            Any words, case does not matter.

        Returns
        -------
        list of Ingredient
            Names that begin with the words first, then by length of name.
        """
        wanted = words.casefold().split()
        found = [
            self._by_key[key]
            for key, text in self._folded.items()
            if all(word in text for word in wanted)
        ]
        start = " ".join(wanted)
        return sorted(
            found, key=lambda m: (not m.name.casefold().startswith(start), len(m.name), m.name)
        )

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
