"""Writing a drawing: PNG at its exact size, SVG, or PDF with one point to a pixel."""

from __future__ import annotations

import io
from pathlib import Path

import cv2
import numpy as np

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.exchange.sheet import Box, Circle, Line, Sheet, as_svg
from ushering_adze.core.light.patterns import printable
from ushering_adze.core.plane.lettering import put_text, text_size
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Fault, ShowError
from ushering_adze.io.writing import write_whole

SHEET_SUFFIXES = (".png", ".svg", ".pdf")
_FACE = cv2.FontFace("sans")


def _bgra(colour: str) -> tuple[int, int, int, int]:
    red, green, blue = rgb_of(colour)
    return blue, green, red, 255


def sheet_picture(sheet: Sheet) -> Pixels:
    """A drawing as pixels: boxes and upright lines exactly, the rest smoothed.

    Returns
    -------
    ndarray, shape (h, w, 4), uint8, BGRA
    """
    picture = np.zeros((sheet.height, sheet.width, 4), np.uint8)
    if sheet.ground is not None:
        picture[:] = _bgra(sheet.ground)
    for item in sheet.items:
        if isinstance(item, Box):
            _box(picture, item)
        elif isinstance(item, Line):
            if item.x1 == item.x2 and item.width == 1:
                picture[max(0, int(item.y1)) : int(item.y2), int(item.x1) : int(item.x1) + 1] = _bgra(item.colour)
            elif item.y1 == item.y2 and item.width == 1:
                picture[int(item.y1) : int(item.y1) + 1, max(0, int(item.x1)) : int(item.x2)] = _bgra(item.colour)
            else:
                ends = [
                    (round((x - 0.5) * 16), round((y - 0.5) * 16)) for x, y in ((item.x1, item.y1), (item.x2, item.y2))
                ]
                cv2.line(picture, ends[0], ends[1], _bgra(item.colour), max(1, round(item.width)), cv2.LINE_AA, 4)
        elif isinstance(item, Circle):
            centre = (round((item.x - 0.5) * 16), round((item.y - 0.5) * 16))
            cv2.circle(
                picture, centre, round(item.radius * 16), _bgra(item.colour), max(1, round(item.width)), cv2.LINE_AA, 4
            )
        else:
            size, weight = max(6, round(item.size)), 700 if item.strong else 500
            x, words = item.x, printable(item.text)
            if item.anchor == "middle":
                box = text_size((sheet.width, sheet.height), words, (0, 0), _FACE, size, weight)
                x -= box[2] / 2 + box[0]
            alpha = picture[..., 3].copy() if sheet.ground is None else None
            put_text(picture, words, (round(x), round(item.y)), _bgra(item.colour), _FACE, size, weight)
            if alpha is None:
                picture[..., 3] = 255  # the writer thins alpha at the edges of letters
            else:
                np.maximum(picture[..., 3], alpha, out=picture[..., 3])
    return picture


def _box(picture: Pixels, item: Box) -> None:
    x0, y0, x1, y1 = (max(0, round(v)) for v in (item.x, item.y, item.x + item.w, item.y + item.h))
    if item.fill is not None:
        picture[y0:y1, x0:x1] = _bgra(item.fill)
    if item.stroke is not None:
        k, colour = item.width, _bgra(item.stroke)
        picture[y0 : min(y1, y0 + k), x0:x1] = colour
        picture[max(y0, y1 - k) : y1, x0:x1] = colour
        picture[y0:y1, x0 : min(x1, x0 + k)] = colour
        picture[y0:y1, max(x0, x1 - k) : x1] = colour


def _pdf_bytes(sheet: Sheet) -> bytes:
    made = io.BytesIO()
    # loaded when first needed, so that the program starts sooner
    from reportlab.lib.colors import HexColor
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfgen.canvas import Canvas as PdfCanvas

    pdf = PdfCanvas(made, pagesize=(sheet.width, sheet.height), invariant=1)
    pdf.setTitle(sheet.title)
    if sheet.ground is not None:
        pdf.setFillColor(HexColor(sheet.ground))
        pdf.rect(0, 0, sheet.width, sheet.height, stroke=0, fill=1)
    h = sheet.height
    for item in sheet.items:
        if isinstance(item, Box):
            if item.fill is not None:
                pdf.setFillColor(HexColor(item.fill))
                pdf.rect(item.x, h - item.y - item.h, item.w, item.h, stroke=0, fill=1)
            if item.stroke is not None:
                k = item.width / 2
                pdf.setStrokeColor(HexColor(item.stroke))
                pdf.setLineWidth(item.width)
                pdf.rect(item.x + k, h - item.y - item.h + k, item.w - 2 * k, item.h - 2 * k, stroke=1, fill=0)
        elif isinstance(item, Line):
            dx, dy = 0.5 if item.x1 == item.x2 else 0, 0.5 if item.y1 == item.y2 else 0
            pdf.setStrokeColor(HexColor(item.colour))
            pdf.setLineWidth(item.width)
            pdf.line(item.x1 + dx, h - item.y1 - dy, item.x2 + dx, h - item.y2 - dy)
        elif isinstance(item, Circle):
            pdf.setStrokeColor(HexColor(item.colour))
            pdf.setLineWidth(item.width)
            pdf.circle(item.x, h - item.y, item.radius, stroke=1, fill=0)
        else:
            face = "Helvetica-Bold" if item.strong else "Helvetica"
            pdf.setFillColor(HexColor(item.colour))
            pdf.setFont(face, item.size)
            text = item.text.encode("cp1252", "replace").decode("cp1252")
            x = item.x - (pdfmetrics.stringWidth(text, face, item.size) / 2 if item.anchor == "middle" else 0)
            pdf.drawString(x, h - item.y, text)
    pdf.showPage()
    pdf.save()
    return made.getvalue()


def write_sheet(sheet: Sheet, path: Path) -> None:
    """Write a drawing in the format that the file's suffix names.

    Raises
    ------
    ShowError
        If the suffix is another, or the disk refuses.
    """
    suffix = path.suffix.lower()
    if suffix not in SHEET_SUFFIXES:
        raise ShowError(
            [
                Fault(
                    path.name,
                    f'a pixel map is written as {", ".join(SHEET_SUFFIXES)}, not as "{path.suffix}"; name it so',
                )
            ]
        )
    if suffix == ".svg":
        data = as_svg(sheet).encode()
    elif suffix == ".pdf":
        data = _pdf_bytes(sheet)
    else:
        picture = sheet_picture(sheet)
        shown = picture if sheet.ground is None else cv2.cvtColor(picture, cv2.COLOR_BGRA2BGR)
        done, coded = cv2.imencode(".png", shown, [cv2.IMWRITE_PNG_COMPRESSION, 6])
        assert done
        data = coded.tobytes()
    write_whole(path, data, "the drawing")
