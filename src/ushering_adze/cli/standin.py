"""The commands that stand in for devices."""

from __future__ import annotations

import sys
import threading
from pathlib import Path
from typing import Annotated

import typer

from ushering_adze.core.signal.timing import wanted
from ushering_adze.io.standins.feed import WORDS, StandinFeed, listen

standin_app = typer.Typer(help="Devices that are not there, sending for real on this machine.", no_args_is_help=True)


@standin_app.command("camera")
def camera_command(
    to: Annotated[str, typer.Option("--to", metavar="URL", help="Like udp://127.0.0.1:5000; only this machine.")],
    size: Annotated[str, typer.Option("--size", metavar="SIZE@RATE", help="Like 1280x720@25.")] = "1280x720@25",
    film: Annotated[
        Path | None, typer.Option("--film", exists=True, dir_okay=False, help="A clip to send, again and again.")
    ] = None,
    control: Annotated[
        int | None, typer.Option("--control", metavar="PORT", min=1, max=65535, help="Hear words on this port, too.")
    ] = None,
    with_input: Annotated[
        bool, typer.Option("--with-input", help="End when standard input ends, as when who started it is gone.")
    ] = False,
    seconds: Annotated[float | None, typer.Option("--seconds", min=0.1, help="End by itself.")] = None,
) -> None:
    """Send a moving picture with its number and timecode burnt in; words on standard input make it fail and come back.

    Words: freeze, black, drop PERCENT, delay FRAMES, size WxH, stop, go, frame, quit.
    """
    width, height, rate, _ = wanted(size)
    feed = StandinFeed(to, width // 2 * 2, height // 2 * 2, rate, film, epoch=0.0)
    feed.start()
    server = listen(feed, control) if control is not None else None
    typer.echo(f"sends {size} to {to}; words: {WORDS}")

    def hear() -> None:
        for line in sys.stdin:
            typer.echo(feed.tell(line))
        if with_input:
            feed.tell("quit")

    threading.Thread(target=hear, name="words", daemon=True).start()
    feed.join(seconds)
    feed.tell("quit")
    feed.join(5)
    if server is not None:
        server.close()
