"""The command `asrun`: what was on every surface, from when to when."""

from __future__ import annotations

import json
import time
from pathlib import Path
from typing import Annotated

import typer

from ushering_adze.core.onair.as_run import as_csv, as_text, found
from ushering_adze.io.as_run import clock_words, read_day
from ushering_adze.io.exchange.as_run_report import report_pdf
from ushering_adze.io.writing import write_whole


def as_run_command(
    day: Annotated[str | None, typer.Argument(metavar="[DAY]", help="Like 2030-05-17; today if not given.")] = None,
    find: Annotated[str, typer.Option("--find", help="Only what holds these words.")] = "",
    csv: Annotated[bool, typer.Option("--csv", help="For a spreadsheet.")] = False,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
    pdf: Annotated[Path | None, typer.Option("--pdf", help="Write a report to this file.")] = None,
) -> None:
    """Print the as-run log of a day: what every surface showed, from when to when, and by what."""
    lines = found(read_day(day or time.strftime("%Y-%m-%d")), find)
    if pdf is not None:
        name = day or time.strftime("%Y-%m-%d")
        write_whole(pdf, report_pdf(f"As run, {name}", lines))
        print(f"{pdf}: {len(lines)} lines")
    elif as_json:
        print(json.dumps([line._asdict() for line in lines], indent=1, ensure_ascii=False))
    else:
        print((as_csv if csv else as_text)(lines, clock_words), end="")
