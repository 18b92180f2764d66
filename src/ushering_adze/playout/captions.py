"""What a viewer reads of sources now: captions of clips, and those in the pictures of signals."""

from __future__ import annotations

from collections.abc import Iterable

from ushering_adze.engine.engine import Engine
from ushering_adze.engine.report import Report
from ushering_adze.io.media.captions import CaptionReader, Readable


class CaptionsNow:
    """Reads captions where sources are.

    Parameters
    ----------
    engine : Engine
    """

    def __init__(self, engine: Engine) -> None:
        self._engine, self._reader = engine, CaptionReader()

    def of(self, sources: Iterable[str], report: Report | None) -> dict[str, Readable]:
        """What is read of those sources that are clips, or signals of a report."""
        wanted = set(sources)
        signals = () if report is None else report.signals
        found = {s.source: Readable(s.captions) for s in signals if s.source in wanted}
        lengths = self._engine.lengths()
        for id, at in self._engine.sounds(wanted).items():
            if at.path is not None:
                length = lengths.get(id, 0.0)
                seconds = at.seconds % length if at.loops and length > 0 else at.seconds
                found[id] = self._reader.at(at.path, seconds)
        return found

    def close(self) -> None:
        """Read no more."""
        self._reader.close()
