"""The command `plan`: what every surface will show after each cue of a list."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, Any

import typer

from ushering_adze.core.document.wording import choice, shortened
from ushering_adze.core.exchange.plan_sheet import Odd, plan_sheet
from ushering_adze.core.exchange.run_sheet import room_picture, run_rows
from ushering_adze.core.onair.actions import plan_of, stages_of
from ushering_adze.core.onair.delta import SeenThrough, seen_through_by_pictures
from ushering_adze.core.onair.oddities import oddities
from ushering_adze.core.onair.planning import Plan
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.core.show.cue import number_words
from ushering_adze.io.exchange.run_sheets import write_run_sheet
from ushering_adze.io.exchange.sheets import write_sheet
from ushering_adze.io.showfile import read_show

SMALL, ROOM = 480.0, (396, 150)
"""Pixels of a canvas as it is drawn for a run sheet, and of the room on it."""
ShowArgument = Annotated[Path, typer.Argument(metavar="SHOW", help="A show file.")]


def plan_command(
    show: ShowArgument,
    list: Annotated[str | None, typer.Option("--list", help="Id of a cue list; the first if not given.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
    out: Annotated[Path | None, typer.Option("--out", help="A file to write it to: .pdf, .svg or .png.")] = None,
) -> None:
    """Work out what every surface will show after each cue of a list, without running it."""
    value = read_show(show)
    id = _list_of(value, list, show.name)
    plan = plan_of(value, id, seen_through_pictures(value))
    odd = oddities(value, plan)
    if out is not None:
        sheet = plan_sheet(value, value.cue_list(id), plan, odd)
        write_sheet(sheet, out)
        print(f"{out}: {len(plan.cues)} cues, {len(plan.cells)} surfaces")
    elif as_json:
        print(json.dumps(plan_document(value, id, plan, odd), indent=1, ensure_ascii=False))
    else:
        for column, cue in enumerate(plan.cues):
            print(f"{number_words(cue.number)} {cue.name}".rstrip())
            for surface, cells in plan.cells.items():
                mark = "*" if cells[column].changed else " "
                why = "".join(f"  ! {w}" for w in odd.get((surface, column), ()))
                print(f"  {mark} {value.surface(surface).name}: {cells[column].words}{why}")


def run_sheet_command(
    show: ShowArgument,
    out: Annotated[Path, typer.Option("--out", help="A file to write it to: .pdf or .csv.")],
    list: Annotated[str | None, typer.Option("--list", help="Id of a cue list; the first if not given.")] = None,
) -> None:
    """Write the run sheet of a cue list: its cues with their times, and a small picture of the room behind each."""
    value = read_show(show)
    id = _list_of(value, list, show.name)
    cues = value.cue_list(id)
    pictures = _room_pictures(value, id) if out.suffix.lower() == ".pdf" else {}
    rows = run_rows(value, cues)
    write_run_sheet(out, f"{value.name}: {cues.name}", rows, pictures.get)
    print(f"{out}: {len(rows)} cues")


def _room_pictures(show: Show, list: str) -> dict[str, Pixels]:
    """The room behind each cue of a list, small."""
    from ushering_adze.engine.pictures import PreviewPictures
    from ushering_adze.engine.pool import SourcePool

    pool, painter, found = SourcePool(), PreviewPictures(show, SMALL), dict[str, Pixels]()
    try:
        pool.set_show(show)
        pool.wait(60.0)
        for cue, stage in zip(show.cue_list(list).ordered, stages_of(show, list), strict=True):
            state = stage.program.target
            drawn = painter.draw(state, pool.exact_now(sources_of(state)), [s.id for s in show.surfaces])
            found[cue.id] = room_picture(show, drawn, *ROOM)
    finally:
        pool.close()
    return found


def _list_of(show: Show, list: str | None, where: str) -> str:
    """The list that is meant."""
    known = [y.id for y in show.lists]
    if not known:
        raise ShowError([Fault(where, "it has no cue list; make one in Run, under Cues")])
    id = known[0] if list is None else list
    if id not in known:
        raise ShowError([Fault("--list", f"no cue list {shortened(id)}; {choice(id, known)}")])
    return id


def seen_through_pictures(show: Show) -> SeenThrough:
    """What may be seen through, by the pictures of the sources that can be opened; by their kinds else."""
    from ushering_adze.engine.pool import SourcePool

    pool = SourcePool()
    try:
        pool.set_show(show)
        pool.wait(60.0)
        opaque = {id: frame.opaque for id, frame in pool.exact_now({s.id for s in show.sources}).items()}
    finally:
        pool.close()
    return seen_through_by_pictures(show, opaque)


def plan_document(show: Show, list: str, plan: Plan, odd: Odd) -> dict[str, Any]:
    """A plan as JSON has it."""
    return {
        "list": list,
        "cues": [{"id": c.id, "number": c.number, "name": c.name} for c in plan.cues],
        "surfaces": [
            {
                "id": surface,
                "name": show.surface(surface).name,
                "cells": [
                    {
                        "sources": c.ids,
                        "names": c.sources,
                        "state": c.state,
                        "changed": c.changed,
                        "since": c.since,
                        "odd": odd.get((surface, n), ()),
                    }
                    for n, c in enumerate(cells)
                ],
            }
            for surface, cells in plan.cells.items()
        ],
    }
