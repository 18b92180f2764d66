"""Run sheets on paper: A4 pages, a cue in a row with its picture."""

from __future__ import annotations

import io
from pathlib import Path

import cv2

from ushering_adze.core.exchange.run_sheet import Picture, Row, run_csv
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Fault, ShowError
from ushering_adze.io.writing import write_whole

PAGE = (595.0, 842.0)
MARGIN, HIGH, TOP = 36.0, 58.0, 84.0
"""Points at each side, of a row, and above the first."""
PICTURE = (132.0, 50.0)


def _cut(text: str, face: str, size: float, width: float) -> str:
    from reportlab.pdfbase.pdfmetrics import stringWidth

    text = text.encode("cp1252", "replace").decode("cp1252")
    if stringWidth(text, face, size) <= width:
        return text
    while text and stringWidth(f"{text}…", face, size) > width:
        text = text[:-1]
    return f"{text.rstrip()}…"


def run_pdf(title: str, rows: tuple[Row, ...], picture: Picture) -> bytes:
    """The run sheet as a PDF of as many pages as it takes."""
    from reportlab.lib.utils import ImageReader
    from reportlab.pdfgen.canvas import Canvas as PdfCanvas

    made = io.BytesIO()
    pdf = PdfCanvas(made, pagesize=PAGE, invariant=1)
    pdf.setTitle(title)
    per_page = int((PAGE[1] - TOP - MARGIN) // HIGH)
    pages = max(1, -(-len(rows) // per_page))
    x = MARGIN + PICTURE[0] + 12

    def words(left: float, y: float, text: str, size: float, width: float, strong: bool = False) -> None:
        face = "Helvetica-Bold" if strong else "Helvetica"
        pdf.setFont(face, size)
        pdf.drawString(left, y, _cut(text, face, size, width))

    for page in range(pages):
        words(MARGIN, PAGE[1] - 50, title, 16, PAGE[0] - 2 * MARGIN - 70, strong=True)
        words(PAGE[0] - MARGIN - 60, PAGE[1] - 50, f"page {page + 1} of {pages}", 9, 60)
        for n, row in enumerate(rows[page * per_page : (page + 1) * per_page]):
            foot = PAGE[1] - TOP - (n + 1) * HIGH
            pdf.setStrokeGray(0.75)
            pdf.line(MARGIN, foot + HIGH, PAGE[0] - MARGIN, foot + HIGH)
            pixels = picture(row.cue)
            if pixels is not None:
                shown = ImageReader(io.BytesIO(_png(pixels)))
                pdf.drawImage(shown, MARGIN, foot + 4, PICTURE[0], PICTURE[1], preserveAspectRatio=True, anchor="w")
            pdf.setFillGray(0)
            wide = PAGE[0] - MARGIN - x - 96
            words(x, foot + 42, f"{row.number}  {row.name}", 12, wide, strong=True)
            pdf.setFillGray(0.25)
            words(x, foot + 28, row.does, 9, wide)
            words(x, foot + 16, f"fires: {row.fires}", 9, wide)
            words(x, foot + 5, row.note, 9, wide)
            right = PAGE[0] - MARGIN - 88
            pdf.setFillGray(0)
            words(right, foot + 42, row.planned, 12, 88, strong=True)
            pdf.setFillGray(0.25)
            words(right, foot + 28, f"for {row.length}" if row.length else "", 9, 88)
            words(right, foot + 16, f"real {row.real}" if row.real else "", 9, 88)
            pdf.setFillGray(0)
        pdf.showPage()
    pdf.save()
    return made.getvalue()


def _png(pixels: Pixels) -> bytes:
    return bytes(cv2.imencode(".png", pixels[..., :3])[1].tobytes())


def write_run_sheet(path: Path, title: str, rows: tuple[Row, ...], picture: Picture) -> None:
    """Write a run sheet as the file's suffix names it.

    Raises
    ------
    ShowError
        If the suffix is none of .pdf and .csv, or the disk refuses.
    """
    match path.suffix.lower():
        case ".pdf":
            write_whole(path, run_pdf(title, rows, picture))
        case ".csv":
            write_whole(path, run_csv(rows).encode())
        case other:
            raise ShowError([Fault(path.name, f'a run sheet is written as .pdf or .csv, not as "{other}"; name it so')])
