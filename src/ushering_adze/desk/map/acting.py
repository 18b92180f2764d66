"""What all actions of Map stand on: the selection, the canvas and the output on view, small questions, and edits that
tell their refusal.
"""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from ushering_adze.core.mapping.regions import picked
from ushering_adze.core.show import Canvas, Fault, Show, ShowError
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.drafting.prompt import Prompt, ask
from ushering_adze.desk.session import Session


class Acting(QObject):
    """The means of actions."""

    def __init__(
        self,
        session: Session,
        guides: Guides,
        owner: QWidget,
        canvas: Callable[[], Canvas | None],
        output: Callable[[], str | None],
        show_canvas: Callable[[str], None],
    ) -> None:
        super().__init__(owner)
        self._session, self._guides, self._owner = session, guides, owner
        self._canvas, self._output, self._show_canvas = canvas, output, show_canvas
        self.prompt: Prompt | None = None

    @property
    def ids(self) -> tuple[str, ...]:
        """The selected regions."""
        return self._session.regions

    def _ask(self, *args: object, **more: object) -> None:
        self.prompt = ask(self._owner.window(), *args, **more)  # type: ignore[arg-type]

    def _need(self, count: int = 1) -> bool:
        if len(self.ids) < count:
            words = "Select a region first" if count == 1 else f"Select {count} regions or more first"
            self._session.trouble.emit(f"{words}: on the canvas, in the list, or all with Ctrl+A.")
            return False
        return True

    def _home(self) -> Canvas:
        canvas = self._canvas()
        if canvas is None:
            raise ShowError([Fault("", "this show has no canvas yet; add one first")])
        return canvas

    def _lands_on(self) -> str:
        output = self._output()
        if output is None:
            raise ShowError([Fault("", "this show has no output yet; add one in Rig first")])
        return output

    def _what(self) -> str:
        found = picked(self._session.show, self.ids)
        return found[0][1].name if len(found) == 1 else f"{len(found)} regions"

    def _edit(self, label: str, make: Callable[[Show], Show], least: int = 1) -> None:
        if self._need(least):
            self._session.try_edit(label, make)

    def _make(self, label: str, make: Callable[[Show], tuple[Show, list[str]]]) -> None:
        """An edit that makes regions and selects them."""
        ids: list[str] = []

        def edit(show: Show) -> Show:
            made, new = make(show)
            ids.extend(new)
            return made

        if self._session.try_edit(label, edit) and ids:
            self._session.select_regions(ids)
