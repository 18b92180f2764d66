"""The Run workspace."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QScrollArea, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from ushering_adze.core.onair.actions import Back, Cut, Take
from ushering_adze.desk import theme
from ushering_adze.desk.deck import PresetDeck
from ushering_adze.desk.drafting.prompt import Prompt
from ushering_adze.desk.room import RoomView
from ushering_adze.desk.run.changes import ChangeList
from ushering_adze.desk.run.glimpses import Glimpses
from ushering_adze.desk.run.players import PlayersPanel
from ushering_adze.desk.run.strip import TakeStrip
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import tool_button

if TYPE_CHECKING:
    from ushering_adze.desk.run.calendar.page import CalendarPage
    from ushering_adze.desk.run.crosspoints import CrosspointPanel
    from ushering_adze.desk.run.cues import CuePanel
    from ushering_adze.desk.run.overrides import OverridePanel
    from ushering_adze.desk.run.plan import PlanPage
    from ushering_adze.desk.run.speaker import Speaker

BELOW = (
    ("Presets", "The deck; Space takes  (C)"),
    ("Cues", "Cue lists; Space fires the armed cue  (C)"),
    ("Crosspoints", "Any source on any surface  (O)"),
    ("Overrides", "What is forced on surfaces until it is lifted  (V)"),
)


def _framed(panel: QWidget) -> QFrame:
    framed = QFrame()
    framed.setObjectName("panel")
    inside = QVBoxLayout(framed)
    inside.setContentsMargins(0, 0, 0, 0)
    inside.addWidget(panel)
    return framed


class RunWorkspace(QWidget):
    """Program room over preview room with the take strip between; changes and presets beside.

    All else is built by `furnish`, when it is first asked for or a moment after the start.
    """

    cues: CuePanel
    crosspoints: CrosspointPanel
    overrides: OverridePanel
    plan: PlanPage
    calendar: CalendarPage
    speaker: Speaker

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.program, self.preview = RoomView(session, "program"), RoomView(session, "preview")
        self.strip = TakeStrip(session)
        glimpses = Glimpses()
        self.changes, self.deck = ChangeList(session), PresetDeck(session)
        self.players = PlayersPanel(lambda source, share: glimpses.at(session.show, source, share))
        rooms = QWidget()
        column = QVBoxLayout(rooms)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.program, 1)
        column.addWidget(self.strip)
        column.addWidget(self.preview, 1)
        side = QSplitter(Qt.Orientation.Vertical)
        self.top = QStackedWidget()
        self.top.addWidget(self.changes)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setWidget(self.players)
        self.top.addWidget(scroll)
        side.addWidget(self.top)
        self.below = QStackedWidget()
        self.below.addWidget(self.deck)
        self.tabs = {
            name: tool_button(name, partial(self.show_below, n), tip, True) for n, (name, tip) in enumerate(BELOW)
        }
        lower = QWidget()
        under = QVBoxLayout(lower)
        under.setContentsMargins(0, 0, 0, 0)
        under.setSpacing(4)
        line = QHBoxLayout()
        line.setSpacing(4)
        for button in self.tabs.values():
            line.addWidget(button)
        line.addWidget(tool_button("Plan", self.show_plan, "What every surface shows after each cue  (Shift+P)"))
        line.addWidget(tool_button("Calendar", self.show_calendar, "What begins and ends by day and time  (Shift+C)"))
        line.addStretch(1)
        under.addLayout(line)
        under.addWidget(self.below, 1)
        side.addWidget(lower)
        side.setSizes([240, 362])
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.addWidget(rooms)
        self.split.addWidget(side)
        self.split.setStretchFactor(0, 1)
        self.split.setSizes([860, 396])
        for splitter in (side, self.split):
            splitter.setHandleWidth(theme.GAP)
            splitter.setChildrenCollapsible(False)
        rooms_page = QWidget()
        box = QHBoxLayout(rooms_page)
        box.setContentsMargins(theme.GAP, theme.GAP, theme.GAP, theme.GAP)
        box.addWidget(self.split)
        self.ground = QStackedWidget()
        self.ground.addWidget(rooms_page)
        self._furnished = False
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.ground)
        act = session.playout.act
        self.strip.take.connect(lambda seconds: act(Take(seconds=seconds)))
        self.strip.cut.connect(lambda: act(Cut()))
        self.strip.back.connect(lambda: act(Back()))
        self._session = session
        self.show_below(0)
        self.players.acted.connect(act)
        self.players.selected.connect(session.select_source)
        session.reported.connect(self._report)
        session.selection_changed.connect(self._select)

    def _select(self) -> None:
        self.players.select(self._session.source)

    def _report(self) -> None:
        if self._session.report is not None:
            self.players.hold(self._session.report.players)

    def ask_time(self) -> None:
        """Ask for the moment that the selected player is sent to."""
        player = self.players.chosen()
        name = player.name if player is not None else "A player"
        prompt = Prompt(self, f"{name}: to", [("Time", "")], "Send", self.players.send, "Seconds, or 1:23.5")
        prompt.show()
        self.prompt = prompt

    @property
    def cueing(self) -> bool:
        """Whether the cues are in front: then the keys that fire mean them."""
        shown = self._furnished and 1 in (self.below.currentIndex(), self.ground.currentIndex())
        return shown and self.cues.cues is not None

    def show_below(self, n: int) -> None:
        """One of `BELOW`, by its place there."""
        if n:
            self.furnish()
        self.below.setCurrentIndex(n)
        for k, button in enumerate(self.tabs.values()):
            button.setChecked(k == n)

    def show_cues(self) -> None:
        """Cues in place of the presets, or the other way round."""
        self.show_below(0 if self.below.currentIndex() == 1 else 1)

    def show_crosspoints(self) -> None:
        """Crosspoints in place of the presets, or the other way round."""
        self.show_below(0 if self.below.currentIndex() == 2 else 2)

    def show_overrides(self) -> None:
        """Overrides in place of the presets, or the other way round."""
        self.show_below(0 if self.below.currentIndex() == 3 else 3)

    def furnish(self) -> None:
        """Build what lies behind the presets, the plan and the calendar, if that is not done yet: a window that opens
        does not wait for them.
        """
        if self._furnished:
            return
        self._furnished = True
        from ushering_adze.desk.run.calendar.page import CalendarPage
        from ushering_adze.desk.run.crosspoints import CrosspointPanel
        from ushering_adze.desk.run.cues import CuePanel
        from ushering_adze.desk.run.overrides import OverridePanel
        from ushering_adze.desk.run.plan import PlanPage
        from ushering_adze.desk.run.speaker import Speaker

        session = self._session
        self.cues, self.crosspoints = CuePanel(session), CrosspointPanel(session)
        self.overrides = OverridePanel(session)
        for panel in (self.cues, self.crosspoints, self.overrides):
            self.below.addWidget(_framed(panel))
            panel.told.connect(session.trouble)
        self.speaker = Speaker(session, self)
        self.plan, self.calendar = PlanPage(session), CalendarPage(session)
        self.ground.addWidget(self.plan)
        self.ground.addWidget(self.calendar)
        self.plan.left.connect(self.show_plan)
        self.calendar.left.connect(self.show_calendar)
        self.calendar.told.connect(session.trouble)

    def show_plan(self) -> None:
        """The plan in place of the rooms, or the other way round."""
        self.furnish()
        self.plan.hold(self.cues.cues)
        self.ground.setCurrentIndex(0 if self.ground.currentIndex() == 1 else 1)

    def show_calendar(self) -> None:
        """The calendar in place of the rooms, or the other way round."""
        self.furnish()
        self.ground.setCurrentIndex(0 if self.ground.currentIndex() == 2 else 2)

    def fire(self) -> None:
        """The armed cue if the cues are in front; else the take."""
        if self.cueing:
            self.cues.go()
        else:
            self.strip.fire()

    def show_players(self) -> None:
        """The players in place of what the next take changes, or the other way round."""
        self.top.setCurrentIndex(1 - self.top.currentIndex())
