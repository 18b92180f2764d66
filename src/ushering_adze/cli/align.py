"""Commands about aligning: what the stand-in screen shows, alignment by the stand-in camera, and the maps of a bend."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import cv2
import numpy as np
import typer
from numpy.typing import NDArray

from ushering_adze.core.document.wording import shortened
from ushering_adze.core.light.flatness import Flatness, flatness_of
from ushering_adze.core.mapping.regions import face_of
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Fault, Projection, Show, ShowError
from ushering_adze.engine.aligning import align as align_by_camera
from ushering_adze.engine.aligning import shots
from ushering_adze.engine.offline import output_pictures, patterned
from ushering_adze.io.exchange.bends import region_maps
from ushering_adze.io.outputs.png import write_png
from ushering_adze.io.showfile import read_show, save_show
from ushering_adze.io.standins.camera import StandinCamera
from ushering_adze.io.standins.screen import StandinScreen
from ushering_adze.playout.cameras import TakenPhotos, full_rasters


def _projection(show: Show, surface: str) -> Projection:
    found = next((s for s in show.surfaces if s.id == surface), None)
    if not isinstance(found, Projection):
        lit = ", ".join(s.id for s in show.surfaces if isinstance(s, Projection)) or "none"
        raise ShowError([Fault("--surface", f'"{surface}" is no projection of this show; there are: {lit}')])
    return found


def overlaps(show: Show, surface: str) -> list[Rect]:
    """Where pictures of a screen overlap as mapped, in pixels of the screen."""
    regions = show.lit_by(surface)
    face = face_of(regions)
    rects = [Rect(r.x - face.x, r.y - face.y, r.w, r.h) for r in regions]
    return [both for k, a in enumerate(rects) for b in rects[k + 1 :] if not (both := a.meet(b)).empty]


def simulated(show: Show, surface: str, pattern: str, crooked: float = 1.0) -> tuple[NDArray[np.float32], Flatness]:
    """The luminance of a stand-in screen with a pattern on every canvas, and how even it is."""
    screen = StandinScreen(show, surface, 1.0, crooked)
    light = screen.luminance(output_pictures(patterned(show, pattern)))
    return light, flatness_of(light, overlaps(show, surface))


def simulate_command(
    path: Annotated[Path, typer.Argument(metavar="SHOW")],
    surface: Annotated[str, typer.Option(help="id of a projection")],
    pattern: Annotated[str, typer.Option(help="test pattern on every canvas")] = "white",
    out: Annotated[Path | None, typer.Option(metavar="F.tiff", help="float luminance in cd/m²")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="min, max, mean and ripple")] = False,
) -> None:
    """What the stand-in screen of a projection shows, in cd/m²."""
    show = read_show(path)
    _projection(show, surface)
    light, flat = simulated(show, surface, pattern)
    if out is not None:
        if out.suffix.lower() not in (".tif", ".tiff"):
            raise ShowError([Fault("--out", f"{out.name} is no TIFF; give it a name that ends in .tiff")])
        out.parent.mkdir(parents=True, exist_ok=True)
        if not cv2.imwrite(str(out), light):
            raise ShowError([Fault("--out", f"{out} could not be written; check the folder")])
    if as_json:
        typer.echo(json.dumps(flat.document(), indent=1))
    else:
        for where, found in (("screen", flat.screen), ("overlaps", flat.overlaps)):
            if found is not None:
                typer.echo(
                    f"{where}: {found.min:.2f} to {found.max:.2f} cd/m², mean {found.mean:.2f}, ripple "
                    f"{100 * found.ripple:.2f} %"
                )


def _numbers(text: str) -> list[float]:
    """Numbers typed with commas or spaces between; none if any is no number."""
    try:
        numbers = [float(v) for v in text.replace(",", " ").split()]
    except ValueError:
        return []
    return numbers if np.isfinite(numbers).all() else []


def _marks(text: str | None) -> NDArray[np.float64] | None:
    """Any number of places typed as numbers."""
    if text is None:
        return None
    numbers = _numbers(text)
    if len(numbers) % 2 or not numbers:
        raise ShowError([Fault("--marks", f"{shortened(text)} is not places on the edges; give x,y of each")])
    return np.array(numbers).reshape(-1, 2)


def _corners(text: str | None) -> NDArray[np.float64] | None:
    """Four corners typed as numbers."""
    if text is None:
        return None
    numbers = _numbers(text)
    if len(numbers) != 8:
        raise ShowError(
            [
                Fault(
                    "--corners", f"{shortened(text)} is not four corners; give x,y of each, clockwise from the top left"
                )
            ]
        )
    return np.array(numbers).reshape(4, 2)


def write_patterns(show: Show, surface: str, folder: Path, light: bool) -> int:
    """Write every pattern that photographs are taken of; returns how many."""
    count = 0
    for count, shot in enumerate(shots(show, surface, light), 1):
        place = folder / f"{count:03d} {shot.name}"
        place.mkdir(parents=True, exist_ok=True)
        for id, raster in full_rasters(show, surface, shot.rasters).items():
            write_png(raster, place / f"{id}.png")
    return count


def align_command(
    path: Annotated[Path, typer.Argument(metavar="SHOW")],
    surface: Annotated[str, typer.Option(help="id of a projection")],
    auto: Annotated[bool, typer.Option("--auto", help="by the stand-in camera")] = False,
    patterns: Annotated[
        Path | None, typer.Option(metavar="DIR", help="write the patterns to photograph, and stop")
    ] = None,
    photos: Annotated[
        Path | None, typer.Option(metavar="DIR", help="by photographs of them, in the order of names")
    ] = None,
    corners: Annotated[
        str | None,
        typer.Option(
            help="the screen's corners in the photographs: x,y four times, clockwise from "
            "the top left; found if left out"
        ),
    ] = None,
    marks: Annotated[
        str | None, typer.Option(help="more places on the screen's edges in the photographs: x,y of each")
    ] = None,
    linear: Annotated[bool, typer.Option(help="the photographs' codes are linear light, not sRGB")] = False,
    save: Annotated[bool, typer.Option("--save", help="keep what was found in the show file")] = False,
    light: Annotated[bool, typer.Option(help="match gamma, white and black too")] = True,
    as_json: Annotated[bool, typer.Option("--json")] = False,
) -> None:
    """Align the projectors of a screen by a camera; prints the residual of each in pixels."""
    show = read_show(path)
    _projection(show, surface)
    if patterns is not None:
        typer.echo(
            f"{write_patterns(show, surface, patterns, light)} patterns in {patterns}, each a folder with a picture "
            "for each output"
        )
        return
    if not auto and photos is None:
        raise ShowError(
            [
                Fault(
                    "align",
                    "by hand is done in the window, workspace Align; here give --auto for the stand-in camera, or "
                    "--photos with a folder",
                )
            ]
        )
    camera = StandinCamera(show, surface) if photos is None else TakenPhotos(show, surface, photos, linear, light)
    found = align_by_camera(show, surface, camera, _corners(corners), light, marks=_marks(marks))
    report: list[dict[str, Any]] = [
        {
            "region": r.id,
            "output": r.output,
            "mean_px": round(f.mean, 4),
            "worst_px": round(f.worst, 4),
            "samples": len(f.errors),
        }
        for r, f in zip(show.lit_by(surface), found.fits, strict=True)
    ]
    for row, m in zip(report, found.measured, strict=False):
        row["gamma"] = m.gamma
    if save:
        save_show(found.show, path)
    frame = found.sighting
    if as_json:
        typer.echo(
            json.dumps(
                {
                    "surface": surface,
                    "saved": save,
                    "projectors": report,
                    "screen_px": None
                    if frame.mean is None or frame.worst is None
                    else {"mean": round(frame.mean, 4), "worst": round(frame.worst, 4)},
                    "light_given_up": round(found.matched.cost, 4) if found.matched else None,
                },
                indent=1,
            )
        )
        return
    for row in report:
        typer.echo(
            f"{row['region']} on {row['output']}: among one another mean {row['mean_px']:.3f} px, worst "
            f"{row['worst_px']:.3f} px "
            f"of {row['samples']} places" + (f", gamma {row['gamma']:.3f}" if "gamma" in row else "")
        )
    typer.echo(
        "the screen: its corners alone, as exact as they were marked"
        if frame.mean is None
        else f"the screen: found to {frame.mean:.2f} px, {frame.worst:.2f} px where it is least sure; --marks on its "
        "edges make it surer"
    )
    if found.matched:
        typer.echo(f"matching gives up {100 * found.matched.cost:.1f} % of the light")
    typer.echo(f"saved to {path}" if save else "not saved; give --save to keep it")


def warp_command(
    path: Annotated[Path, typer.Argument(metavar="SHOW")],
    output: Annotated[str, typer.Option(help="id of an output")],
    maps: Annotated[Path, typer.Option(metavar="F.npz", help="where to write the inverse maps")],
) -> None:
    """Write the inverse maps of what lands on an output: for each raster pixel the canvas place it shows, in pixel
    centres.
    """
    show = read_show(path)
    if output not in {o.id for o in show.outputs}:
        raise ShowError(
            [Fault("--output", f'no output "{output}"; there are: {", ".join(o.id for o in show.outputs)}')]
        )
    arrays = region_maps(show, show.output(output))
    maps.parent.mkdir(parents=True, exist_ok=True)
    np.savez_compressed(maps, allow_pickle=False, **arrays)
    typer.echo(f"{maps}: {', '.join(sorted(arrays))}")
