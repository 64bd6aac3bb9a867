"""What the parts of a make are put together from: the study, its lines, its rests."""

from aplomb.core.base.house import House
from aplomb.core.batch.mixes import parted
from aplomb.core.folds.step import Step, Way
from aplomb.core.make import minutes as usual
from aplomb.core.make.gathering import Gathering
from aplomb.core.make.goal import Goal
from aplomb.core.make.step import LineOf, MakeLine, RestAfter
from aplomb.core.paste.formula import Part
from aplomb.core.paste.pantry import Pantry
from aplomb.core.study.cold import RestResult, rest_of, rest_place
from aplomb.core.study.study import Study

COLD = ("fridge", "freezer", "blast")


class Making:
    """A make while it is put together.

    Attributes
    ----------
    mix_shares : tuple of float
        What each mix makes over the whole [-].
    trouble : list of str
        What cannot be, in words.
    """

    def __init__(
        self,
        study: Study,
        pantry: Pantry,
        house: House,
        goal: Goal,
        lines: tuple[MakeLine, ...],
        rests: tuple[RestResult, ...],
        gather: Gathering,
    ) -> None:
        self.study, self.pantry, self.house, self.goal = study, pantry, house, goal
        self.lines, self._rests, self.gather = lines, rests, gather
        self.trouble: list[str] = []
        scaled = study.scaled
        each = [group.each_g for group in scaled.block_groups]
        whole = sum(each)
        self.block_shares = tuple(g / whole for g in each) if whole > 0 else ()
        """Each block of new paste over all of it [-]."""
        mixes = scaled.mixes if each else ()
        self.mix_shares = parted(self.block_shares, mixes)
        self.mix_of: list[int] = [m for m, many in enumerate(mixes) for _ in range(many)]
        """Which mix each block is of, from 0."""
        self._filled = {m.name: m.filled_g for m in (*scaled.made, *scaled.from_offcuts)}

    def of(self, *parts: Part, product: str | None = None) -> list[LineOf]:
        """Give the lines of some parts, exact; of a product, or with None of the formula."""
        wanted = product or ""
        return [
            LineOf(n.part, n.material, n.product, n.grams)
            for n in self.lines
            if n.part in parts and n.product == wanted
        ]

    def weighed(self, *parts: Part, product: str | None = None) -> tuple[LineOf, ...]:
        """Give what the scale shall show for the lines of some parts."""
        wanted = product or ""
        return tuple(
            LineOf(n.part, n.material, n.product, n.weigh_g)
            for n in self.lines
            if n.part in parts and n.product == wanted
        )

    def weighed_for(self, mix: int, *parts: Part) -> tuple[LineOf, ...]:
        """Give what the scale shall show for one mix."""
        return tuple(
            LineOf(w.part, w.line.material, "", w.by_mix[mix] if w.by_mix else w.weigh_g)
            for w in self.study.scaled.lines
            if w.part in parts and w.exact_g > 0
        )

    def piece_g(self, product: str) -> float:
        """One raw piece of a product with all that is on it [g]."""
        return self._filled.get(product, 0.0)

    def groups_of(self, lines: list[LineOf]) -> set[str]:
        """Give the groups of the materials of some lines."""
        return {self.pantry[n.material].group for n in lines if n.material in self.pantry}

    @property
    def cold_known(self) -> bool:
        """True when the cold was calculated."""
        return bool(self._rests)

    def found(self, which: str, at: int = -1) -> RestResult | None:
        """Give what the cold says of a rest; None when it says nothing."""
        return rest_of(self._rests, which, at)

    def rest(
        self, which: str, step: Step | None, at: int = -1, usual_min: float = 0.0
    ) -> RestAfter:
        """Give a rest as the cold has it, as it is written, or as it is usual.

        Parameters
        ----------
        which : {'dough', 'fat', 'paste', 'shaped'}
            What rests.
        step : Step or None
            As written.
        at : int
            Its place among the plan's steps.
        usual_min : float
            Its least where nothing says it [min].
        """
        found = self.found(which, at)
        if found is not None:
            return self._rest(found.rest.place.kind, found.least_min, found.most_min, known=True)
        written = step or Step(Way.REST)
        place = rest_place(written, self.house).kind
        least = written.rest_min if written.rest_min is not None else usual_min
        most = written.most_min or max(usual.USUAL_MOST_MIN, least + usual.WRITTEN_REST_MIN)
        return self._rest(place, least, most, known=written.rest_min is not None)

    @staticmethod
    def _rest(place: str, least: float, most: float, *, known: bool) -> RestAfter:
        stand = usual.STAND_MIN if place in COLD else 0.0
        return RestAfter(place, least, max(least, most), stand, known)
