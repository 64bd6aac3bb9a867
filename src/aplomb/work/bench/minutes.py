"""Minutes for the blocks of a run: how long back in the cold, how long on the bench."""

from aplomb.core.base.house import House
from aplomb.core.base.places import Place
from aplomb.core.bench.acts import What
from aplomb.core.bench.asking import RELAX_MIN, Then
from aplomb.core.bench.plan import RunPlan, Task
from aplomb.core.bench.times import USUAL_BACK_MIN, USUAL_STAND_MIN, back_min, stand_min
from aplomb.core.cold.course import Course
from aplomb.core.folds.plan import Enclosure, Plan
from aplomb.core.paste.bodies import Bodies, bodies_of
from aplomb.core.paste.pantry import Pantry

BLOCK_MM = 30.0
"""A block where nothing is known of it [mm]."""


class BlockTimes:
    """Works minutes out for the blocks of a run, with the house as it is now.

    Attributes
    ----------
    probe_c : dict of float, by track
        What a probe in a block says now [°C]; it counts for more than what the thumb suggests.
    """

    def __init__(self, plan: RunPlan, pantry: Pantry, house: House | None = None) -> None:
        self._plan = plan
        self.house = house or House()
        self.probe_c: dict[str, float] = {}
        self.bodies: dict[str, Bodies] = {}
        self.plans: dict[str, Plan] = {}
        for uid, formula in plan.formulas.items():
            known = all(key in pantry for key in formula.materials())
            self.bodies[uid] = (
                bodies_of(formula, pantry) if known else Bodies(None, None, None, None)
            )
            self.plans[uid] = formula.plan

    def in_pieces(self, track: str) -> bool:
        """Whether the fat of a track's paste is in pieces."""
        return self.plans[self._plan.track(track).uid].enclosure is Enclosure.PIECES

    def range_c(self, track: str) -> tuple[float, float] | None:
        """Where a track's fat is rolled [°C]; None when that is not known."""
        return self.bodies[self._plan.track(track).uid].range_c

    def thickness_mm(self, task: Task) -> float:
        """How thick the block lies before a task [mm]: as it was folded."""
        tasks = self._plan.tasks_of(task.track)
        high = BLOCK_MM
        for each in tasks:
            if each.key == task.key:
                break
            if each.sheet is not None and each.kind == "turn":
                step = self.plans[self._plan.track(task.track).uid].steps[each.step]
                high = each.sheet.thickness_mm * max(1, step.panels)
        return round(min(max(high, 1.0), 300.0), 1)

    def spoon_g(self, what: What) -> float:
        """What a spoon of something weighs [g]."""
        house = self.house
        return {
            "water": house.water_spoon_g,
            "flour": house.flour_spoon_g,
            "dust": house.dust_spoon_g,
            "brushed": house.dust_spoon_g,
        }[what]

    def cold_place(self, task: Task) -> Place | None:
        """Where a block goes back to: the place of the rest before the task, or the fridge."""
        by_key = self._plan.by_key
        words = [by_key[key].place for key in task.after if by_key[key].to_cold]
        found = self.house.place(words[-1]) if words else None
        return found or self.house.place("fridge")

    def bench_place(self) -> Place | None:
        """The bench."""
        return next((p for p in self.house.places if p.kind == "room"), None)

    def hold(
        self, task: Task, then: Then, warm_k: float, least: float = 0.0, most: float = 0.0
    ) -> tuple[float, str]:
        """Work out for how long a block is held, and where.

        Parameters
        ----------
        warm_k : float
            So far it lies beyond its range, where no probe says better [K].
        least, most : float
            Between which it is held whatever is worked out [min]; 0 for no bound.

        Returns
        -------
        tuple of (minutes, place)
            [min].
        """
        found = self.bodies[self._plan.track(task.track).uid]
        place = self.bench_place() if then == "stand" else self.cold_place(task)
        name = place.name.lower() if place else ("bench" if then == "stand" else "fridge")
        if then == "rest":
            return max(RELAX_MIN, least), name
        minutes = USUAL_STAND_MIN if then == "stand" else USUAL_BACK_MIN
        if place is not None and found.paste is not None and found.range_c is not None:
            low, high = found.range_c
            thick = self.thickness_mm(task)
            temp = self.probe_c.get(task.track)
            if then == "stand":
                temp = low + (warm_k or -2.0) if temp is None else temp
                minutes = stand_min(found.paste, thick, round(temp, 1), place, self.house, low)
            else:
                temp = high + (warm_k or 2.0) if temp is None else temp
                minutes = back_min(found.paste, thick, round(temp, 1), place, self.house, low, high)
        minutes = max(minutes, least)
        return (min(minutes, most) if most else minutes), name

    def course(self, task: Task, temp_c: float, minutes: float) -> Course | None:
        """Work out how the block of a task cools in the place it rests in; None without one."""
        from aplomb.core.bench.times import predicted

        found = self.bodies[self._plan.track(task.track).uid]
        by_key = self._plan.by_key
        words = [by_key[key].place for key in task.after if by_key[key].place]
        place = self.house.place(words[-1]) if words else None
        if found.paste is None or place is None:
            return None
        return predicted(
            found.paste, self.thickness_mm(task), round(temp_c, 1), place, self.house, minutes
        )
