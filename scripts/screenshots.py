"""Retake the pictures in docs/screenshots from the demo book, offscreen.

``python scripts/screenshots.py [FOLDER] [--text PCT] [--size WxH] [--theme NAME] [--inches]``
takes the main
views; with another folder and other settings it serves for looking.
"""

import argparse
import os
import sys
import tempfile
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ["APLOMB_HOME"] = tempfile.mkdtemp(prefix="aplomb-shots-")
sys.path.insert(0, str(ROOT / "src"))

from msgspec.structs import replace  # noqa: E402
from PySide6.QtCore import QEventLoop, QPointF, QTimer  # noqa: E402
from PySide6.QtGui import QImage  # noqa: E402

from aplomb.book.settings import Settings, keep  # noqa: E402
from aplomb.core.paste.formula import Part  # noqa: E402
from aplomb.desk.app import make_application, open_window  # noqa: E402
from aplomb.desk.shell.window import Window  # noqa: E402
from aplomb.work.commands import BATCH, DAY, FOLDS, OVEN, PASTE, SHELF, TRIALS  # noqa: E402

sys.path.insert(0, str(ROOT / "scripts"))
from bench_pictures import take_bench  # noqa: E402

VIEWS = (
    ("shelf", SHELF, 0),
    ("paste", PASTE, 0),
    ("folds", FOLDS, 0),
    ("batch", BATCH, 0),
    ("day", DAY, 0),
    ("oven", OVEN, 0),
    ("trials", TRIALS, 0),
)
PLACES = (
    ("fats", "fats", 0),
    ("plans", "plans", 0),
    ("inside", "inside", 4),
    ("cold", "cold", 0),
    ("cut", "cut", 0),
    ("weigh", "weigh", 0),
    ("measure", "measure", 0), ("photograph", "picture", 0),
)  # fmt: skip
TO_LOOK_AT = (
    ("water", "water", 0), ("list", "list", 0), ("accounts", "accounts", 0), ("swap", "swap", 0),
    ("trays", "trays", 0), ("solve", "solve", 0), ("costs", "costs", 0),
    ("record", "run_log", 0), ("devices", "devices", 0),
    ("pantry", "pantry", 0), ("places", "places", 0), ("demand", "demand", 0),
    ("papers", "papers", 0), ("ovens", "ovens", 0), ("keeping", "keeping", 0),
    ("learned", "learned", 0), ("next-trial", "next_trial", 0), ("tasting", "tasting", 0),
    ("report", "report", 0),
)  # fmt: skip
"""Places that are taken into another folder only: the docs keep few pictures."""


HOME_LIST = """For the dough:
- 2 1/4 cups (280 g) all-purpose flour, sifted
- 1 tsp salt
- ½ cup iced water
- 1 tbsp cider vinegar
- 2 eggs
Butter block:
- 1 lb (500 g) salted butter
For dusting:
- 3 tbsp flour
"""


def prepare(window: Window, key: str) -> None:
    """Put something worth seeing into a place, as its user would."""
    page = window.pages[key]
    if key == "swap":
        page._choose("pastry_margarine")
    elif key == "fats":
        page._added("lard")
    elif key == "solve":
        page.rows[0].what.setCurrentIndex(page.rows[0].what.findData("fat_product_pct"))
        page.rows[0].value.show_value("75")
        page.take_value(0, "75")
    elif key == "list":
        page.text.setPlainText(HOME_LIST)
        page.read()
    elif key == "plans":
        page.claim.show_value("six turns")
        page._take_claim("six turns")
    elif key == "inside":
        page.slider.setValue(265)
    elif key == "pantry":
        page._show("butter")
    elif key == "picture":
        wait(800)
        page.view.set_line("length", QPointF(520, 770), QPointF(520, 152))
        page.view.set_line("leaves", QPointF(780, 157), QPointF(780, 762))
        page._count()
        while page.counting.busy:
            wait(50)
    elif key == "weigh":
        page.scale._put_grams(page.step.target_g - 340)


SLOW = (
    "solve",
    "inside",
    "cut",
    "weigh",
    "papers",
    "cold",
    "picture",
    "learned",
    "next_trial",
    "report",
)
"""Places in which something is worked out beside."""


def wait(ms: int) -> None:
    """Let the window live for a while; unlike Qt's own test wait this lets other threads work."""
    loop = QEventLoop()
    QTimer.singleShot(ms, loop.quit)
    loop.exec()


def take_place(window: Window, folder: Path, name: str, key: str, formula: int) -> None:
    """Take one picture of a place with one of the demo formulas, and undo what was put there."""
    window.session.shelf.select(list(window.session.shelf.entries)[formula])
    window.show_stage(PASTE)
    before = window.session.formula
    window.open_page(key, (Part.BLOCK, 0) if key == "swap" else None)
    prepare(window, key)
    wait(1500 if key in SLOW else 400)
    window.grab().save(str(folder / f"{name}.png"))
    print(name)
    if window.session.formula != before:
        window.session.journal.undo()
        window.said.hide()


def take(window: Window, folder: Path, name: str, stage: int, formula: int) -> None:
    """Take one picture of a stage with one of the demo formulas."""
    window.session.shelf.select(list(window.session.shelf.entries)[formula])
    window.show_stage(stage)
    if stage == FOLDS:
        window.folds.ribbon.pick(4)
    wait({FOLDS: 1500, DAY: 9000, OVEN: 1500, TRIALS: 1500}.get(stage, 400))
    window.grab().save(str(folder / f"{name}.png"))
    print(name)


def main() -> None:
    """Take the pictures."""
    ask = argparse.ArgumentParser(description=__doc__)
    ask.add_argument("folder", nargs="?", type=Path, default=ROOT / "docs" / "screenshots")
    ask.add_argument("--text", type=int, default=100)
    ask.add_argument("--size", default="1280x800")
    ask.add_argument("--theme", default="light")
    ask.add_argument("--only", default="")
    ask.add_argument("--inches", action="store_true", help="a house in oz, inches and °F")
    options = ask.parse_args()
    options.folder.mkdir(parents=True, exist_ok=True)
    app = make_application()
    keep(Settings(theme=options.theme, text_pct=options.text))
    window = open_window(None, demo=True)
    if options.inches:
        house = replace(window.session.reference.house, masses="oz", lengths="in", temps="°F")
        window.session.store.set_house("inches", house)
    wide, high = (int(n) for n in options.size.split("x"))
    window.resize(wide, high)
    window.show()
    window.activateWindow()
    for name, stage, formula in VIEWS:
        if options.only in name:
            take(window, options.folder, name, stage, formula)
    docs = options.folder == ROOT / "docs" / "screenshots"
    for name, key, formula in (*PLACES, *(() if docs else TO_LOOK_AT)):
        if options.only in name:
            take_place(window, options.folder, name, key, formula)
    take_bench(window, options.folder, lambda name: options.only in name)
    if docs and options.only in "card":
        _card(window, options.folder)
    window.close()
    del app


def _card(window: Window, folder: Path) -> None:
    import pypdfium2

    from aplomb.desk.paper.card import card_pdf

    window.session.shelf.select(next(iter(window.session.shelf.entries)))
    wait(1500)
    study = window.session.study
    assert study is not None
    page = pypdfium2.PdfDocument(card_pdf(study, window.session.reference.pantry))[0]
    pixels = page.render(scale=1.6).to_numpy()
    high, wide, _ = pixels.shape
    QImage(pixels.data, wide, high, pixels.strides[0], QImage.Format.Format_BGR888).save(
        str(folder / "card.png")
    )
    print("card")


if __name__ == "__main__":
    main()
