"""The window with what stands round its stages: second opinion, section, the bench's whole room."""

from functools import cached_property
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QVBoxLayout, QWidget

from aplomb.desk.kit.fields import button, label, row
from aplomb.desk.kit.theme import look
from aplomb.desk.session import Session
from aplomb.desk.shell.explaining import Explaining
from aplomb.desk.shell.headline import Headline
from aplomb.desk.shell.staged import StagedWindow
from aplomb.desk.stages.stage import Stage
from aplomb.work.commands import DAY, FOLDS, PASTE, keys_of, shown

if TYPE_CHECKING:
    from aplomb.desk.shell.opinion import OpinionView
    from aplomb.desk.stages.section_view import SectionStrip

LEAST_PAGE = 200
"""Least of the page that the section leaves to be seen [px]."""
ROOMY = 700
"""A window this wide at 100 % has room for the second opinion beside the work [px]."""


class SidedWindow(StagedWindow):
    """Shows and hides what stands beside, below and above the stage that is shown."""

    opinion: "OpinionView"

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._filled = False
        self.headline = Headline(session)
        self._explaining = Explaining(self)
        self._opinion_asked = self._section_asked = False
        self._hide_opinion = button("Hide", "quiet", self.toggle_opinion, keys_of("opinion"))
        self.said = label("", "said", self)
        self.said.hide()

    def _lay_out(self) -> None:
        self._beside = QWidget()
        self._side = side = QVBoxLayout(self._beside)
        side.setContentsMargins(0, 8, 0, 0)
        side.setSpacing(0)
        side.addWidget(self._hide_opinion, 0, Qt.AlignmentFlag.AlignRight)
        middle = QHBoxLayout()
        middle.setContentsMargins(0, 0, 0, 0)
        middle.setSpacing(0)
        middle.addWidget(self.stages, 1)
        middle.addWidget(self._beside)
        self._rule = QFrame()
        self._rule.setObjectName("rule")
        self._rule.setFixedHeight(1)
        self.opinion_button = button("", "quiet", self.toggle_opinion, keys_of("opinion"))
        self.section_button = button("", "quiet", self.toggle_section, keys_of("section"))
        foot = row(self.section_button, None, self.opinion_button)
        foot.setContentsMargins(24, 0, 12, 2)
        self._foot = foot
        column = QVBoxLayout()
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.headline)
        column.addWidget(self._rule)
        column.addLayout(middle, 1)
        column.addLayout(foot)
        self._column = column
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(0)
        whole.addWidget(self.rail)
        whole.addLayout(column, 1)

    @cached_property
    def section(self) -> "SectionStrip":
        """The section strip."""
        from aplomb.desk.stages.section_view import SectionStrip

        strip = SectionStrip(self.session)
        self._worn[strip] = look.theme
        self._column.addWidget(strip)
        self.said.raise_()
        return strip

    @property
    def _has_section(self) -> bool:
        """True for the stages that have the section below them, while no page is in their room."""
        return self._number in (PASTE, FOLDS) and self.page is None

    def _show_moment(self, upto: int | None) -> None:
        if self._has_section:
            self.section.show_moment(upto if self._number == FOLDS else None)

    def _stage_shown(self) -> None:
        if self._number in (PASTE, FOLDS) and self.page is None:
            self._show_moment(self.folds.moment_shown() if self._number == FOLDS else None)
        self._show_section()
        self._bench_took_room()
        self._explaining.shown(self.shown_stage())

    def _bench_took_room(self) -> None:
        """Give the bench's screen the whole window; any other stage has its headline above."""
        bare = self.bench_has_room
        self.headline.setVisible(not bare)
        self._rule.setVisible(not bare)
        self._foot.setContentsMargins(24, 0, 12, 0 if bare else 2)
        if bare:
            self.said.hide()
        self._show_opinion()

    @property
    def _opinion_open(self) -> bool:
        """True when the second opinion is shown.

        It gives way while it has nothing to say, and to large text in a small window, until
        it is asked for.
        """
        study = self.session.study
        there = self.opinion.here() if self._filled else study and study.shown_opinions
        roomy = self._is_roomy and bool(there)
        return self.session.settings.opinion_open and (roomy or self._opinion_asked)

    @property
    def _is_roomy(self) -> bool:
        """True when there is room for the second opinion beside a formula."""
        return bool(self.session.uid) and self.width() >= look.theme.px(ROOMY)

    def _show_opinion(self) -> None:
        if not self._filled:  # its place is kept, and it comes there
            self._hide_opinion.hide()
            self.opinion_button.hide()
            self._beside.setVisible(self.session.settings.opinion_open and self._is_roomy)
            return
        self.opinion.of_the_day(only=self._number == DAY and self.page is None)
        looks = len(self.opinion.here())
        self.opinion_button.setText(
            f"Second opinion: {looks} to look at" if looks else "Second opinion: nothing to look at"
        )
        bench = self.bench_has_room
        there, open_ = self.session.study is not None and not bench, self._opinion_open
        if there and open_:
            self._dress(self.opinion)
        self.opinion_button.setVisible(there and not open_)
        for each in (self._beside, self._hide_opinion, self.opinion):
            each.setVisible(there and open_)

    def toggle_opinion(self) -> None:
        """Show or hide the second opinion."""
        self._opinion_asked = not self._opinion_open
        self.session.keep(opinion_open=self._opinion_asked)
        self._show_opinion()

    def show_opinion(self, key: str) -> None:
        """Take the keyboard to one of the second opinions, or to the first."""
        if not self._opinion_open:
            self.toggle_opinion()
        if key and key not in [card.key for card in self.opinion.cards]:
            self.opinion.of_the_day(only=False)
        cards = sorted(self.opinion.cards, key=lambda card: card.key != key)
        stops = [stop for card in cards for stop in card.stops if not stop.isHidden()]
        if stops:
            stops[0].setFocus(Qt.FocusReason.TabFocusReason)

    @property
    def _section_open(self) -> bool:
        """True when the section is shown below a stage.

        It gives way where the stage would not find room above it, until it is asked for.
        """
        if not self.session.settings.section_open:
            return False
        if self._section_asked:
            return True
        stage = self.shown_stage()
        if not isinstance(stage, Stage):
            return False
        strip = self.section.sizeHint().height()
        there = self.section.isVisibleTo(self)
        room = stage.viewport().height() - (0 if there else strip)
        if self._number == FOLDS:  # its cards and the sheet stand whole, or the section gives way
            return stage.least_height() <= room
        return room >= look.theme.px(LEAST_PAGE)

    def _show_section(self) -> None:
        """Show the section below Paste and Folds, or a line that says where it is."""
        wanted = self._has_section and self.session.study is not None
        open_ = wanted and self._section_open
        if open_:
            self._dress(self.section)
        if wanted or "section" in self.__dict__:
            self.section.setVisible(open_)
        self.section_button.setVisible(wanted and not open_)
        if wanted and not open_:
            self.section_button.setText(f"Show the section ({shown(keys_of('section'))})")

    def toggle_section(self) -> None:
        """Show or hide the section."""
        if not self._has_section:
            return
        self._section_asked = not self.section.isVisibleTo(self)
        self.session.keep(section_open=self._section_asked)
        self._show_section()

    @property
    def strip(self) -> "SectionStrip | None":
        """The section that is seen, below a stage or in a page; None elsewhere."""
        if self.page is not None:
            return self.page.strip
        return self.section if self._has_section else None
