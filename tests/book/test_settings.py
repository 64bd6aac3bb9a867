"""Settings survive, and broken ones count as not set."""

import pytest

from aplomb.book.paths import demo_book, home, own_book, settings_file
from aplomb.book.settings import Settings, keep, load


def test_kept_settings_come_back():
    keep(Settings(theme="dark", text_pct=150))
    assert load() == Settings(theme="dark", text_pct=150)


@pytest.mark.parametrize("text", ["", "{", '{"theme": "pink"}', '{"text_pct": 5000}', "[]"])
def test_broken_settings_count_as_not_set(text):
    settings_file().parent.mkdir(parents=True, exist_ok=True)
    settings_file().write_text(text)
    assert load() == Settings()


def test_settings_that_cannot_be_kept_do_no_harm(tmp_path):
    blocked = tmp_path / "file"
    blocked.write_text("x")
    keep(Settings(), blocked / "settings.json")


def test_paths_follow_the_environment(monkeypatch, tmp_path):
    monkeypatch.setenv("APLOMB_HOME", str(tmp_path))
    assert own_book().parent == demo_book().parent == tmp_path
    monkeypatch.delenv("APLOMB_HOME")
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path / "data"))
    assert home() == tmp_path / "data" / "aplomb"
    assert own_book() != demo_book()
