"""Actions on canvases, and on what is rigged."""

from __future__ import annotations

from typing import cast

from ushering_adze.core.mapping.from_surface import (
    canvas_sizes,
    new_canvas,
    placed_as_hung,
    placed_side_by_side,
    with_surface_regions,
    without_canvas,
)
from ushering_adze.core.show.edits import changed, with_canvas
from ushering_adze.desk.drafting.prompt import whole
from ushering_adze.desk.map.acting import Acting


class CanvasActions(Acting):
    """Canvases, and regions of whole surfaces."""

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
        self._ask(
            "Make the regions of a surface",
            [
                ("Surface", [(f"{s.name}  {s.pixels[0]}×{s.pixels[1]}", s.id) for s in surfaces]),
                ("First output", [(f"{o.number} {o.name}", o.id) for o in outputs]),
                ("x on the canvas", "0"),
                ("y on the canvas", "0"),
                ("Gaps between columns", [("the picture goes on behind them", True), ("the picture closes up", False)]),
            ],
            "Make",
            act,
            hint="missing cabinets leave holes, pixels behind edges are left out, projectors overlap, turned monitors "
            "are cut out turned; what fed the surface before is replaced",
        )

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
            width, height = (
                _size(str(typed)) if str(typed).strip() else cast(tuple[int, int], tuple(cast(tuple[int, int], size)))
            )
            made, id = new_canvas(self._session.show, str(name).strip() or "Canvas", width, height)
            self._session.edit(f"Add canvas {name}", made)
            self._show_canvas(id)

        self._ask(
            "Add a canvas",
            [
                ("Name", "Canvas"),
                ("Size", [(f"{s.words}: {s.width}×{s.height}", (s.width, s.height)) for s in sizes]),
                ("or typed, like 4112x2040", ""),
            ],
            "Add",
            act,
        )

    def edit_canvas(self) -> None:
        """Name, size, rate and background of the canvas on view."""
        canvas = self._home()

        def act(name: object, size: object, preset: object, rate: object, background: object) -> None:
            width, height = cast(tuple[int, int], tuple(cast(tuple[int, int], preset))) if preset else _size(str(size))
            value = changed(
                canvas,
                name=str(name),
                width=width,
                height=height,
                background=str(background),
                rate=float(str(rate).replace(",", ".")) if str(rate).strip() else None,
            )
            self._session.edit(f"Canvas {canvas.name}", with_canvas(self._session.show, value))

        presets = [
            ("as typed", None),
            *((f"{s.words}: {s.width}×{s.height}", (s.width, s.height)) for s in canvas_sizes(self._session.show)),
        ]
        self._ask(
            f"Canvas {canvas.name}",
            [
                ("Name", canvas.name),
                ("Size, px", f"{canvas.width}x{canvas.height}"),
                ("or the size of what is rigged", presets),
                ("Pictures a second (empty: the show's)", "" if canvas.rate is None else f"{canvas.rate:g}"),
                ("Background", canvas.background),
            ],
            "Change",
            act,
        )

    def remove_canvas(self) -> None:
        """Take the canvas on view out of the show, with its layers and regions."""
        canvas = self._home()
        self._session.try_edit(f"Remove canvas {canvas.name}", lambda s: without_canvas(s, canvas.id))


def _size(text: str) -> tuple[int, int]:
    """Two sides from ``4112x2040``.  Raises ValueError with a sentence."""
    parts = text.lower().replace("×", "x").replace(" ", "").split("x")
    if len(parts) != 2:
        raise ValueError(f'"{text}" is no size; type for example 4112x2040')
    return whole(parts[0], "the width"), whole(parts[1], "the height")
