"""What is done on air to the selected surface alone: take it, keep it, black it."""

from __future__ import annotations

from ushering_adze.core.onair.actions import Black, Keep, Release, Take
from ushering_adze.desk.session import Session


class BySurface:
    """Commands on the selected surface; without one they say so."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def _selected(self) -> str | None:
        surface = self._session.surface
        if surface is None:
            self._session.trouble.emit("No surface is selected; click one in the room or on the sill first.")
        return surface

    def take(self) -> None:
        """Take what is staged for it, and leave the rest staged."""
        surface = self._selected()
        if surface is not None:
            self._session.playout.act(Take(surfaces=(surface,)))

    def keep(self) -> None:
        """Keep it from every take, or release it."""
        surface = self._selected()
        if surface is not None:
            kept = surface in self._session.playout.stage.kept
            self._session.playout.act(Release(surface=surface) if kept else Keep(surface=surface))
            name = self._session.show.surface(surface).name
            words = "released: takes touch it again" if kept else "kept: no take touches it until it is released"
            self._session.trouble.emit(f"{name} is {words}.")

    def black(self) -> None:
        """Black its outputs, or lift it."""
        surface = self._selected()
        if surface is not None:
            outputs = tuple(dict.fromkeys(r.output for r in self._session.show.feeds_of(surface)))
            stage = self._session.playout.stage
            self._session.playout.act(Black(on=not all(stage.is_black(o) for o in outputs), outputs=outputs))
