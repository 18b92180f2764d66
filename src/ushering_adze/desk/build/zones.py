"""Zones as small buttons: a click deals the selected layers out over one; made of the surfaces selected in the room."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import partial

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QInputDialog, QMenu

from ushering_adze.core.kinds.spread import Over, Spread
from ushering_adze.core.onair.placing import layers_over
from ushering_adze.core.plane.boxes import around, box_of_rect
from ushering_adze.core.show import Place, Zone
from ushering_adze.core.show.following import with_pages_in_turn
from ushering_adze.core.show.zoning import surfaces_in, with_changed_zone, with_zone, without_zone, zone_users
from ushering_adze.desk.build.building import Building
from ushering_adze.desk.build.chips import Chip, Library

WAYS: tuple[tuple[str, Over, str], ...] = (
    ("Across, by the canvas' pixels", "across", "px"),
    ("Across, by millimetres in the room", "across", "mm"),
    ("A whole picture on each", "each", "px"),
    ("Across the first, whole on the rest", "grouped", "px"),
    ("Sources in turn", "in-turn", "px"),
)


class Zones(Library):
    """Zones of the show, and layers dealt out over them."""

    def __init__(self, building: Building) -> None:
        super().__init__(building, "zones", "A zone made of the surfaces that are selected in the room")

    def listed(self) -> Iterable[Chip]:
        """The zones of the show."""
        return [Chip(z.id, z.name, self._tip(z)) for z in self.building.show.zones]

    def _tip(self, zone: Zone) -> str:
        show = self.building.show
        names = {s.id: s.name for s in show.surfaces} | {z.id: z.name for z in show.zones}
        return ", ".join(names.get(id, id) for id in zone.holds) or "nothing yet"

    def _zone(self, id: str) -> Zone:
        return next(z for z in self.building.show.zones if z.id == id)

    # -- layers --------------------------------------------------------------------------------------------------

    def press(self, id: str) -> None:
        self.spread(id)

    def spread(self, id: str, over: Over | None = None, by: str = "px") -> None:
        """Deal the selected layers out over a zone, as they are by now unless one says how, else across; where edits
        go.  Without a layer its surfaces are selected.
        """
        building = self.building
        if not building.selected:
            self.choose(id)
            return
        values = {}
        for layer in building.selected:
            settings = building.settings(layer)
            if settings is not None:
                was: Spread = settings.spread
                how = {"over": over, "by": by} if over is not None else {"over": was.over, "by": was.by}
                if how["over"] == "none":
                    how["over"] = "across"
                values[layer] = {"spread": Spread.model_validate({"sources": was.sources, "zone": id, **how})}
        building.put(f"Spread over {self._zone(id).name}", values)
        fed = {face.surface.id for face in building.faces()}
        show, canvas = building.show, building.canvas
        bare = [show.surface(s).name for s in surfaces_in(show, (id,)) if s not in fed]
        if bare and canvas is not None and values:
            building.session.trouble.emit(
                f"{canvas.name} does not feed {', '.join(bare)}: nothing of it is seen there."
            )

    def pages_in_turn(self, id: str) -> None:
        """Let the selected layers show a page of their source on the first surface of a zone, the next one on the
        second, and so on, and turn together.
        """
        building, session = self.building, self.building.session
        count = len(surfaces_in(building.show, (id,)))
        values = {}
        for layer in building.selected:
            settings = building.settings(layer)
            source = settings.picture.source if settings is not None else None
            if source is None:
                continue
            try:
                show, shown = with_pages_in_turn(building.show, source, count)
            except ValueError as error:
                session.trouble.emit(f"{error}.")
                return
            name = building.show.source(source).name
            if show != building.show:
                session.edit(f"Pages of {name} side by side", show)
            values[layer] = {"spread": Spread(over="in-turn", zone=id, sources=shown)}
        building.put(f"Pages in turn over {self._zone(id).name}", values)

    def fill_zone(self, id: str) -> None:
        """Let the selected layers lie over all that this canvas shows of a zone, in boxes of their own."""
        inside = set(surfaces_in(self.building.show, (id,)))
        box = around(box_of_rect(face.rect) for face in self.building.faces() if face.surface.id in inside)
        if box is None:
            self.building.session.trouble.emit(f"This canvas shows nothing of {self._zone(id).name}.")
            return
        values = {"place": Place.of_box(box), "spread": Spread()}
        self.building.put(f"Fill {self._zone(id).name}", dict.fromkeys(self.building.selected, values))

    def in_own_box(self) -> None:
        """Let the selected layers lie in their own boxes again."""
        self.building.put("Own box", {id: {"spread": Spread()} for id in self.building.selected})

    # -- zones ---------------------------------------------------------------------------------------------------

    def choose(self, id: str) -> None:
        """Select the surfaces of a zone."""
        self.building.session.select_surfaces(surfaces_in(self.building.show, (id,)))

    def make(self, name: str) -> None:
        """A zone of the surfaces that are selected, in the order in which they were."""
        session = self.building.session
        session.try_edit(f"Zone {name}", lambda show: with_zone(show, name, session.surfaces)[0])

    def ask_new(self) -> None:
        """Ask for the name of a new zone."""
        show, chosen = self.building.show, self.building.session.surfaces
        if not chosen:
            self.building.session.trouble.emit("Select surfaces in the room first: Ctrl and click takes one more.")
            return
        names = ", ".join(show.surface(id).name for id in chosen)
        name, right = QInputDialog.getText(self, "New zone", f"Name  (holds {names})")
        if right and name.strip():
            self.make(name.strip())

    def hold(self, id: str) -> None:
        """Have a zone hold the surfaces that are selected, in place of what it held."""
        chosen, name = self.building.session.surfaces, self._zone(id).name
        if chosen:
            self.building.session.try_edit(f"Change {name}", lambda show: with_changed_zone(show, id, holds=chosen))

    def put_in(self, id: str, other: str) -> None:
        """Have a zone hold another one too, or no more."""
        zone = self._zone(id)
        holds = tuple(h for h in zone.holds if h != other) if other in zone.holds else (*zone.holds, other)
        self.building.session.try_edit(f"Change {zone.name}", lambda show: with_changed_zone(show, id, holds=holds))

    def rename(self, id: str, name: str) -> None:
        """Give a zone another name."""
        self.building.session.try_edit(f"Rename {name}", lambda show: with_changed_zone(show, id, name=name))

    def remove(self, id: str) -> None:
        """Take a zone out of the show, unless something is dealt out over it, there or on the stage."""
        stage, name = self.building.stage, self._zone(id).name
        over = layers_over(self.building.show, (stage.program.target, stage.preview()), id)
        if over:
            words = f"{over[0]} is spread over {name} on the stage; spread it elsewhere first."
            self.building.session.trouble.emit(words)
            return
        self.building.session.try_edit(f"Remove {name}", lambda show: without_zone(show, id))

    def show_menu(self, id: str, at: QPoint) -> None:
        menu, zone = QMenu(self), self._zone(id)
        acts: list[tuple[str, Callable[[], object]]] = [
            (words, partial(self.spread, id, over, by)) for words, over, by in WAYS
        ]
        acts += [("Its pages in turn", partial(self.pages_in_turn, id))]
        acts += [("One box over all of it", partial(self.fill_zone, id)), ("Own box again", self.in_own_box)]
        for words, act in acts:
            entry = menu.addAction(words)
            entry.setEnabled(bool(self.building.selected))
            entry.triggered.connect(lambda checked=False, act=act: act())
        menu.addSeparator()
        for words, act in (
            ("Select its surfaces", partial(self.choose, id)),
            ("Hold the selected surfaces", partial(self.hold, id)),
            ("Rename…", partial(self.ask_name, id)),
            ("Remove", partial(self.remove, id)),
        ):
            menu.addAction(words).triggered.connect(lambda checked=False, act=act: act())
        inside = menu.addMenu("Holds the zone")
        for other in self.building.show.zones:
            if other.id != id:
                entry = inside.addAction(other.name)
                entry.setCheckable(True)
                entry.setChecked(other.id in zone.holds)
                entry.triggered.connect(lambda checked=False, other=other.id: self.put_in(id, other))
        used = zone_users(self.building.show, id)
        menu.addSeparator()
        menu.addAction(f"Used by {', '.join(used[:6])}" if used else "Used by nothing").setEnabled(False)
        menu.popup(at)
