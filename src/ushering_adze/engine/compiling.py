"""Compiling an edited show beside the frames, so that a drag of a mesh makes none of them late."""

from __future__ import annotations

import threading
from collections.abc import Callable

from ushering_adze.core.show import Show
from ushering_adze.engine.renderer import Prepared, Renderer
from ushering_adze.io.logs import log
from ushering_adze.io.priority import give_way

REST = 0.25
"""Seconds without an edit after which what was compiled quickly is compiled exactly."""


class Compiling:
    """A thread that compiles the newest show it was given; edits that come while it works are worth one more
    compilation, not many.

    Edits in a row are compiled quickly, and once they rest, exactly.

    Parameters
    ----------
    done : callable
        Called in the thread with the renderer, the show and what it is run by.
    failed : callable
        Called in the thread with the show that cannot be run, and why.
    """

    def __init__(self, done: Callable[[Renderer, Show, Prepared], None], failed: Callable[[Show, str], None]) -> None:
        self._done, self._failed = done, failed
        self._wanted: tuple[Renderer, Show] | None = None
        self._change = threading.Condition()
        self._closing = False
        self._thread = threading.Thread(target=self._run, name="compile", daemon=True)

    def start(self) -> None:
        """Begin with what is wanted by now."""
        self._thread.start()

    def want(self, renderer: Renderer, show: Show) -> None:
        """Compile this show next, in place of any that waits."""
        with self._change:
            self._wanted = (renderer, show)
            self._change.notify_all()

    def close(self) -> None:
        """Stop, after what is being compiled."""
        with self._change:
            self._closing = True
            self._change.notify_all()
        if self._thread.is_alive():
            self._thread.join(0.5)

    def _run(self) -> None:
        give_way(5)
        last: tuple[Renderer, Show] | None = None
        while True:
            with self._change:
                rough = last is not None and last[0].rough
                self._change.wait_for(lambda: self._closing or self._wanted is not None, REST if rough else None)
                if self._closing:
                    return
                quick = self._wanted is not None
                work, self._wanted = self._wanted or last, None
            if work is None:
                continue
            try:
                prepared = work[0].prepared(work[1], quick)
            except Exception as error:  # what is on air stays as it is
                log.exception("an edited show could not be compiled")
                last = None
                why = (
                    "there is not enough memory for it"
                    if isinstance(error, MemoryError)
                    else f"it cannot be mapped ({type(error).__name__})"
                )
                self._failed(work[1], why)
                continue
            last = work
            self._done(*work, prepared)
