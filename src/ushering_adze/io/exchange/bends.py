"""Bends in files for others: weights as 16-bit pictures, inverse maps as arrays, meshes as OBJ and CSV."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

from ushering_adze.core.mapping.bend import as_mesh, points_of
from ushering_adze.core.picture.bending import maps_of
from ushering_adze.core.picture.mapping import compile_output
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, Fault, MeshLanding, Output, Region, Show, ShowError


def region_maps(show: Show, output: Output) -> dict[str, NDArray[Any]]:
    """The inverse maps of everything that lands on an output.

    Returns
    -------
    dict
        For each region ``<id>.x`` and ``<id>.y``, float32, shape of the raster: the canvas place each pixel shows, in
        pixel centres, NaN where it shows nothing; and ``<id>.canvas``.

    Raises
    ------
    ShowError
        If nothing lands.
    """
    whole = Rect(0, 0, output.timing.width, output.timing.height)
    arrays: dict[str, NDArray[Any]] = {}
    shown = {s.region for s in compile_output(show, output).steps}
    landed: list[tuple[Canvas, Region]] = [(c, r) for c, r in show.landing_on.get(output.id, ()) if r.id in shown]
    for canvas, region in landed:
        u, v = maps_of(region, whole)
        inside = (u > -0.5) & (u < region.w - 0.5) & (v > -0.5) & (v < region.h - 0.5)
        arrays[f"{region.id}.x"] = np.where(inside, u + region.x, np.nan).astype(np.float32)
        arrays[f"{region.id}.y"] = np.where(inside, v + region.y, np.nan).astype(np.float32)
        arrays[f"{region.id}.canvas"] = np.array(canvas.id)
    if not arrays:
        raise ShowError([Fault(output.name, "nothing lands on it, or what does is folded; there are no maps to write")])
    return arrays


def weights_of(show: Show, region: str) -> NDArray[np.uint16]:
    """The factors on codes of one region over its output's raster, 16 bits, shape (h, w): 65535 is all of the light."""
    value = show.homes[region][1]
    output = show.output(value.output)
    weights = np.zeros((output.timing.height, output.timing.width), np.float32)
    step = next((s for s in compile_output(show, output).steps if s.region == region), None)
    if step is None:
        raise ShowError(
            [Fault(value.name, "it does not land on its output, or is folded; there are no weights to write")]
        )
    weights[step.put.cut()] = 1
    if step.maps is not None:
        u, v = maps_of(value, step.put)
        weights[step.put.cut()] = (u > -0.5) & (u < value.w - 0.5) & (v > -0.5) & (v < value.h - 0.5)
    for part in step.finish.worked if step.finish is not None else ():
        weights[part.at.cut()] *= part.factors[..., 1] ** output.picture.gamma
    return np.rint(weights * 65535).astype(np.uint16)


def mesh_obj(region: Region, output: Output) -> str:
    """A mesh as a Wavefront OBJ: vertices on the raster, 0 to 1 with y upwards, texture places in the region, quads row
    by row.
    """
    mesh = region if isinstance(region.landing, MeshLanding) else as_mesh(region, 2, 2)
    assert isinstance(mesh.landing, MeshLanding)
    c, r = mesh.landing.columns, mesh.landing.rows
    lines = [f"# {region.name} on {output.name}, {c} x {r} points"]
    for x, y in mesh.landing.points:
        lines.append(f"v {x / output.timing.width:.7f} {1 - y / output.timing.height:.7f} 0")
    lines += [f"vt {i / (c - 1):.7f} {1 - j / (r - 1):.7f}" for j in range(r) for i in range(c)]
    for j in range(r - 1):
        for i in range(c - 1):
            a, b = j * c + i + 1, (j + 1) * c + i + 1
            lines.append(f"f {a}/{a} {b}/{b} {b + 1}/{b + 1} {a + 1}/{a + 1}")
    return "\n".join(lines) + "\n"


def mesh_csv(region: Region) -> str:
    """A mesh as a table: column, row, x, y in pixels of the raster, u, v in pixels of the region."""
    mesh = region if isinstance(region.landing, MeshLanding) else as_mesh(region, 2, 2)
    assert isinstance(mesh.landing, MeshLanding)
    c, r = mesh.landing.columns, mesh.landing.rows
    rows = ["column,row,x,y,u,v"]
    for n, (x, y) in enumerate(points_of(mesh.landing)):
        rows.append(
            f"{n % c},{n // c},{x:.3f},{y:.3f},{n % c / (c - 1) * region.w:.3f},{n // c / (r - 1) * region.h:.3f}"
        )
    return "\n".join(rows) + "\n"


def write_bend(show: Show, region: str, path: Path) -> None:
    """Write weights (.png, .tiff), inverse maps (.npz), or the mesh (.obj, .csv) of a region.

    Raises
    ------
    ShowError
        If the ending is none of these, or the file cannot be written.
    """
    value = show.homes[region][1]
    output = show.output(value.output)
    ending = path.suffix.lower()
    if ending in (".png", ".tif", ".tiff"):
        done, data = cv2.imencode(ending, weights_of(show, region))
        blob = bytes(data) if done else b""
    elif ending == ".npz":
        held = io.BytesIO()
        np.savez_compressed(held, **region_maps(show, output))  # type: ignore[arg-type]
        blob = held.getvalue()
    elif ending in (".obj", ".csv"):
        blob = (mesh_obj(value, output) if ending == ".obj" else mesh_csv(value)).encode()
    else:
        raise ShowError(
            [
                Fault(
                    path.name,
                    "the ending says nothing; use .png or .tiff for weights, .npz for maps, .obj or .csv for the mesh",
                )
            ]
        )
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(blob)
    except OSError as error:
        raise ShowError([Fault(str(path), f"it could not be written ({error.strerror}); check the folder")]) from None
