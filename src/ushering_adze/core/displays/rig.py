"""The rig as a whole: what every source, output and surface comes to, in figures."""

from __future__ import annotations

from collections.abc import Sequence
from contextlib import suppress
from fractions import Fraction
from functools import lru_cache
from typing import Any, NamedTuple

from ushering_adze.core.displays.binding import FedPart, fed_by, fed_parts, offset_of
from ushering_adze.core.displays.led import data_runs, led_facts
from ushering_adze.core.displays.projection import projection_facts
from ushering_adze.core.show import Input, LedWall, MonitorWall, Output, Projection, Show, Stream, Surface
from ushering_adze.core.show.layer import sources_named
from ushering_adze.core.show.output import Timing
from ushering_adze.core.signal.advice import timing_for
from ushering_adze.core.signal.gang import CardLoad, Part, card_load, gang_parts
from ushering_adze.core.signal.link import Load, load
from ushering_adze.core.signal.rate import Cadence, cadence
from ushering_adze.core.signal.timing import SignalError, SignalTiming, Standard, custom_timing

KIND_WORDS = {
    "led-wall": "LED wall",
    "projection": "projection",
    "monitor-wall": "monitor wall",
    "monitor": "monitor",
    "stream": "stream",
}


def timing_of(timing: Timing) -> SignalTiming:
    """The whole timing that an output's settings mean.

    Raises
    ------
    SignalError
        If its standard has no such timing.
    """
    if timing.by_hand is not None:
        b = timing.by_hand
        return custom_timing(
            b.clock_khz,
            (timing.width, b.h_front, b.h_sync, b.h_back),
            (timing.height, b.v_front, b.v_sync, b.v_back),
            timing.interlaced,
            b.h_positive,
            b.v_positive,
        )
    return timing_for(timing.width, timing.height, timing.rate, timing.standard, timing.interlaced)


class WireLoad(NamedTuple):
    """What one connector of a signal carries: its part of the raster, its timing, and its budget (None with no link
    chosen).
    """

    part: Part
    timing: SignalTiming
    load: Load | None


@lru_cache(maxsize=256)
def output_wires(output: Output) -> tuple[WireLoad, ...]:
    """One wire, or one for each connector of a gang.

    Raises
    ------
    SignalError
        If a part has no timing.
    """
    s = output.signal
    if output.gang is None:
        whole = timing_of(output.timing)
        part = gang_parts(output.timing.width, output.timing.height, 1, 1, (output.connector or str(output.number),))[0]
        return (WireLoad(part, whole, load(whole, s.link, s.bits, s.encoding) if s.link else None),)
    parts = gang_parts(
        output.timing.width, output.timing.height, output.gang.columns, output.gang.rows, output.gang.connectors
    )
    standard = output.timing.standard if output.timing.standard in ("cvt", "cvt-rb", "cvt-rb2") else None
    timing = gang_timing(parts, output.timing.rate, standard, output.timing.interlaced)
    return tuple(WireLoad(part, timing, load(timing, s.link, s.bits, s.encoding) if s.link else None) for part in parts)


def gang_timing(parts: Sequence[Part], rate: float, standard: Standard | None, interlaced: bool) -> SignalTiming:
    """The one timing that every connector of a gang runs at, so that their pictures stay in step: that of the largest
    part.

    Smaller parts leave their last column or row unused.

    Parameters
    ----------
    parts : Sequence[Part]
        Of the gang, each with its connector.
    rate : float
        Pictures a second.
    standard : Standard | None
        Which standard.
    interlaced : bool
        Whether two fields make a picture.

    Returns
    -------
    SignalTiming
    """
    return timing_for(max(p.at.w for p in parts), max(p.at.h for p in parts), rate, standard, interlaced)


@lru_cache(maxsize=256)
def input_wires(source: Input) -> tuple[WireLoad, ...]:
    """The same for an input."""
    columns, rows = (source.gang.columns, source.gang.rows) if source.gang else (1, 1)
    names = source.gang.connectors if source.gang else (source.connector or source.name,)
    parts = gang_parts(source.width, source.height, columns, rows, names)
    timing = gang_timing(parts, source.rate, None, source.interlaced)
    return tuple(
        WireLoad(part, timing, load(timing, source.link, source.bits, source.encoding) if source.link else None)
        for part in parts
    )


def input_cadence(show: Show, source: Input) -> Cadence:
    """What the show's rate does to an input's pictures; an interlaced one brings as many pictures as it has fields.

    Parameters
    ----------
    show : Show
    source : Input
        Which source, by its id.

    Returns
    -------
    Cadence
    """
    return cadence(source.rate, show.rate)


def reached(show: Show, source: str) -> list[Output]:
    """The outputs that a source can reach: by a layer as the document has it, or by any preset.

    Parameters
    ----------
    show : Show
    source : str
        Which source, by its id.

    Returns
    -------
    list[Output]
    """
    layers = {(c.id, layer.id) for c in show.canvases for layer in c.layers if source in sources_named(layer.settings)}
    layers |= {
        (p.canvas, p.layer)
        for preset in show.presets
        for p in preset.parts
        if source in {named for _, named in p.named()}
    }
    canvases = {canvas for canvas, _ in layers}
    ids = {r.output for c, r in show.regions() if c.id in canvases}
    return [o for o in show.outputs if o.id in ids]


def forbidden(show: Show, source: Input) -> list[Output]:
    """The outputs that a copy-protected source would reach and that may not carry it.

    Parameters
    ----------
    show : Show
    source : Input
        Which source, by its id.

    Returns
    -------
    list[Output]
    """
    return [o for o in reached(show, source.id) if not o.signal.protected] if source.protected else []


def card_loads(show: Show) -> dict[str, CardLoad]:
    """What the connectors in use take of each card's shared capacity, by the card's id."""
    clocks: dict[str, Fraction] = {}
    for output in show.outputs:
        with suppress(SignalError):  # what has no timing takes nothing, and is told where it stands
            for wire in output_wires(output):
                clocks[wire.part.connector] = wire.timing.clock_khz / 1000
            for mirror in output.mirrors:
                clocks[mirror] = timing_of(output.timing).clock_khz / 1000
    for source in show.sources:
        if isinstance(source, Input) and (source.connector or source.gang):
            with suppress(SignalError):
                for wire in input_wires(source):
                    clocks[wire.part.connector] = wire.timing.clock_khz / 1000
    return {
        card.id: card_load(card.clock_mhz, {c: clocks[c] for c in card.connectors if c in clocks})
        for card in show.cards
    }


def offset_words(show: Show, part: FedPart) -> str:
    """Where a part lies in the raster of its output, in words.

    Parameters
    ----------
    show : Show
    part : FedPart
        Of a surface.

    Returns
    -------
    str
        In words.
    """
    output, at = fed_by(show, part), offset_of(show, part)
    if output is None or at is None:
        return "unbound"
    return f"{at.w}×{at.h} at {at.x}, {at.y} of {show.output(output).timing.width}×{show.output(output).timing.height}"


def surface_figures(show: Show, surface: Surface) -> dict[str, Any]:
    """One surface for a rig sheet or as JSON: id, kind, pixels, mm, outputs that feed it, what its kind adds up to.

    Parameters
    ----------
    show : Show
    surface : Surface
        Which surface, by its id.

    Returns
    -------
    dict[str, Any]
    """
    parts = []
    for part in fed_parts(surface):
        output = fed_by(show, part)
        parts.append(
            {
                "name": part.name,
                "pixels": [part.width, part.height],
                "output": output,
                "raster": offset_words(show, part),
            }
        )
    row: dict[str, Any] = {
        "id": surface.id,
        "name": surface.name,
        "kind": surface.kind,
        "pixels": list(surface.pixels),
        "mm": None if surface.size_mm is None else [round(v, 1) for v in surface.size_mm],
        "output": parts[0]["output"] if len(parts) == 1 else [p["output"] for p in parts],
        "parts": parts,
    }
    loads: dict[str, Any] = {}
    for id in dict.fromkeys(fed_by(show, part) for part in fed_parts(surface)):
        if id is None:
            continue
        loads[id] = _wire_dicts(show.output(id))
    row["load"] = loads
    if isinstance(surface, LedWall):
        row["led"] = {**led_facts(surface)._asdict(), "runs": []}
        try:
            row["led"]["runs"] = [
                {
                    "port": r.port,
                    "cabinets": len(r.cabinets),
                    "pixels": r.pixels,
                    "share": round(r.share, 4),
                    "backup": r.backup,
                }
                for r in data_runs(surface)
            ]
        except ValueError as error:
            row["led"]["fault"] = str(error)
    elif isinstance(surface, Projection):
        p = projection_facts(surface)
        row["projection"] = {
            "pixel_mm": p.pixel_mm,
            "overlap_px": p.across.px,
            "overlap_mm": p.across.mm,
            "overlap_share": p.across.share,
            "overlap_down_px": p.down.px,
            "overlap_down_mm": p.down.mm,
            "overlap_down_share": p.down.share,
            "nits": p.nits,
            "nits_doubled": p.nits_doubled,
            "contrast": p.contrast,
            "viewing": p.viewing,
        }
    elif isinstance(surface, MonitorWall):
        row["monitors"] = len(surface.scattered) or surface.columns * surface.rows
    elif isinstance(surface, Stream):
        row["stream"] = {"rate": surface.rate, "mbps": surface.mbps}
    return row


def _wire_dicts(item: Output | Input) -> list[dict[str, Any]]:
    try:
        return [_load_dict(w) for w in (output_wires(item) if isinstance(item, Output) else input_wires(item))]
    except SignalError as error:
        return [{"fault": str(error)}]


def _load_dict(wire: WireLoad) -> dict[str, Any]:
    timing = wire.timing
    row: dict[str, Any] = {
        "connector": wire.part.connector,
        "raster": list(wire.part.at),
        "clock_khz": float(timing.clock_khz),
        "refresh_hz": float(timing.refresh_hz),
        "standard": timing.standard,
    }
    if wire.load is not None:
        row |= {
            "link": wire.load.link.name,
            "used": float(wire.load.used),
            "capacity": float(wire.load.capacity),
            "unit": wire.load.unit,
            "fits": wire.load.fits,
        }
    return row


def rig_of(show: Show) -> dict[str, Any]:
    """The whole rig as plain values."""
    return {
        "show": show.name,
        "rate": show.rate,
        "reference": show.reference,
        "surfaces": [surface_figures(show, s) for s in show.surfaces],
        "outputs": [
            {
                "id": o.id,
                "number": o.number,
                "name": o.name,
                "width": o.timing.width,
                "height": o.timing.height,
                "rate": o.timing.rate,
                "binding": o.binding.kind if o.binding else None,
                "mirrors": list(o.mirrors),
                "wires": _wire_dicts(o),
            }
            for o in show.outputs
        ],
        "inputs": [
            {
                "id": s.id,
                "name": s.name,
                "width": s.width,
                "height": s.height,
                "rate": s.rate,
                "protected": s.protected,
                "cadence": input_cadence(show, s).words,
                "forbidden": [o.id for o in forbidden(show, s)],
                "wires": _wire_dicts(s),
            }
            for s in show.sources
            if isinstance(s, Input)
        ],
        "cards": [
            {
                "id": c.id,
                "name": c.name,
                "used_mhz": float(card_loads(show)[c.id].used_mhz),
                "capacity_mhz": c.clock_mhz,
                "switch_off": list(card_loads(show)[c.id].switch_off),
            }
            for c in show.cards
        ],
    }
