"""Feeds in the rig: their fields, and how they go in words."""

from __future__ import annotations

from typing import Any

from ushering_adze.core.picture.cards import clock_digits
from ushering_adze.core.show import Feed, Show
from ushering_adze.core.show.rigging import with_field
from ushering_adze.core.show.source import without_secrets
from ushering_adze.desk.fields import Spec
from ushering_adze.desk.rig.results import Line
from ushering_adze.desk.rig.signal_specs import NAME, Section
from ushering_adze.playout import FeedReport

SOON = 600.0
"""Seconds of room on a disk under which it is said loudly."""


def _of_choices(show: Show) -> list[tuple[str, Any]]:
    """Everything that can be sent, by its kind and id."""
    return [
        *((f"{s.name}  (surface)", ("surface", s.id)) for s in show.surfaces),
        *((f"{o.number} {o.name}  (output)", ("output", o.id)) for o in show.outputs),
        *((f"{c.name}  (canvas)", ("canvas", c.id)) for c in show.canvases),
        *((f"{s.name}  (source)", ("source", s.id)) for s in show.sources),
        *((f"{w.name}  (wall)", ("wall", w.id)) for w in show.walls),
    ]


def _with_of(feed: Any, chosen: Any) -> Any:
    kind, id = chosen
    plain = feed if kind in ("canvas", "source") else feed.model_copy(update={"part": "picture", "alpha": False})
    return plain.model_copy(update={"shows": kind, "of": id})


def _with_size(feed: Any, text: str) -> Any:
    words = text.lower().replace("×", "x").replace(" ", "")
    if not words:
        return feed.model_copy(update={"width": None, "height": None})
    wide, _, high = words.partition("x")
    if not (wide.isdigit() and high.isdigit()):
        return with_field(feed, "width", text)  # refused, with the field's own sentence
    sized = feed.model_copy(update={"width": int(wide), "height": int(high)})
    return with_field(with_field(sized, "width", int(wide)), "height", int(high))


def _with_rate(feed: Any, text: str) -> Any:
    return with_field(feed, "rate", text.strip() or None)


def feed_sections(feed: Feed, show: Show) -> list[Section]:
    """Fields of a feed."""
    far: list[tuple[str, Any]] = [("nobody here", None), *((s.name, s.id) for s in show.sources if s.kind == "input")]
    sections: list[Section] = [
        ("", [NAME]),
        (
            "What is sent",
            [
                Spec("Shows", kind="choice", choices=_of_choices(show), read=lambda f: (f.shows, f.of), write=_with_of),
                Spec(
                    "Size",
                    read=lambda f: "" if f.width is None else f"{f.width} × {f.height}",
                    write=_with_size,
                    hint="Like 1280 × 720; empty for that of its picture",
                ),
                Spec(
                    "Sound",
                    "mix",
                    "choice",
                    [("none", None), *((m.name, m.id) for m in show.sound.mixes)],
                    hint="A mix; they are made in Watch",
                ),
                Spec(
                    "Pictures a second",
                    read=lambda f: "" if f.rate is None else f"{f.rate:g}",
                    write=_with_rate,
                    hint="Empty for the show's",
                ),
            ],
        ),
        (
            "Where it goes",
            [
                Spec(
                    "URL or file",
                    "to",
                    hint="udp://… rtp://… rtmp://… rtsp://… srt://… http://127.0.0.1:PORT/, a file .mp4 .mov .mkv "
                    ".m3u8, a folder for PNG files, /dev/video0",
                ),
                Spec("Bit rate", "kbit", "int", unit="kb/s", usual=6000, resets=True),
                Spec("Key frame every", "key_seconds", "float", unit="s", usual=2.0, resets=True),
                Spec("Graphics card", "hardware", "check", hint="Code with it where it can"),
                Spec("With the show", "on", "check", hint="Sent as soon as the show is opened"),
                Spec("Far end", "heard_by", "choice", far, hint="An input that receives it"),
            ],
        ),
    ]
    if feed.shows in ("canvas", "source"):
        parts = [("picture", "picture"), ("fill alone", "fill"), ("key alone", "key")]
        sections[1][1].append(Spec("Part", "part", "choice", parts))
        sections[1][1].append(Spec("With alpha", "alpha", "check", hint="Into .mov, or PNG files"))
    return sections


def feed_state(told: FeedReport | None) -> tuple[str, str]:
    """A feed's state in a word or two, and its grade."""
    if told is None or not told.on:
        return "off", "plain"
    if told.why is not None:
        return "not sent", "error"
    if told.withheld is not None:
        return "card", "warning"
    if told.room is not None and told.room < SOON:
        return f"disk {clock_digits(int(told.room))}", "warning"
    return ("recording" if told.path is not None else told.state), "good"


def feed_lines(feed: Feed, told: FeedReport | None) -> list[Line]:
    """How a feed goes."""
    if told is None or not told.on:
        return [Line("Sent", "not now"), Line("Goes to", without_secrets(feed.to))]
    if told.why is not None:
        lines = [Line("Sent", told.why, "error")]
    elif told.withheld is not None:
        lines = [Line("Sent", f"a card: {told.withheld}", "warning")]
    else:
        lines = [Line("Sent", told.state, "good" if told.state == "sending" else "plain")]
    rate = f"{told.kbit / 1000:.2f} Mbit/s" if told.kbit >= 1000 else f"{told.kbit:.0f} kbit/s"
    lines += [
        Line("For", clock_digits(int(told.seconds))),
        Line("Bit rate", rate),
        Line("Dropped", f"{told.dropped} of {told.sent + told.dropped}", "warning" if told.dropped else "plain"),
        Line("Goes to", without_secrets(told.path or feed.to)),
    ]
    if told.room is not None:
        lines.append(Line("Disk lasts", clock_digits(int(told.room)), "warning" if told.room < SOON else "plain"))
    if feed.heard_by is not None:
        lines.append(Line("At the far end", told.heard or "not read", "good" if told.arrives else "error"))
    return lines
