"""Who takes the pictures of outputs: windows, files, and whoever else is handed each new one."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterable, Mapping

from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.io.logs import log

Sink = Callable[[Pixels], None]
Fault = Callable[[], str | None]


class Sinks:
    """The takers of each output's pictures.  They come and go in any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._sinks: dict[str, dict[object, tuple[Sink, Fault]]] = {}

    def add(self, output: str, key: object, sink: Sink, fault: Fault) -> None:
        """Have an output's pictures taken; ``fault`` says why they do not arrive, or None."""
        with self._lock:
            self._sinks.setdefault(output, {})[key] = (sink, fault)

    def remove(self, output: str, key: object) -> None:
        """Have them taken no more."""
        with self._lock:
            self._sinks.get(output, {}).pop(key, None)

    def bound(self) -> set[str]:
        """Outputs that anybody takes pictures of."""
        with self._lock:
            return {id for id, sinks in self._sinks.items() if sinks}

    def faults(self, outputs: Iterable[str]) -> dict[str, str]:
        """Why pictures of these outputs do not arrive where they should."""
        there = set(outputs)
        with self._lock:
            ways = [(id, fault) for id, sinks in self._sinks.items() for _, fault in sinks.values()]
        return {id: why for id, fault in ways if id in there and (why := fault()) is not None}

    def hand(self, outputs: Iterable[str], there: Mapping[str, object], sent: Callable[[str], Pixels]) -> None:
        """Hand the pictures of outputs that are ``there`` to who takes them, as ``sent`` has them."""
        with self._lock:
            sinks = [(id, sink) for id in outputs for sink, _ in self._sinks.get(id, {}).values()]
        for id, sink in sinks:
            if id not in there:
                continue
            try:
                sink(sent(id))
            except Exception:  # a window or file that fails must not stop the show
                log.exception("sink failed", output=id)
