"""The log: a file that is turned over when it is full, written in a thread of its own, that can never stop the show.

Whoever logs a line hands it over and goes on: nothing is looked up, formatted or written in that thread.  Lines that
come again and again are counted, not written; lines that nobody can write are left out, and counted too.  Standard
error gets one short line of each warning, and only while somebody reads it.
"""

from __future__ import annotations

import logging
import os
import select
import sys
import threading
import time
from collections.abc import Callable, Mapping
from contextlib import suppress
from logging.handlers import RotatingFileHandler
from pathlib import Path
from queue import Empty, SimpleQueue
from reprlib import Repr
from traceback import TracebackException
from types import MappingProxyType, TracebackType
from typing import Any, NamedTuple

from ushering_adze.io.places import log_file

WAITING = 500
"""Lines that may wait to be written; more are left out."""
WINDOW, IN_WINDOW = 10.0, 3
"""Seconds, and how often one and the same message is written within them."""
KNOWN = 512
"""Messages that are told apart."""
FILE_BYTES, FILES = 2_000_000, 5
FRAMES = 12
"""Innermost calls of a traceback that are written."""
LONGEST = 400
"""Letters of a line on standard error."""

_short = Repr()
_short.maxstring = _short.maxother = 160


class Line(NamedTuple):
    """One line as it was handed over; ``before`` is how often its message came unwritten since the last that was."""

    at: float
    level: int
    event: str
    fields: Mapping[str, object] = MappingProxyType({})
    error: TracebackException | None = None
    before: int = 0

    def words(self) -> str:
        """The line without its time."""
        told = [
            f"{name}={value if isinstance(value, (int, float)) else _short.repr(value)}"
            for name, value in self.fields.items()
        ]
        if self.error is not None:
            told.append(next(reversed(list(self.error.format_exception_only())), "").strip()[:LONGEST])
        if self.before:
            told.append(f"({self.before} times more before this)")
        return " ".join([self.event, *told])


class Log:
    """Takes lines from any thread; each call returns at once, whatever becomes of the line."""

    def __init__(self) -> None:
        self._lines: SimpleQueue[Line] = SimpleQueue()
        self._seen: dict[tuple[object, ...], list[float]] = {}
        self._start = threading.Lock()
        self._thread: threading.Thread | None = None
        self._handler: RotatingFileHandler | None = None
        self._handed = self._done = 0
        self.to_stderr = False
        self.left_out = 0
        """Lines that were neither written nor counted with another."""

    def info(self, event: str, **fields: object) -> None:
        """Something worth knowing later."""
        self._take(logging.INFO, event, fields, sys.exc_info()[1])

    def warning(self, event: str, **fields: object) -> None:
        """Something that is not as it should be."""
        self._take(logging.WARNING, event, fields, None)

    def exception(self, event: str, **fields: object) -> None:
        """What failed, with the error that is being handled."""
        self._take(logging.ERROR, event, fields, sys.exc_info()[1])

    def failed(self, event: str, error: BaseException, **fields: object) -> None:
        """What failed, with an error from elsewhere."""
        self._take(logging.ERROR, event, fields, error)

    def _take(self, level: int, event: str, fields: Mapping[str, object], error: BaseException | None) -> None:
        with suppress(Exception):
            now = time.monotonic()
            key = (event, type(error), _place(error.__traceback__) if error is not None else None)
            entry = self._seen.get(key)
            if entry is None:
                if len(self._seen) >= KNOWN:
                    self._seen.clear()
                entry = self._seen[key] = [now, 0.0, 0.0]
            if now - entry[0] > WINDOW:
                entry[0], entry[1] = now, 0.0
            entry[1] += 1
            if entry[1] > IN_WINDOW:
                entry[2] += 1
                return
            if self._lines.qsize() >= WAITING:
                self.left_out += 1
                return
            told = (
                None
                if error is None
                else TracebackException(
                    type(error), error, error.__traceback__, limit=-FRAMES, lookup_lines=False, compact=True
                )
            )
            before, entry[2] = int(entry[2]), 0.0
            self._handed += 1
            self._lines.put(Line(time.time(), level, event, fields, told, before))
            if self._thread is None:
                self._begin()

    def _begin(self) -> None:
        with self._start:
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, name="log", daemon=True)
                self._thread.start()

    def _run(self) -> None:
        while True:
            try:
                line = self._lines.get(timeout=WINDOW)
            except Empty:
                continue
            try:
                self._write(line)
            except Exception:
                self.left_out += 1
            with suppress(Exception):
                if self.to_stderr and line.level >= logging.WARNING:
                    _to_stderr(line.words())
            self._done += 1

    def _write(self, line: Line) -> None:
        path = log_file()
        if self._handler is None or not self._handler.writes_to(path):
            path.parent.mkdir(parents=True, exist_ok=True)
            self._handler = _Handler(
                path, maxBytes=FILE_BYTES, backupCount=FILES, encoding="utf-8", errors="backslashreplace"
            )
        at = time.strftime("%Y-%m-%d %H:%M:%S", time.localtime(line.at))
        text = (
            f"{at}.{int(line.at % 1 * 1000):03d} {os.getpid()} {logging.getLevelName(line.level).lower()} "
            f"{line.words()}"
        )
        if line.error is not None:
            text += "\n" + "".join(line.error.format()).rstrip()
        self._handler.emit(logging.makeLogRecord({"msg": text, "levelno": line.level}))

    def flush(self, seconds: float = 0.3) -> None:
        """Wait until what was handed over is written, though not for long."""
        end = time.monotonic() + seconds
        while self._done < self._handed and time.monotonic() < end:
            time.sleep(0.005)


class _Handler(RotatingFileHandler):
    """A file that may be on a full disk: what cannot be written is left out."""

    def writes_to(self, path: Path) -> bool:
        """Whether that is the file which is there now: another process may have turned it over."""
        if self.baseFilename != str(path.absolute()):
            return False
        try:
            there = path.stat()
        except OSError:
            return False
        return self.stream is None or os.path.samestat(os.fstat(self.stream.fileno()), there)

    def handleError(self, record: logging.LogRecord) -> None:
        log.left_out += 1


def _place(trace: TracebackType | None) -> tuple[str, int] | None:
    """Where an error was raised."""
    if trace is None:
        return None
    while trace.tb_next is not None:
        trace = trace.tb_next
    return trace.tb_frame.f_code.co_filename, trace.tb_lineno


def _to_stderr(words: str) -> None:
    """One line on standard error, if that takes it at once."""
    stream = sys.stderr
    if stream is None:
        return
    file = stream.fileno()
    poll = select.poll()
    poll.register(file, select.POLLOUT)
    if poll.poll(0):  # a pipe is ready when it has room for so short a line
        os.write(file, f"adze: {' '.join(words.split())}"[:LONGEST].encode("utf-8", "backslashreplace") + b"\n")


log = Log()


def log_to_stderr() -> None:
    """Write warnings and worse to standard error as well, a line each."""
    log.to_stderr = True


def log_unhandled(tell: Callable[[str], object] = lambda what: None) -> None:
    """Log what nobody caught, in any thread, in place of printing it, and tell the main thread's by the kind of error
    it is.
    """

    def caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        log.failed("unhandled", error)
        with suppress(Exception):
            tell(kind.__name__)

    def in_thread(args: Any) -> None:
        if args.exc_value is not None and not issubclass(args.exc_type, SystemExit):
            log.failed("unhandled in a thread", args.exc_value, thread=getattr(args.thread, "name", "?"))

    sys.excepthook = caught
    threading.excepthook = in_thread
    sys.unraisablehook = lambda args: log.failed("unraisable", args.exc_value) if args.exc_value is not None else None
