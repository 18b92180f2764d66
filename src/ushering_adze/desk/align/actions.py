"""The actions of Align, and how each is called: the one list that menus, finder and keys are made from."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFileDialog, QWidget

from ushering_adze.core.light.share import contrast_cost
from ushering_adze.core.light.white import brightness_of, even_grid, with_brightness
from ushering_adze.core.mapping.align_data import (
    align_document,
    read_align_data,
    straightened,
    with_align_data,
    with_blend,
    with_lock,
)
from ushering_adze.core.mapping.bend import (
    arc_degrees,
    as_mesh,
    as_quad,
    checked_bend,
    curved,
    keystoned,
    mirrored,
    points_of,
    with_points,
)
from ushering_adze.core.show import BlackMatch, Blend, Edge, Edges, Fault, Projection, Region, Show, ShowError
from ushering_adze.core.show.edits import changed, with_output, with_region
from ushering_adze.desk.align.asking import Asking, checked, number, numbers, white_of
from ushering_adze.desk.align.raster import AlignRaster
from ushering_adze.desk.session import Session
from ushering_adze.desk.tools import Named
from ushering_adze.io.asking import read_text
from ushering_adze.io.exchange.bends import write_bend
from ushering_adze.io.writing import write_whole

CURVES = (("power", "power"), ("cosine", "cosine"), ("straight", "straight"))


class AlignActions(Asking):
    """Acts on the surface being aligned, and on the region whose raster is on view."""

    auto_asked = Signal()

    def __init__(
        self, session: Session, raster: AlignRaster, surface: Callable[[], str | None], owner: QWidget
    ) -> None:
        super().__init__(session, raster, surface, owner)
        self._kept: Region | None = None

    # -- means ---------------------------------------------------------------------------------------------------

    def _screen(self) -> Projection:
        id = self._surface()
        surface = self._session.show.surface(id) if id is not None else None
        if not isinstance(surface, Projection):
            raise ShowError([Fault("", "this is about projections; choose one above")])
        return surface

    def _bend(self, label: str, make: Callable[[Region], Region], strict: bool = False) -> None:
        def edit(show: Show) -> Show:
            region = self._region()
            return with_region(show, checked_bend(make(region), show.output(region.output)))

        if strict:
            self._session.edit(label, edit(self._session.show))
        else:
            self._session.try_edit(label, edit)
        self.raster.choose(set())

    def _light(self, label: str, **fields: object) -> None:
        output = self._output()
        self._session.edit(label, with_output(self._session.show, changed(output, **fields)))

    # -- shape ---------------------------------------------------------------------------------------------------

    def quad(self) -> None:
        """Four corners."""
        self._bend("Four corners", as_quad)

    def mesh(self, columns: int, rows: int) -> None:
        """A mesh of so many points, taken from the bend as it is."""
        self._bend(f"Mesh {columns} × {rows}", lambda r: as_mesh(r, columns, rows))

    def ask_mesh(self) -> None:
        """A mesh by numbers."""

        def act(columns: object, rows: object, spans: object) -> None:
            c, r = (int(number(v, w, 2, 33)) for v, w in ((columns, "columns"), (rows, "rows")))
            self._bend(f"Mesh {c} × {r}", lambda region: as_mesh(region, c, r, spans), True)  # type: ignore[arg-type]

        self._ask(
            "Mesh",
            [
                ("Points across", "9"),
                ("Points down", "7"),
                ("Between them", (("smooth", "smooth"), ("straight", "straight"))),
            ],
            "Make the mesh",
            act,
            "Takes over the bend as it is; nothing is lost.",
        )

    def plain(self) -> None:
        """The landings of the whole surface as rectangles again."""
        surface = self._surface()
        if surface is not None:
            self._session.try_edit("Plain rectangles", lambda s: straightened(s, surface))
            self.raster.choose(set())

    def ask_keystone(self) -> None:
        """Corners from angles."""

        def act(across: object, down: object, roll: object, throw: object) -> None:
            a, b = number(across, "the angle across", -60, 60), number(down, "the angle down", -60, 60)
            c, t = number(roll, "the roll", -180, 180), number(throw, "the throw ratio", 0.2, 20)
            timing = self._output().timing
            landing = keystoned(timing.width, timing.height, a, b, c, t)
            self._bend("Keystone", lambda r: r.model_copy(update={"landing": landing}), True)

        self._ask(
            "Keystone by angles",
            [
                ("Turned to the right, °", "0"),
                ("Tilted up, °", "0"),
                ("Rolled clockwise, °", "0"),
                ("Throw ratio", "1.8"),
            ],
            "Set the corners",
            act,
            "How the projector stands; the corners make up for it.",
        )

    def ask_curve(self) -> None:
        """A mesh for a curved screen."""

        def act(radius: object, width: object, bow: object) -> None:
            r = number(radius, "the radius", -1e6, 1e6)
            w = number(width, "the width", 1, 1e6)
            share = number(bow, "the bow", -50, 50) / 100
            self._bend("Curved screen", lambda region: curved(region, 9, 7, arc_degrees(w, r), share), True)

        id = self._region().surface
        size = self._session.show.surface(id).size_mm if id is not None else None
        wide = f"{size[0]:g}" if size else "4000"
        self._ask(
            "Curved screen",
            [("Radius in mm, below 0 if it bulges", "6000"), ("Width along the curve, mm", wide), ("Bow, %", "0")],
            "Make the mesh",
            act,
            "A cylinder seen by this projector; bow is how far lines sag in the middle, as seen from above.",
        )

    def mirror(self, across: bool) -> None:
        """The bend mirrored."""
        timing = self._output().timing
        self._bend("Mirror the bend", lambda r: mirrored(r, (timing.width, timing.height), across))

    def copy(self) -> None:
        """Keep the bend."""
        self._kept = self._region()

    def paste(self) -> None:
        """Lay the kept bend on this region."""
        kept = self._kept
        if kept is None:
            self._session.trouble.emit("No bend is copied yet; copy one first.")
            return
        self._bend("Paste a bend", lambda r: r.model_copy(update={"landing": kept.landing}))

    def resample(self, how: str) -> None:
        """How pixels between pixels are made."""

        def make(region: Region) -> Region:
            bent = region if region.landing.kind != "rect" else as_quad(region)
            return bent.model_copy(update={"landing": bent.landing.model_copy(update={"resampling": how})})

        self._bend(f"Resampling {how}", make)

    def ask_point(self) -> None:
        """The places of the selected points by numbers."""
        chosen = sorted(self.raster.chosen)
        region = self._region()
        if len(chosen) != 1:
            self._session.trouble.emit("Select one point first; its place is typed then.")
            return
        points = points_of(region.landing)

        def act(x: object, y: object) -> None:
            points[chosen[0]] = number(x, "x", -1e5, 1e5), number(y, "y", -1e5, 1e5)
            self._bend(f"Place a point of {region.name}", lambda r: with_points(r, points), True)

        self._ask(
            f"Point {chosen[0] + 1}",
            [("x, pixels of the raster", f"{points[chosen[0]][0]:g}"), ("y", f"{points[chosen[0]][1]:g}")],
            "Place it",
            act,
        )

    # -- light ---------------------------------------------------------------------------------------------------

    def ask_blend(self) -> None:
        """Curve and exponent of the whole screen."""
        screen = self._screen()

        def act(curve: object, exponent: object) -> None:
            blend = Blend(curve=curve, exponent=number(exponent, "the exponent", 0.25, 8))  # type: ignore[arg-type]
            self._session.edit("Blend curve", with_blend(self._session.show, screen.id, blend))

        self._ask(
            "Blend curve",
            [("Curve", CURVES), ("Exponent of the power curve", f"{screen.blend.exponent:g}")],
            "Set it",
            act,
            f"Now {screen.blend.curve}, exponent {screen.blend.exponent:g}. 1 is a straight line; 2 is gentle at "
            "both ends.",
        )

    def ask_edges(self) -> None:
        """Blends by hand, along each edge."""
        region = self._region()
        now = region.edges or Edges()
        fields: list[Any] = [
            (
                f"{side.capitalize()}: width, start (px)",
                f"{e.width:g} {e.start:g}" if (e := getattr(now, side)) else "0 0",
            )
            for side in ("left", "top", "right", "bottom")
        ]

        def act(
            left: object, top: object, right: object, bottom: object, curve: object, exponent: object, gamma: object
        ) -> None:
            made = {}
            for side, text in (("left", left), ("top", top), ("right", right), ("bottom", bottom)):
                parts = str(text).split()
                width = number(parts[0] if parts else "0", f"the width {side}", 0, 32768)
                start = number(parts[1] if len(parts) > 1 else "0", f"the start {side}", 0, 32768)
                if width > (region.w if side in ("left", "right") else region.h):
                    raise ValueError(
                        f"an overlap of {width:g} px is wider than the picture ({region.w} × {region.h} px); make it "
                        "smaller"
                    )
                power, bent = number(exponent, "the exponent", 0.25, 8), number(gamma, "gamma", 0.1, 10)
                made[side] = (
                    Edge(width=width, start=min(start, width), curve=curve, exponent=power, gamma=bent)
                    if width > 0
                    else None
                )  # type: ignore[arg-type]
            edges = Edges(**made) if any(made.values()) else None
            self._bend("Blend by hand", lambda r: r.model_copy(update={"edges": edges}), True)

        self._ask(
            "Blend by hand",
            [*fields, ("Curve", CURVES), ("Exponent", "2"), ("Gamma of the ramp", "1")],
            "Set it",
            act,
            "Widths from each edge inwards; all 0 leaves the blend to the geometry.",
        )

    def ask_black(self) -> None:
        """The light in black of this output's projector."""
        output = self._output()
        projector = next((p for p in self._screen().projectors if p.id == self._region().projector), None)
        contrast = projector.contrast if projector is not None else 2000
        now = output.black.leak if output.black is not None else (1 / contrast,) * 3
        alone, matched = contrast_cost(now, 2)

        def act(red: object, green: object, blue: object, soft: object) -> None:
            leak = tuple(number(v, w, 0, 50) / 100 for v, w in ((red, "red"), (green, "green"), (blue, "blue")))
            black = BlackMatch(leak=leak, soft=number(soft, "the soft border", 0, 200)) if any(leak) else None  # type: ignore[arg-type]
            self._light(f"Black level of {output.name}", black=black)

        self._ask(
            "Black level",
            [(f"{c}, % of white", f"{100 * v:.4g}") for c, v in zip(("Red", "Green", "Blue"), now, strict=True)]
            + [("Soft border, px", f"{output.black.soft if output.black else 2:g}")],
            "Match blacks",
            act,
            "What the projector gives in black. Parts with fewer pictures are lifted to those with more; all 0 turns "
            f"it off. Where two overlap this takes the contrast everywhere from {alone:.0f}:1 to {matched:.0f}:1.",
        )

    def ask_colour(self) -> None:
        """White point and gamma of this output."""
        output = self._output()
        now = output.picture
        measured = " ".join(f"{100 * v:.4g}" for v in now.response or ())

        def act(white: object, gamma: object, response: object) -> None:
            table = (
                tuple(v / 100 for v in numbers(response, len(str(response).split()), "the measured light", 0, 100))
                or None
            )
            picture = checked(now, white=white_of(white), gamma=number(gamma, "gamma", 0.5, 5), response=table)
            self._light(f"Colour of {output.name}", picture=picture)

        self._ask(
            "Colour",
            [
                ("White, kelvin or x y", f"{now.white.x:g} {now.white.y:g}" if now.white else ""),
                ("Gamma", f"{now.gamma:g}"),
                ("Light measured at even codes, %", measured),
            ],
            "Set it",
            act,
            "An empty white leaves it. What is measured rises from 0 to 100; the picture is then sent so that the "
            "gamma holds.",
        )

    def ask_even(self) -> None:
        """Brightness over this output's raster, by hand."""
        output = self._output()
        grid = output.picture.uniformity or even_grid(3, 3)
        fields = [
            (f"Row {n}, left to right, %", " ".join(f"{100 * v:.4g}" for v in row))
            for n, row in enumerate(brightness_of(grid), 1)
        ]

        def act(*typed: object) -> None:
            rows = [
                [v / 100 for v in numbers(text, grid.columns, f"row {n}", 0, 100)] for n, text in enumerate(typed, 1)
            ]
            self._light(
                f"Brightness over {output.name}",
                picture=checked(output.picture, uniformity=with_brightness(grid, rows)),
            )

        self._ask(
            "Brightness over the raster",
            fields,
            "Set it",
            act,
            f"{grid.columns} × {grid.rows} points, at the corners and evenly between. Colours stay as they are to one "
            "another.",
        )

    def clear_light(self) -> None:
        """Take uniformity, white and black matching away from this output."""
        output = self._output()
        picture = output.picture.model_copy(update={"uniformity": None, "white": None, "response": None})
        self._session.try_edit(
            f"Plain light on {output.name}",
            lambda s: with_output(s, output.model_copy(update={"picture": picture, "black": None})),
        )

    # -- the whole -----------------------------------------------------------------------------------------------

    def lock(self) -> None:
        """Lock the alignment of the surface, or free it."""
        surface = self._surface()
        if surface is not None:
            now = self._session.show.alignment(surface).locked
            self._session.try_edit(
                "Unlock the alignment" if now else "Lock the alignment", lambda s: with_lock(s, surface, not now)
            )

    def save(self) -> None:
        """The alignment into a file of its own."""
        surface = self._surface()
        path, _ = QFileDialog.getSaveFileName(
            self._owner.window(),
            "Save the alignment",
            str(self._session.root / f"{surface}.align.json"),
            "Alignments (*.json)",
        )
        if path and surface is not None:
            document = json.dumps(align_document(self._session.show, surface), indent=1) + "\n"
            self.tried(lambda: write_whole(Path(path), document.encode(), "the alignment"))

    def load(self) -> None:
        """An alignment from a file."""
        path, _ = QFileDialog.getOpenFileName(
            self._owner.window(), "Load an alignment", str(self._session.root), "Alignments (*.json)"
        )
        if path:
            self.tried(lambda: self.load_from(Path(path)))

    def load_from(self, path: Path) -> None:
        """The same, by its path.  Raises ShowError."""
        try:
            document = json.loads(read_text(path, "file of an alignment"))
        except ShowError:
            raise
        except (RecursionError, ValueError) as error:
            raise ShowError(
                [
                    Fault(
                        path.name,
                        f"it cannot be read as JSON ({type(error).__name__}); choose a file that Align has written",
                    )
                ]
            ) from None
        data = read_align_data(document)
        self._session.edit(f"Alignment from {path.name}", with_align_data(self._session.show, data, self._surface()))

    def export(self) -> None:
        """Maps, weights or mesh of this output into a file."""
        region = self._region()
        start = str(self._session.root / f"{region.id}.png")
        path, _ = QFileDialog.getSaveFileName(
            self._owner.window(),
            "Export maps, weights or mesh",
            start,
            "Weights (*.png *.tiff);;Maps (*.npz);;Mesh (*.obj *.csv)",
        )
        if path:
            self.tried(lambda: write_bend(self._session.show, region.id, Path(path)))


def named_actions(a: AlignActions, raster: AlignRaster) -> list[Named]:
    """Every action by name, in the order of its menus."""

    def safe(act: Callable[[], object]) -> Callable[[], object]:
        return lambda: a.tried(act)

    return [
        Named("bend-quad", "Shape", "Four corners", safe(a.quad), "Q"),
        Named("bend-mesh-5", "Shape", "Mesh of 5 × 5", safe(lambda: a.mesh(5, 5)), "W"),
        Named("bend-mesh", "Shape", "Mesh by numbers…", safe(a.ask_mesh), "Shift+W"),
        Named("bend-keystone", "Shape", "Keystone by angles…", safe(a.ask_keystone), "K"),
        Named("bend-curve", "Shape", "Curved screen…", safe(a.ask_curve)),
        Named("bend-point", "Shape", "Place the point by numbers…", safe(a.ask_point), "N"),
        Named("bend-row", "Shape", "Select its row", lambda: raster.grow(True), "R"),
        Named("bend-column", "Shape", "Select its column", lambda: raster.grow(False), "C"),
        Named("bend-all", "Shape", "Select all points", raster.choose_all, "Ctrl+A"),
        Named("bend-copy", "Shape", "Copy the bend", safe(a.copy), "Ctrl+C"),
        Named("bend-paste", "Shape", "Paste the bend", safe(a.paste), "Ctrl+V"),
        Named("bend-mirror-across", "Shape", "Mirror the bend left–right", safe(lambda: a.mirror(True))),
        Named("bend-mirror-down", "Shape", "Mirror the bend top–bottom", safe(lambda: a.mirror(False))),
        *(
            Named(f"bend-{how}", "Shape", f"Resample: {words}", safe(lambda how=how: a.resample(how)))  # type: ignore[misc]
            for how, words in (
                ("nearest", "nearest pixel"),
                ("linear", "linear"),
                ("cubic", "cubic"),
                ("area", "by area, when it shrinks"),
            )
        ),
        Named("bend-plain", "Shape", "Plain rectangles on the whole surface", safe(a.plain)),
        Named("light-blend", "Light", "Blend curve of the screen…", safe(a.ask_blend)),
        Named("light-edges", "Light", "Blend of this output by hand…", safe(a.ask_edges)),
        Named("light-black", "Light", "Black level of this output…", safe(a.ask_black)),
        Named("light-colour", "Light", "White and gamma of this output…", safe(a.ask_colour)),
        Named("light-even", "Light", "Brightness over the raster…", safe(a.ask_even)),
        Named("light-clear", "Light", "Plain light on this output", safe(a.clear_light)),
        Named("align-auto", "Surface", "Align by camera…", a.auto_asked.emit, "Ctrl+L"),
        Named("align-lock", "Surface", "Lock the alignment, or free it", safe(a.lock)),
        Named("align-save", "Surface", "Save the alignment…", safe(a.save)),
        Named("align-load", "Surface", "Load an alignment…", safe(a.load)),
        Named("align-export", "Surface", "Export maps, weights or mesh…", safe(a.export)),
    ]
