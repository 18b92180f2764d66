"""The commands that stand in for devices."""

from __future__ import annotations

import sys
import threading
from pathlib import Path
from typing import Annotated

import typer

from ushering_adze.core.signal.timecode import RATES, CodeError
from ushering_adze.core.signal.timing import wanted
from ushering_adze.io.standins.feed import WORDS, StandinFeed, listen
from ushering_adze.io.standins.timecode import WORDS as CODE_WORDS
from ushering_adze.io.standins.timecode import StandinTimecode
from ushering_adze.io.timecode import PORT

standin_app = typer.Typer(help="Devices that are not there, sending for real on this machine.", no_args_is_help=True)


@standin_app.command("timecode")
def timecode_command(
    to: Annotated[str, typer.Option("--to", metavar="HOST[:PORT]", help="Who hears it.")] = "127.0.0.1",
    rate: Annotated[str, typer.Option("--rate", help="24, 25, 29.97 or 30.")] = "25",
    begin: Annotated[str, typer.Option("--from", metavar="CODE", help="Like 01:00:00:00.")] = "00:00:00:00",
    seconds: Annotated[float | None, typer.Option("--seconds", min=0.1, help="End by itself.")] = None,
) -> None:
    """Send Art-Net timecode; words on standard input: jump CODE, stop, go, quit."""
    host, _, port = to.partition(":")
    if rate not in RATES or not (port.isdigit() or not port):
        typer.echo(f"rate {rate} to {to}: give one of {', '.join(RATES)}, and a host like 127.0.0.1:6454", err=True)
        raise typer.Exit(2)
    try:
        source = StandinTimecode(host, int(port or PORT), next(r for r in RATES if r == rate), begin)
    except CodeError as error:
        typer.echo(f"--from: {error}", err=True)
        raise typer.Exit(2) from None
    source.start()
    typer.echo(f"sends timecode at {rate} to {host}:{port or PORT}; words: {CODE_WORDS}")

    def hear() -> None:
        for line in sys.stdin:
            typer.echo(source.tell(line))

    threading.Thread(target=hear, name="words", daemon=True).start()
    source.join(seconds)
    source.tell("quit")


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
    sound: Annotated[
        bool, typer.Option("--sound", help="Send sound, too: the film's, or a beep at each whole second.")
    ] = False,
    announce: Annotated[
        str, typer.Option("--announce", metavar="NAME", help="Be announced on this machine, under this name.")
    ] = "",
    seconds: Annotated[float | None, typer.Option("--seconds", min=0.1, help="End by itself.")] = None,
) -> None:
    """Send a moving picture with its number and timecode burnt in; words on standard input make it fail and come back.

    Words: freeze, black, drop PERCENT, delay FRAMES, size WxH, silent, sound, stop, go, frame, quit.
    """
    width, height, rate, _ = wanted(size)
    feed = StandinFeed(to, width // 2 * 2, height // 2 * 2, rate, film, epoch=0.0, sound=sound, announce=announce)
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
