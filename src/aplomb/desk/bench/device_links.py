"""The devices of a run: what they say, in the window's own thread."""

import time

from PySide6.QtCore import QObject, Signal

from aplomb.book.settings import ProbeSetting
from aplomb.core.bench.acts import Attach
from aplomb.core.bench.readings import OVEN_AIR
from aplomb.desk.bench.simulation import Simulation
from aplomb.desk.kit.probe_link import OvenLink, ProbeLink
from aplomb.desk.kit.scale_link import ScaleLink
from aplomb.desk.session import Session
from aplomb.devices.protocol import Oven, Reading
from aplomb.devices.simulated import SimulatedOven
from aplomb.work.bench.run import LiveRun
from aplomb.work.bench.watch import Probes

SHOWN_S = 0.08
"""A weight that moves is shown anew after so long at the least [s]."""
MOST_SIMULATED = 4
"""Blocks that have a simulated probe in a rehearsal [-]."""


class DeviceLinks(QObject):
    """Listens to scale, oven and probes while a run is open.

    Attributes
    ----------
    grams : float or None
        What lies on the scale [g]; None while it says nothing.
    tare_g : float
        What lay on it when it was tared last [g].
    simulation : Simulation or None
        What stands in for blocks and oven.

    Signals
    -------
    weighed
        Another weight lies on the scale.
    """

    weighed = Signal()

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._run: LiveRun | None = None
        self._probes: Probes | None = None
        self.grams: float | None = None
        self._to_put_g: float | None = None
        self.steady = False
        self.tare_g = 0.0
        self.oven: Oven | None = None
        self.faults: dict[str, str] = {}
        self.simulation: Simulation | None = None
        self._shown_at = 0.0
        self.scale = ScaleLink(self)
        self.scale.weighed.connect(self._weighed)
        self.scale.failed.connect(lambda words: self._fault("scale", words))
        self.oven_link = OvenLink(self, self._made_oven)
        self.oven_link.read.connect(self._oven_said)
        self.oven_link.failed.connect(lambda words: self._fault("oven", words))
        self.links: dict[str, ProbeLink] = {}

    def follow(self, run: LiveRun, probes: Probes) -> None:
        """Listen for a run from now on."""
        self._run, self._probes = run, probes
        self.simulation = Simulation(run)
        self.listen()

    def stop(self) -> None:
        """Listen no more."""
        self.scale.stop()
        self.oven_link.stop()
        self._stop_probes()
        self._run = self._probes = self.simulation = None
        self.faults, self.grams, self._to_put_g, self.oven = {}, None, None, None

    def _stop_probes(self) -> None:
        for link in self.links.values():
            link.stop()
            link.deleteLater()
        self.links = {}

    def listen(self) -> None:
        """Listen to the devices that are set."""
        run, settings = self._run, self._session.settings
        if run is None:
            return
        self.scale.listen(settings.scale_port)
        self.oven_link.stop()
        if settings.oven_port or run.plan.quick != 1.0:
            self.oven_link.listen(settings.oven_port)
        self._stop_probes()
        for each in self.probe_settings():
            self._listen_to(run, each)

    def probe_settings(self) -> tuple[ProbeSetting, ...]:
        """Give the probes of the bench; in a rehearsal one for every block where none is set."""
        settings, run = self._session.settings.probes, self._run
        if settings or run is None or run.plan.quick == 1.0:
            return settings
        blocks = [track.key for track in run.plan.tracks if track.block]
        return tuple(ProbeSetting(f"probe {key}") for key in blocks[:MOST_SIMULATED])

    def _made_oven(self) -> SimulatedOven:
        return self.simulation.oven() if self.simulation is not None else SimulatedOven()

    def _listen_to(self, run: LiveRun, each: ProbeSetting) -> None:
        simulation = self.simulation
        assert simulation is not None
        link = ProbeLink(self, lambda: simulation.probe(each.name))
        link.read.connect(lambda reading: self._probe_said(each.name, reading))
        link.failed.connect(lambda words: self._fault(each.name, words))
        link.listen(each.port)
        self.links[each.name] = link
        if each.name not in run.state.probes:
            taken = {
                *run.state.probes.values(),
                *(a.act.track for a in run.waiting if isinstance(a.act, Attach)),
            }
            free = [t.key for t in run.plan.tracks if t.block and t.key not in taken]
            named = [key for key in free if each.name.endswith(key)]
            if named or free:
                run.press(Attach(each.name, (named or free)[0]))

    def _weighed(self, grams: float, steady: bool) -> None:
        self.faults.pop("scale", None)
        self.grams, self.steady = grams, steady
        if self._to_put_g is not None:
            self.put_on(self._to_put_g)
        if time.monotonic() - self._shown_at > SHOWN_S:
            self._shown_at = time.monotonic()
            self.weighed.emit()

    def _oven_said(self, oven: Oven) -> None:
        self.faults.pop("oven", None)
        self.oven = oven
        if self._probes is not None:
            self._probes.hear(OVEN_AIR, oven.temp_c)

    def _probe_said(self, name: str, reading: Reading) -> None:
        self.faults.pop(name, None)
        if self._probes is not None:
            self._probes.hear(name, reading.temp_c)

    def _fault(self, device: str, words: str) -> None:
        self.faults[device] = words

    def tare(self) -> None:
        """Take what lies on the scale as nothing: the next line is weighed upon it."""
        self.tare_g = self.grams or 0.0
        self.grams = self._to_put_g = None
        self.scale.tare()

    def put_on(self, wanted_g: float) -> None:
        """Let the simulated scale show so much [g]; put on too early, a tare would take it away."""
        scale = self.scale.simulated
        self._to_put_g = wanted_g if scale is not None and self.grams is None else None
        if scale is not None and self._to_put_g is None:
            scale.put_on(wanted_g - scale.shown_g)
