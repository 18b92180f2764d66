"""The root of the show, its reading from a document, and the checks of the whole."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import cached_property, lru_cache
from typing import Annotated, Any, Literal, Protocol

from pydantic import Field, ValidationError

from ushering_adze.core.document.model import Fault, Model, Name, ShowError
from ushering_adze.core.document.wording import choice, sentence, shortened
from ushering_adze.core.kinds import BY_NAME, KINDS
from ushering_adze.core.kinds.kind import Way as KindWay
from ushering_adze.core.plane.mesh import shape_fault
from ushering_adze.core.show.alarm import Alarms
from ushering_adze.core.show.alignment import Alignment
from ushering_adze.core.show.canvas import Canvas, MeshLanding, RectLanding, Region
from ushering_adze.core.show.cue import CueList, list_faults
from ushering_adze.core.show.feed import Feed
from ushering_adze.core.show.finish import Finish
from ushering_adze.core.show.led import CabinetKind
from ushering_adze.core.show.output import Card, Output
from ushering_adze.core.show.preset import Part, Preset
from ushering_adze.core.show.schedule import Event, TimeZone, schedule_faults
from ushering_adze.core.show.scope import NamedScope
from ushering_adze.core.show.sound import ShowSound, sound_faults
from ushering_adze.core.show.source import Parts, Source, named_by, runs_with
from ushering_adze.core.show.surface import MonitorWall, Projection, Surface
from ushering_adze.core.show.upgrade import VERSION, upgraded
from ushering_adze.core.show.wall import Wall, wall_faults
from ushering_adze.core.show.zone import Zone, zone_faults
from ushering_adze.core.signal.timing import exact_rate

FORMAT: Literal["ushering-adze show"] = "ushering-adze show"


class Show(Model):
    """A whole show.  Every edit makes a new one."""

    format: Literal["ushering-adze show"] = FORMAT
    version: Literal[2] = VERSION
    name: Name
    rate: Annotated[float, Field(ge=1, le=240, description="frames a second; 59.94 means 60000/1001")] = 30.0
    room_width_mm: Annotated[float, Field(gt=0, le=1_000_000)] = 18000.0
    room_height_mm: Annotated[float, Field(gt=0, le=1_000_000)] = 6000.0
    reference: Annotated[Literal["internal", "external"], Field(description="where the rate is taken from")] = (
        "internal"
    )
    reference_name: Annotated[str, Field(max_length=80)] = ""
    cabinets: Annotated[tuple[CabinetKind, ...], Field(description="the library of LED cabinets")] = ()
    cards: tuple[Card, ...] = ()
    sources: tuple[Source, ...] = ()
    canvases: tuple[Canvas, ...] = ()
    surfaces: tuple[Surface, ...] = ()
    outputs: tuple[Output, ...] = ()
    feeds: Annotated[tuple[Feed, ...], Field(description="what is sent out beside the outputs")] = ()
    presets: tuple[Preset, ...] = ()
    finishes: tuple[Finish, ...] = ()
    zones: Annotated[tuple[Zone, ...], Field(description="named sets of surfaces")] = ()
    lists: Annotated[tuple[CueList, ...], Field(description="cue lists")] = ()
    walls: Annotated[tuple[Wall, ...], Field(description="walls of pictures to watch")] = ()
    schedule: Annotated[tuple[Event, ...], Field(description="the calendar")] = ()
    calendar_runs: Annotated[bool, Field(description="whether the calendar does anything by itself")] = True
    time_zone: Annotated[TimeZone | None, Field(description="the show's time zone; null: that of the machine")] = None
    scopes: Annotated[tuple[NamedScope, ...], Field(description="which settings are stored, by name")] = ()
    alarms: Annotated[Alarms, Field(description="what raises an alarm")] = Alarms()
    sound: Annotated[ShowSound, Field(description="what is heard")] = ShowSound()
    alignments: tuple[Alignment, ...] = ()
    opening: Annotated[int | None, Field(description="number of the preset the show opens with")] = None

    @cached_property
    def _tables(self) -> dict[str, dict[Any, Any]]:
        return {
            "source": {s.id: s for s in self.sources},
            "canvas": {c.id: c for c in self.canvases},
            "surface": {s.id: s for s in self.surfaces},
            "output": {o.id: o for o in self.outputs},
            "preset": {p.number: p for p in self.presets},
            "feed": {f.id: f for f in self.feeds},
            "list": {y.id: y for y in self.lists},
            "wall": {w.id: w for w in self.walls},
        }

    def source(self, id: str) -> Source:
        """The source with this id.  Raises KeyError."""
        found: Source = self._tables["source"][id]
        return found

    def canvas(self, id: str) -> Canvas:
        """The canvas with this id.  Raises KeyError."""
        found: Canvas = self._tables["canvas"][id]
        return found

    def surface(self, id: str) -> Surface:
        """The surface with this id.  Raises KeyError."""
        found: Surface = self._tables["surface"][id]
        return found

    def output(self, id: str) -> Output:
        """The output with this id.  Raises KeyError."""
        found: Output = self._tables["output"][id]
        return found

    def feed(self, id: str) -> Feed:
        """The feed with this id.  Raises KeyError."""
        found: Feed = self._tables["feed"][id]
        return found

    def cue_list(self, id: str) -> CueList:
        """The cue list with this id.  Raises KeyError."""
        found: CueList = self._tables["list"][id]
        return found

    def wall(self, id: str) -> Wall:
        """The wall with this id.  Raises KeyError."""
        found: Wall = self._tables["wall"][id]
        return found

    def preset(self, number: int) -> Preset | None:
        """The preset with this number, or None."""
        return self._tables["preset"].get(number)

    @cached_property
    def dealt_out(self) -> dict[Any, Any]:
        """What spreads make on each canvas, as it is worked out; it is nothing of the show's own."""
        return {}

    def _reached(self, sources: Iterable[str], further: Callable[[Source], Iterable[str]]) -> set[str]:
        """These sources, and those that are reached from them."""
        found, waiting = set(sources), list(sources)
        while waiting:
            source = self._tables["source"].get(waiting.pop())
            more = set() if source is None else set(further(source)) - found
            found |= more
            waiting += more
        return found

    def made_of(self, sources: Iterable[str]) -> set[str]:
        """These sources, and all whose pictures are in theirs: keys and parts."""
        return self._reached(sources, runs_with)

    def leading_to(self, sources: Iterable[str]) -> set[str]:
        """These sources, and all that may come to be shown through them: also backups, and what clips go on with."""

        def further(source: Source) -> Iterable[str]:
            backup = source.when_lost.backup
            return (*(() if backup is None else (backup,)), *(id for ids in named_by(source).values() for id in ids))

        return self._reached(sources, further)

    @cached_property
    def ground(self) -> tuple[tuple[str, int, int, tuple[str, ...]], ...]:
        """Of each canvas its id, width, height and the ids of its layers: what presets are worked out for."""
        return tuple((c.id, c.width, c.height, tuple(layer.id for layer in c.layers)) for c in self.canvases)

    @cached_property
    def coming_and_going(self) -> dict[tuple[str, str], tuple[KindWay | None, KindWay | None]]:
        """How layers appear and disappear that have ways of their own, by canvas and layer."""
        return {
            (canvas.id, layer.id): (
                None if layer.comes is None else layer.comes.on_air,
                None if layer.goes is None else layer.goes.on_air,
            )
            for canvas in self.canvases
            for layer in canvas.layers
            if layer.comes is not None or layer.goes is not None
        }

    @cached_property
    def frame_seconds(self) -> float:
        """Seconds of one frame, of the exact rate: 59.94 is 60000/1001."""
        return float(1 / exact_rate(self.rate))

    @cached_property
    def fed(self) -> dict[tuple[str, str | None, int | None], list[Region]]:
        """The regions that feed each part of a surface, by surface, projector and monitor."""
        found: dict[tuple[str, str | None, int | None], list[Region]] = {}
        for _, region in self.regions():
            if region.surface is not None:
                found.setdefault((region.surface, region.projector, region.monitor), []).append(region)
        return found

    @cached_property
    def _by_surface(self) -> dict[str, list[Region]]:
        found: dict[str, list[Region]] = {}
        for _, region in self.regions():
            if region.surface is not None:
                found.setdefault(region.surface, []).append(region)
        return found

    @cached_property
    def landing_on(self) -> dict[str, list[tuple[Canvas, Region]]]:
        """The regions that land on each output, with their canvases, in the order of the document."""
        found: dict[str, list[tuple[Canvas, Region]]] = {}
        for canvas, region in self.regions():
            found.setdefault(region.output, []).append((canvas, region))
        return found

    @cached_property
    def homes(self) -> dict[str, tuple[Canvas, Region]]:
        """Every region with its canvas, by the region's id, in the order of the document."""
        return {region.id: (canvas, region) for canvas in self.canvases for region in canvas.regions}

    def alignment(self, surface: str) -> Alignment:
        """What is remembered of aligning a surface."""
        return next((a for a in self.alignments if a.surface == surface), Alignment(surface=surface))

    def feeds_of(self, surface: str) -> list[Region]:
        """The regions that feed any part of a surface, in the order of the document."""
        return self._by_surface.get(surface, [])

    def lit_by(self, surface: str) -> list[Region]:
        """The regions that feed any part of a surface, repeats left out."""
        return [r for r in self.feeds_of(surface) if not r.mirror]

    def regions(self) -> Iterator[tuple[Canvas, Region]]:
        """Every region with its canvas, in the order of the document."""
        for canvas in self.canvases:
            for region in canvas.regions:
                yield canvas, region


def bend_shape_fault(region: Region) -> str | None:
    """What is wrong with the shape of a region's landing, and its cure: crossed, folded, corners on a line; None if
    nothing is.
    """
    landing = region.landing
    if isinstance(landing, RectLanding):
        return None
    if isinstance(landing, MeshLanding):
        return shape_fault(landing.points, landing.columns, landing.spans, region.w, region.h)
    return shape_fault(landing.corners, 0, "smooth", region.w, region.h)


class _HasId(Protocol):
    @property
    def id(self) -> str: ...


def _twice(items: Iterable[_HasId], where: str, field: str = "id") -> Iterator[Fault]:
    seen: dict[object, int] = {}
    for n, item in enumerate(items):
        value = getattr(item, field)
        if value in seen:
            yield Fault(
                f"{where}[{n}].{field}",
                f'{field} "{value}" is already used by {where}[{seen[value]}]; give each its own',
            )
        seen.setdefault(value, n)


def _missing(noun: str, id: str, known: Iterable[str]) -> str:
    return f"no {noun} {shortened(id)}; {choice(id, known)}"


def _leads_alike(show: Show, before: Show) -> bool:
    """Whether two shows differ at most in where their regions lie: then neither has a fault the other has not."""
    if len(show.canvases) != len(before.canvases) or any(
        getattr(show, f) is not getattr(before, f) for f in type(show).model_fields if f != "canvases"
    ):
        return False
    for canvas, old in zip(show.canvases, before.canvases, strict=True):
        if canvas.id != old.id or canvas.layers is not old.layers or len(canvas.regions) != len(old.regions):
            return False
        for r, o in zip(canvas.regions, old.regions, strict=True):
            if r is not o and (r.id, r.output, r.surface, r.projector, r.monitor, r.mirror) != (
                o.id,
                o.output,
                o.surface,
                o.projector,
                o.monitor,
                o.mirror,
            ):
                return False
    return True


_LISTS = (
    *("cabinets", "cards", "sources", "canvases", "surfaces", "outputs", "feeds"),
    *("presets", "finishes", "zones", "scopes", "lists"),
)


def faults_of(show: Show, before: Show | None = None) -> list[Fault]:
    """Every fault of a show that its fields alone cannot tell: unknown ids, numbers used twice, preset parts that lead
    nowhere.

    ``before`` is a show without faults that this one was made from; an edit that only moves regions is then not
    searched through.

    Parameters
    ----------
    show : Show
    before : Show | None, optional
        As it was.

    Returns
    -------
    list[Fault]
    """
    faults: list[Fault] = []
    if before is not None and _leads_alike(show, before):
        return faults
    for field in _LISTS:
        faults += _twice(getattr(show, field), field)
    faults += _twice(show.outputs, "outputs", "number")
    faults += _twice(show.presets, "presets", "number")
    faults += _same_keys(show)
    there, in_parts = {s.id for s in show.sources}, {s.id for s in show.sources if isinstance(s, Parts)}
    for n, kept in enumerate(show.sources):
        for m, finish in enumerate(kept.finishes):
            if finish not in {f.id for f in show.finishes}:
                at = f"sources[{n}].finishes[{m}]"
                faults.append(Fault(at, _missing("finish", finish, [f.id for f in show.finishes])))
        backup, here = kept.when_lost.backup, f"sources[{n}].when_lost.backup"
        if backup is not None and backup not in there:
            faults.append(Fault(here, _missing("source", backup, there)))
        elif backup == kept.id:
            faults.append(Fault(here, "a source cannot stand in for itself; name another one"))
        for field, ids in named_by(kept).items():
            at = f"sources[{n}].{field}"
            faults += [Fault(at, _missing("source", id, there)) for id in ids if id not in there]
            if kept.id in ids:
                faults.append(Fault(at, "a source cannot be made of itself; name another one"))
            if field in ("parts", "keys") and in_parts & set(ids) - {kept.id}:
                of = min(in_parts & set(ids) - {kept.id})
                faults.append(Fault(at, f'"{of}" is in parts itself; name the sources that it is made of'))
    layers = {c.id: {layer.id for layer in c.layers} for c in show.canvases}
    sources, outputs = {s.id for s in show.sources}, {o.id for o in show.outputs}
    surfaces = {s.id: s for s in show.surfaces}
    seen_regions: dict[str, str] = {}
    for c, canvas in enumerate(show.canvases):
        at = f"canvases[{c}]"
        faults += _twice(canvas.layers, f"{at}.layers")
        for n, layer in enumerate(canvas.layers):
            for kind in KINDS:
                for source in kind.named(getattr(layer.settings, kind.name)):
                    if source not in sources:
                        faults.append(
                            Fault(f"{at}.layers[{n}].settings.{kind.name}.source", _missing("source", source, sources))
                        )
            faults += [
                Fault(f"{at}.layers[{n}].{which}.source", _missing("source", way.source, sources))
                for which, way in (("comes", layer.comes), ("goes", layer.goes))
                if way is not None and way.source is not None and way.source not in sources
            ]
        for n, region in enumerate(canvas.regions):
            here = f"{at}.regions[{n}]"
            if region.id in seen_regions:
                faults.append(
                    Fault(
                        f"{here}.id",
                        f'id "{region.id}" is already used by {seen_regions[region.id]}; give each its own',
                    )
                )
            seen_regions.setdefault(region.id, here)
            bend = bend_shape_fault(region)
            if bend is not None:
                faults.append(Fault(f"{here}.landing", bend))
            if region.output not in outputs:
                faults.append(Fault(f"{here}.output", _missing("output", region.output, outputs)))
            if region.surface is not None and region.surface not in surfaces:
                faults.append(Fault(f"{here}.surface", _missing("surface", region.surface, surfaces)))
            elif region.projector is not None:
                surface = surfaces.get(region.surface or "")
                known = [p.id for p in surface.projectors] if isinstance(surface, Projection) else []
                if region.projector not in known:
                    faults.append(Fault(f"{here}.projector", _missing("projector", region.projector, known)))
            wall = surfaces.get(region.surface or "")
            if region.monitor is not None and not isinstance(wall, MonitorWall):
                where = f"{wall.name} is no monitor wall" if wall is not None else "it feeds no monitor wall"
                faults.append(
                    Fault(
                        f"{here}.monitor",
                        f"monitor {region.monitor}: {where}; remove it, or name a monitor wall's surface",
                    )
                )
    for n, alignment in enumerate(show.alignments):
        if alignment.surface not in surfaces:
            faults.append(Fault(f"alignments[{n}].surface", _missing("surface", alignment.surface, surfaces)))
    faults += list_faults(show.lists)
    faults += schedule_faults(show.schedule)
    faults += wall_faults(show.walls)
    faults += sound_faults(show.sound, set(sources))
    faults += zone_faults(show.zones, [s.id for s in show.surfaces]) + _unknown_zones(show)
    faults += claimed_twice(show)
    walls = {w.id for w in show.walls}
    for n, item in enumerate(show.sources):
        if item.kind == "wall" and item.wall not in walls:
            faults.append(Fault(f"sources[{n}].wall", _missing("wall", item.wall, walls)))
    shown = {"surface": set(surfaces), "output": outputs, "canvas": set(layers), "source": sources, "wall": walls}
    for n, feed in enumerate(show.feeds):
        if feed.mix is not None and show.sound.mix(feed.mix) is None:
            mixes = {m.id for m in show.sound.mixes}
            faults.append(Fault(f"feeds[{n}].mix", _missing("mix", feed.mix, mixes)))
        if feed.of not in shown[feed.shows]:
            faults.append(Fault(f"feeds[{n}].of", _missing(feed.shows, feed.of, shown[feed.shows])))
        if feed.heard_by is not None and feed.heard_by not in sources:
            faults.append(Fault(f"feeds[{n}].heard_by", _missing("source", feed.heard_by, sources)))
    for n, preset in enumerate(show.presets):
        for m, part in enumerate(preset.parts):
            here = f"presets[{n}].parts[{m}]"
            if part.canvas not in layers:
                faults.append(Fault(f"{here}.canvas", _missing("canvas", part.canvas, layers)))
            elif part.layer not in layers[part.canvas]:
                faults.append(Fault(f"{here}.layer", _missing("layer", part.layer, layers[part.canvas])))
            for name, source in part.named():
                if source not in sources:
                    faults.append(Fault(f"{here}.holds.{name}.to.source", _missing("source", source, sources)))
        for m, id in enumerate(preset.clears):
            if id not in layers:
                faults.append(Fault(f"presets[{n}].clears[{m}]", _missing("canvas", id, layers)))
    for n, preset in enumerate(show.presets):
        if preset.way is not None and preset.way.source is not None and preset.way.source not in sources:
            faults.append(Fault(f"presets[{n}].way.source", _missing("source", preset.way.source, sources)))
    for n, made in enumerate(show.finishes):
        for name, source in Part(canvas="a", layer="a", holds=made.holds).named():
            if source not in sources:
                faults.append(Fault(f"finishes[{n}].holds.{name}.to.source", _missing("source", source, sources)))
    if show.opening is not None and show.preset(show.opening) is None:
        faults.append(
            Fault("opening", f"no preset number {show.opening}; name one of the show's presets or leave it out")
        )
    return faults


def _same_keys(show: Show) -> Iterator[Fault]:
    """Keys that two presets have."""
    used: dict[str, int] = {}
    for n, preset in enumerate(show.presets):
        if preset.key is not None and used.setdefault(preset.key, preset.number) != preset.number:
            why = f"{preset.key} recalls preset {used[preset.key]} already; choose another key"
            yield Fault(f"presets[{n}].key", why)


def _unknown_zones(show: Show) -> list[Fault]:
    """Zones that layers, presets and finishes name and that are not there."""
    known, faults = {z.id for z in show.zones}, list[Fault]()

    def look(at: str, kind: str, value: Any) -> None:
        for zone in BY_NAME[kind].zones(value):
            if zone not in known:
                faults.append(Fault(f"{at}.{kind}.zone", _missing("zone", zone, known)))

    for c, canvas in enumerate(show.canvases):
        for n, layer in enumerate(canvas.layers):
            for kind in KINDS:
                look(f"canvases[{c}].layers[{n}].settings", kind.name, getattr(layer.settings, kind.name))
    parts = [(f"presets[{n}].parts[{m}]", p) for n, q in enumerate(show.presets) for m, p in enumerate(q.parts)]
    parts += [(f"finishes[{n}]", Part(canvas="a", layer="a", holds=f.holds)) for n, f in enumerate(show.finishes)]
    for at, part in parts:
        for _, name, held in part.held:
            look(f"{at}.holds", name, held.to)
    return faults


def claimed_twice(show: Show) -> list[Fault]:
    """Fed parts of surfaces that two outputs claim, and connectors that two outputs use; mirrors apart."""
    faults: list[Fault] = []
    fed: dict[tuple[str, str | None, int | None], Region] = {}
    for c, canvas in enumerate(show.canvases):
        for n, region in enumerate(canvas.regions):
            if region.surface is None or region.mirror:
                continue
            part = (region.surface, region.projector, region.monitor)
            first = fed.setdefault(part, region)
            if first.output != region.output:
                names = {s.id: s.name for s in show.surfaces}
                outputs = {o.id: o.name for o in show.outputs}
                what = (
                    names.get(region.surface, region.surface)
                    + (f" {region.projector}" if region.projector else "")
                    + (f" monitor {region.monitor}" if region.monitor else "")
                )
                faults.append(
                    Fault(
                        f"canvases[{c}].regions[{n}].output",
                        f"{what} already takes its picture from "
                        f'{outputs.get(first.output, first.output)} (region "{first.name}"); unbind it there first, '
                        "or make this a mirror",
                    )
                )
    used: dict[str, str] = {}
    for n, output in enumerate(show.outputs):
        own = output.gang.connectors if output.gang else (output.connector,) if output.connector else ()
        for name in (*own, *output.mirrors):
            if name in used:
                faults.append(
                    Fault(f"outputs[{n}]", f'connector "{name}" is already used by {used[name]}; choose another')
                )
            used.setdefault(name, output.name)
    return faults


def _place_of(path: tuple[int | str, ...], document: object) -> str:
    text, here = "", document
    for step in path:
        if isinstance(step, int):
            text += f"[{step}]"
            here = here[step] if isinstance(here, list) and step < len(here) else None
        else:
            # The reader of the document knows fields, not the names of alternatives between them.
            if isinstance(here, dict) and step not in here and here.get("kind") == step:
                continue
            text += f".{step}" if text else step
            here = here.get(step) if isinstance(here, dict) else None
    return text


@lru_cache(1)
def _field_names() -> tuple[str, ...]:
    """Every name that a field of the format has, somewhere."""
    schema = Show.model_json_schema()
    return tuple(sorted({name for part in (schema, *schema["$defs"].values()) for name in part.get("properties", ())}))


def show_from_document(document: object) -> Show:
    """Read a decoded JSON document as a show and check it as a whole.

    Parameters
    ----------
    document : object
        What ``json.loads`` returned.

    Raises
    ------
    ShowError
        With one sentence per fault, each naming its place in the document.
    """
    if not isinstance(document, dict):
        raise ShowError([Fault("", "this is JSON but not a show; open a file that this application saved")])
    if document.get("format") != FORMAT:
        raise ShowError(
            [
                Fault(
                    "format",
                    f'this is not a show file (format is not "{FORMAT}"); open a file that this application saved',
                )
            ]
        )
    version = document.get("version")
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise ShowError([Fault("version", "the version must be a whole number from 1; the file was altered by hand")])
    if version > VERSION:
        raise ShowError(
            [
                Fault(
                    "version",
                    f"the show is of format version {shortened(version)}, this program reads up to {VERSION}; "
                    "open it with a newer Ushering Adze",
                )
            ]
        )
    document = upgraded(document)
    try:
        show = Show.model_validate(document)
    except ValidationError as error:
        faults = []
        for e in error.errors(include_url=False):
            faults.append(Fault(_place_of(e["loc"], document), sentence(e, _field_names())))
        raise ShowError(faults) from None
    faults = faults_of(show)
    if faults:
        raise ShowError(faults)
    return show


def document_of(show: Show) -> dict[str, Any]:
    """The JSON document of a show; ``show_from_document(document_of(s)) == s``."""
    return show.model_dump(mode="json")


def show_schema() -> dict[str, Any]:
    """The JSON Schema (2020-12) of the show format."""
    schema = Show.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Ushering Adze show", **schema}
