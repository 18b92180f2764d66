"""The fields of sources and outputs: what each is called, which part of the item it is, how it is typed."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import Any

from ushering_adze.core.show import (
    ChromaKey,
    Clip,
    Fault,
    FillKey,
    Input,
    LumaKey,
    Output,
    Show,
    ShowError,
    Still,
    TimingByHand,
)
from ushering_adze.core.show.rigging import field_of, with_field
from ushering_adze.core.signal.advice import timing_for
from ushering_adze.core.signal.link import LINKS
from ushering_adze.desk.fields import Spec

Section = tuple[str, list[Spec]]
_LINKS = [("none chosen", None), *((link.words, name) for name, link in LINKS.items())]
_ENCODINGS = [("RGB", "rgb"), ("YCbCr 4:4:4", "444"), ("YCbCr 4:2:2", "422"), ("YCbCr 4:2:0", "420")]
BITS = [("8 bits", 8), ("10 bits", 10), ("12 bits", 12)]
_STANDARDS = [
    ("the usual", None),
    ("CVT", "cvt"),
    ("CVT reduced", "cvt-rb"),
    ("CVT reduced 2", "cvt-rb2"),
    ("CTA-861", "cta"),
    ("by hand", "custom"),
]
NAME = Spec("Name", "name")


def _gang_size(item: Any) -> str:
    return f"{item.gang.columns} × {item.gang.rows}" if item.gang else "one connector"


def _with_gang(item: Any, text: str) -> Any:
    found = re.fullmatch(r"\s*(\d+)\s*[x×*]\s*(\d+)\s*", text)
    if found is None and text.strip().lower() not in ("", "1", "one", "one connector"):
        raise ShowError([Fault("", "type columns × rows, like 2 × 1 or 2x2, or nothing for one connector")])
    columns, rows = (int(found[1]), int(found[2])) if found else (1, 1)
    if columns * rows == 1:
        return item.model_copy(
            update={"gang": None, "connector": item.gang.connectors[0] if item.gang else item.connector}
        )
    if not 2 <= columns * rows <= 64:
        raise ShowError([Fault("", "a gang has 2 to 64 parts; type a smaller one")])
    base = item.connector or (item.gang.connectors[0] if item.gang else getattr(item, "number", item.name))
    kept = list(item.gang.connectors) if item.gang else [item.connector] if item.connector else []
    names = [*kept, *(f"{base} {n}" for n in range(2, columns * rows + 66))]
    gang = {"columns": columns, "rows": rows, "connectors": tuple(dict.fromkeys(names))[: columns * rows]}
    return with_field(item, "gang", gang)


def _connectors(item: Any) -> str:
    return ", ".join(item.gang.connectors) if item.gang else item.connector or ""


def _with_connectors(item: Any, text: str) -> Any:
    names = tuple(n.strip() for n in text.split(",") if n.strip())
    if item.gang is not None:
        return with_field(item, "gang.connectors", names)
    if len(names) > 1:
        raise ShowError([Fault("", "one connector has one name; choose a gang for several")])
    return with_field(item, "connector", names[0] if names else None)


def _with_standard(output: Output, standard: str | None) -> Output:
    update: dict[str, Any] = {"standard": standard, "by_hand": None}
    if standard == "custom":
        t = timing_for(output.timing.width, output.timing.height, output.timing.rate)
        update["by_hand"] = TimingByHand(
            clock_khz=float(t.clock_khz),
            h_front=t.h_front,
            h_sync=t.h_sync,
            h_back=t.h_back,
            v_front=t.v_front,
            v_sync=t.v_sync,
            v_back=t.v_back,
            h_positive=t.h_positive,
            v_positive=t.v_positive,
        )
    timing = output.timing.model_copy(update=update)
    return output.model_copy(update={"timing": timing})


def _three(field: str) -> Spec:
    words = {"gain": "Gain R G B", "offset": "Offset R G B"}[field]

    def read(output: Output) -> str:
        return " ".join(f"{v:g}" for v in getattr(output.picture, field))

    def write(output: Output, text: str) -> Any:
        try:
            values = tuple(float(v.replace(",", ".")) for v in text.split())
        except ValueError:
            values = ()
        if len(values) == 1:
            values *= 3
        if len(values) != 3:
            raise ShowError([Fault("", "type three numbers, for red, green and blue, or one for all")])
        return with_field(output, f"picture.{field}", values)

    return Spec(words, kind="text", read=read, write=write, usual="1" if field == "gain" else "0", resets=True)


def _adjusting() -> list[Spec]:
    """How the picture of an output or a source is adjusted."""
    return [
        Spec("Brightness", "picture.brightness", "float", usual=0.0, resets=True),
        Spec("Contrast", "picture.contrast", "float", usual=1.0, resets=True),
        Spec("Saturation", "picture.saturation", "float", usual=1.0, resets=True),
        _three("gain"),
        _three("offset"),
        Spec(
            "Flip",
            "picture.flip",
            "choice",
            [("none", "none"), ("left–right", "left-right"), ("top–bottom", "top-bottom"), ("both", "both")],
        ),
    ]


def source_picture_section() -> Section:
    """How a source's picture is adjusted wherever it is shown."""
    sides = [
        Spec(f"Cut {side}", f"picture.{side}", "float", usual=0.0, resets=True, hint="As a fraction of its size")
        for side in ("left", "top", "right", "bottom")
    ]
    return "Its picture, everywhere", [*_adjusting(), *sides]


_KEYS: list[tuple[str, str | None]] = [
    ("none", None),
    ("its brightness", "luma"),
    ("a colour", "chroma"),
    ("another source", "source"),
]


_ALPHAS = [("straight", "straight"), ("premultiplied", "premultiplied"), ("none", "ignored")]


def key_section(item: Any, show: Show) -> Section:
    """How a source gets an alpha."""
    others = [(s.name, s.id) for s in show.sources if s.id != item.id]

    def read(source: Any) -> str | None:
        key = source.picture.key
        return None if key is None else str(key.by)

    def write(source: Any, by: str | None) -> Any:
        if by == read(source):
            return source
        if by == "source" and not others:
            raise ShowError([Fault("", "there is no other source to be its key; add one first")])
        kinds: dict[str | None, Callable[[], object]] = {
            None: lambda: None,
            "luma": LumaKey,
            "chroma": ChromaKey,
            "source": lambda: FillKey(source=others[0][1]),
        }
        return with_field(source, "picture.key", kinds[by]())

    key = item.picture.key
    specs = [Spec("Key", kind="choice", choices=_KEYS, read=read, write=write)]
    if isinstance(item, (Clip, Still)):
        specs.insert(0, Spec("Its own alpha", "picture.alpha", "choice", _ALPHAS))
    match key:
        case LumaKey():
            specs += [
                Spec("From", "picture.key.low", "float", usual=0.1, resets=True, hint="Code of 0 to 1"),
                Spec("To", "picture.key.high", "float", usual=1.0, resets=True, hint="Code of 0 to 1"),
                Spec("Soft", "picture.key.soft", "float", usual=0.1, resets=True),
                Spec("Turned over", "picture.key.turned", "check"),
            ]
        case ChromaKey():
            specs += [
                Spec("Colour", "picture.key.colour", hint="Click in its picture to pick it"),
                Spec("Tolerance", "picture.key.tolerance", "float", usual=0.1, resets=True),
                Spec("Soft", "picture.key.soft", "float", usual=0.6, resets=True),
                Spec("Despill", "picture.key.despill", "float", usual=1.0, resets=True),
                Spec("Choke", "picture.key.choke", "int", unit="px", usual=0, resets=True),
            ]
        case FillKey():
            specs += [
                Spec("Source", "picture.key.source", "choice", others),
                Spec("Its", "picture.key.of", "choice", [("brightness", "luma"), ("alpha", "alpha")]),
                Spec("Turned over", "picture.key.turned", "check"),
                Spec("Fill is shaped", "picture.key.shaped", "check", hint="It was multiplied by its key already"),
            ]
    if key is not None:
        specs.append(Spec("Mask alone", "picture.mask", "check", hint="To set the key by; off for the show"))
    return "Key", specs


def output_sections(output: Output) -> list[Section]:
    """Fields of an output."""
    timing = [
        Spec("Width", "timing.width", "int", unit="px"),
        Spec("Height", "timing.height", "int", unit="px"),
        Spec("Rate", "timing.rate", "float", unit="Hz", hint="59.94 means 60000/1001"),
        Spec("Interlaced", "timing.interlaced", "check"),
        Spec("Timing", kind="choice", choices=_STANDARDS, read=lambda o: o.timing.standard, write=_with_standard),
    ]
    if output.timing.by_hand is not None:
        timing += [Spec("Clock", "timing.by_hand.clock_khz", "float", unit="kHz")]
        timing += [
            Spec(f"{axis} {part}", f"timing.by_hand.{key}_{part}", "int", unit="px" if key == "h" else "lines")
            for key, axis in (("h", "H"), ("v", "V"))
            for part in ("front", "sync", "back")
        ]
    wire = [
        Spec("Link", "signal.link", "choice", _LINKS),
        Spec("Encoding", "signal.encoding", "choice", _ENCODINGS),
        Spec("Depth", "signal.bits", "choice", BITS),
        Spec("Range", "signal.range", "choice", [("full", "full"), ("limited, 16 to 235", "limited")]),
        Spec("Gang", read=_gang_size, write=_with_gang, hint="Columns × rows of connectors, like 2 × 1; empty for one"),
        Spec(
            "Connectors" if output.gang else "Connector",
            read=_connectors,
            write=_with_connectors,
            hint="In the order of the parts, row by row from the top left, with commas between",
        ),
        Spec(
            "Mirrors",
            read=lambda o: ", ".join(o.mirrors),
            write=lambda o, text: with_field(o, "mirrors", tuple(n.strip() for n in text.split(",") if n.strip())),
            hint="Connectors that repeat this output",
        ),
        Spec("Picture only", "signal.picture_only", "check", hint="DVI without audio or data, for old displays"),
        Spec("Protected", "signal.protected", "check", hint="May carry copy-protected sources"),
    ]
    if output.signal.link == "sdi3":
        wire.insert(3, Spec("3G level", "signal.level", "choice", [("A", "A"), ("B", "B")]))
    picture = [*_adjusting(), Spec("Gamma", "picture.gamma", "float", usual=2.2, resets=True)]
    colour = Spec(
        "Colour",
        read=lambda o: o.colour or "",
        write=lambda o, text: with_field(o, "colour", text or None),
        hint="Of its lines, like #93A84E; none if empty",
    )
    return [
        ("", [NAME, Spec("Number", "number", "int"), colour]),
        ("Timing", timing),
        ("Wire", wire),
        ("Picture, at once on air", picture),
    ]


def _or_none(label: str, path: str, unit: str, hint: str, whole: bool = False) -> Spec:
    """A number that may be left empty."""

    def read(item: Any) -> str:
        value = field_of(item, path)
        return "" if value is None else f"{value:g}"

    def write(item: Any, text: str) -> Any:
        words = text.strip().removesuffix(unit).strip() if unit else text.strip()
        if not words:
            return with_field(item, path, None)
        try:
            value = int(words) if whole else float(words.replace(",", "."))
        except ValueError:
            raise ShowError([Fault("", f"{label.lower()} is a number or empty; type one, or nothing")]) from None
        return with_field(item, path, value)

    return Spec(label, path, read=read, write=write, unit=unit, hint=hint)


def input_sections(source: Input) -> list[Section]:
    """Fields of an input."""
    return [
        ("", [NAME, Spec("Colour", "colour")]),
        (
            "Format",
            [
                Spec("Width", "width", "int", unit="px"),
                Spec("Height", "height", "int", unit="px"),
                Spec("Rate", "rate", "float", unit="Hz"),
                Spec("As it comes", "as_it_comes", "check", hint="No size and rate is declared: none is wrong"),
                Spec("Interlaced", "interlaced", "check"),
            ],
        ),
        (
            "Wire",
            [
                Spec("Link", "link", "choice", _LINKS),
                Spec("Encoding", "encoding", "choice", _ENCODINGS),
                Spec("Depth", "bits", "choice", BITS),
                Spec(
                    "Gang",
                    read=_gang_size,
                    write=_with_gang,
                    hint="Columns × rows of connectors, like 2 × 1; empty for one",
                ),
                Spec("Connectors" if source.gang else "Connector", read=_connectors, write=_with_connectors),
                Spec("Audio", "audio", "check"),
                Spec("Copy-protected", "protected", "check"),
            ],
        ),
        (
            "Where it is read from",
            [
                Spec(
                    "Device or URL",
                    "address",
                    read=lambda s: s.address or "",
                    write=lambda s, text: with_field(s, "address", text or None),
                    hint="Like /dev/video0, rtsp://…, udp://239.1.2.3:5000, srt://…, https://….m3u8",
                ),
                Spec(
                    "Network card",
                    "network_card",
                    read=lambda s: s.network_card or "",
                    write=lambda s, text: with_field(s, "network_card", text or None),
                    hint="The address of the card that a multicast comes in by; empty for the usual one",
                ),
                _or_none("Held back by", "delay", "", "frames; empty for the least delay", whole=True),
            ],
        ),
        (
            "It counts as lost",
            [
                Spec("Without pictures", "watch.missing", "float", unit="s", usual=0.15, resets=True),
                _or_none("Frozen for", "watch.frozen", "s", "seconds; empty if a still picture is only told of"),
                _or_none("Black for", "watch.black", "s", "seconds; empty if black is only told of"),
            ],
        ),
        (
            "Until it is there",
            [
                Spec(
                    "Stand-in file",
                    "stand_in",
                    read=lambda s: s.stand_in or "",
                    write=lambda s, text: with_field(s, "stand_in", text or None),
                )
            ],
        ),
    ]


def when_lost_section(source: Any, show: Show) -> Section:
    """What stands in for a source while it is lost."""
    others = [("none", None), *((s.name, s.id) for s in show.sources if s.id != source.id)]
    return (
        "When it is lost",
        [
            Spec("Backup", "when_lost.backup", "choice", others),
            Spec("Else", "when_lost.show", "choice", [("a card with its name", "card"), ("its last picture", "last")]),
            Spec("Shown again after", "when_lost.steady", "float", unit="s", usual=0.0, resets=True),
            Spec("Goes over in", "when_lost.seconds", "float", unit="s", usual=0.0, resets=True),
            Spec("Room only", "not_on_streams", "check", hint="The plan says where it would be on a stream"),
            Spec("Back by hand", "when_lost.by_hand", "check", hint="Bring it back in Run, with Shift+B"),
        ],
    )
