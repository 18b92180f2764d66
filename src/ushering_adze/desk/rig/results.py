"""What the selected item comes to, in lines: the words around figures that the core computes."""

from __future__ import annotations

from typing import Any, Literal, NamedTuple

from ushering_adze.core.displays.binding import fed_by, fed_parts, feeding, offset_of
from ushering_adze.core.displays.led import data_runs, led_facts, port_capacity
from ushering_adze.core.displays.monitors import canvas_size, hidden_pixels, pixel_mm
from ushering_adze.core.displays.projection import footlamberts, picture_width, projection_facts
from ushering_adze.core.displays.rig import (
    WireLoad,
    card_loads,
    forbidden,
    input_cadence,
    input_wires,
    output_wires,
    reached,
    timing_of,
)
from ushering_adze.core.show import Input, LedWall, Monitor, MonitorWall, Output, Projection, Show, Stream, Surface
from ushering_adze.core.signal.advice import suggestions, timing_for
from ushering_adze.core.signal.link import load
from ushering_adze.core.signal.timing import SignalError, plain, rate_words
from ushering_adze.playout import SignalReport

Level = Literal["plain", "good", "warning", "error"]


class Line(NamedTuple):
    """One result: what it is, its figures, and whether it is well."""

    label: str
    words: str
    level: Level = "plain"


def thousands(value: float) -> str:
    """A number with thin spaces between thousands.

    Examples
    --------
    >>> thousands(1843200)
    '1\u202f843\u202f200'
    """
    return f"{value:,.0f}".replace(",", "\u202f")


def metres(mm: tuple[float, float]) -> str:
    """A size in metres."""
    return f"{mm[0] / 1000:.3f} × {mm[1] / 1000:.3f} m"


def _wire_lines(wires: tuple[WireLoad, ...], bits: int, encoding: Any) -> list[Line]:
    lines = []
    for wire in wires:
        t = wire.timing
        name = wire.part.connector if len(wires) > 1 else "Timing"
        lines.append(
            Line(
                name,
                f"{t.h_active}×{t.v_active}{'i' if t.interlaced else ''} {plain(t.refresh_hz, 3)} Hz, {t.standard}",
            )
        )
        if len(wires) == 1:
            lines.append(Line("Clock", f"{plain(t.clock_khz / 1000, 4)} MHz, lines {plain(t.line_khz, 2)} kHz"))
            lines.append(Line("Total", f"{t.h_total} × {t.v_total}"))
            lines.append(Line("Across", f"{t.h_active} + {t.h_front} + {t.h_sync} + {t.h_back}"))
            lines.append(Line("Down", f"{t.v_active} + {t.v_front} + {t.v_sync} + {t.v_back}"))
        if wire.load is not None:
            lines.append(Line("Link", wire.load.words, "good" if wire.load.fits else "error"))
    if wires and wires[0].load is not None and not wires[0].load.fits:
        w = wires[0]
        assert w.load is not None
        for s in suggestions(w.timing.h_active, w.timing.v_active, w.timing.refresh_hz, w.load.link, bits, encoding)[
            :4
        ]:
            lines.append(Line("would fit", s.words))
    return lines


def output_lines(show: Show, output: Output) -> list[Line]:
    """An output: its timing, its budget, what it feeds, its card."""
    try:
        lines = _wire_lines(output_wires(output), output.signal.bits, output.signal.encoding)
        whole = timing_of(output.timing)
        if output.signal.picture_only and (output.signal.encoding != "rgb" or output.signal.bits != 8):
            lines.append(
                Line("Picture only", "carries RGB of 8 bits alone; choose these, or let it carry audio", "error")
            )
        if output.gang is None and whole.h_active != output.timing.width:
            lines.append(
                Line(
                    "Width",
                    f"the timing has {whole.h_active} px, the raster {output.timing.width}; use CVT reduced 2",
                    "warning",
                )
            )
        for id, card in card_loads(show).items():
            names = next(c for c in show.cards if c.id == id)
            own = set(output.gang.connectors if output.gang else [output.connector or ""]) | set(output.mirrors)
            if own & set(names.connectors):
                figures = f"{names.name}: {float(card.used_mhz):.4g} of {names.clock_mhz:g} MHz"
                off = f"; switch off {', '.join(card.switch_off)}" if card.switch_off else ""
                lines.append(Line("Card", figures + off, "good" if card.fits else "error"))
    except SignalError as error:
        lines = [Line("Timing", str(error), "error")]
    feeds = [part.name for s in show.surfaces for part in fed_parts(s) if fed_by(show, part) == output.id]
    lines.append(
        Line(
            "Feeds",
            ", ".join(feeds) if feeds else "nothing yet: drag from it to a surface",
            "plain" if feeds else "warning",
        )
    )
    lines.append(Line("Goes to", _binding_words(output)))
    return lines


def _binding_words(output: Output) -> str:
    match output.binding:
        case None:
            return "unbound"
        case binding if binding.kind == "display":
            return f"display {binding.name}"
        case binding:
            return {"window": "a window", "files": "PNG files"}[binding.kind]


def signal_lines(signal: SignalReport) -> list[Line]:
    """A live input: its state, what it really is, and what that means where it differs from what was declared."""
    graver: dict[str, Level] = {"live": "good", "opening": "plain", "filling": "plain"}
    lines = [Line("Signal", signal.words, graver.get(signal.state, "error"))]
    if signal.real.words:
        lines.append(Line("It is", signal.real.words))
    lines += [Line("Differs" if n == 0 else "", words, "warning") for n, words in enumerate(signal.differs)]
    if signal.state == "live":
        lines.append(Line("Held up here", f"{signal.behind * 1000:.0f} ms"))
    if signal.damaged:
        lines.append(Line("Damaged", f"{signal.damaged} packets since it was opened", "warning"))
    return lines


def input_lines(show: Show, source: Input) -> list[Line]:
    """An input: its wires, and what the show's rate does to it."""
    try:
        lines = _wire_lines(input_wires(source), source.bits, source.encoding)
    except SignalError as error:
        lines = [Line("Timing", str(error), "error")]
    meets = input_cadence(show, source)
    lines.append(Line("Rate", meets.words, "good" if meets.uneven_s is None else "warning"))
    outputs = reached(show, source.id)
    lines.append(Line("Reaches", ", ".join(o.name for o in outputs) or "no output: no layer or preset shows it"))
    if source.protected:
        bad = forbidden(show, source)
        lines.append(
            Line(
                "Protected",
                f"may not go to {', '.join(o.name for o in bad)}" if bad else "reaches no output that may not carry it",
                "error" if bad else "good",
            )
        )
    for id, card in card_loads(show).items():
        names = next(c for c in show.cards if c.id == id)
        if set(source.gang.connectors if source.gang else [source.connector or ""]) & set(names.connectors):
            off = f"; switch off {', '.join(card.switch_off)}" if card.switch_off else ""
            figures = f"{names.name}: {float(card.used_mhz):.4g} of {names.clock_mhz:g} MHz"
            lines.append(Line("Card", figures + off, "good" if card.fits else "error"))
    return lines


def feed_lines(show: Show, surface: Surface) -> list[Line]:
    """Who feeds each part of a surface, and where it lies in the raster."""
    lines = []
    for part in fed_parts(surface)[:8]:
        output = fed_by(show, part)
        label = part.name if part.projector or part.monitor else "Fed by"
        if output is None:
            lines.append(Line(label, "unbound: drag an output to it", "warning"))
            continue
        o = show.output(output)
        at = offset_of(show, part)
        lines.append(Line(label, f"{o.number} {o.name}"))
        if at is not None:
            lines.append(
                Line("In its raster", f"{at.w}×{at.h} at {at.x}, {at.y} of {o.timing.width}×{o.timing.height}")
            )
        region = feeding(show, part)[0]
        if (region.w, region.h) != (part.width, part.height):
            words = f"it has {part.width}×{part.height} px, its region {region.w}×{region.h}; correct the region in Map"
            lines.append(Line("Size", words, "error"))
    return lines


def led_lines(wall: LedWall) -> list[Line]:
    """An LED wall."""
    f = led_facts(wall)
    square = abs(f.pitch_mm - f.pitch_down_mm) < 5e-4
    pitch = f"{f.pitch_mm:.3f} mm" if square else f"{f.pitch_mm:.3f} × {f.pitch_down_mm:.3f} mm"
    lines = [
        Line("Pixels", f"{f.pixels[0]} × {f.pixels[1]}, {thousands(f.lit_pixels)} lit"),
        Line("Size", metres(f.size_mm)),
        Line("Pitch", pitch),
        Line("Cabinets", f"{f.cabinets}"),
        Line("Weight", f"{f.weight_kg:.1f} kg" if f.weight_kg else "not given"),
    ]
    if f.max_watts:
        lines.append(Line("Power", f"{f.max_watts / 1000:.2f} kW at most, {f.mean_watts / 1000:.2f} kW mean"))
        if f.per_circuit:
            lines.append(
                Line("Circuits", f"{f.circuits} of {f.circuit_watts / 1000:.2f} kW, {f.per_circuit} cabinets each")
            )
        else:
            lines.append(Line("Circuits", f"one cabinet is over a circuit's {f.circuit_watts / 1000:.2f} kW", "error"))
    lines.append(Line("Viewing", f"from {f.comfortable_m:.1f} m; no pixel seen from {f.unseen_m:.1f} m"))
    try:
        runs = data_runs(wall)
        fullest = max(r.share for r in runs)
        backup = f" and {len(runs)} for backup" if wall.data.backup else ""
        lines.append(
            Line(
                "Ports",
                f"{len(runs)}{backup}, fullest {fullest * 100:.0f} % of {thousands(port_capacity(wall.data))} px",
                "good",
            )
        )
    except ValueError as error:
        lines.append(Line("Ports", str(error), "error"))
    return lines


def monitor_wall_lines(wall: MonitorWall) -> list[Line]:
    """A monitor wall."""
    hx, hy = hidden_pixels(wall)
    open_, hidden = canvas_size(wall, False), canvas_size(wall, True)
    lines = [
        Line("Size", metres(wall.size_mm)),
        Line("Monitors", str(len(wall.scattered) or wall.columns * wall.rows)),
        Line("Pixel", f"{pixel_mm(wall)[0]:.4f} mm"),
        Line("Feed", f"{wall.feed_width} × {wall.feed_height}"),
    ]
    if wall.scattered:
        lines.append(Line("Canvas", f"{open_[0]} × {open_[1]}, turned rectangles cut out"))
    else:
        lines += [
            Line("Behind edges", f"{hx:.1f} px across, {hy:.1f} px down"),
            Line("Canvas", f"{open_[0]} × {open_[1]} closed up"),
            Line("", f"{hidden[0]} × {hidden[1]} with hidden pixels"),
        ]
    return lines


def projection_lines(screen: Projection) -> list[Line]:
    """A projected screen."""
    f = projection_facts(screen)
    lines = [Line("Canvas", f"{f.canvas[0]} × {f.canvas[1]} px"), Line("Pixel", f"{f.pixel_mm:.3f} mm")]
    for overlap, count, word in ((f.across, screen.columns, "Overlap"), (f.down, screen.rows, "Overlap down")):
        if count > 1:
            lines.append(Line(word, f"{overlap.px} px, {overlap.mm:.0f} mm, {overlap.share * 100:.1f} %"))
    if f.nits > 0:
        lines.append(Line("White", f"{f.nits:.0f} cd/m², {footlamberts(f.nits):.1f} fL"))
        if f.across.px or f.down.px:
            lines.append(
                Line(
                    "not blended",
                    f"{f.nits_doubled:.0f} cd/m², {footlamberts(f.nits_doubled):.1f} fL where most overlap",
                )
            )
            lines.append(Line("no overlap", f"{f.nits_spread:.0f} cd/m² if all light were spread"))
        lines.append(Line("Contrast", f.viewing, "good" if f.contrast and f.contrast >= 15 else "warning"))
    for p in f.projectors:
        lines.append(Line(p.projector.name, f"picture {metres(p.size_mm)}"))
        if p.distance_mm is not None:
            words = f"{p.distance_mm[0] / 1000:.2f} to {p.distance_mm[1] / 1000:.2f} m"
            if p.fits_distance is None:
                lines.append(Line("Distance", words))
            else:
                words += "" if p.fits_distance else f", not {p.projector.distance_mm / 1000:.2f} m"
                lines.append(Line("Distance", words, "good" if p.fits_distance else "error"))
        if p.projector.throw_min > 0 and p.projector.distance_mm > 0:
            far = p.projector.distance_mm
            small, large = (picture_width(far, t) / 1000 for t in (p.projector.throw_max, p.projector.throw_min))
            lines.append(Line("From there", f"pictures {small:.2f} to {large:.2f} m wide"))
        if p.used_share < 0.9999:
            lines.append(
                Line("Uses", f"{p.used_px[0]} × {p.used_px[1]} px of its raster, {p.used_share * 100:.0f} %", "warning")
            )
    return lines


def show_lines(show: Show) -> list[Line]:
    """The show as a whole: its rate, and whatever does not go together."""
    reference = f"{show.reference} reference" + (f" ({show.reference_name})" if show.reference_name else "")
    lines = [
        Line("Rate", f"{rate_words(show.rate)} Hz, {reference}"),
        Line("Rigged", f"{len(show.sources)} sources, {len(show.outputs)} outputs, {len(show.surfaces)} surfaces"),
    ]
    for surface in show.surfaces:
        dark = [part.name for part in fed_parts(surface) if fed_by(show, part) is None]
        if dark:
            lines.append(Line("Unbound", ", ".join(dark), "warning"))
    for output in show.outputs:
        try:
            lines += [
                Line(output.name, w.load.words, "error")
                for w in output_wires(output)[:1]
                if w.load is not None and not w.load.fits
            ]
        except SignalError as error:
            lines.append(Line(output.name, str(error), "error"))
    for source in show.sources:
        if isinstance(source, Input):
            meets = input_cadence(show, source)
            if meets.uneven_s is not None:
                lines.append(Line(source.name, meets.words, "warning"))
            bad = forbidden(show, source)
            if bad:
                lines.append(
                    Line(source.name, f"is copy-protected and may not go to {', '.join(o.name for o in bad)}", "error")
                )
    loads = card_loads(show)
    for card in show.cards:
        if not loads[card.id].fits:
            lines.append(
                Line(
                    card.name,
                    f"{float(loads[card.id].used_mhz):.4g} of {card.clock_mhz:g} MHz; "
                    f"switch off {', '.join(loads[card.id].switch_off)}",
                    "error",
                )
            )
    return lines


def lines_of(show: Show, item: Any, signal: SignalReport | None = None) -> list[Line]:
    """What an item comes to; an input with what is known of its signal."""
    match item:
        case Show():
            return show_lines(show)
        case Output():
            return output_lines(show, item)
        case Input():
            return [*(signal_lines(signal) if signal is not None else []), *input_lines(show, item)]
        case LedWall():
            return [*feed_lines(show, item), *led_lines(item)]
        case MonitorWall():
            return [*feed_lines(show, item), *monitor_wall_lines(item)]
        case Projection():
            return [*feed_lines(show, item), *projection_lines(item)]
        case Monitor():
            return [
                *feed_lines(show, item),
                Line("Size", metres(item.size_mm)),
                Line("Pixel", f"{item.width_mm / item.width:.4f} mm"),
            ]
        case Stream():
            try:
                timing = timing_for(item.width, item.height, item.rate)
            except SignalError as error:
                return [Line("Timing", str(error), "error")]
            budget = load(timing, "stream", encoding="420", mbps=item.mbps)
            words = f"{float(budget.used):.1f} Mb/s" + (
                "" if item.mbps else ", estimated at a tenth of a bit for each pixel"
            )
            size = f"{item.width} × {item.height} at {rate_words(item.rate)} Hz"
            return [*feed_lines(show, item), Line("Stream", size), Line("Bit rate", words)]
        case _:
            outputs = reached(show, item.id)
            return [Line("Kind", item.kind), Line("Reaches", ", ".join(o.name for o in outputs) or "no output")]
