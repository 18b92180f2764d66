"""What is done for a speaker: their pages turned by a clicker, words below their time, their view laid on a surface."""

from __future__ import annotations

from PySide6.QtWidgets import QWidget

from ushering_adze.core.onair.actions import Message, Next, Previous
from ushering_adze.core.onair.playing import leader, turned
from ushering_adze.core.onair.speaking import speaker_view
from ushering_adze.core.show import Clock, Pages, Show
from ushering_adze.desk.drafting.prompt import Prompt
from ushering_adze.desk.session import Session


class Speaker:
    """Commands for whoever speaks."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        self._session, self._parent = session, parent
        self.prompt: Prompt | None = None

    def turned(self) -> str | None:
        """The source whose pages are turned: the selected one, or the first on program that has some."""
        show, report = self._session.show, self._session.report
        chosen = next((s for s in show.sources if s.id == self._session.source), None)
        if chosen is not None and turned(chosen):
            return leader(show, chosen.id)
        shown = [p.source for p in (report.players if report is not None else ()) if p.on == "program" and p.steps]
        return leader(show, shown[0]) if shown else None

    def page(self, on: int) -> None:
        """Turn a page on or back."""
        source = self.turned()
        if source is None:
            self._session.trouble.emit("No pages are on program; select a source that has some.")
            return
        self._session.playout.act(Next(source=source) if on > 0 else Previous(source=source))

    def clock(self) -> str | None:
        """The clock that messages go to: the selected one, or the first speaker's time of the show."""
        clocks = [s for s in self._session.show.sources if isinstance(s, Clock)]
        chosen = next((c for c in clocks if c.id == self._session.source), None)
        if chosen is None:
            chosen = next((c for c in clocks if c.shows == "speaker"), None)
        return None if chosen is None else chosen.id

    def ask_message(self) -> None:
        """Ask what is to be said; nothing takes the message away."""
        id = self.clock()
        if id is None:
            self._session.trouble.emit("There is no speaker's time to say it on; add a clock, or a speaker's view.")
            return
        name = self._session.show.source(id).name
        now = self._session.playout.stage.messages.get(id, "")
        hint = "Shown below the time; leave it empty to take it away"
        self.prompt = Prompt(
            self._parent, f"To {name}", [("Message", now)], "Say", lambda text: self.say(id, text), hint
        )
        self.prompt.show()

    def say(self, id: str, text: str) -> None:
        """Say something on a clock."""
        self._session.playout.act(Message(source=id, text=text[:120]))

    def ask_view(self) -> None:
        """Ask on which surface, for which pages and with which notes a speaker's view is to be made."""
        show = self._session.show
        pages = [(s.name, s.id) for s in show.sources if isinstance(s, Pages) and s.follows is None]
        if not pages:
            self._session.trouble.emit("The show has no pages of a document; add a PDF as a source first.")
            return
        surfaces = [(s.name, s.id) for s in show.surfaces if show.feeds_of(s.id)]
        surfaces.sort(key=lambda s: s[1] != self._session.surface)
        pages.sort(key=lambda s: s[1] != self._session.source)
        fields = [("On", surfaces), ("Pages", pages), ("Notes", [("none", ""), *pages])]
        self.prompt = Prompt(self._parent, "Speaker's view", fields, "Make", self.make_view)
        self.prompt.show()

    def make_view(self, surface: str, pages: str, notes: str = "") -> None:
        """A preset with a speaker's view on a surface."""
        made = list[int]()

        def edit(show: Show) -> Show:
            show, number = speaker_view(show, surface, pages, notes or None)
            made.append(number)
            return show

        if self._session.try_edit("Speaker's view", edit):
            name = self._session.show.surface(surface).name
            self._session.trouble.emit(f"Preset {made[-1]} is the speaker's view on {name}.")
