"""Colours, fonts and sizes, and the one style sheet made of them."""

from msgspec import Struct
from PySide6.QtCore import QObject, Signal
from PySide6.QtGui import QColor, QFont, QFontDatabase

from aplomb.assets import asset

TITLE, TEXT = "Fraunces", "Source Sans 3"
_FONTS = (
    "Fraunces_600SemiBold.ttf",
    "SourceSans3_400Regular.ttf",
    "SourceSans3_600SemiBold.ttf",
)


class Palette(Struct, frozen=True):
    """Colours by their role."""

    page: str
    card: str
    line: str
    text: str
    second: str
    third: str
    rail: str
    rail_text: str
    rail_idle: str
    action: str
    on_action: str
    picked: str
    cold: str
    cold_ground: str
    wrong: str
    look: str
    settled: str
    band: str
    handle: str
    dough: str = "#EAD9B6"
    dough_edge: str = "#CBB284"
    fat: str = "#F0C244"
    fat_edge: str = "#C99A1B"
    ink: str = "#262C33"


LIGHT = Palette(
    page="#F4EFE6", card="#FFFEFB", line="#E2D8C6", text="#262C33", second="#5A616A",
    third="#666A6F", rail="#2B323A", rail_text="#FBF6EA", rail_idle="#A9AFB5", action="#8E5327",
    on_action="#FFFEFB", picked="#F6EDD8", cold="#2A678C", cold_ground="#DDEAF1", wrong="#A93F28",
    look="#8A6510", settled="#56784A", band="#BCCBAE", handle="#B9AE9A",
)  # fmt: skip
DARK = Palette(
    page="#1F252B", card="#2E373F", line="#3C4751", text="#FBF6EA", second="#B9B5AA",
    third="#A3A8AC", rail="#171C21", rail_text="#FBF6EA", rail_idle="#9AA0A6", action="#F0C244",
    on_action="#1F252B", picked="#39434C", cold="#9CC3DB", cold_ground="#2C4252", wrong="#E28A72",
    look="#F0C244", settled="#8FAE7F", band="#5C7452", handle="#6B747C",
)  # fmt: skip


LARGE_ENOUGH = 1.1
"""The largest figures of the weigh-out grow no further with the text: what is said below them
must stay on the screen [-]."""
ONE_LINE_ABOVE_PCT = 125
"""Size of text above which the headline is one line [%]."""
PAPER_FONTS = ("SourceSans3_700Bold.ttf",)
"""Weights that only paper needs."""


def load_fonts(names: tuple[str, ...] = _FONTS) -> None:
    """Make shipped fonts known to Qt; without names, those of the screen."""
    for name in names:
        QFontDatabase.addApplicationFontFromData(asset("fonts", name).read_bytes())


class Theme:
    """A palette at a size of text.

    Parameters
    ----------
    name : str
        ``light`` or ``dark``.
    text_pct : int
        Size of text, 80 to 200 [%].
    """

    def __init__(self, name: str = "light", text_pct: int = 100) -> None:
        self.name = name
        self._style = ""
        self.scale = text_pct / 100
        self.palette = DARK if name == "dark" else LIGHT

    def px(self, size: float) -> int:
        """Scale a length on screen that goes with the text [px]."""
        return round(size * self.scale)

    @property
    def large(self) -> bool:
        """True where the text is so large that the headline is one line."""
        return bool(100 * self.scale > ONE_LINE_ABOVE_PCT)

    @property
    def figure_high(self) -> int:
        """Height of a figure of the headline with its word and its band [px]."""
        return self.px(56) + 14

    def font(self, size: float, weight: int = 400, family: str = TEXT) -> QFont:
        """Give a font by its size at 100 % [px] and its weight."""
        font = QFont(family)
        font.setPixelSize(max(6, self.px(size)))
        font.setWeight(QFont.Weight(weight))
        return font

    def color(self, role: str) -> QColor:
        """Give a colour by its role in the palette."""
        return QColor(getattr(self.palette, role))

    def style(self) -> str:
        """Give the style sheet."""
        if not self._style:
            self._style = self._make_style()
        return self._style

    def _make_style(self) -> str:
        # whole: one sheet, read from top to bottom
        p, px = self.palette, self.px
        down = str(asset("icons", f"down-{self.name}.svg")).replace("\\", "/")
        tick = str(asset("icons", f"tick-{self.name}.svg")).replace("\\", "/")
        return f"""
* {{ font-family: "{TEXT}"; font-size: {px(15)}px; color: {p.text}; }}
QWidget#page, QDialog, QMessageBox, QScrollArea, QScrollArea > QWidget > QWidget#inner
  {{ background: {p.page}; }}
QFrame#card {{ background: {p.card}; border: 1px solid {p.line}; border-radius: 8px; }}
QFrame#card[mark] {{ border-top-left-radius: 0; border-bottom-left-radius: 0; }}
QFrame#card[mark="wrong"] {{ border-left: 5px solid {p.wrong}; }}
QFrame#card[mark="look"] {{ border-left: 5px solid {p.look}; }}
QFrame#rule {{ background: {p.line}; }}
QLabel#second {{ color: {p.second}; font-size: {px(14)}px; }}
QLabel#small {{ color: {p.second}; font-size: {px(13)}px; }}
QLabel#wrong {{ color: {p.wrong}; font-size: {px(13)}px; }}
QLabel#look {{ color: {p.look}; font-size: {px(13)}px; }}
QLabel#strong {{ font-weight: 600; }}
QLabel#title {{ font-family: "{TITLE}"; font-weight: 600; font-size: {px(20)}px; }}
QLabel#name {{ font-family: "{TITLE}"; font-weight: 600; font-size: {px(27)}px; }}
QLabel#weigh-name {{ font-family: "{TITLE}"; font-weight: 600;
  font-size: {round(38 * min(self.scale, LARGE_ENOUGH))}px; }}
QLabel#weigh-target {{ font-size: {px(30)}px; color: {p.second}; font-weight: 600; }}
QLabel#weigh-now {{ font-size: {round(84 * min(self.scale, LARGE_ENOUGH))}px; font-weight: 600; }}
QLabel#weigh-verdict {{ font-size: {px(26)}px; font-weight: 600; }}
QLabel#big {{ font-size: {px(25)}px; font-weight: 600; }}
QLineEdit, QSpinBox, QComboBox {{ background: {p.card}; border: 1px solid {p.line};
  border-radius: 5px; padding: {px(3)}px {px(8)}px; min-height: {px(22)}px;
  selection-background-color: {p.action}; selection-color: {p.on_action}; }}
QLineEdit#cell {{ border-color: transparent; background: transparent; padding: {px(2)}px {px(6)}px;
  font-size: {px(16)}px; }}
QLineEdit#figure {{ padding: {px(2)}px {px(4)}px; }}
QLineEdit#cell:hover {{ border-color: {p.line}; background: {p.card}; }}
QLineEdit:focus, QLineEdit#cell:focus, QComboBox:focus {{ border: 2px solid {p.action};
  background: {p.card}; padding: {px(2)}px {px(5)}px; }}
QLineEdit[bad="true"], QLineEdit#cell[bad="true"] {{ border: 2px solid {p.wrong}; }}
QLineEdit:disabled, QComboBox:disabled {{ color: {p.third}; }}
QComboBox {{ combobox-popup: 0; }}
QComboBox::drop-down {{ border: 0; width: {px(22)}px; }}
QComboBox::down-arrow {{ image: url("{down}"); width: {px(11)}px; height: {px(11)}px; }}
QComboBox QAbstractItemView, QListView#popup {{ background: {p.card};
  font-size: {px(15)}px; border: 1px solid {p.line};
  selection-background-color: {p.picked}; selection-color: {p.text}; outline: 0; }}
QPushButton {{ background: {p.card}; border: 1px solid {p.line}; border-radius: 6px;
  padding: {px(5)}px {px(12)}px; }}
QPushButton:hover {{ border-color: {p.action}; }}
QPushButton:focus {{ border: 2px solid {p.action}; padding: {px(4)}px {px(11)}px; }}
QPushButton:disabled {{ color: {p.third}; }}
QPushButton#main {{ background: {p.action}; color: {p.on_action}; font-weight: 600;
  border-color: {p.action}; }}
QPushButton#main:disabled {{ background: {p.line}; border-color: {p.line};
  color: {p.third}; }}
QPushButton#main:focus {{ border: 2px solid {p.text}; }}
QPushButton#link {{ background: transparent; border: 1px solid transparent; color: {p.action};
  font-weight: 600; text-align: left; padding: {px(1)}px {px(3)}px; }}
QPushButton#link:hover {{ text-decoration: underline; }}
QPushButton#link:focus {{ border: 2px solid {p.action}; padding: {px(0)}px {px(2)}px; }}
QPushButton#quiet {{ background: transparent; border: 1px solid transparent; color: {p.second};
  padding: {px(1)}px {px(5)}px; }}
QPushButton#line {{ background: transparent; border: 1px solid transparent; text-align: left;
  padding: {px(1)}px {px(5)}px; }}
QPushButton#line:hover {{ border-color: {p.line}; }}
QPushButton#line:focus {{ border: 2px solid {p.action}; padding: {px(0)}px {px(4)}px; }}
QPushButton#quiet:hover {{ color: {p.text}; border-color: {p.line}; }}
QPushButton#quiet:focus {{ border: 2px solid {p.action}; padding: {px(0)}px {px(4)}px; }}
QSlider::groove:horizontal {{ height: {px(4)}px; background: {p.line}; border-radius: 2px; }}
QSlider::sub-page:horizontal {{ background: {p.fat}; border-radius: 2px; }}
QSlider::handle:horizontal {{ width: {px(16)}px; margin: -{px(6)}px 0; background: {p.card};
  border: 2px solid {p.second}; border-radius: {px(8)}px; }}
QSlider {{ min-height: {px(24)}px; }}
QSlider:focus {{ outline: 0; }}
QSlider::handle:horizontal:focus {{ border-color: {p.action}; background: {p.picked}; }}
QCheckBox {{ spacing: {px(7)}px; padding: {px(2)}px; }}
QCheckBox::indicator {{ width: {px(15)}px; height: {px(15)}px; border-radius: 3px;
  border: 2px solid {p.second}; background: {p.card}; }}
QCheckBox::indicator:checked {{ background: {p.action}; border-color: {p.action};
  image: url("{tick}"); }}
QCheckBox:focus {{ outline: 0; border: 2px solid {p.action}; border-radius: 5px; padding: 0; }}
QPlainTextEdit {{ background: {p.card}; border: 1px solid {p.line}; border-radius: 6px;
  padding: {px(6)}px; selection-background-color: {p.action};
  selection-color: {p.on_action}; }}
QPlainTextEdit:focus {{ border: 2px solid {p.action}; }}
QListView#picks {{ background: {p.card}; border: 1px solid {p.line}; border-radius: 6px;
  outline: 0; }}
QListView#picks:focus {{ border: 2px solid {p.action}; }}
QListView#picks::item {{ padding: {px(3)}px {px(8)}px; color: {p.text}; }}
QListView#picks::item:selected {{ background: {p.picked}; color: {p.text}; }}
QRadioButton {{ spacing: {px(8)}px; padding: {px(2)}px; }}
QRadioButton::indicator {{ width: {px(14)}px; height: {px(14)}px; border-radius: {px(8)}px;
  border: 2px solid {p.second}; background: {p.card}; }}
QRadioButton::indicator:checked {{ border: {px(5)}px solid {p.action}; width: {px(8)}px;
  height: {px(8)}px; }}
QRadioButton:focus {{ outline: 0; border: 2px solid {p.action}; border-radius: 5px; padding: 0; }}
QMenu {{ background: {p.card}; border: 1px solid {p.line}; padding: 4px; }}
QMenu::item {{ padding: {px(5)}px {px(24)}px {px(5)}px {px(14)}px; border-radius: 4px; }}
QMenu::item:selected {{ background: {p.picked}; }}
QMenu::item:disabled {{ color: {p.third}; }}
QMenu::separator {{ height: 1px; background: {p.line}; margin: 4px 8px; }}
QToolTip {{ background: {p.text}; color: {p.page}; border: 0; padding: 6px;
  font-size: {px(14)}px; }}
QScrollBar:vertical {{ background: transparent; width: 10px; margin: 0; }}
QScrollBar:horizontal {{ background: transparent; height: 10px; margin: 0; }}
QScrollBar::handle {{ background: {p.handle}; border-radius: 4px; min-height: 30px;
  min-width: 30px; margin: 1px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ width: 0; height: 0; }}
QScrollBar::add-page, QScrollBar::sub-page {{ background: transparent; }}
QListView#popup::item {{ padding: {px(4)}px {px(8)}px; color: {p.text}; }}
QListView#popup::item:selected {{ background: {p.picked}; color: {p.text}; }}
QListView#shelf {{ background: transparent; border: 0; outline: 0; }}
QLabel#said {{ background: {p.text}; color: {p.page}; border-radius: 6px;
  padding: {px(7)}px {px(14)}px; }}
QFileDialog QAbstractItemView {{ background: {p.card}; color: {p.text};
  border: 1px solid {p.line}; selection-background-color: {p.picked};
  selection-color: {p.text}; }}
QFileDialog QHeaderView::section {{ background: {p.page}; color: {p.second}; border: 0;
  border-bottom: 1px solid {p.line}; padding: {px(3)}px {px(6)}px; }}
QFileDialog QToolButton {{ background: {p.handle}; border: 1px solid transparent;
  border-radius: 4px; padding: 2px; }}
QFileDialog QToolButton:focus, QFileDialog QToolButton:hover {{ border-color: {p.action}; }}
QProgressBar {{ background: {p.card}; border: 1px solid {p.line}; border-radius: 5px;
  min-height: {px(18)}px; text-align: center; }}
QProgressBar::chunk {{ background: {p.picked}; border-radius: 4px; }}
QFrame#drop {{ background: {p.action}; border: none; }}
QFrame#banner {{ background: {p.picked};
  border-bottom: 2px solid {p.wrong}; }}
"""


class Look(QObject):
    """The theme that all of the window wears.

    Whoever paints or measures asks it when it does; what keeps a measure listens to `changed`. No
    widget hands a theme on.

    Signals
    -------
    changed
        The palette or the size of text is another.
    """

    changed = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.theme = Theme()

    def wear(self, name: str, text_pct: int) -> None:
        """Change palette or size of text [%]."""
        if (name, text_pct / 100) != (self.theme.name, self.theme.scale):
            self.theme = Theme(name, text_pct)
            self.changed.emit()


look = Look()
"""The one look there is."""
