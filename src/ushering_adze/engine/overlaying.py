"""Drawing what is laid over outputs beside the frames, so that no pattern makes one late or the desk stand still."""

from __future__ import annotations

import threading
from collections.abc import Callable

from ushering_adze.core.show import Show
from ushering_adze.core.show.laid import Laid
from ushering_adze.engine.overlay import Overlay, overlay_of
from ushering_adze.io.logs import log
from ushering_adze.io.priority import give_way

Then = Callable[[Overlay], None]


class Overlaying:
    """A thread that draws the newest of what it was given; what is not wanted any more is dropped.

    Attributes
    ----------
    fault : str or None
        Why the newest could not be drawn.
    """

    def __init__(self) -> None:
        self._wanted: tuple[Show, Laid | None, Then] | None = None
        self._change = threading.Condition()
        self._closing = False
        self._thread: threading.Thread | None = None
        self.fault: str | None = None

    def want(self, show: Show, laid: Laid | None, then: Then) -> None:
        """Draw this next, in place of any that waits; ``then`` is called in the thread, unless something else is wanted
        by then.
        """
        with self._change:
            self._wanted = (show, laid, then)
            if self._thread is None and not self._closing:
                self._thread = threading.Thread(target=self._run, name="overlay", daemon=True)
                self._thread.start()
            self._change.notify_all()

    def close(self) -> None:
        """Stop, after what is being drawn."""
        with self._change:
            self._closing = True
            self._change.notify_all()

    def _run(self) -> None:
        give_way(5)
        while True:
            with self._change:
                self._change.wait_for(lambda: self._closing or self._wanted is not None)
                if self._closing or self._wanted is None:
                    return
                (show, laid, then), self._wanted = self._wanted, None
            try:
                made, self.fault = overlay_of(show, laid), None
            except Exception as error:  # what is laid over by now stays
                log.exception("what is to be laid over outputs could not be drawn")
                self.fault = f"the pattern cannot be drawn ({type(error).__name__}); lay another one over, or none"
                continue
            with self._change:
                stale = self._wanted is not None or self._closing
            if not stale:
                then(made)
