"""Actions on regions and their landings; every one is one step for undo."""

from __future__ import annotations

from typing import cast

from ushering_adze.core.document.entry import rect_from
from ushering_adze.core.mapping import lands
from ushering_adze.core.mapping.regions import (
    added,
    arranged,
    duplicated,
    picked,
    reflected_copies,
    with_regions,
    without_regions,
)
from ushering_adze.core.plane.arrange import (
    Axis,
    Edge,
    aligned,
    box_around,
    divided,
    even_gaps,
    opened,
    reflected,
    shared_out,
    swapped,
    with_gap,
)
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Show
from ushering_adze.core.show.edits import changed
from ushering_adze.desk.drafting.prompt import whole
from ushering_adze.desk.map.acting import Acting


class RegionActions(Acting):
    """Placing, copying, dividing, landing."""

    def draw(self, rect: Rect) -> None:
        """A drawn rectangle becomes a region."""
        self._make("Draw a region", lambda s: added(s, self._home().id, [rect], self._lands_on()))

    def type_region(self) -> None:
        """Add regions by typing their numbers, one to a line or parted by commas."""

        def act(text: object, name: object) -> None:
            canvas = self._home()
            parts = [t for t in str(text).replace("\n", ",").split(",") if t.strip()]
            rects = [Rect(*rect_from(t, (0, 0, 1, 1), (canvas.width, canvas.height))) for t in parts]
            base = str(name).strip()
            names = [base if len(rects) == 1 else f"{base} {n}" for n in range(1, len(rects) + 1)] if base else []
            self._make("Add regions", lambda s: added(s, canvas.id, rects, self._lands_on(), names))

        self._ask(
            "Add regions by numbers",
            [("x y w h", ""), ("Name", "")],
            "Add",
            act,
            hint="1096 1080 1920 960, or 1920x960+1096+1080; several parted by commas; per cent are of the canvas",
        )

    def duplicate(self) -> None:
        """Copies in place."""
        if self._need():
            self._make(f"Duplicate {self._what()}", lambda s: duplicated(s, self.ids))

    def duplicate_grid(self) -> None:
        """Copies in a row or grid, with step and count."""
        if not self._need():
            return
        box = box_around([Rect(r.x, r.y, r.w, r.h) for _, r in picked(self._session.show, self.ids)])

        def act(columns: object, rows: object, x: object, y: object) -> None:
            numbers = [
                whole(v, w) for v, w in ((columns, "columns"), (rows, "rows"), (x, "step across"), (y, "step down"))
            ]
            self._make(f"Duplicate {self._what()}", lambda s: duplicated(s, self.ids, *numbers))

        fields = [("Columns", "2"), ("Rows", "1"), ("Step across, px", str(box.w)), ("Step down, px", str(box.h))]
        self._ask(
            "Duplicate in rows and columns",
            fields,
            "Duplicate",
            act,
            hint="the selected regions are the first; copies land at the first free places of their output",
        )

    def reflect_copies(self, axis: Axis) -> None:
        """Copies on the other side of the canvas."""
        if self._need():
            side = "left to right" if axis == "across" else "top to bottom"
            self._make(f"Reflect copies of {self._what()} {side}", lambda s: reflected_copies(s, self.ids, axis))

    def reflect(self, axis: Axis, about: str) -> None:
        """Mirror the places about the middle of the canvas or of the selection."""
        canvas = self._home()

        def place(rects: list[Rect]) -> list[Rect]:
            return reflected(
                rects, axis, Rect(0, 0, canvas.width, canvas.height) if about == "canvas" else box_around(rects)
            )

        self._edit(f"Reflect {self._what()}", lambda s: arranged(s, self.ids, place))

    def swap(self) -> None:
        """Exchange places."""
        self._edit(f"Swap {self._what()}", lambda s: arranged(s, self.ids, lambda r: swapped(r)), 2)

    def align(self, edge: Edge) -> None:
        """Bring edges to one place; a single region aligns with the canvas."""
        canvas = self._home()

        def place(rects: list[Rect]) -> list[Rect]:
            return aligned(rects, edge, Rect(0, 0, canvas.width, canvas.height) if len(rects) == 1 else None)

        self._edit(f"Align {self._what()}: {edge}", lambda s: arranged(s, self.ids, place))

    def even(self, axis: Axis, over_canvas: bool = False) -> None:
        """Even gaps between the first and the last, or over the whole canvas."""
        canvas = self._home()
        span = ((0, canvas.width) if axis == "across" else (0, canvas.height)) if over_canvas else None
        self._edit(
            "Even gaps", lambda s: arranged(s, self.ids, lambda r: even_gaps(r, axis, span)), 2 if over_canvas else 3
        )

    def set_gap(self, axis: Axis) -> None:
        """One gap between all."""
        if self._need(2):
            self._ask(
                f"Gap {axis}",
                [("Pixels between them", "0")],
                "Set",
                lambda text: self._session.edit(
                    "Set gaps",
                    arranged(self._session.show, self.ids, lambda r: with_gap(r, axis, whole(text, "the gap"))),
                ),
                hint="the first stays; a negative number overlaps",
            )

    def open_gap(self, axis: Axis) -> None:
        """Open or close a gap at the canvas' centre line, the same on both sides."""
        canvas = self._home()
        ids = self.ids or tuple(r.id for r in canvas.regions)

        def act(text: object) -> None:
            by = whole(text, "the step")
            middle = canvas.width if axis == "across" else canvas.height
            self._session.edit(
                "Open a gap at the centre" if by > 0 else "Close the gap at the centre",
                arranged(self._session.show, ids, lambda r: opened(r, axis, middle, by)),
            )

        self._ask(
            "Open a gap at the centre line",
            [("Pixels on each side", "10")],
            "Open",
            act,
            hint="both sides move away from the centre line by so many pixels; a negative number closes it. "
            + ("Works on what is selected." if self.ids else "Works on all regions of this canvas."),
        )

    def group(self) -> None:
        """Select and move together from now on."""
        if not self._need(2):
            return
        used = {r.group for _, r in self._session.show.regions()}
        name = next(f"G{n}" for n in range(1, 10_000) if f"G{n}" not in used)
        self._session.try_edit(
            f"Group {self._what()}",
            lambda s: with_regions(s, {r.id: changed(r, group=name) for _, r in picked(s, self.ids)}),
        )

    def ungroup(self) -> None:
        """Each by itself again."""
        self._edit(
            f"Ungroup {self._what()}",
            lambda s: with_regions(s, {r.id: changed(r, group="") for _, r in picked(s, self.ids)}),
        )

    def colour(self, colour: str) -> None:
        """The colour on drawings."""
        self._edit(
            f"Colour of {self._what()}",
            lambda s: with_regions(s, {r.id: changed(r, colour=colour) for _, r in picked(s, self.ids)}),
        )

    def remove(self) -> None:
        """Take the selected regions out of the show."""
        self._edit(f"Remove {self._what()}", lambda s: without_regions(s, self.ids))

    def select_all(self) -> None:
        """Every region of the canvas on view."""
        canvas = self._canvas()
        if canvas is not None:
            self._session.select_regions([r.id for r in canvas.regions])

    def divide(self, columns: int, rows: int) -> None:
        """The selected region, or the whole canvas, in equal parts, each on an output of its own as far as there are
        any.
        """

        def make(show: Show) -> tuple[Show, list[str]]:
            canvas = self._home()
            found = picked(show, self.ids)
            whole_rect = Rect(0, 0, canvas.width, canvas.height)
            if len(found) == 1:
                region = found[0][1]
                whole_rect = Rect(region.x, region.y, region.w, region.h)
                show = without_regions(show, [region.id])
            return lands.dealt_out(show, canvas.id, divided(whole_rect, columns, rows), self._lands_on())

        self._make(f"Divide into {columns} × {rows}", make)

    def divide_by(self) -> None:
        """The same by shares typed in per cent."""

        def act(text: object, axis: object) -> None:
            try:
                shares = [float(t.rstrip("%").replace(",", ".")) for t in str(text).split()]
            except ValueError:
                raise ValueError(f'"{text}" are no shares; type for example 50 25 25') from None
            if not shares or min(shares) <= 0:
                raise ValueError("each share must be above 0; type for example 50 25 25")

            def make(show: Show) -> tuple[Show, list[str]]:
                canvas = self._home()
                parts = shared_out(Rect(0, 0, canvas.width, canvas.height), shares, cast(Axis, axis))
                return lands.dealt_out(show, canvas.id, parts, self._lands_on())

            self._make("Divide by shares", make)

        ways = [("side by side", "across"), ("one above the other", "down")]
        self._ask(
            "Divide the canvas by shares", [("Shares in per cent", "50 25 25"), ("Direction", ways)], "Divide", act
        )

    # -- landings -----------------------------------------------------------------------------------------------

    def pack(self) -> None:
        """Pack on the raster."""
        self._edit(f"Pack {self._what()}", lambda s: lands.landed_packed(s, self.ids))

    def as_drawn(self) -> None:
        """Lie on the raster as on the canvas."""
        self._edit(f"Land {self._what()} as drawn", lambda s: lands.landed_as_drawn(s, self.ids))

    def centre(self) -> None:
        """In the middle of the raster."""
        self._edit(f"Centre {self._what()} on its raster", lambda s: lands.landed_centred(s, self.ids))

    def one_to_one(self) -> None:
        """One pixel to one pixel."""
        self._edit(f"Land {self._what()} 1 : 1", lambda s: lands.one_to_one(s, self.ids))

    def turn(self, by: int) -> None:
        """A quarter further."""
        self._edit(f"Turn {self._what()}", lambda s: lands.turned(s, self.ids, by=by))

    def flip(self) -> None:
        """Left and right exchanged, or back."""
        found = picked(self._session.show, self.ids)
        now = bool(found) and getattr(found[0][1].landing, "flip", False)
        self._edit(f"Flip {self._what()}", lambda s: lands.turned(s, self.ids, flip=not now))

    def mirror_on(self) -> None:
        """Show what is selected a second time, on another output."""
        if self._need():
            choices = [(f"{o.number} {o.name}", o.id) for o in self._session.show.outputs]
            self._ask(
                "Mirror on another output",
                [("Output", choices)],
                "Mirror",
                lambda id: self._make(f"Mirror {self._what()}", lambda s: lands.mirrored_on(s, self.ids, str(id))),
            )
