"""Finishes as a row of buttons: a click lays one on the selected layers."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QInputDialog, QMenu

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.kinds import BY_NAME, KINDS
from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.show import Finish, Show
from ushering_adze.core.show.finish import finish_of, laid
from ushering_adze.core.show.rigging import free_name
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.chips import Chip, Library
from ushering_adze.desk.dragging import FINISH

KEY, BY_KEY = "Ctrl+F", 9
"""The first so many finishes are laid by this and their number."""


class Finishes(Library):
    """Laid by a click, several one over another; made and updated from the selected layer."""

    def __init__(self, building: Building) -> None:
        super().__init__(building, "finishes", "A finish made from the selected layer", FINISH)

    def listed(self) -> Iterable[Chip]:
        """The finishes of the show."""
        return [Chip(f.id, f.name, self._tip(n, f)) for n, f in enumerate(self.building.show.finishes)]

    @staticmethod
    def _tip(n: int, finish: Finish) -> str:
        holds = ", ".join(BY_NAME[kind].words.lower() for kind in finish.values) or "nothing yet"
        return f"{holds}  ({KEY}{n + 1})" if n < BY_KEY else holds

    def lay_number(self, n: int) -> None:
        """Lay the finish of a number, counted from 0, as they stand here."""
        finishes = self.building.show.finishes
        if n < len(finishes):
            self.lay(finishes[n].id)

    def _finish(self, id: str) -> Finish:
        return next(f for f in self.building.show.finishes if f.id == id)

    def press(self, id: str) -> None:
        self.lay(id)

    def lay(self, id: str) -> None:
        """Lay a finish on the selected layers, where edits go."""
        if not self.building.selected:
            self.building.session.trouble.emit("No layer is selected; click one first.")
            return
        values = dict(laid([self._finish(id)]))
        self.building.put(self._finish(id).name, dict.fromkeys(self.building.selected, values))

    def lay_on(self, layer: str, id: str) -> None:
        """Lay a finish on one layer, which is selected then; on all that are selected if it is one of them."""
        if layer not in self.building.selected:
            self.building.select((layer,))
        self.lay(id)

    def make(self, name: str, kinds: tuple[str, ...]) -> None:
        """A finish of these kinds from the layer that was selected last."""
        settings = self.building.settings(self.building.selected[-1]) if self.building.selected else None
        if settings is None:
            self.building.session.trouble.emit("No layer is selected; click the one that the finish is to be made of.")
            return
        show = self.building.show
        id = new_id(name, {f.id for f in show.finishes})
        made = finish_of(id, free_name(name, {f.name for f in show.finishes}), settings, kinds)
        self._edit(f"Finish {name}", (*show.finishes, made))

    def ask_new(self) -> None:
        """Ask for the name of a new finish; it holds the kinds in which the layer differs from a plain one."""
        settings = self.building.settings(self.building.selected[-1]) if self.building.selected else None
        kinds = tuple(
            k.name
            for k in KINDS
            if settings is not None and k.name != "picture" and getattr(settings, k.name) != k.default
        )
        words = ", ".join(BY_NAME[k].words.lower() for k in kinds) or "nothing: the layer is plain"
        name, right = QInputDialog.getText(self, "New finish", f"Name  (holds {words})")
        if right and name.strip():
            self.make(name.strip(), kinds)

    def update_from_layer(self, id: str) -> None:
        """What a finish holds, as the selected layer has it now."""
        finish = self._finish(id)
        settings = self.building.settings(self.building.selected[-1]) if self.building.selected else None
        if settings is not None:
            self._replace(f"Update {finish.name}", finish_of(id, finish.name, settings, finish.values.keys()))

    def toggle(self, id: str, kind: str) -> None:
        """Have a finish hold a kind, as the selected layer has it, or no more."""
        finish = self._finish(id)
        settings = self.building.settings(self.building.selected[-1]) if self.building.selected else None
        if kind in finish.values:
            holds = finish.holds.model_copy(update={kind: None})
        elif settings is not None:
            holds = finish_of(id, finish.name, settings, {kind}).holds
            holds = finish.holds.model_copy(update={kind: getattr(holds, kind)})
        else:
            return
        self._replace(f"Change {finish.name}", finish.model_copy(update={"holds": holds}))

    def usual(self, id: str) -> None:
        """Make a finish a usual one of the source that the selected layer shows, or not any more."""
        states = self.building.states()
        shown = by_share(states[self.building.selected[-1]].picture)[0].source if self.building.selected else None
        if shown is None:
            return
        source = self.building.show.source(shown)
        on = id not in source.finishes
        finishes = (*source.finishes, id) if on else tuple(f for f in source.finishes if f != id)
        made = source.model_copy(update={"finishes": finishes})

        def edit(show: Show) -> Show:
            return show.model_copy(update={"sources": tuple(made if s.id == shown else s for s in show.sources)})

        self.building.session.try_edit(f"Usual finish of {source.name}", edit)

    def rename(self, id: str, name: str) -> None:
        """Give a finish another name."""
        self._replace(f"Rename {name}", self._finish(id).model_copy(update={"name": name}))

    def remove(self, id: str) -> None:
        """Take a finish out of the show, and from the sources that it is usual for."""
        used = [s.name for s in self.building.show.sources if id in s.finishes]

        def without(show: Show) -> Show:
            sources = tuple(
                s.model_copy(update={"finishes": tuple(f for f in s.finishes if f != id)}) if id in s.finishes else s
                for s in show.sources
            )
            rest = tuple(f for f in show.finishes if f.id != id)
            return show.model_copy(update={"sources": sources, "finishes": rest})

        if self.building.session.try_edit(f"Remove {self._finish(id).name}", without) and used:
            self.building.session.trouble.emit(f"It was usual for {', '.join(used)}.")

    def _replace(self, words: str, finish: Finish) -> None:
        self._edit(words, tuple(finish if f.id == finish.id else f for f in self.building.show.finishes))

    def _edit(self, words: str, finishes: tuple[Finish, ...]) -> None:
        self.building.session.try_edit(words, lambda show: show.model_copy(update={"finishes": finishes}))

    def show_menu(self, id: str, at: QPoint) -> None:
        menu, finish = QMenu(self), self._finish(id)
        used = [s.name for s in self.building.show.sources if id in s.finishes]
        acts: list[tuple[str, Callable[[], object]]] = [
            ("Update from the layer", partial(self.update_from_layer, id)),
            ("Usual for the layer's source, or not", partial(self.usual, id)),
            ("Rename…", partial(self.ask_name, id)),
            ("Remove", partial(self.remove, id)),
        ]
        for words, act in acts:
            menu.addAction(words).triggered.connect(lambda checked=False, act=act: act())
        kinds = menu.addMenu("Holds")
        for kind in KINDS:
            entry = kinds.addAction(kind.words)
            entry.setCheckable(True)
            entry.setChecked(kind.name in finish.values)
            entry.triggered.connect(lambda checked=False, kind=kind.name: self.toggle(id, kind))
        menu.addSeparator()
        told = menu.addAction(f"Usual for {', '.join(used)}" if used else "Usual for no source")
        told.setEnabled(False)
        menu.popup(at)
