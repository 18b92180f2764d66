"""The report of an evening on paper: what went wrong, frames that were late, and what was on every surface."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from ushering_adze.core.onair.as_run import FRAMES, Line, incidents, late_frames, per_surface
from ushering_adze.core.picture.cards import clock_digits
from ushering_adze.io.as_run import clock_words


def report_pdf(title: str, lines: Sequence[Line]) -> bytes:
    """The report as a PDF of as many pages as it takes.

    Parameters
    ----------
    title : str
    lines : sequence of Line
        Of a day, or of what was looked for in it.
    """
    from reportlab.lib.colors import HexColor
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.styles import getSampleStyleSheet
    from reportlab.platypus import Paragraph, SimpleDocTemplate, Spacer, Table

    styles = getSampleStyleSheet()
    small = styles["BodyText"].clone("small", fontSize=8, leading=10)
    made = io.BytesIO()
    document = SimpleDocTemplate(
        made, pagesize=A4, title=title, leftMargin=40, rightMargin=40, topMargin=44, bottomMargin=44, invariant=1
    )

    def table(headings: Sequence[str], rows: Sequence[Sequence[str]], widths: Sequence[float]) -> Any:
        cells = [[Paragraph(_safe(cell), small) for cell in row] for row in (headings, *rows)]
        style = [
            ("LINEBELOW", (0, 0), (-1, -1), 0.4, HexColor("#BBBBBB")),
            ("BACKGROUND", (0, 0), (-1, 0), HexColor("#EEEEEE")),
            ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ]
        return Table(cells, colWidths=list(widths), style=style, repeatRows=1)

    shown = [line for line in lines if line.surface != FRAMES]
    begin = min((line.begin for line in lines), default=None)
    end = max((line.end or line.begin for line in lines), default=None)
    late, frames = late_frames(lines)
    story: list[Any] = [Paragraph(_safe(title), styles["Title"])]
    if begin is None or end is None:
        story.append(Paragraph("Nothing was on.", styles["BodyText"]))
    else:
        story.append(Paragraph(f"From {clock_words(begin)[:19]} to {clock_words(end)[:19]}.", styles["BodyText"]))
        words = f"{late} frames of {frames} were late, in the minutes that had any." if late else "No frame was late."
        story.append(Paragraph(words, styles["BodyText"]))
        story += [Spacer(1, 10), Paragraph("What went wrong, or was done by hand over everything", styles["Heading2"])]
        wrong = [(clock_words(x.begin)[11:19], _seconds(x), x.surface, x.words, x.by) for x in incidents(shown)]
        if wrong:
            story.append(table(("from", "for", "surface", "what", "by"), wrong, (52, 52, 90, 200, 120)))
        else:
            story.append(Paragraph("Nothing: no source was lost, and nothing was overridden.", styles["BodyText"]))
        story += [Spacer(1, 10), Paragraph("Surfaces", styles["Heading2"])]
        rows = [(name, str(n), f"{share * 100:.1f} %") for name, n, share in per_surface(shown)]
        story.append(table(("surface", "pictures", "of the time as meant"), rows, (160, 80, 140)))
        story += [Spacer(1, 10), Paragraph("All that was on", styles["Heading2"])]
        every = [(clock_words(x.begin)[11:19], _seconds(x), x.surface, x.words, x.by) for x in shown]
        story.append(table(("from", "for", "surface", "shows", "by"), every, (52, 52, 90, 200, 120)))
    document.build(story)
    return made.getvalue()


def _safe(text: str) -> str:
    from html import escape

    return escape(text.encode("cp1252", "replace").decode("cp1252"), quote=False)


def _seconds(line: Line) -> str:
    return "still" if line.end is None else clock_digits(round(line.end - line.begin))
