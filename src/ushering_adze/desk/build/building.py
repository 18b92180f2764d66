"""What is being built on: which canvas, where its edits go, which layers are selected; and the edits themselves."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Any, NamedTuple

from PySide6.QtCore import QObject, Signal

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.exchange.preset_table import way_from
from ushering_adze.core.kinds import BY_NAME
from ushering_adze.core.kinds.kind import How
from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.kinds.spread import OWN
from ushering_adze.core.mapping.faces import Face, faces_on, surface_rects
from ushering_adze.core.onair.actions import Edit, SetPreview
from ushering_adze.core.onair.placing import face_at, layer_covering
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.onair.storing import Cell, is_seen, settings_of
from ushering_adze.core.onair.view import On, View, state_of
from ushering_adze.core.picture.layers import LayerState, layer_state
from ushering_adze.core.plane.boxes import Box, about, box_of_rect, holds, same_shape, whole
from ushering_adze.core.show import (
    Canvas,
    Layer,
    LayerSettings,
    Part,
    Picture,
    Place,
    Show,
    with_held,
)
from ushering_adze.core.show.finish import laid
from ushering_adze.core.show.layering import (
    copied_layers,
    fresh_layer,
    moved_layers,
    naming,
    stepped_layers,
    with_changed_layer,
    with_layer,
    without_layers,
)
from ushering_adze.core.show.variants import preset_of, with_preset
from ushering_adze.desk.session import Session

NOTHING = layer_state(LayerSettings(), Canvas(id="none", name="None", width=1, height=1))
STEPS = 100
"""Former previews that are kept for undo."""
Values = Mapping[str, Mapping[str, Any]]
"""By layer and by kind: what it becomes, as in a document."""


class Former(NamedTuple):
    """A preview as it was: of which opened show, after how many edits of it, what was staged, and the edits upon it."""

    filing: object
    edits: int
    staged: int | None
    preview: tuple[Part, ...]


class Building(QObject):
    """One canvas being built on.

    Signals
    -------
    changed : another canvas, another mode, or other layers are selected
    moved : a layer is another, on the stage or in the show
    undone : the preview is what it was before
    """

    changed = Signal()
    moved = Signal()
    undone = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.on: On = "preview"
        self.last_scope: dict[Cell, How] = {}
        """With which a preset was stored last."""
        self.trying = False
        """Whether the take of what is on preview is played again and again."""
        self.number: int | None = None
        self._canvas = ""
        self.selected: tuple[str, ...] = ()
        self.clipboard: tuple[str, tuple[str, ...]] | None = None
        self._former: list[Former] = []
        self._gesture: object = None
        self._parts: object = None
        session.show_changed.connect(self._shown)
        session.selection_changed.connect(self._follow)

    # -- what is built on ----------------------------------------------------------------------------------------

    @property
    def show(self) -> Show:
        """The show."""
        return self.session.show

    @property
    def stage(self) -> Stage:
        """The stage as of the last frame."""
        return self.session.playout.stage

    @property
    def canvas(self) -> Canvas | None:
        """The canvas."""
        found = next((c for c in self.show.canvases if c.id == self._canvas), None)
        return found or next(iter(self.show.canvases), None)

    @property
    def view(self) -> View | None:
        """What is to be looked at."""
        canvas = self.canvas
        on: On = "trying" if self.trying else self.on
        return None if canvas is None else View(canvas.id, on, self.number if self.on == "blind" else None)

    def work_on(self, on: On, number: int | None = None) -> None:
        """Let edits go to preview, to program, or blind into a preset."""
        if on == "blind" and (number is None or self.show.preset(number) is None):
            self.session.trouble.emit("No preset is chosen to be edited blind; click its card with Alt.")
            return
        self.on, self.number, self.trying = on, number if on == "blind" else None, False
        self._gesture = None
        self.changed.emit()

    def choose_canvas(self, id: str) -> None:
        """Build on another canvas."""
        if id != self._canvas:
            self._canvas, self.selected = id, ()
            self.changed.emit()

    def select(self, ids: Iterable[str], more: bool = False) -> None:
        """Select layers, with all of their groups; with ``more`` those that are selected stay, and those that were are
        not any more.
        """
        canvas = self.canvas
        wanted = tuple(ids)
        if canvas is None:
            return
        groups = {y.group for y in canvas.layers if y.id in wanted and y.group}
        wanted += tuple(y.id for y in canvas.layers if y.group in groups and y.id not in wanted)
        if more:
            kept = tuple(id for id in self.selected if id not in wanted)
            wanted = kept + tuple(id for id in wanted if id not in self.selected)
        known = {y.id for y in canvas.layers}
        chosen = tuple(dict.fromkeys(id for id in wanted if id in known))
        if chosen != self.selected:
            self.selected = chosen
            self._gesture = None
            self.changed.emit()

    def layer(self, id: str) -> Layer | None:
        """A layer of the canvas."""
        canvas = self.canvas
        return None if canvas is None else next((y for y in canvas.layers if y.id == id), None)

    def movable(self, states: Mapping[str, LayerState]) -> list[str]:
        """The selected layers that are not locked, and lie in boxes of their own."""
        chosen = [y for id in self.selected if (y := self.layer(id)) is not None]
        return [y.id for y in chosen if y.id in states and not y.locked and states[y.id].spread == OWN]

    def states(self) -> dict[str, LayerState]:
        """What every layer of the canvas shows, where edits go."""
        view = self.view
        if view is None:
            return {}
        return {id: state for (c, id), state in state_of(self.stage, view).items() if c == view.canvas}

    def settings(self, id: str, states: Mapping[str, LayerState] | None = None) -> LayerSettings | None:
        """The same of one layer, as in a document, in pixels."""
        canvas, state = self.canvas, (self.states() if states is None else states).get(id)
        return None if canvas is None or state is None else settings_of(state, canvas.width, canvas.height)

    def edited(self) -> frozenset[Cell]:
        """What was changed upon what is on preview."""
        return frozenset(((e.canvas, e.layer), kind) for e in self.stage.edits for _, kind, _ in e.held)

    def _shown(self) -> None:
        """The show is another one: `changed` only if that changes what is built on, `moved` otherwise."""
        canvas = self.canvas
        known = {y.id for y in canvas.layers} if canvas is not None else set()
        chosen = tuple(id for id in self.selected if id in known)
        gone = self.on == "blind" and (self.number is None or self.show.preset(self.number) is None)
        parts = ([(c.id, c.name, c.width, c.height) for c in self.show.canvases], canvas and canvas.layers)
        same = chosen == self.selected and not gone and parts == self._parts
        self.selected, self._parts = chosen, parts
        if gone:
            self.on, self.number = "preview", None
        (self.moved if same else self.changed).emit()

    def _follow(self) -> None:
        """A surface selected elsewhere brings its canvas, unless this one feeds it too."""
        surface, here = self.session.surface, self.canvas
        if surface is not None:
            fed_by = [canvas.id for canvas, _ in surface_rects(self.show, surface)]
            if fed_by and (here is None or here.id not in fed_by):
                self.choose_canvas(fed_by[0])

    # -- edits ---------------------------------------------------------------------------------------------------

    def put(self, words: str, values: Values, gesture: object = None) -> bool:
        """Give layers other settings, where edits go; ``words`` name the step for undo.  Says whether it was done: what
        cannot be is told.
        """
        canvas, view = self.canvas, self.view
        if canvas is None or view is None or not values:
            return False
        parts = [self._part(canvas.id, id, kinds) for id, kinds in values.items()]
        if self.on == "blind":
            return self.session.try_edit(words, lambda show: _in_preset(show, self.number, parts), gesture)
        goes_on = gesture is not None and gesture == self._gesture
        if self.on == "preview":
            self._remember(gesture)
        self._gesture = gesture
        for n, part in enumerate(parts):
            self.session.playout.act(
                Edit(canvas=part.canvas, layer=part.layer, set=part.holds, on=self.on, goes_on=goes_on or n > 0)
            )
        self.moved.emit()
        return True

    def _part(self, canvas: str, layer: str, kinds: Mapping[str, Any]) -> Part:
        part = Part(canvas=canvas, layer=layer)
        for name, value in kinds.items():
            how: How = "snapped" if self.on == "program" and name != "picture" else BY_NAME[name].arrives
            part = with_held(part, name, value, how)
        return part

    def _remember(self, gesture: object) -> None:
        """Keep the preview for undo, once for each gesture."""
        if gesture is not None and gesture == self._gesture:
            return
        stage = self.stage
        self._former.append(Former(self.session.filing, self.session.edits, stage.staged, stage.edits))
        del self._former[:-STEPS]

    def undo(self) -> bool:
        """Take back the last edit on preview, unless the show was edited since; says whether there was one."""
        session = self.session
        while self._former and (
            self._former[-1].filing is not session.filing or self._former[-1].edits > session.edits
        ):
            self._former.pop()  # another show is open, or this one was taken back to before it
        if self.on != "preview" or not self._former or self._former[-1].edits < session.edits:
            return False
        former = self._former.pop()
        self._gesture = None
        session.playout.act(SetPreview(preset=former.staged, edits=former.preview))
        self.undone.emit()
        return True

    # -- layers --------------------------------------------------------------------------------------------------

    def add_layer(self, name: str = "", colour: str = "#9FB0B1") -> str | None:
        """A layer on top that shows nothing yet; gives its id."""
        canvas = self.canvas
        if canvas is None:
            self.session.trouble.emit("The show has no canvas; make one in Map first.")
            return None
        above = self.selected[-1] if self.selected else None
        layer = fresh_layer(canvas, colour, name)
        if not self.session.try_edit(f"Add {layer.name}", lambda show: with_layer(show, canvas.id, layer, above)):
            return None
        self.select((layer.id,))
        return layer.id

    def drop(self, source: str, at: tuple[float, float], fitted: bool = False) -> str | None:
        """Show a source where it was dropped: in the layer there that is selected, else on the surface there, else on
        free canvas; gives the layer.
        """
        canvas = self.canvas
        if canvas is None or all(s.id != source for s in self.show.sources):
            return None
        face, states = face_at(self.faces(), at), self.states()
        there = next((id for id in self.selected if id in states and holds(states[id].place, at)), None)
        if there is None and face is not None:
            there = layer_covering(canvas, states, box_of_rect(face.rect))
        if there is not None:
            self.show_in(there, source)
            self.select((there,))
            return there
        if face is not None:
            box = box_of_rect(face.rect)
        elif fitted:
            box = same_shape((0, 0, canvas.width, canvas.height), *self.size_of(source))
        else:
            box = whole(about(at, *self.size_of(source)))
        return self.show_in_new_layer(source, box)

    def show_in(self, layer: str, source: str) -> None:
        """A source in a layer, in place of what it shows."""
        state = self.states().get(layer)
        if state is not None:
            usual = {kind: value for kind, value in self._usual(source).items() if kind != "place"}
            seen = {} if state.opacity > 0 else {"opacity": 1.0}
            picture = Picture.model_validate({"source": source, "fit": by_share(state.picture)[0].fit})
            self.put("Picture", {layer: {**seen, **usual, "picture": picture}})

    def _usual(self, source: str) -> dict[str, Any]:
        """What the usual finishes of a source make, laid one over another."""
        finishes = {f.id: f for f in self.show.finishes}
        return dict(laid(finishes[id] for id in self.show.source(source).finishes if id in finishes))

    def show_in_new_layer(self, source: str, box: Box) -> str | None:
        """A source in a layer of its own, in a box."""
        found = self.show.source(source)
        self.selected = ()
        id = self.add_layer(found.name, found.colour)
        if id is not None:
            made = {"place": Place.of_box(box), "opacity": 1.0, **self._usual(source)}
            self.put("Place", {id: {**made, "picture": Picture(source=source)}})
        return id

    def faces(self) -> list[Face]:
        """What every surface shows of the canvas."""
        canvas = self.canvas
        return [] if canvas is None else faces_on(self.show, canvas.id)

    def size_of(self, source: str) -> tuple[float, float]:
        """Width and height of a source's picture in pixels; of one that has none yet, 1920 × 1080."""
        frame = self.session.playout.picture_of(source)
        if frame is None:
            found: Any = self.show.source(source)
            return float(getattr(found, "width", 1920)), float(getattr(found, "height", 1080))
        return float(frame.pixels.shape[1]), float(frame.pixels.shape[0])

    def remove(self) -> None:
        """Take the selected layers out of the show; those that are on air stay."""
        canvas, ids = self.canvas, self.selected
        if canvas is None or not ids:
            return
        air = self.stage.program.target
        lit = [y.name for y in canvas.layers if y.id in ids and is_seen(air.get((canvas.id, y.id), NOTHING))]
        if lit:
            self.session.trouble.emit(f"{lit[0]} is on air; take it off first, or hide it on preview and take.")
            return
        numbers = naming(self.show, canvas.id, ids)
        if self.session.try_edit("Remove layers", lambda show: without_layers(show, canvas.id, ids)) and numbers:
            listed = ", ".join(str(n) for n in numbers)
            self.session.trouble.emit(f"Presets that stored them hold nothing of them any more: {listed}.")

    def change(self, words: str, make: Callable[[Show, str], Show]) -> None:
        """Edit the show, of this canvas."""
        canvas = self.canvas
        if canvas is not None:
            self.session.try_edit(words, lambda show: make(show, canvas.id))

    def name(self, id: str, name: str) -> None:
        """Give a layer another name."""
        name = name.strip()
        self.change(f"Rename {name}", lambda show, canvas: with_changed_layer(show, canvas, id, name=name))

    def _chosen(self) -> list[Layer]:
        return [y for id in self.selected if (y := self.layer(id)) is not None]

    def _each(self, words: str, **fields: object) -> None:
        """Other fields for all selected layers."""

        def made(show: Show, canvas: str) -> Show:
            for id in self.selected:
                show = with_changed_layer(show, canvas, id, **fields)
            return show

        self.change(words, made)

    def lock(self) -> None:
        """Lock the selected layers, or unlock them if all are."""
        on = not all(y.locked for y in self._chosen())
        self._each("Lock" if on else "Unlock", locked=on)

    def come_or_go(self, which: str, text: str) -> None:
        """Have the selected layers appear (``comes``), or disappear (``goes``), by a transition in words; by a fade if
        there are none.

        Raises
        ------
        ShowError
            If they name no transition.
        """
        way = way_from(text, self.show)
        self._each("How it comes" if which == "comes" else "How it goes", **{which: way})

    def try_take(self) -> None:
        """Play the take of what is on preview again and again where preview is looked at, or no longer."""
        self.trying = not self.trying
        if self.trying and self.on != "preview":
            self.on, self.number = "preview", None
        self.changed.emit()

    def group(self) -> None:
        """Put the selected layers into a group, or take them out of theirs if they are one."""
        canvas, groups = self.canvas, {y.group for y in self._chosen()}
        if canvas is None or len(self.selected) < 2:
            return
        together = len(groups) == 1 and "" not in groups
        fresh = "" if together else new_id("group", {y.group for y in canvas.layers})
        self._each("Ungroup" if together else "Group", group=fresh)

    def step(self, by: int) -> None:
        """The selected layers one up or down."""
        self.change("Order", lambda show, canvas: stepped_layers(show, canvas, self.selected, by))

    def order(self, ids: Iterable[str], to: int) -> None:
        """Layers to another height, counted from below."""
        self.change("Order", lambda show, canvas: moved_layers(show, canvas, tuple(ids), to))

    def duplicate(self) -> None:
        """Copies of the selected layers, above them, as they are where edits go."""
        if self.canvas is not None and self.selected:
            self.clipboard = (self.canvas.id, self.selected)
            self.paste(shift=24.0)

    def copy(self) -> None:
        """Remember the selected layers for `paste`."""
        if self.canvas is not None and self.selected:
            self.clipboard = (self.canvas.id, self.selected)

    def paste(self, shift: float = 0.0) -> None:
        """Copies of the layers that were copied, on this canvas."""
        canvas = self.canvas
        if canvas is None or self.clipboard is None:
            return
        origin, ids = self.clipboard
        known = {y.id for c in self.show.canvases if c.id == origin for y in c.layers}
        ids = tuple(id for id in ids if id in known)
        if not ids:
            return
        state = state_of(self.stage, View(origin, self.on, self.number))
        made: list[tuple[str, ...]] = []

        def pasted(show: Show) -> Show:
            new, fresh = copied_layers(show, origin, ids, canvas.id)
            made.append(fresh)
            return new

        if not self.session.try_edit("Paste layers", pasted):
            return
        source = self.show.canvas(origin)
        old = [y.id for y in source.layers if y.id in ids]
        values: dict[str, dict[str, Any]] = {}
        for before, after in zip(old, made[-1], strict=True):
            if (origin, before) in state:
                settings = settings_of(state[origin, before], source.width, source.height)
                values[after] = {name: getattr(settings, name) for name in BY_NAME}
                place = values[after]["place"]
                values[after]["place"] = place.model_copy(update={"x": place.x + shift, "y": place.y + shift})
        self.put("Paste layers", values)
        self.select(made[-1])

    def hide(self) -> None:
        """Hide the selected layers, or show them if all are hidden."""
        states = self.states()
        chosen = [id for id in self.selected if id in states]
        hidden = all(states[id].opacity == 0 for id in chosen)
        self.put("Show" if hidden else "Hide", {id: {"opacity": 1.0 if hidden else 0.0} for id in chosen})

    def solo(self) -> None:
        """Hide all others of the canvas."""
        if self.on == "program":
            self.session.trouble.emit("Solo works on preview and blind: on program it would take all else off the air.")
            return
        others = {id: {"opacity": 0.0} for id, s in self.states().items() if id not in self.selected and s.opacity > 0}
        self.put("Solo", others)


def _in_preset(show: Show, number: int | None, parts: list[Part]) -> Show:
    """A show with parts laid over those of a preset."""
    preset = preset_of(show, number)
    held = {(p.canvas, p.layer): p for p in preset.parts}
    for part in parts:
        there = held.get((part.canvas, part.layer), Part(canvas=part.canvas, layer=part.layer))
        for _, name, new in part.held:
            was = getattr(there.holds, name)
            there = with_held(there, name, new.to, new.how if was is None else was.how, like=was)
        held[part.canvas, part.layer] = there
    return with_preset(show, preset.model_copy(update={"parts": tuple(held.values())}))
