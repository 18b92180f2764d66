"""The commands that open a window.  They stand by themselves: a window that opens does not wait for all the others."""

from __future__ import annotations

import gc
import os
import sys
from contextlib import nullcontext
from pathlib import Path
from typing import Annotated, Any, NoReturn

import typer

import ushering_adze.playout  # noqa: F401  (before Qt, which looks through all that is imported after it)
from ushering_adze.cli.early import begun, has_display
from ushering_adze.cli.running import new_app, run
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.demo.show import DEMO_ROOT, copy_demo, demo_show
from ushering_adze.io.showfile import media_faults, read_show

app = new_app()
ShowArgument = Annotated[Path, typer.Argument(metavar="SHOW", help="A show file.")]


def _play_headless(show: Show, seconds: float, out: Path) -> dict[str, Any]:
    from ushering_adze.playout.headless import play

    out.mkdir(parents=True, exist_ok=True)
    return play(show, seconds, out)


NoCalendar = Annotated[
    bool, typer.Option("--no-calendar", help="Let the show's calendar do nothing, whatever the time is.")
]


def _open_window(show: Show, path: Path | None, root: Path, calendar: bool = True) -> NoReturn:
    gc.disable()  # until the window is there
    from ushering_adze.desk.app import run

    raise SystemExit(run(show, path, root, calendar, begun()))


@app.command()
def demo(
    copy: Annotated[
        Path | None, typer.Option("--copy", help="Write the demo show and its media into this folder, and stop.")
    ] = None,
    headless: Annotated[bool, typer.Option("--headless", help="Play without a window.")] = False,
    seconds: Annotated[
        float, typer.Option("--seconds", min=0.5, max=86400, help="How long to play without a window.")
    ] = 6.0,
    out: Annotated[Path | None, typer.Option("--out", help="Where the pictures go when there is no window.")] = None,
    travel: Annotated[
        bool, typer.Option("--travel", help="Cameras come, and the relay goes, over the network of this machine.")
    ] = False,
    no_calendar: NoCalendar = False,
) -> None:
    """Open the demo show; with no display, play it and save what it shows."""
    if copy is not None:
        print(copy_demo(copy))
        return
    if headless:
        folder = out or Path.cwd() / "adze-demo"
        report = _play_headless(demo_show(), seconds, folder)
        print(
            f"{report['frames']} frames at {report['fps']:.2f} a second, {report['late_frames']} late; pictures and "
            f"report.json in {folder}"
        )
        return
    if has_display():
        from ushering_adze.demo.travelling import travelled

        with travelled(demo_show()) if travel else nullcontext(demo_show()) as show:
            _open_window(show, None, DEMO_ROOT, not no_calendar)
    folder = out or Path.cwd() / "adze-demo"
    print(f"There is no display, so the demo plays for {seconds:g} s without one.", flush=True)
    report = _play_headless(demo_show(), seconds, folder)
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from ushering_adze.desk.app import save_picture_of_window

    save_picture_of_window(demo_show(), DEMO_ROOT, folder / "window.png")
    print(f"{report['frames']} frames at {report['fps']:.2f} a second, {report['late_frames']} late.")
    for name in [*(o["picture"] for o in report["outputs"]), "window.png", "report.json"]:
        print(folder / name)


@app.command("open")
def open_(show: ShowArgument, no_calendar: NoCalendar = False) -> None:
    """Open a show file."""
    value = read_show(show)
    for fault in media_faults(value):
        print(f"adze: {show.name}: {fault}", file=sys.stderr)
    if not has_display():
        raise ShowError(
            [Fault("", "there is no display to open a window on; use `adze render` or `adze demo --headless`")]
        )
    _open_window(value, show.resolve(), show.resolve().parent, not no_calendar)


def main() -> NoReturn:
    """Run one of these commands."""
    try:
        run(app)
    except SystemExit as end:
        if "ushering_adze.desk.app" in sys.modules:
            from ushering_adze.desk.app import gone

            gone(end.code if isinstance(end.code, int) else 0)
        raise
