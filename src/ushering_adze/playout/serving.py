"""The process that keeps the pictures running: it does what the other end of a wire asks of the running show."""

from __future__ import annotations

import gc
import os
import signal
import socket
import sys
import threading
from collections import deque
from collections.abc import Callable
from typing import Any

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.engine.memory import set_aside
from ushering_adze.engine.report import Report
from ushering_adze.io.logs import log
from ushering_adze.playout.frames import Frames
from ushering_adze.playout.messages import Answer, Ask, Begin, Made, Now, Picture, Refused
from ushering_adze.playout.playout import Playout
from ushering_adze.playout.ring import RingIn
from ushering_adze.playout.walls import Painted
from ushering_adze.playout.wire import Wire


class Outbox:
    """What goes out, in a thread of its own: who makes frames never waits for the other end.

    Of what is told again and again the newest wins.
    """

    def __init__(self, wire: Wire, now: Callable[[], Now]) -> None:
        self._wire, self._now = wire, now
        self._news = threading.Condition()
        self._queue: deque[object] = deque()
        self._framed = self._closed = False
        self._report: Report | None = None
        self._thread = threading.Thread(target=self._run, name="outbox", daemon=True)
        self._thread.start()

    def put(self, message: object) -> None:
        """Send a message, after those that were put before."""
        with self._news:
            self._queue.append(message)
            self._news.notify()

    def tell(self, report: Report) -> None:
        """Send a report."""
        with self._news:
            self._report = report
            self._news.notify()

    def framed(self) -> None:
        """A frame has been made."""
        with self._news:
            self._framed = True
            self._news.notify()

    def close(self) -> None:
        """Send what is left, and end."""
        with self._news:
            self._closed = True
            self._news.notify()
        self._thread.join(2)

    def _run(self) -> None:
        while True:
            with self._news:
                self._news.wait_for(lambda: self._queue or self._framed or self._report is not None or self._closed)
                messages = [*self._queue]
                self._queue.clear()
                framed, report, closed = self._framed, self._report, self._closed
                self._framed, self._report = False, None
            try:
                if framed:
                    self._send(self._now())
                for message in messages:
                    self._send(message)
                if report is not None:
                    self._wire.send(report, pictures=True)
            except OSError:
                return  # nobody listens any more; who reads ends the process
            except Exception:
                log.exception("what goes on could not be told")
            if closed:
                return

    def _send(self, message: object) -> None:
        try:
            self._wire.send(message)
        except OSError:
            raise
        except Exception as error:
            log.exception("an answer could not be sent")
            if isinstance(message, Answer):
                self._wire.send(Answer(message.number, error=RuntimeError(f"{type(error).__name__}: {error}")))


class Server:
    """Does what is asked, one thing after another."""

    def __init__(self, wire: Wire, begin: Begin) -> None:
        self._wire = wire
        self._out = Outbox(wire, self._now)
        self._playout = Playout(
            begin.show, self._out.tell, lambda show, why: self._out.put(Refused(show, why)), begin.devices, begin.stage
        )
        self._playout.on_frame(self._out.framed)
        self._walling = threading.Lock()
        self._wall: str | None = None
        self._rings: dict[str, RingIn] = {}
        self._frames: dict[str, Frames] = {}
        self._playout.on_wall(self._walled)
        self._own: dict[str, Callable[..., Any]] = {
            "read": self._read,
            "after_frame": self._after_frame,
            "frames_of": self._frames_of,
            "release": self._release,
            "fault": self._fault,
            "took": self._took,
            "raster": self._raster,
            "picture_of": self._picture_of,
            "bring_on": self._bring_on,
            "forget_missed": self._forget_missed,
            "go": self._go,
            "watch": self._watch,
        }

    def run(self) -> None:
        """Until the other end says so, or is gone."""
        while True:
            try:
                ask = self._wire.receive()
            except EOFError:
                os._exit(0)  # whoever looks at it is gone
            if ask.name == "stop":
                break
            self._do(ask)
        self._playout.stop(*ask.given)
        for ring in self._rings.values():
            ring.close()
        self._out.put(Answer(ask.number))
        self._out.close()
        log.flush()

    def _do(self, ask: Ask) -> None:
        try:
            call = self._own.get(ask.name) or getattr(self._playout, ask.name)
            answer = Answer(ask.number, call(*ask.given, **ask.named))
        except Exception as error:
            if not ask.number:
                log.exception("could not be done", what=ask.name)
            answer = Answer(ask.number, error=error)
        if ask.number:
            self._out.put(answer)

    def _now(self) -> Now:
        p = self._playout
        return Now(p.stage, p.serials, p.covered, p.put, p.mark, p.late, p.mean_milliseconds)

    def _read(self, name: str) -> Any:
        return getattr(self._playout, name)

    def _go(self) -> None:
        self._playout.go()
        set_aside()
        gc.enable()

    def _after_frame(self, number: int) -> None:
        self._playout.after_frame(lambda: self._out.put(Made(number)))

    # -- pictures ------------------------------------------------------------------------------------------------------

    def _raster(self, output: str, known: object) -> tuple[object, Pixels | None] | None:
        """The newest picture of an output, and what tells it from others; without it, if that is what is known."""
        serial, black = self._playout.serials.get(output), self._playout.stage.is_black(output)
        pixels = self._playout.raster(output)
        if serial is None or pixels is None:
            return None
        return (serial, black), None if (serial, black) == known else pixels

    def _picture_of(self, source: str, known: int, unadjusted: bool) -> Any:
        frame = (self._playout.unadjusted if unadjusted else self._playout.picture_of)(source)
        if frame is None or frame.serial != known:
            return frame
        return frame.serial

    def _watch(self, wall: str | None) -> None:
        with self._walling:
            self._wall = wall
            self._playout.watch(wall)
            for key in [k for k in self._rings if k.startswith("wall:") and k != f"wall:{wall}"]:
                self._rings.pop(key).close()

    def _walled(self, painted: Painted) -> None:
        with self._walling:
            if painted.wall == self._wall:
                self._ring(f"wall:{painted.wall}").put(painted.pixels, painted.serial)

    def _ring(self, key: str) -> RingIn:
        if key not in self._rings:
            self._rings[key] = RingIn(lambda at: self._out.put(Picture(key, at)))
        return self._rings[key]

    def _frames_of(self, key: str, output: str) -> None:
        self._frames[key] = self._playout.frames_of(output, self._ring(key).put)

    def _release(self, key: str) -> None:
        frames, ring = self._frames.pop(key, None), self._rings.pop(key, None)
        if frames is not None:
            self._playout.release(frames)
        if ring is not None:
            ring.close()

    def _fault(self, key: str, why: str | None) -> None:
        if key in self._frames:
            self._frames[key].fault = why

    def _took(self, key: str, number: int) -> None:
        if key in self._rings:
            self._rings[key].took(number)

    # -- the calendar --------------------------------------------------------------------------------------------------

    def _bring_on(self) -> None:
        if self._playout.calendar is not None:
            self._playout.calendar.bring_on()

    def _forget_missed(self) -> None:
        if self._playout.calendar is not None:
            self._playout.calendar.forget_missed()


def main() -> None:
    """Serve the socket whose number is given."""
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # of a terminal: it is for who asks
    wire = Wire(socket.socket(fileno=int(sys.argv[1])))
    try:
        begin = wire.receive()
    except EOFError:
        return
    server = Server(wire, begin)
    server.run()
    os._exit(0)  # a thread may hang in something that never answers
