"""The fields of sources that are files, pages, text, clocks, lists or parts."""

from __future__ import annotations

from typing import Any

from ushering_adze.core.show import (
    Clip,
    Clock,
    ColourSource,
    Countdown,
    Fault,
    Folder,
    Pages,
    Parts,
    PatternSource,
    Playlist,
    PlaylistItem,
    Show,
    ShowError,
    Still,
    Text,
    WallSource,
)
from ushering_adze.core.show.rigging import with_field
from ushering_adze.desk.fields import Spec
from ushering_adze.desk.rig.signal_specs import NAME, Section

COLOUR = Spec("Colour", "colour")
_FILE = Spec("File", "path", hint="Beside the show file, or anywhere")


def _items_read(source: Any) -> str:
    return " | ".join(item.path for item in source.items)


def _items_write(source: Any, text: str) -> Any:
    known = {item.path: item for item in source.items}
    paths = [path.strip() for path in text.split("|") if path.strip()]
    items = tuple(known.get(path, PlaylistItem(path=path)) for path in paths)
    return with_field(source, "items", items)


def _sources(show: Show, text: str) -> tuple[str, ...]:
    """Sources by their names or ids, in a list with commas."""
    by_name = {s.name.lower(): s.id for s in show.sources} | {s.id: s.id for s in show.sources}
    found = []
    for word in (w.strip() for w in text.split(",") if w.strip()):
        if word.lower() not in by_name:
            raise ShowError([Fault("", f'no source "{word[:40]}"; name sources that there are, with commas between')])
        found.append(by_name[word.lower()])
    return tuple(found)


def _names(show: Show, ids: tuple[str, ...]) -> str:
    return ", ".join(show.source(id).name for id in ids)


def _grid_write(source: Any, text: str) -> Any:
    words = text.lower().replace("×", "x").replace(" ", "").split("x")
    if len(words) != 2 or not all(w.isdigit() for w in words):
        raise ShowError([Fault("", "a grid is columns × rows, like 2 × 1; type two numbers")])
    columns, rows = (int(w) for w in words)
    fields = {**{n: getattr(source, n) for n in type(source).model_fields}, "columns": columns, "rows": rows}
    parts = (*source.parts, *[source.parts[-1]] * (columns * rows))[: columns * rows]
    return Parts.model_validate({**fields, "parts": parts, "keys": ()})


def _dress(sized: bool = True) -> list[Spec]:
    specs = [
        Spec("Set as", "dress.layout", "choice", [("whole screen", "full"), ("strip at the foot", "strip")]),
        Spec("Font", "dress.font", hint="The family's name, as its file has it"),
        Spec("Letters at most", "dress.size", "float", unit="px", usual=110.0, resets=True),
        Spec("At least", "dress.smallest", "float", unit="px", usual=28.0, resets=True),
        Spec("Text", "dress.colour"),
        Spec("Align", "dress.align", "choice", [("left", "left"), ("middle", "middle"), ("right", "right")]),
        Spec("Box", "dress.box"),
        Spec("Box density", "dress.density", "float", usual=0.0, resets=True, hint="0 is none, 1 is solid"),
        Spec("Free at edges", "dress.safe", "float", usual=0.05, resets=True, hint="As a share of the screen"),
        Spec("Width", "dress.width", "int", unit="px"),
        Spec("Height", "dress.height", "int", unit="px"),
    ]
    if sized:
        specs[5:5] = [
            Spec("Second field", "dress.second", "check"),
            Spec("Its colour", "dress.second_colour"),
            Spec("Its size", "dress.second_size", "float", usual=0.6, resets=True, hint="As a share of the first's"),
        ]
        specs.append(Spec("Strip height", "dress.strip", "float", usual=0.22, resets=True))
    return specs


def _end_write(show: Show) -> Any:
    def write(clip: Any, end: str) -> Any:
        others = [s.id for s in show.sources if s.id != clip.id]
        if end == "next" and not others:
            raise ShowError([Fault("", "there is no other source to go on with; add one first")])
        fields = {n: getattr(clip, n) for n in type(clip).model_fields}
        return Clip.model_validate({**fields, "at_end": end, "follow": others[0] if end == "next" else None})

    return write


def _transport(clip: Clip, show: Show) -> list[Spec]:
    ends = [
        ("begins anew", "loop"),
        ("holds its last picture", "hold"),
        ("goes black", "black"),
        ("fades to black", "fade"),
        ("goes on with", "next"),
    ]
    specs = [
        Spec("In", "begin", "float", unit="s", usual=0.0, resets=True, hint="Seconds from the file's start"),
        Spec(
            "Out",
            read=lambda c: "" if c.stop is None else f"{c.stop:g}",
            write=lambda c, v: with_field(c, "stop", v.strip() or None),
            hint="Seconds from the file's start; empty for its end",
        ),
        Spec("At its end", "at_end", "choice", ends, write=_end_write(show), read=lambda c: c.at_end),
    ]
    if clip.at_end == "fade":
        specs.append(Spec("Fades over", "fade", "float", unit="s", usual=2.0, resets=True))
    if clip.at_end == "next":
        others = [(s.name, s.id) for s in show.sources if s.id != clip.id]
        specs.append(Spec("Goes on with", "follow", "choice", others))
    taken = [("goes on from there", "goes-on"), ("starts over", "starts-over")]
    return [
        *specs,
        Spec("When taken", "taken", "choice", taken),
        Spec("Runs on off air", "runs_on", "check"),
        Spec("Stands in for live", "live", "check", hint="Runs on preview too"),
    ]


def media_sections(item: Any, show: Show) -> list[Section] | None:
    """Fields of a source that is no input; None for anything else."""
    head: Section = ("", [NAME, COLOUR])
    size = [Spec("Width", "width", "int", unit="px"), Spec("Height", "height", "int", unit="px")]
    match item:
        case Still():
            return [head, ("Picture", [_FILE])]
        case Clip():
            return [head, ("Clip", [_FILE, *_transport(item, show)])]
        case Folder():
            orders = [("by name", "name"), ("shuffled", "shuffled")]
            hold = Spec("Each for", "hold", "float", unit="s", usual=8.0, resets=True)
            by_hand = Spec("Turned by hand", "by_hand", "check", hint="It does not turn by itself")
            return [head, ("Folder", [Spec("Folder", "path"), hold, Spec("Order", "order", "choice", orders), by_hand])]
        case Pages():
            following = [Spec("Pages on", "further", "int")] if item.follows is not None else []
            return [head, ("Pages", [_FILE, *following, *size])]
        case Text():
            origin = [
                Spec(
                    "File",
                    read=lambda t: t.path or "",
                    write=lambda t, v: t.model_copy(
                        update={"path": v or None, "words": None if v else (t.words or "")}
                    ),
                    hint="Text, a table or subtitles",
                )
            ]
            if item.words is not None:
                origin.append(
                    Spec(
                        "Words",
                        read=lambda t: (t.words or "").replace("\n", " / "),
                        write=lambda t, v: with_field(t, "words", v.replace(" / ", "\n")),
                        hint="A page; / begins a line, / / the next page; on air at once",
                    )
                )
            if item.follows is not None:
                texts = [(s.name, s.id) for s in show.sources if isinstance(s, Text) and s.follows is None]
                origin = [Spec("Follows", "follows", "choice", texts), Spec("Pages on", "further", "int")]
            return [head, ("Text", origin), ("Dress", _dress())]
        case Clock():
            kinds = [("time of day", "time"), ("until a time", "until"), ("counted up", "up"), ("speaker", "speaker")]
            specs = [Spec("Shows", "shows", "choice", kinds)]
            if item.shows == "until":
                specs.append(Spec("Until", "until", hint="Like 20:00"))
            if item.shows == "speaker":
                specs += [
                    Spec("Seconds", "seconds", "int", unit="s"),
                    Spec("Amber from", "mark.amber", "float", unit="s"),
                    Spec("Red from", "mark.red", "float", unit="s"),
                ]
            return [head, ("Clock", specs), ("Dress", _dress(sized=False))]
        case Playlist():
            orders = [("as listed", "listed"), ("shuffled", "shuffled"), ("by weight", "weighted")]
            return [
                head,
                (
                    "Playlist",
                    [
                        Spec("Files", read=_items_read, write=_items_write, hint="In order, with | between"),
                        Spec(
                            "Folder",
                            read=lambda s: s.folder or "",
                            write=lambda s, v: with_field(s, "folder", v or None),
                            hint="Its files are played as they come and go",
                        ),
                        Spec("Order", "order", "choice", orders),
                        Spec("Stills for", "seconds", "float", unit="s", usual=8.0, resets=True),
                        Spec("Goes over in", "dissolve", "float", unit="s", usual=0.0, resets=True),
                        *size,
                    ],
                ),
            ]
        case Parts():
            return [
                head,
                (
                    "Parts",
                    [
                        Spec("Grid", read=lambda s: f"{s.columns} × {s.rows}", write=_grid_write),
                        Spec(
                            "Parts",
                            read=lambda s: _names(show, s.parts),
                            write=lambda s, v: with_field(s, "parts", _sources(show, v)),
                            hint="Sources, row by row, with commas",
                        ),
                        Spec(
                            "Keys",
                            read=lambda s: _names(show, s.keys),
                            write=lambda s, v: with_field(s, "keys", _sources(show, v)),
                            hint="One for each part, or none",
                        ),
                        Spec("Overlap", "overlap_px", "int", unit="px", usual=0, resets=True),
                        Spec("Overlap down", "overlap_down_px", "int", unit="px", usual=0, resets=True),
                        Spec("Broken apart", "loose", "check"),
                    ],
                ),
            ]
        case WallSource():
            walls = [(w.name, w.id) for w in show.walls]
            return [head, ("Wall of pictures", [Spec("Wall", "wall", "choice", walls)])]
        case Countdown():
            return [head, ("Countdown", [Spec("Seconds", "seconds", "int", unit="s")])]
        case ColourSource():
            return [head, ("Colour", [Spec("Fill", "fill")])]
        case PatternSource():
            return [head, ("Pattern", [Spec("Spacing", "spacing", "int", unit="px"), *size])]
    return None
