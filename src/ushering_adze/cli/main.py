"""All of the program's commands."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Annotated, NoReturn

import typer

from ushering_adze import __version__
from ushering_adze.cli.align import align_command, simulate_command, warp_command
from ushering_adze.cli.as_run import as_run_command
from ushering_adze.cli.map import find_command, pixelmap_command, proof_command, regions_command, template_command
from ushering_adze.cli.opening import ShowArgument, demo, open_
from ushering_adze.cli.plan import plan_command, run_sheet_command
from ushering_adze.cli.running import new_app, run
from ushering_adze.cli.schedule import schedule_command
from ushering_adze.cli.signal import edid_app, link_command, rig_command, timing_command
from ushering_adze.cli.standin import standin_app
from ushering_adze.core.document.wording import shortened
from ushering_adze.core.onair.actions import actions_schema
from ushering_adze.core.show import Fault, ShowError, show_schema
from ushering_adze.io.outputs.png import write_png
from ushering_adze.io.showfile import media_faults, read_show
from ushering_adze.io.writing import write_whole

app = new_app()
app.command()(demo)
app.command("open")(open_)
OutOption = Annotated[Path, typer.Option("--out", help="Folder for the pictures; made if it is not there.")]


@app.command()
def render(
    show: ShowArgument,
    preset: Annotated[int, typer.Option("--preset", help="Number of the preset to recall.")],
    out: OutOption,
    at: Annotated[
        float | None, typer.Option("--at", min=0, help="Seconds after the recall; default: when all has settled.")
    ] = None,
    canvases: Annotated[bool, typer.Option("--canvases", help="Also write each canvas, as canvas-ID.png.")] = False,
) -> None:
    """Write each output's picture some seconds after a preset is recalled on the opened show.

    Lost media show as their named picture; then the exit code is 2.
    """
    from ushering_adze.engine.offline import output_pictures, rendered

    value = read_show(show)
    lost = media_faults(value)
    renderer, faults = rendered(value, preset, at)
    for id, pixels in output_pictures(renderer).items():
        write_png(pixels, out / f"{id}.png")
    if canvases:
        for id, painter in renderer.canvases.items():
            write_png(painter.pixels, out / f"canvas-{id}.png")
    if lost:
        raise ShowError(lost)
    if faults:
        raise ShowError([Fault("", "; ".join(f"{value.source(id).name}: {why}" for id, why in faults.items()))])


@app.command()
def pattern(
    show: ShowArgument,
    name: Annotated[str, typer.Argument(metavar="NAME", help="white, black, grid, bars, ramp or identify.")],
    out: OutOption,
) -> None:
    """Write each output's picture with a test pattern on every canvas."""
    from ushering_adze.engine.offline import output_pictures, patterned

    for id, pixels in output_pictures(patterned(read_show(show), name)).items():
        write_png(pixels, out / f"{id}.png")


def _time_of_day(words: str) -> float:
    """Seconds from midnight of a time as it is typed."""
    from ushering_adze.core.exchange.cue_words import time_from
    from ushering_adze.core.text.clocks import seconds_of_day

    return seconds_of_day(time_from(words))


@app.command()
def act(
    show: ShowArgument,
    actions: Annotated[
        Path, typer.Argument(metavar="ACTIONS", help="A JSON list of actions and moments; see `adze schema actions`.")
    ],
    out: OutOption,
    states: Annotated[bool, typer.Option("--states", help="Also write what each surface shows, as NAME.json.")] = False,
    day: Annotated[
        str | None,
        typer.Option("--from", metavar="HH:MM[:SS]", help="The time of day at 0 s, for cues that wait for one."),
    ] = None,
) -> None:
    """Play actions on the opened show on a clock of its own, and write each output's picture at each moment
    asked for.
    """
    from ushering_adze.engine.offline import acted, script_from
    from ushering_adze.io.asking import read_text

    value = read_show(show)
    try:
        script = script_from(json.loads(read_text(actions, "list of actions")))
    except json.JSONDecodeError as error:
        raise ShowError(
            [Fault(actions.name, f"this is not JSON (line {error.lineno}, column {error.colno}); correct it there")]
        ) from None
    except RecursionError:
        raise ShowError([Fault(actions.name, "this is nested too deep for a list of actions; correct it")]) from None
    for shoot in acted(value, script, None if day is None else _time_of_day(day)):
        for id, pixels in shoot.rasters.items():
            write_png(pixels, out / shoot.name / f"{id}.png")
        if states:
            told = {id: {"sources": list(s.source_ids), "state": s.state} for id, s in shoot.surfaces.items()}
            write_whole(out / f"{shoot.name}.json", json.dumps(told, indent=1).encode() + b"\n", "what surfaces show")
    lost = media_faults(value)
    if lost:
        raise ShowError(lost)


@app.command()
def schema(
    what: Annotated[str, typer.Argument(metavar="[show|actions|report]", help="Of which format.")] = "show",
) -> None:
    """Print a JSON Schema: of the show format, of actions, or of reports."""
    from ushering_adze.playout.report import report_schema

    schemas = {"show": show_schema, "actions": actions_schema, "report": report_schema}
    if what not in schemas:
        raise ShowError([Fault("schema", f"{shortened(what)} has none; write show, actions or report")])
    print(json.dumps(schemas[what](), indent=1, ensure_ascii=False))


@app.command()
def bench(as_json: Annotated[bool, typer.Option("--json", help="Print the figures as JSON.")] = False) -> None:
    """Measure against named baselines taken in the same run."""
    from ushering_adze.bench.rows import measured, table

    figures = measured()
    print(json.dumps(figures, indent=1) if as_json else table(figures))


app.command("timing")(timing_command)
app.command("link")(link_command)
app.command("rig")(rig_command)
app.add_typer(edid_app, name="edid")
app.add_typer(standin_app, name="standin")
app.command("pixelmap")(pixelmap_command)
app.command("template")(template_command)
app.command("regions")(regions_command)
app.command("find-regions")(find_command)
app.command("proof")(proof_command)
app.command("plan")(plan_command)
app.command("runsheet")(run_sheet_command)
app.command("asrun")(as_run_command)
app.command("schedule")(schedule_command)
app.command("simulate")(simulate_command)
app.command("align")(align_command)
app.command("warp")(warp_command)


@app.command()
def version() -> None:
    """Print the version."""
    print(__version__)


def main() -> NoReturn:
    """Run the command line."""
    run(app)
