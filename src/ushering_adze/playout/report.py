"""A report as a JSON document, for who is not on the same heap."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from ushering_adze.core.document.model import Seldom
from ushering_adze.core.onair.document import StageDocument, stage_document
from ushering_adze.engine.forecasting import Forecast as Forecast
from ushering_adze.engine.report import Report

FORMAT = "ushering-adze report"


class SurfaceDocument(Seldom):
    """What a surface shows: names of sources, the topmost first, their ids, and its state in a word."""

    sources: tuple[str, ...]
    source_ids: tuple[str, ...]
    state: str
    age: float | None


class ChangeDocument(Seldom):
    """A surface that the next take will change."""

    surface: str
    before: tuple[str, ...]
    after: tuple[str, ...]


class FaultDocument(Seldom):
    """Something that is wrong; ``since`` in seconds since 1970."""

    key: str
    on: str
    name: str
    what: str
    cure: str
    grave: str
    since: float
    acknowledged: bool


class PlayerDocument(Seldom):
    """Where a source that has a length stands."""

    source: str
    name: str
    position: float
    length: float
    running: bool
    looping: bool
    on: str
    pages: int
    counts: bool
    speed: float
    at_page: int
    steps: bool


class RealDocument(Seldom):
    """What a signal is; 0 and empty where it is not known; ``kbit`` in thousands of bits a second."""

    width: int
    height: int
    rate: float
    interlaced: bool
    encoding: str
    bits: int
    range: str
    matrix: str
    transfer: str
    codec: str
    kbit: float
    sound: str


class SignalDocument(Seldom):
    """A live signal: its state, what it really is, how that differs from what was declared, and how many seconds its
    pictures are held up.
    """

    source: str
    state: str
    words: str
    real: RealDocument
    differs: tuple[str, ...]
    behind: float
    damaged: int
    captions: str


class MixDocument(Seldom):
    """A mix of sound: levels of its pointers in dBFS, its true peak in dBTP, its loudness in LUFS and range in LU, its
    correlation (null where there is none), the decibels by which its limiter turns it down, and whether it is muted.
    """

    mix: str
    name: str
    muted: bool
    pointers: tuple[float, ...]
    peak: float
    momentary: float
    short: float
    integrated: float
    range: float
    correlation: float | None
    reduction: float
    silent: float
    device: str | None
    plays: bool


class LevelDocument(Seldom):
    """A source that is heard, or measured: its peak lately in dBFS, for how many seconds it is silent, at which level
    it says that its dialogue is, in LKFS, and the peaks of its channels.
    """

    peak: float
    silent: float
    dialogue: int | None
    channels: tuple[float, ...]


class SoundDocument(Seldom):
    """What is heard."""

    mixes: tuple[MixDocument, ...]
    sources: dict[str, LevelDocument]


class FeedDocument(Seldom):
    """A feed: whether it is sent and how that goes; ``room`` in seconds until its disk is full."""

    feed: str
    name: str
    on: bool
    state: str
    why: str | None
    withheld: str | None
    kbit: float
    sent: int
    dropped: int
    seconds: float
    room: float | None
    path: str | None
    heard: str | None


class SmallDocument(Seldom):
    """A moving picture that is shown far under its size."""

    source: str
    scale: float


class ForecastDocument(Seldom):
    """What a preset will want: shares of a frame's time, at rest and on its way there from what is on air."""

    rest: float
    way: float
    dearest: str
    small: tuple[SmallDocument, ...]


class ReportDocument(Seldom):
    """The running show at one moment, but for its pictures."""

    format: str = FORMAT
    version: int = 1
    stage: StageDocument
    surfaces: dict[str, SurfaceDocument]
    delta: tuple[ChangeDocument, ...]
    faults: tuple[FaultDocument, ...]
    players: tuple[PlayerDocument, ...]
    signals: tuple[SignalDocument, ...]
    feeds: tuple[FeedDocument, ...]
    sound: SoundDocument
    forecasts: dict[int, ForecastDocument]
    progress: float
    moving: bool
    held: bool
    black: bool
    fps: float
    milliseconds: float
    frames: int
    late: int


def report_document(report: Report, now: float) -> dict[str, Any]:
    """A report as JSON.

    Parameters
    ----------
    report : Report
    now : float
        The moment of the document, in seconds of the stage's clock.
    """
    made = ReportDocument.model_validate(
        {
            "stage": stage_document(report.stage, now),
            "surfaces": {id: asdict(s) for id, s in report.surfaces.items()},
            "delta": [c._asdict() for c in report.delta],
            "faults": [asdict(f) for f in report.troubles],
            "players": [asdict(p) for p in report.players],
            "signals": [{**asdict(s), "real": s.real._asdict()} for s in report.signals],
            "feeds": [asdict(f) for f in report.feeds],
            "sound": _sound(report),
            "forecasts": {
                n: {**asdict(f), "small": [s._asdict() for s in f.small]} for n, f in report.forecasts.items()
            },
            "progress": report.progress,
            "moving": report.moving,
            "held": report.held,
            "black": report.black,
            "fps": report.fps,
            "milliseconds": report.milliseconds,
            "frames": report.frames,
            "late": report.late,
        }
    )
    return made.model_dump(mode="json")


def _sound(report: Report) -> dict[str, Any]:
    mixes = [
        {
            "mix": m.mix,
            "name": m.name,
            "muted": report.stage.is_muted(m.mix),
            "pointers": m.measured.pointers,
            "peak": m.measured.peak,
            **dict(zip(("momentary", "short", "integrated", "range"), m.measured.loudness, strict=True)),
            "correlation": m.measured.correlation,
            "reduction": m.measured.reduction,
            "silent": m.measured.silent,
            "device": m.device,
            "plays": m.plays,
        }
        for m in report.sound.mixes
    ]
    return {"mixes": mixes, "sources": {id: level._asdict() for id, level in report.sound.sources.items()}}


def report_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of reports."""
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        **ReportDocument.model_json_schema(),
        "title": "Ushering Adze report",
    }
