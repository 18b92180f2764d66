"""The process that reads one foreign file for `ushering_adze.io.apart`: ``python -m ushering_adze.io.reader JOB PATH
BYTES SECONDS``.

It answers on standard output: a line of JSON, then data.
"""

from __future__ import annotations

import json
import os
import re
import resource
import sys
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ushering_adze.core.show import Fault, ShowError

Answer = tuple[dict[str, Any], bytes]
HEAD = 1 << 20
"""Bytes of an SVG in which its first tag must end."""
UNITS = {
    "": 1.0,
    "px": 1.0,
    "pt": 96 / 72,
    "pc": 16.0,
    "in": 96.0,
    "cm": 96 / 2.54,
    "mm": 96 / 25.4,
    "em": 16.0,
    "ex": 8.0,
}
"""Pixels to each unit of length (CSS Values and Units 3, section 5.2); fonts at 16 px."""


def svg_size(head: str) -> tuple[float, float] | None:
    """Width and height in pixels that the first tag of an SVG asks for; None where it says nothing that can be read.

    Per cent, and what is missing, are of the view box.
    """
    tag = re.search(r"<(?:[\w.-]+:)?svg\b[^>]*", re.sub(r"<!--.*?-->", "", head, flags=re.DOTALL))
    if tag is None:
        return None
    found = dict(re.findall(r"\s(width|height|viewBox)\s*=\s*[\"']([^\"']*)[\"']", tag.group()))
    box = [float(v) for v in re.findall(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?", found.get("viewBox", ""))]
    sides = []
    for n, name in enumerate(("width", "height")):
        length = re.fullmatch(r"\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*(%|[a-z]*)\s*", found.get(name, ""))
        if length is not None and length[2] in UNITS:
            sides.append(float(length[1]) * UNITS[length[2]])
        elif len(box) == 4:
            sides.append(box[2 + n] * (float(length[1]) / 100 if length is not None else 1.0))
        else:
            return None
    return sides[0], sides[1]


def _svg(path: Path) -> Answer:
    from ushering_adze.io.exchange.guide import small_enough

    raw = path.open("rb").read(HEAD)
    if raw[:2] == b"\x1f\x8b":
        raw = zlib.decompressobj(zlib.MAX_WBITS | 16).decompress(raw, HEAD)
    size = svg_size(raw.decode("utf-16" if raw[:2] in (b"\xff\xfe", b"\xfe\xff") else "utf-8", "replace"))
    if size is not None:
        small_enough(path, *size)
    import resvg_py

    try:
        return {}, bytes(resvg_py.svg_to_bytes(svg_path=str(path)))
    except Exception as error:  # the renderer raises plain ones
        raise ShowError(
            [
                Fault(
                    path.name, f"it is no SVG that can be drawn ({str(error)[:80]}); export it again, or save it as PNG"
                )
            ]
        ) from None


def _pdf(path: Path) -> Answer:
    import pypdfium2

    from ushering_adze.io.exchange.guide import PDF_SCALE, small_enough

    try:
        document = pypdfium2.PdfDocument(path)
        try:
            page = document[0]
            small_enough(path, page.get_width() * PDF_SCALE, page.get_height() * PDF_SCALE)
            picture = page.render(scale=PDF_SCALE, rev_byteorder=False).to_numpy()
        finally:
            document.close()
    except (pypdfium2.PdfiumError, IndexError, ValueError) as error:
        if isinstance(error, ShowError):
            raise
        what = "it is no PDF that can be read, or it is damaged; export it again, or save its page as PNG"
        raise ShowError([Fault(path.name, what)]) from None
    return {"shape": picture.shape}, picture.tobytes()


def _pages(path: Path) -> Answer:
    return {"pages": len(_document(path))}, b""


def _document(path: Path) -> Any:
    import pypdfium2

    try:
        return pypdfium2.PdfDocument(path)
    except pypdfium2.PdfiumError as error:
        locked = "password" in str(error).lower()
        what = (
            "it is locked with a password; save it without one"
            if locked
            else "it is no PDF that can be read, or it is damaged; export it again"
        )
        raise ShowError([Fault(path.name, what)]) from None


def _page(path: Path, number: str, width: str, height: str) -> Answer:
    """A page by its number from 0, so that it fits a size, as BGRA."""
    import numpy as np
    import pypdfium2

    document = _document(path)
    try:
        page = document[int(number)]
        scale = min(int(width) / max(1.0, page.get_width()), int(height) / max(1.0, page.get_height()))
        picture = page.render(scale=scale, rev_byteorder=False, force_bitmap_format=pypdfium2.raw.FPDFBitmap_BGRx)
        pixels = np.array(picture.to_numpy()[..., :4])
    except (pypdfium2.PdfiumError, IndexError, ValueError):
        raise ShowError([Fault(path.name, "it cannot be drawn; export it again, or save it as PNG")]) from None
    finally:
        document.close()
    pixels[..., 3] = 255
    return {"shape": pixels.shape}, pixels.tobytes()


def _dxf(path: Path) -> Answer:
    from ushering_adze.io.exchange.dxf import outlines_of

    outlines, faults = outlines_of(path)
    return {"outlines": outlines, "faults": [(f.where, f.what) for f in faults]}, b""


JOBS: dict[str, Callable[..., Answer]] = {"svg": _svg, "pdf": _pdf, "dxf": _dxf, "pages": _pages, "page": _page}
"""What is read, by name; more of what is asked for stands behind it, after colons."""


def main(job: str, path: str, memory: str, seconds: str) -> None:
    """Read one file and answer."""
    resource.setrlimit(resource.RLIMIT_AS, (int(memory), int(memory)))
    resource.setrlimit(resource.RLIMIT_CPU, (int(seconds), int(seconds)))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    data = b""
    try:
        name, *more = job.split(":")
        told, data = JOBS[name](Path(path), *more)
    except ShowError as error:
        told = {"refused": True, "faults": [(f.where, f.what) for f in error.faults]}
    except Exception as error:  # readers of foreign files raise whatever comes to them
        # A library that finds no room for itself says so in an error of the system's.
        short = isinstance(error, MemoryError) or (isinstance(error, (OSError, ImportError)) and "memory" in str(error))
        what = (
            "reading it takes more memory than there is; simplify it, or save it as PNG"
            if short
            else f"it is damaged ({type(error).__name__}); export it again"
        )
        told = {"refused": True, "faults": [(Path(path).name, what)]}
    out = sys.stdout.buffer
    out.write(json.dumps(told).encode() + b"\n" + data)
    out.flush()
    os._exit(0)  # nothing of a foreign file is cleaned up


if __name__ == "__main__":
    main(*sys.argv[1:])
