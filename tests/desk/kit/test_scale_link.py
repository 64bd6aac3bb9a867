"""The scale as the window sees it: what was weighed before it is tared is never taken for after."""

import os

from aplomb.desk.kit.scale_link import SIMULATED, ScaleLink
from aplomb.devices.simulated import SimulatedScale


class SlowToTare(SimulatedScale):
    """Goes on saying what lay on it for a while after it is told to tare."""

    confirms = True

    def _obey(self, line):
        if line == b"tare":
            for _ in range(40):
                os.write(self._master, self._line())
            if not self.confirms:
                self.tare()
                return
        super()._obey(line)


def listened_to(qtbot, monkeypatch, stand_in):
    monkeypatch.setattr(SimulatedScale, "every_s", 0.01)
    link = ScaleLink()
    link.make_stand_in = lambda: stand_in
    heard = []
    link.weighed.connect(lambda grams, _steady: heard.append(grams))
    link.listen(SIMULATED)
    link.simulated.put_on(500.0)
    qtbot.waitUntil(lambda: heard[-1:] == [500.0], timeout=30_000)
    heard.clear()
    link.tare()
    qtbot.waitUntil(lambda: bool(heard), timeout=30_000)
    link.stop()
    return heard


def test_what_a_slow_scale_says_before_it_is_tared_is_not_told(qtbot, monkeypatch):
    assert set(listened_to(qtbot, monkeypatch, SlowToTare())) == {0.0}


def test_a_scale_that_never_says_so_is_believed_again_after_a_while(qtbot, monkeypatch):
    monkeypatch.setattr("aplomb.desk.kit.scale_link.CONFIRMS_S", 0.5)
    silent = SlowToTare()
    silent.confirms = False
    assert set(listened_to(qtbot, monkeypatch, silent)) == {0.0}
