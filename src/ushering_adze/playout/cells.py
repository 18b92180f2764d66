"""What the cells of a wall show at a moment: pictures, words, tallies, and what is wrong."""

from __future__ import annotations

import time
from itertools import zip_longest

import numpy as np

from ushering_adze.core.mapping.faces import faces_on
from ushering_adze.core.onair.chasing import place_words, position
from ushering_adze.core.onair.cues import head_of, internal_code
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.picture.cards import clock_digits
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.resampling import looked_at
from ushering_adze.core.picture.walls import CellNow, cell_rect
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Feed, Show
from ushering_adze.core.show.cue import number_words
from ushering_adze.core.show.wall import Wall, WallCell
from ushering_adze.core.sound.levels import SILENT
from ushering_adze.core.sound.metering import Measured
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.pictures import Sent, SurfacePictures
from ushering_adze.engine.report import Report
from ushering_adze.io.media.captions import Readable
from ushering_adze.playout.captions import CaptionsNow

CANVAS = 1280
"""Pixels of the width of a whole canvas, at most."""


class Cells:
    """What the cells of one wall show.

    Parameters
    ----------
    engine : Engine
    wall : Wall
    captions : CaptionsNow
    """

    def __init__(self, engine: Engine, wall: Wall, captions: CaptionsNow) -> None:
        self._engine, self._wall, self._captions = engine, wall, captions
        self._frames: dict[str, Frame] = {}
        self._sent: dict[str, Sent] = {}
        self._surfaces = SurfacePictures()
        self._canvases: dict[str, tuple[list[tuple[Rect, Pixels]], Pixels]] = {}

    def now(self, show: Show, report: Report | None) -> list[CellNow]:
        """Each of them as it is now, in their order."""
        cells = self._wall.cells
        wanted = {c.of for c in cells if c.shows == "source" and c.of is not None} & {s.id for s in show.sources}
        self._frames, self._sent = self._engine.pictures_of(wanted), self._engine.sent
        return [self._now(show, report, cell) for cell in cells]

    def _now(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        made = self._shown(show, report, cell)
        return made if report is None else made._replace(channels=channels_of(show, report, cell))

    def _shown(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        match cell.shows:
            case "source":
                return self._source(show, report, cell)
            case "surface" if cell.of in {s.id for s in show.surfaces}:
                name = cell.label or show.surface(cell.of).name
                told = report.surfaces.get(cell.of) if report is not None else None
                if report is None or told is None:
                    return CellNow(None, name)
                word = "" if told.state == "live" else told.state
                wrong = told.state in ("lost", "override", "held", "black", "rehearsal")
                shown = " + ".join(told.sources)
                label = f"{name}: {shown}" if shown else name
                picture = self._surface(show, cell.of, cell)
                return CellNow(picture, label, word, bool(told.sources), wrong=wrong)
            case "output" if cell.of in {o.id for o in show.outputs}:
                output = show.output(cell.of)
                timing = output.timing
                words = f"{timing.width} × {timing.height}"
                label = cell.label or f"{output.number} {output.name}"
                return self._output(show, cell.of, label, words)
            case "preview" if cell.of in {s.id for s in show.surfaces}:
                return self._preview(show, report, cell)
            case "feed" if cell.of in {f.id for f in show.feeds}:
                return self._feed(show, report, cell)
            case "far" if cell.of in {f.id for f in show.feeds}:
                return self._far(show, report, show.feed(cell.of), cell.label)
            case "mix" if (mix := show.sound.mix(cell.of or "")) is not None:
                heard = {m.mix: m for m in report.sound.mixes}.get(mix.id) if report is not None else None
                silent = self._engine.stage.is_muted(mix.id)
                measured = Measured() if heard is None else heard.measured
                state = "mute" if silent else ""
                name = cell.label or mix.name
                return CellNow(None, name, state, wrong=silent, meter=measured, target=mix.target, most=mix.most)
            case "player":
                return self._player(show, report, cell)
            case "timecode":
                return self._timecode(show, report, cell)
            case "alarms":
                return _alarms(report, cell)
            case "canvas" if cell.of in {c.id for c in show.canvases}:
                return self._canvas(show, cell)
            case "text":
                return CellNow(None, "", words=cell.label or " ")
            case "clock":
                return CellNow(None, cell.label or "Time of day", words=time.strftime("%H:%M:%S"))
            case "cues":
                return self._cues(show, cell)
        return CellNow(None, cell.label)

    def _output(self, show: Show, id: str, label: str, words: str) -> CellNow:
        """The raster that an output sends."""
        sent, black = self._sent.get(id), self._engine.stage.is_black(id)
        if sent is None:
            return CellNow(None, label, words)
        return CellNow(sent.pixels, label, "black" if black else words, wrong=black, serial=sent.serial)

    def _surface(self, show: Show, id: str, cell: WallCell) -> Pixels | None:
        """What a surface shows, taken back from the rasters at the size of a cell."""
        return self._surfaces.one(show, id, self._sent, max(64, *cell_rect(self._wall, cell)[2:]))

    def _canvas(self, show: Show, cell: WallCell) -> CellNow:
        """A canvas as far as surfaces show it, each of them at its place."""
        canvas = show.canvas(cell.of or "")
        scale = min(1.0, CANVAS / canvas.width)
        laid: list[tuple[Rect, Pixels]] = []
        for face in faces_on(show, canvas.id):
            x, y, right, foot = (
                max(0, round(v * scale)) for v in (face.rect.x, face.rect.y, face.rect.right, face.rect.foot)
            )
            here = Rect(x, y, max(1, right - x), max(1, foot - y))
            picture = self._surfaces.one(show, face.surface.id, self._sent, max(64, here.w, here.h))
            if picture is not None:
                laid.append((here, picture))
        before, made = self._canvases.get(canvas.id, ([], None))
        if made is None or not _alike(before, laid):
            made = np.zeros((max(1, round(canvas.height * scale)), max(1, round(canvas.width * scale)), 4), np.uint8)
            made[..., 3] = 255
            for here, picture in laid:
                part = made[here.cut()]
                if part.size:
                    part[:] = looked_at(picture, part.shape[1], part.shape[0])
            self._canvases[canvas.id] = laid, made
        return CellNow(made, cell.label or canvas.name, f"{canvas.width} × {canvas.height}")

    def _source(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        frame = self._frames.get(cell.of or "")
        picture, serial = (None, 0) if frame is None else frame[:2]
        if cell.of not in {s.id for s in show.sources}:
            return CellNow(None, cell.label or "no such source", "gone", wrong=True)
        name, stage = cell.label or show.source(cell.of).name, self._engine.stage
        if report is None:
            return CellNow(picture, name, serial=serial)
        # on program is what is truly painted on any surface; on preview, what a take would bring
        program = any(cell.of in told.source_ids for told in report.surfaces.values())
        preview = not program and stage.previewing and cell.of in sources_of(stage.preview())
        signal = next((s for s in report.signals if s.source == cell.of), None)
        word = signal.words if signal is not None else "lost" if cell.of in report.faults else ""
        read = Readable()
        if cell.captions and cell.of is not None:
            read = self._captions.of((cell.of,), report).get(cell.of, read)
        data = ""
        if cell.data and picture is not None:
            real = None if signal is None else signal.real
            data = f"{picture.shape[1]} × {picture.shape[0]}" if real is None else real.words
            level = None if cell.of is None else report.sound.sources.get(cell.of)
            if level is not None and level.dialogue is not None:
                data += f", dialogue {level.dialogue} LKFS"
        wrong = cell.of in report.faults
        return CellNow(
            picture,
            name,
            word[:24],
            program,
            preview,
            wrong,
            data=data,
            caption=read.text,
            over=read.bitmaps,
            serial=serial,
        )

    def _preview(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        """What a surface would show after the next take; what it shows, where that changes nothing."""
        assert cell.of is not None
        name = cell.label or show.surface(cell.of).name
        if report is None:
            return CellNow(None, name)
        changes = cell.of in report.preview
        picture = report.preview.get(cell.of)
        if picture is None:
            picture = self._surface(show, cell.of, cell)
        return CellNow(picture, name, "next" if changes else "stays", preview=changes)

    def _feed(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        """What a feed sends, and how that goes."""
        feed = show.feed(cell.of or "")
        told = None if report is None else next((f for f in report.feeds if f.feed == feed.id), None)
        state = "off" if told is None or not told.on else told.state if told.why is None else "not sent"
        wrong = told is not None and (told.why is not None or told.withheld is not None)
        picture: Pixels | None = None
        serial = 0
        match feed.shows:
            case "surface":
                picture = self._surface(show, feed.of, cell)
            case "output" if (sent := self._sent.get(feed.of)) is not None:
                picture, serial = sent
            case "source" if (frame := self._engine.picture_of(feed.of)) is not None:
                picture, serial = frame[:2]
        data = "" if told is None or not told.on else f"{told.kbit / 1000:.1f} Mbit/s, {told.dropped} dropped"
        name, on = cell.label or feed.name, told is not None and told.on
        return CellNow(picture, name, state, on, wrong=wrong, data=data, serial=serial)

    def _far(self, show: Show, report: Report | None, feed: Feed, label: str) -> CellNow:
        """What comes back from where a feed goes."""
        name = label or f"{feed.name}, far end"
        if feed.heard_by is None:
            return CellNow(None, name, "nobody hears it")
        frame = self._engine.picture_of(feed.heard_by)
        told = None if report is None else next((s for s in report.signals if s.source == feed.heard_by), None)
        wrong = report is not None and feed.heard_by in report.faults
        picture, serial = (None, 0) if frame is None else frame[:2]
        return CellNow(picture, name, "" if told is None else told.words[:24], wrong=wrong, serial=serial)

    def _player(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        """How long a player, a countdown or a clock still goes."""
        told = None if report is None else next((p for p in report.players if p.source == cell.of), None)
        name = cell.label or next((s.name for s in show.sources if s.id == cell.of), "no such source")
        if told is None:
            return CellNow(None, name)
        left = told.left
        words = clock_digits(int(told.within if left is None else left + 0.999))
        state = "runs" if told.running else "stands"
        return CellNow(None, name, state, told.on == "program", told.on == "preview", words=words)

    def _timecode(self, show: Show, report: Report | None, cell: WallCell) -> CellNow:
        """Where a list stands on the timecode that it follows, now."""
        cues = next((y for y in show.lists if y.id == cell.of), None)
        if cues is None or cues.code is None or report is None:
            return CellNow(None, cell.label or ("no timecode" if cues is None else cues.name), words="–")
        codes = {**report.codes, "internal": internal_code(self._engine.stage)}
        here = position(cues.code, codes, self._engine.clock())
        state = "" if here is not None else "nothing comes"
        return CellNow(None, cell.label or cues.name, state, wrong=here is None, words=place_words(cues.code, here))

    def _cues(self, show: Show, cell: WallCell) -> CellNow:
        cues = next((y for y in show.lists if y.id == cell.of), show.lists[0] if show.lists else None)
        if cues is None:
            return CellNow(None, cell.label or "no cue list")
        stage = self._engine.stage
        if all(y.id != cues.id for y in stage.show.lists):
            return CellNow(None, cues.name)
        armed = cues.cue(head_of(stage, cues.id).armed)
        words = "nothing is armed" if armed is None else f"{number_words(armed.number)} {armed.name}"
        then = None if armed is None else cues.after(armed.id)
        state = "" if then is None else f"then {number_words(then.number)} {then.name}"
        return CellNow(None, cell.label or cues.name, state, words=words)


def _alike(one: list[tuple[Rect, Pixels]], other: list[tuple[Rect, Pixels]]) -> bool:
    """Whether the very same pictures lie at the same places."""
    return len(one) == len(other) and all(a == b and p is q for (a, p), (b, q) in zip(one, other, strict=True))


def sounding(show: Show, report: Report | None, cell: WallCell) -> tuple[str, ...]:
    """Sources whose channels a cell has meters for."""
    if cell.meters is None or cell.of is None:
        return ()
    match cell.shows:
        case "source":
            return (cell.of,)
        case "far":
            return tuple(f.heard_by for f in show.feeds if f.id == cell.of and f.heard_by is not None)
        case "surface":
            told = None if report is None else report.surfaces.get(cell.of)
            return () if told is None else told.source_ids
    return ()


def channels_of(show: Show, report: Report, cell: WallCell) -> tuple[float, ...]:
    """The peaks of the channels of what a cell shows; of several sources on a surface the loudest of each."""
    heard = report.sound.sources
    levels = [heard[id].channels for id in sounding(show, report, cell) if id in heard]
    return tuple(max(of) for of in zip_longest(*levels, fillvalue=SILENT))


def _alarms(report: Report | None, cell: WallCell) -> CellNow:
    """The gravest thing that is wrong and that nobody knows of, large."""
    new = [] if report is None else [t for t in report.troubles if not t.acknowledged]
    known = 0 if report is None else len(report.troubles) - len(new)
    name = cell.label or "Alarms"
    if not new:
        words = "Nothing new" if known else "All is well"
        return CellNow(None, name, f"{known} known" if known else "", words=words)
    first = new[0]
    state = f"and {len(new) - 1} more" if len(new) > 1 else ""
    return CellNow(None, name, state, wrong=True, words=f"{first.name}: {first.what}", alarm=first.grave != "part")
