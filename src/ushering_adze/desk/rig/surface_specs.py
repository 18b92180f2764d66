"""The fields of surfaces: walls, screens and monitors."""

from __future__ import annotations

from typing import Any

from ushering_adze.core.displays.projection import (
    Overlap,
    overlap_for_canvas,
    overlap_px_from,
    projection_facts,
    side_sizes,
    with_white,
)
from ushering_adze.core.show import (
    Fault,
    LedWall,
    MonitorWall,
    OtherCabinets,
    Projection,
    RoomPlace,
    Show,
    ShowError,
    TurnedCell,
)
from ushering_adze.core.show.rigging import with_field
from ushering_adze.core.show.surface import Projector, ScatteredMonitor
from ushering_adze.desk.fields import Spec, list_of_cells
from ushering_adze.desk.rig.signal_specs import BITS, NAME, Section

NITS = Spec("White", "nits", "float", unit="cd/m²", usual=0.0, resets=True, hint="Its luminance; 0 is not known")


def _cells_spec(label: str, field: str, hint: str) -> Spec:
    def read(wall: LedWall) -> str:
        return " ".join(
            f"{c.column}/{c.row}" + (f"/{c.degrees}" if isinstance(c, TurnedCell) else "") for c in getattr(wall, field)
        )

    def write(wall: LedWall, text: str) -> Any:
        cells: list[Any] = []
        for cell in list_of_cells(text):
            values = {"column": cell[0], "row": cell[1]}
            cells.append({**values, "degrees": cell[2] if len(cell) == 3 else 180} if field == "turned" else values)
        return with_field(wall, field, tuple(cells))

    return Spec(label, read=read, write=write, hint=hint)


def _gaps(text: str) -> tuple[Any, ...]:
    gaps = []
    for word in text.replace(",", " ").split():
        try:
            after, mm = word.split(":")
            gaps.append({"after": int(after), "mm": float(mm)})
        except ValueError:
            raise ShowError([Fault("", f'"{word}" is not a gap; write column:mm, like 5:40')]) from None
    return tuple(gaps)


def _numbers(text: str) -> tuple[int, ...]:
    try:
        return tuple(int(n) for n in text.replace(",", " ").split())
    except ValueError:
        raise ShowError([Fault("", "type row or column numbers with spaces between")]) from None


def place_specs() -> list[Spec]:
    """Where a surface is in the room."""

    def read(axis: str) -> Any:
        return lambda s: getattr(s.place, axis) if s.place else None

    def write(axis: str) -> Any:
        return lambda s, value: with_field(s, "place", (s.place or RoomPlace()).model_copy(update={axis: value}))

    return [
        Spec("From the left", kind="float", unit="mm", read=read("x_mm"), write=write("x_mm")),
        Spec("Above the floor", kind="float", unit="mm", read=read("foot_mm"), write=write("foot_mm")),
        Spec(
            "Hangs apart",
            kind="check",
            read=lambda s: bool(s.place and s.place.apart),
            write=write("apart"),
            hint="Drawn beside the room",
        ),
    ]


def led_sections(wall: LedWall, show: Show) -> list[Section]:
    """Fields of an LED wall."""
    library = [(k.cabinet.name or k.id, k.cabinet) for k in show.cabinets]
    for own in (wall.cabinet, *([wall.others.cabinet] if wall.others else [])):
        if own not in [c for _, c in library]:
            library.append((own.name or "its own numbers", own))

    def with_cabinet(w: LedWall, cabinet: Any) -> Any:
        return with_field(w, "cabinet", cabinet)

    def with_others(w: LedWall, text: str, field: str) -> Any:
        numbers = _numbers(text)
        kinds = [k.cabinet for k in show.cabinets if k.cabinet != w.cabinet]
        other = w.others.cabinet if w.others else kinds[0] if kinds else w.cabinet
        rows = numbers if field == "rows" else w.others.rows if w.others else ()
        columns = numbers if field == "columns" else w.others.columns if w.others else ()
        if not rows and not columns:
            return with_field(w, "others", None)
        return with_field(w, "others", {"cabinet": other.model_dump(), "rows": rows, "columns": columns})

    def other_cabinet(w: LedWall, cabinet: Any) -> Any:
        others = w.others or OtherCabinets(cabinet=cabinet)
        return with_field(w, "others", others.model_copy(update={"cabinet": cabinet}).model_dump())

    sections: list[Section] = [
        ("", [NAME]),
        (
            "Cabinets",
            [
                Spec("Columns", "columns", "int"),
                Spec("Rows", "rows", "int"),
                Spec("Kind", kind="choice", choices=library, read=lambda w: w.cabinet, write=with_cabinet),
                Spec("Width", "cabinet.width_mm", "float", unit="mm"),
                Spec("Height", "cabinet.height_mm", "float", unit="mm"),
                Spec("Pixels across", "cabinet.columns_px", "int", unit="px"),
                Spec("Pixels down", "cabinet.rows_px", "int", unit="px"),
                Spec("Weight", "cabinet.weight_kg", "float", unit="kg"),
                Spec("Power, most", "cabinet.max_watts", "float", unit="W"),
                Spec("Power, mean", "cabinet.mean_watts", "float", unit="W"),
                _cells_spec("Missing", "missing", "column/row, like 3/2 5/1"),
                _cells_spec("Turned", "turned", "column/row/degrees, like 1/1/90"),
                Spec(
                    "Gaps",
                    read=lambda w: " ".join(f"{g.after}:{g.mm:g}" for g in w.gaps),
                    write=lambda w, t: with_field(w, "gaps", _gaps(t)),
                    hint="after column:mm, like 5:40",
                ),
                Spec(
                    "Other rows",
                    read=lambda w: " ".join(map(str, w.others.rows)) if w.others else "",
                    write=lambda w, t: with_others(w, t, "rows"),
                    hint="Rows made of another kind of cabinet, like 1 2",
                ),
                Spec(
                    "Other columns",
                    read=lambda w: " ".join(map(str, w.others.columns)) if w.others else "",
                    write=lambda w, t: with_others(w, t, "columns"),
                    hint="Columns made of another kind of cabinet",
                ),
            ],
        ),
        (
            "Data runs",
            [
                Spec("Port", "data.gbps", "float", unit="Gb/s"),
                Spec("Depth", "data.bits", "choice", BITS),
                Spec("Rate", "data.rate", "float", unit="Hz"),
                Spec("Path along", "data.along", "choice", [("rows", "rows"), ("columns", "columns")]),
                Spec(
                    "From",
                    "data.start",
                    "choice",
                    [(w.replace("-", " "), w) for w in ("top-left", "top-right", "bottom-left", "bottom-right")],
                ),
                Spec("There and back", "data.snake", "check", hint="Every second lane runs the other way"),
                Spec(
                    "Cabinets a port",
                    kind="int",
                    read=lambda w: w.data.most,
                    write=lambda w, v: with_field(w, "data.most", v or None),
                    hint="At most; by the port's capacity if empty or 0",
                ),
                Spec("Backup loop", "data.backup", "check"),
            ],
        ),
        (
            "Power",
            [
                Spec("Circuit", "supply.volts", "float", unit="V"),
                Spec("Fuse", "supply.amps", "float", unit="A"),
                Spec("Used share", "supply.share", "float", hint="0.8 is the 80 % rule"),
            ],
        ),
        ("Light", [NITS]),
        ("In the room", place_specs()),
    ]
    if wall.others is not None:
        sections[1][1].append(
            Spec("Other kind", kind="choice", choices=library, read=lambda w: w.others.cabinet, write=other_cabinet)
        )
    return sections


def monitor_wall_sections(wall: MonitorWall) -> list[Section]:
    """Fields of a monitor wall."""

    def scattered(text: str) -> tuple[Any, ...]:
        made = []
        for word in text.replace(";", " ").split():
            try:
                x, y, *turn = (float(v) for v in word.split("/"))
            except ValueError:
                raise ShowError(
                    [Fault("", f'"{word}" is not a place; write x/y/degrees in mm, like 600/400/15')]
                ) from None
            made.append(ScatteredMonitor(x_mm=x, y_mm=y, degrees=turn[0] if turn else 0.0))
        return tuple(made)

    return [
        ("", [NAME]),
        (
            "Monitors",
            [
                Spec("Columns", "columns", "int"),
                Spec("Rows", "rows", "int"),
                Spec("Pixels across", "monitor_width", "int", unit="px"),
                Spec("Pixels down", "monitor_height", "int", unit="px"),
                Spec("Active width", "active_width_mm", "float", unit="mm"),
                Spec("Active height", "active_height_mm", "float", unit="mm"),
                Spec("Edge", "edge_mm", "float", unit="mm", hint="From the picture to the outside of the casing"),
                Spec("Gap", "gap_mm", "float", unit="mm", hint="Between casings"),
                Spec("Turned 90°", "turned", "check"),
                Spec("Hide pixels", "hide", "check", hint="The picture goes on behind the edges"),
                Spec(
                    "Scattered",
                    read=lambda w: " ".join(f"{m.x_mm:g}/{m.y_mm:g}/{m.degrees:g}" for m in w.scattered),
                    write=lambda w, t: with_field(w, "scattered", scattered(t)),
                    hint="Centres in mm and degrees: 600/400/15 1500/700/-8",
                ),
            ],
        ),
        (
            "Feed",
            [
                Spec("A feed each", "each", "check"),
                Spec("Feed width", "feed_width", "int", unit="px"),
                Spec("Feed height", "feed_height", "int", unit="px"),
            ],
        ),
        ("Light", [NITS]),
        ("In the room", place_specs()),
    ]


def projection_sections(screen: Projection) -> list[Section]:
    """Fields of a projected screen and its projectors."""

    def overlap(down: bool) -> list[Spec]:
        field, word = ("overlap_down_px", "Overlap down") if down else ("overlap_px", "Overlap")

        def write(unit: str) -> Any:
            return lambda s, value: with_field(s, field, overlap_px_from(value, unit, s, down))

        def facts(s: Projection) -> Overlap:
            return projection_facts(s).down if down else projection_facts(s).across

        return [
            Spec(word, kind="int", unit="px", read=lambda s: getattr(s, field), write=write("px")),
            Spec(word, kind="float", unit="mm", read=lambda s: round(facts(s).mm, 2), write=write("mm")),
            Spec(word, kind="float", unit="%", read=lambda s: round(facts(s).share * 100, 3), write=write("%")),
        ]

    def for_canvas(down: bool) -> Any:
        def write(s: Projection, size: int) -> Any:
            if size == s.pixels[down]:
                return s
            sizes = side_sizes(s, down)
            seams = len(sizes) - 1
            if not seams:
                raise ShowError([Fault("", "one projector alone makes the canvas; change its size, or add projectors")])
            overlap = overlap_for_canvas(sizes, size)
            if overlap != int(overlap):
                raise ShowError(
                    [
                        Fault(
                            "",
                            f"{size} px leave no whole pixels of overlap at each of {seams} seams; change it a little",
                        )
                    ]
                )
            return with_field(s, "overlap_down_px" if down else "overlap_px", int(overlap))

        return write

    def count(s: Projection, n: int) -> Any:
        if not 1 <= n <= 16:
            raise ShowError([Fault("", "a screen has 1 to 16 projectors; type another number")])
        kept, last = s.projectors[:n], s.projectors[-1]
        more = tuple(
            last.model_copy(update={"id": f"p{k}", "name": f"Projector {k}"}) for k in range(len(kept) + 1, n + 1)
        )
        return with_field(s, "projectors", (*kept, *more))

    sections: list[Section] = [
        ("", [NAME]),
        (
            "Screen",
            [
                Spec("Width", "width_mm", "float", unit="mm"),
                Spec("Height", "height_mm", "float", unit="mm"),
                Spec("Gain", "gain", "float"),
                Spec("Material", "material"),
                Spec("Room light", "room_lux", "float", unit="lx"),
                Spec("Projectors", kind="int", read=lambda s: len(s.projectors), write=count),
                Spec("Rows", "rows", "int", hint="Of projectors, one above the other; as many in each"),
                Spec(
                    "White, cd/m²",
                    kind="float",
                    read=lambda s: round(projection_facts(s).nits, 1),
                    write=lambda s, nits: s if abs(nits - projection_facts(s).nits) <= 0.05 else with_white(s, nits),
                    hint="Sets the light of every projector",
                ),
                Spec("Canvas width", kind="int", unit="px", read=lambda s: s.pixels[0], write=for_canvas(False)),
                *overlap(False),
                *(
                    [
                        Spec(
                            "Canvas height", kind="int", unit="px", read=lambda s: s.pixels[1], write=for_canvas(True)
                        ),
                        *overlap(True),
                    ]
                    if screen.rows > 1
                    else []
                ),
            ],
        ),
    ]
    for n, p in enumerate(screen.projectors):
        at = f"projectors.{n}."
        sections.append(
            (
                p.name,
                [
                    Spec("Name", at + "name"),
                    Spec("Width", at + "width", "int", unit="px"),
                    Spec("Height", at + "height", "int", unit="px"),
                    Spec("Light", at + "lumens", "float", unit="lm"),
                    *_throw(n),
                    Spec("Distance", at + "distance_mm", "float", unit="mm"),
                    Spec("Shift across", at + "shift_x", "float", unit="%"),
                    Spec("Shift up", at + "shift_y", "float", unit="%"),
                    Spec("Contrast", at + "contrast", "float", unit=": 1"),
                ],
            )
        )
    sections.append(("In the room", place_specs()))
    return sections


def _throw(n: int) -> list[Spec]:
    def read(s: Projection) -> str:
        p: Projector = s.projectors[n]
        return f"{p.throw_min:g} to {p.throw_max:g}" if p.throw_max else ""

    def write(s: Projection, text: str) -> Any:
        words = text.replace("to", " ").replace("–", " ").replace(":1", " ").split()
        try:
            values = [float(w.replace(",", ".")) for w in words]
        except ValueError:
            values = []
        if not 1 <= len(values) <= 2:
            raise ShowError([Fault("", "type the throw ratio as 1.2 to 1.8, or one number")])
        fixed = s.projectors[n].model_copy(update={"throw_min": values[0], "throw_max": values[-1]})
        return with_field(s, f"projectors.{n}", fixed.model_dump())

    return [Spec("Throw ratio", read=read, write=write, hint="Distance ÷ picture width, like 1.2 to 1.8")]
