"""Actions on canvases, on what is rigged, and on the guide picture."""

from __future__ import annotations

from pathlib import Path
from typing import cast

from PySide6.QtWidgets import QFileDialog

from ushering_adze.core.layout.find import Found
from ushering_adze.core.layout.from_surface import (
    canvas_sizes,
    new_canvas,
    placed_as_hung,
    placed_side_by_side,
    with_surface_regions,
    without_canvas,
)
from ushering_adze.core.layout.regions import (
    added,
)
from ushering_adze.core.show import Guide, Show
from ushering_adze.core.show.edits import changed, with_canvas
from ushering_adze.desk.map.acting import Acting
from ushering_adze.desk.map.prompt import whole
from ushering_adze.io.exchange.guide import GUIDE_SUFFIXES


class CanvasActions(Acting):
    """Canvases, regions of whole surfaces, guide pictures."""

    def from_surface(self) -> None:
        """Make all regions of a surface as it is rigged."""
        show = self._session.show
        if not show.surfaces:
            self._session.trouble.emit("Nothing is rigged yet; describe a surface in Rig (Alt+1) first.")
            return
        canvas = self._home()
        surfaces = sorted(show.surfaces, key=lambda s: s.id != self._session.surface)

        def act(surface: object, output: object, x: object, y: object, behind: object) -> None:
            at = (whole(x, "x"), whole(y, "y"))
            made, ids = with_surface_regions(self._session.show, str(surface), canvas.id, str(output), at, bool(behind))
            self._session.edit(f"Regions of {show.surface(str(surface)).name}", made)
            self._session.select_regions(ids)

        output = self._lands_on()
        outputs = sorted(show.outputs, key=lambda o: o.id != output)
        self._ask("Make the regions of a surface", [
            ("Surface", [(f"{s.name}  {s.pixels[0]}×{s.pixels[1]}", s.id) for s in surfaces]),
            ("First output", [(f"{o.number} {o.name}", o.id) for o in outputs]), ("x on the canvas", "0"), ("y on the canvas", "0"),
            ("Gaps between columns", [("the picture goes on behind them", True), ("the picture closes up", False)])], "Make", act,
            hint="missing cabinets leave holes, pixels behind edges are left out, projectors overlap, turned monitors are cut out turned; "
                 "what fed the surface before is replaced")

    def as_hung(self) -> None:
        """The selected surfaces as they hang; the picture goes on behind the gaps between them."""
        self._edit("Place as hung", lambda s: placed_as_hung(s, self.ids), 2)

    def side_by_side(self) -> None:
        """The selected surfaces side by side in the middle of the canvas."""
        self._edit("Place side by side", lambda s: placed_side_by_side(s, self.ids))

    # -- canvases -----------------------------------------------------------------------------------------------

    def add_canvas(self) -> None:
        """One more canvas, of a size that follows from what is rigged or is typed."""
        sizes = canvas_sizes(self._session.show)

        def act(name: object, size: object, typed: object) -> None:
            width, height = _size(str(typed)) if str(typed).strip() else cast(tuple[int, int], tuple(cast(tuple[int, int], size)))
            made, id = new_canvas(self._session.show, str(name).strip() or "Canvas", width, height)
            self._session.edit(f"Add canvas {name}", made)
            self._show_canvas(id)

        self._ask("Add a canvas", [("Name", "Canvas"), ("Size", [(f"{s.words}: {s.width}×{s.height}", (s.width, s.height)) for s in sizes]),
                                   ("or typed, like 4112x2040", "")], "Add", act)

    def edit_canvas(self) -> None:
        """Name, size, rate and background of the canvas on view."""
        canvas = self._home()

        def act(name: object, size: object, preset: object, rate: object, background: object) -> None:
            width, height = cast(tuple[int, int], tuple(cast(tuple[int, int], preset))) if preset else _size(str(size))
            value = changed(canvas, name=str(name), width=width, height=height, background=str(background),
                            rate=float(str(rate).replace(",", ".")) if str(rate).strip() else None)
            self._session.edit(f"Canvas {canvas.name}", with_canvas(self._session.show, value))

        presets = [("as typed", None), *((f"{s.words}: {s.width}×{s.height}", (s.width, s.height)) for s in canvas_sizes(self._session.show))]
        self._ask(f"Canvas {canvas.name}", [
            ("Name", canvas.name), ("Size, px", f"{canvas.width}x{canvas.height}"), ("or the size of what is rigged", presets),
            ("Pictures a second (empty: the show's)", "" if canvas.rate is None else f"{canvas.rate:g}"), ("Background", canvas.background)],
            "Change", act)

    def remove_canvas(self) -> None:
        """Take the canvas on view out of the show, with its layers and regions."""
        canvas = self._home()
        self._session.try_edit(f"Remove canvas {canvas.name}", lambda s: without_canvas(s, canvas.id))

    # -- the guide ----------------------------------------------------------------------------------------------

    def ask_guide(self, on_output: bool = False) -> None:
        """Choose a guide picture for the canvas, or for the raster of the output on view."""
        path, _ = QFileDialog.getOpenFileName(self._owner.window(), "Guide picture", str(self._session.root),
                                              f"Pictures (*{' *'.join(GUIDE_SUFFIXES)})")
        if path:
            self.set_guide(Path(path), on_output)

    def set_guide(self, path: Path, on_output: bool = False) -> None:
        """Lay a picture under the canvas or the raster."""
        self._with_guide("Guide picture", Guide(path=_near(path, self._session.root)), on_output)

    def guide(self, on_output: bool = False) -> Guide | None:
        """The guide of the canvas, or of the raster."""
        if on_output:
            id = self._output()
            return None if id is None else self._session.show.output(id).guide
        canvas = self._canvas()
        return None if canvas is None else canvas.guide

    def _with_guide(self, label: str, guide: Guide | None, on_output: bool = False, gesture: object = None) -> None:
        def make(show: Show) -> Show:
            if on_output:
                return show.model_copy(update={"outputs": tuple(
                    o.model_copy(update={"guide": guide}) if o.id == self._lands_on() else o for o in show.outputs)})
            return with_canvas(show, self._home().model_copy(update={"guide": guide}))

        self._session.try_edit(label, make, gesture)

    def change_guide(self, on_output: bool = False, **fields: object) -> None:
        """Opacity, place, lock of the guide; a locked one moves only when it is unlocked."""
        guide = self.guide(on_output)
        if guide is None:
            self._session.trouble.emit("There is no guide picture here yet; load one first.")
            return
        if guide.locked and {"x", "y"} & set(fields):
            self._session.trouble.emit("The guide picture is locked; unlock it to move it.")
            return
        self._with_guide("Guide picture", changed(guide, **fields), on_output, "guide opacity" if set(fields) == {"opacity"} else None)

    def remove_guide(self, on_output: bool = False) -> None:
        """Take the guide away."""
        self._with_guide("Remove the guide picture", None, on_output)

    def find(self) -> None:
        """Look for rectangles in the guide."""
        guide = self.guide()
        if guide is None:
            self._session.trouble.emit("There is no guide picture under this canvas yet; load one first.")
            return
        self._guides.search(guide)

    def accept(self, found: Found | None = None) -> None:
        """Make regions of what was found: of one, or of all."""
        guide = self.guide()
        if guide is None:
            return
        wanted = [found] if found is not None else self._guides.found.get(self._guides.path(guide), [])
        if not wanted:
            self._session.trouble.emit("Nothing is found yet; look for rectangles in the guide picture first.")
            return
        rects = [f.rect.moved(guide.x, guide.y) for f in wanted]
        self._make(f"Accept {len(rects)} found", lambda s: added(s, self._home().id, rects, self._lands_on(), [], [f.colour for f in wanted]))
        self._guides.forget(guide, found)


def _size(text: str) -> tuple[int, int]:
    """Two sides from ``4112x2040``.  Raises ValueError with a sentence."""
    parts = text.lower().replace("×", "x").replace(" ", "").split("x")
    if len(parts) != 2:
        raise ValueError(f'"{text}" is no size; type for example 4112x2040')
    return whole(parts[0], "the width"), whole(parts[1], "the height")


def _near(path: Path, root: Path) -> str:
    """A path as the show keeps it: from its own folder if it lies in there."""
    path, root = path.resolve(), root.resolve()
    return path.relative_to(root).as_posix() if path.is_relative_to(root) else str(path)
