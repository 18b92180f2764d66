"""The Run workspace."""

from __future__ import annotations

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


class RunWorkspace(QWidget):
    """Program room over preview room with the take strip between; changes and presets beside."""

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
        side.addWidget(self.deck)
        side.setSizes([262, 340])
        self.split = QSplitter(Qt.Orientation.Horizontal)
        self.split.addWidget(rooms)
        self.split.addWidget(side)
        self.split.setStretchFactor(0, 1)
        self.split.setSizes([860, 396])
        for splitter in (side, self.split):
            splitter.setHandleWidth(theme.GAP)
            splitter.setChildrenCollapsible(False)
        box = QHBoxLayout(self)
        box.setContentsMargins(theme.GAP, theme.GAP, theme.GAP, theme.GAP)
        box.addWidget(self.split)
        act = session.playout.act
        self.strip.take.connect(lambda seconds: act(Take(seconds=seconds)))
        self.strip.cut.connect(lambda: act(Cut()))
        self.strip.back.connect(lambda: act(Back()))
        self._session = session
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

    def show_players(self) -> None:
        """The players in place of what the next take changes, or the other way round."""
        self.top.setCurrentIndex(1 - self.top.currentIndex())
