"""The demo with cameras that travel: stand-ins send them over the network of this machine, and the relay is sent."""

from __future__ import annotations

import subprocess
import sys
from collections.abc import Iterator
from contextlib import contextmanager

from ushering_adze.core.show import Clip, Feed, Input, Show, Source, WhenLost
from ushering_adze.io.srt import free_port

SIZE, RATE = (1280, 720), 25.0


def travelling(show: Show, ports: dict[str, int], relay: int) -> Show:
    """The demo with its live clips as inputs that are read from these ports, and the relay sent to another.

    Parameters
    ----------
    show : Show
        The demo, its paths absolute.
    ports : dict of int
        By the id of each live clip.
    relay : int

    Returns
    -------
    Show
    """

    def source_of(source: Source) -> Source:
        if not isinstance(source, Clip) or source.id not in ports:
            return source
        return Input(
            id=source.id,
            name=source.name,
            colour=source.colour,
            width=SIZE[0],
            height=SIZE[1],
            rate=RATE,
            encoding="420",
            address=f"udp://127.0.0.1:{ports[source.id]}",
            stand_in=source.path,
            when_lost=WhenLost(backup="hold-card", steady=1.0),
        )

    to = f"udp://127.0.0.1:{relay}"
    far = Input(id="relay-far-end", name="Relay, far end", width=1280, height=720, rate=30, encoding="420", address=to)
    feed = Feed(
        id="relay-feed",
        name="Relay",
        shows="surface",
        of="relay",
        to=to,
        kbit=3000,
        on=True,
        heard_by="relay-far-end",
        mix="relay",
    )
    return show.model_copy(
        update={"sources": (*(source_of(s) for s in show.sources), far), "feeds": (*show.feeds, feed)}
    )


@contextmanager
def travelled(show: Show) -> Iterator[Show]:
    """The demo with its cameras sent by stand-ins, which end with it."""
    cameras = {s.id: s.path for s in show.sources if isinstance(s, Clip) and s.live}
    ports: dict[str, int] = {}
    running = []
    for id, path in cameras.items():
        ports[id] = free_port()
        to = f"udp://127.0.0.1:{ports[id]}"
        command = [sys.executable, "-m", "ushering_adze", "standin", "camera", "--to", to, "--film", path]
        running.append(
            subprocess.Popen(
                [*command, "--size", f"{SIZE[0]}x{SIZE[1]}@{RATE:g}", "--with-input", "--sound"],
                stdin=subprocess.PIPE,
                stdout=subprocess.DEVNULL,
                stderr=subprocess.DEVNULL,
                start_new_session=True,
            )
        )
    try:
        yield travelling(show, ports, free_port())
    finally:
        for process in running:
            process.terminate()
        for process in running:
            process.wait(5)
