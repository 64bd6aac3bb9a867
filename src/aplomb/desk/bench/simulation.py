"""Stand-ins for the blocks and the oven of a run, on the run's own clock."""

from aplomb.core.cold.course import Air, Body
from aplomb.core.cold.material import Constant
from aplomb.core.cold.stay import faces
from aplomb.devices.simulated import CoolingBlock, SimulatedOven, SimulatedProbe
from aplomb.work.bench.run import LiveRun, place_of

USUAL = Constant(1150.0, 0.4, 2.6)
"""A block of which nothing is known [kg/m³, W/(m·K), kJ/(kg·K)]."""
BLOCK_MM = 32.0


class Simulation:
    """Blocks that follow the run through bench and cold."""

    def __init__(self, run: LiveRun) -> None:
        self._run = run
        self.blocks: dict[str, CoolingBlock] = {}
        self._where: dict[str, str] = {}
        self.made_oven: SimulatedOven | None = None

    def probe(self, name: str) -> SimulatedProbe:
        """Make a simulated probe that stands in the block it is attached to."""
        return SimulatedProbe(block=self._block(name), name=name)

    def oven(self) -> SimulatedOven:
        """Make a simulated oven."""
        self.made_oven = SimulatedOven(lambda: self._run.now_s, self._run.times.house.shop_c)
        return self.made_oven

    def _block(self, name: str) -> CoolingBlock:
        if name not in self.blocks:
            run = self._run
            track = run.state.probes.get(name) or next(
                (t.key for t in run.plan.tracks if t.block and name.endswith(t.key)), ""
            )
            material = run.times.bodies[run.plan.track(track).uid].paste if track else None
            warm = run.times.range_c(track) if track else None
            self.blocks[name] = CoolingBlock(
                Body(material or USUAL, BLOCK_MM),
                (warm[1] + 2.0) if warm else 18.0,
                lambda: run.now_s,
                seed=len(self.blocks) + 1,
            )
            self._put(name, place_of(self._run, track))
        return self.blocks[name]

    def follow(self) -> None:
        """Put every block where it lies now."""
        for name in self.blocks:
            word = place_of(self._run, self._run.state.probes.get(name, ""))
            if word != self._where.get(name):
                self._put(name, word)

    def _put(self, name: str, word: str) -> None:
        house = self._run.times.house
        place = house.place(word) if word else self._run.times.bench_place()
        self._where[name] = word
        if place is None:
            self.blocks[name].put_into(Air(house.shop_c, 8.0), Air(house.shop_c, 6.5))
            return
        above, below = faces(place, house)
        self.blocks[name].put_into(above, below)
