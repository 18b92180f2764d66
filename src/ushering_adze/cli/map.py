"""The commands about maps: pixelmap, template, regions, find-regions, proof."""

from __future__ import annotations

import json
from collections.abc import Sequence
from pathlib import Path
from typing import Annotated

import typer

from ushering_adze.core.exchange.content import content_table
from ushering_adze.core.exchange.pixelmap import canvas_map, output_map, surface_map, template
from ushering_adze.core.exchange.region_table import as_table, read_rows, region_rows, with_rows, with_show_regions
from ushering_adze.core.exchange.sheet import Sheet
from ushering_adze.core.mapping.regions import added
from ushering_adze.core.proof import pixel_check
from ushering_adze.core.seeing.find import find_rectangles
from ushering_adze.core.show import Canvas, Fault, Output, Show, ShowError, Surface
from ushering_adze.core.show.show import faults_of
from ushering_adze.io.asking import read_text
from ushering_adze.io.exchange.dxf import outline_rects, read_outlines
from ushering_adze.io.exchange.guide import read_guide
from ushering_adze.io.exchange.sheets import write_sheet
from ushering_adze.io.showfile import read_show, save_show
from ushering_adze.io.writing import write_whole

ShowArgument = Annotated[Path, typer.Argument(metavar="SHOW", help="A show file.")]
JsonOption = Annotated[bool, typer.Option("--json", help="Print JSON.")]


def _map_of(show: Show, canvas: str | None, output: str | None, surface: str | None) -> Sheet:
    chosen = [
        (noun, id) for noun, id in (("canvas", canvas), ("output", output), ("surface", surface)) if id is not None
    ]
    if len(chosen) != 1:
        raise ShowError([Fault("pixelmap", "name one of --canvas, --output and --surface")])
    noun, id = chosen[0]
    lists: dict[str, Sequence[Canvas | Output | Surface]] = {
        "canvas": show.canvases,
        "output": show.outputs,
        "surface": show.surfaces,
    }
    known = lists[noun]
    if id not in {item.id for item in known}:
        raise ShowError(
            [Fault(f"--{noun}", f'no {noun} "{id}"; there are: {", ".join(item.id for item in known) or "none yet"}')]
        )
    return {"canvas": canvas_map, "output": output_map, "surface": surface_map}[noun](show, id)


def pixelmap_command(
    show: ShowArgument,
    out: Annotated[Path, typer.Option("--out", help="File to write: .png, .svg or .pdf.")],
    canvas: Annotated[str | None, typer.Option("--canvas", help="Id of a canvas.")] = None,
    output: Annotated[str | None, typer.Option("--output", help="Id of an output.")] = None,
    surface: Annotated[str | None, typer.Option("--surface", help="Id of a surface.")] = None,
) -> None:
    """Draw the pixel map of a canvas, an output or a surface."""
    sheet = _map_of(read_show(show), canvas, output, surface)
    write_sheet(sheet, out)
    print(f"{out}: {sheet.width}×{sheet.height} px")


def template_command(
    show: ShowArgument, out: Annotated[Path, typer.Option("--out", help="Folder; made if it is not there.")]
) -> None:
    """Write templates for the makers of content: a PNG with alpha for each surface, and a sheet of sizes."""
    value = read_show(show)
    for surface in value.surfaces:
        write_sheet(template(value, surface.id), out / f"{surface.id}.png")
    write_whole(out / "sizes.tsv", content_table(value).encode(), "the sheet of sizes")
    print(f"{out}: {len(value.surfaces)} templates and sizes.tsv")


def regions_command(
    show: ShowArgument,
    as_csv: Annotated[bool, typer.Option("--csv", help="Print CSV; this is the default.")] = False,
    as_json: JsonOption = False,
    source: Annotated[
        Path | None, typer.Option("--import", help="A table (.csv, .tsv), another show (.adze) or a drawing (.dxf).")
    ] = None,
    save: Annotated[bool, typer.Option("--save", help="Save what was imported.")] = False,
    good: Annotated[
        bool, typer.Option("--good", help="Import the rows that are right, although others are not.")
    ] = False,
    mm: Annotated[float, typer.Option("--mm", help="Millimetres to a pixel of a drawing.")] = 1.0,
) -> None:
    """List the regions of a show, or import some."""
    value = read_show(show)
    if source is not None:
        value, faults, count = _imported(value, source, mm)
        for fault in faults:
            typer.echo(f"adze: {source.name}: {fault}", err=True)
        if faults and not good:
            typer.echo(
                f"adze: nothing was imported; correct {'it' if len(faults) == 1 else 'them'}, or say --good to "
                f"import the {count} that are right",
                err=True,
            )
            raise typer.Exit(2)
        whole = faults_of(value)
        if whole:
            raise ShowError(whole)
        if save:
            save_show(value, show)
        typer.echo(f"adze: {count} regions imported{' and saved' if save else ', not saved (say --save)'}", err=True)
        if save:
            return
    if as_json and not as_csv:
        print(json.dumps(region_rows(value), indent=1, ensure_ascii=False))
    else:
        print(as_table(value), end="")


def _imported(show: Show, source: Path, mm: float) -> tuple[Show, list[Fault], int]:
    suffix = source.suffix.lower()
    if suffix == ".dxf":
        outlines, faults = read_outlines(source)
        if not show.canvases or not show.outputs:
            raise ShowError([Fault("", "this show has no canvas or no output yet; add them in Rig and Map first")])
        show, ids = added(
            show, show.canvases[0].id, outline_rects(outlines, mm), show.outputs[0].id, [o.layer for o in outlines]
        )
        return show, faults, len(ids)
    if suffix == ".adze":
        return with_show_regions(show, read_show(source))
    rows, faults = read_rows(read_text(source))
    show, more, count = with_rows(show, rows)
    return show, [*faults, *more], count


def find_command(
    picture: Annotated[Path, typer.Argument(metavar="PICTURE", help="A pixel map picture.")],
    as_json: JsonOption = False,
) -> None:
    """Find the rectangles of a pixel map picture."""
    found = find_rectangles(read_guide(picture))
    if as_json:
        print(
            json.dumps(
                [
                    {
                        **f.rect._asdict(),
                        "confidence": f.confidence,
                        "colour": f.colour,
                        "parts": [r._asdict() for r in f.parts],
                    }
                    for f in found
                ],
                indent=1,
            )
        )
        return
    for f in found:
        parts = f"  or {len(f.parts)} parts" if f.parts else ""
        print(f"{f.rect.w}x{f.rect.h}+{f.rect.x}+{f.rect.y}  {100 * f.confidence:.0f} %  {f.colour}{parts}")
    print(f"{len(found)} rectangles")


def proof_command(show: ShowArgument, as_json: JsonOption = False) -> None:
    """Check a show's pixels; exit 1 if there is an error among the findings."""
    found = pixel_check(read_show(show))
    if as_json:
        print(json.dumps([f.as_dict() for f in found], indent=1, ensure_ascii=False))
    else:
        for f in found:
            print(f"{f.severity:<8}{f.rule:<14}{f.message}")
        counts = {s: sum(f.severity == s for f in found) for s in ("error", "warning", "note")}
        print(", ".join(f"{n} {s}{'s' if n != 1 else ''}" for s, n in counts.items()))
    if any(f.severity == "error" for f in found):
        raise typer.Exit(1)
