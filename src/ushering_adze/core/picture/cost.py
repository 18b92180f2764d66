"""What a show's pictures cost in memory, told before any of it is taken."""

from __future__ import annotations

from ushering_adze.core.show import Fault, Output, RectLanding, Show

RASTERS = 3
"""Rasters of each output that are written in turn."""
BENT = 20
"""Bytes for each pixel of a bent landing's box: two maps of 4 bytes for linear samples, their weights, and what they
are made from.
"""
SHARE = 0.5
"""Share of a machine's memory that a show's rasters and canvases may take."""
NOTED = 1 << 30
"""Bytes by which an edit must grow the show to be told."""


def output_bytes(show: Show, output: Output) -> int:
    """Bytes that an output's rasters take, with the maps of what lands bent on it.

    Parameters
    ----------
    show : Show
    output : Output
        Which output.

    Returns
    -------
    int
        From the sizes alone; nothing is made for it.
    """
    w, h = output.timing.width, output.timing.height
    rasters = RASTERS + (output.picture.flip != "none")
    bent = any(not isinstance(r.landing, RectLanding) for _, r in show.landing_on.get(output.id, ()))
    return w * h * (4 * rasters + (BENT if bent else 0))


def show_bytes(show: Show) -> int:
    """Bytes that all outputs, and the parts of canvases that regions show, take."""
    shown = sum(min(sum(r.w * r.h for r in c.regions), c.width * c.height) * 8 for c in show.canvases)
    return shown + sum(output_bytes(show, o) for o in show.outputs)


def _words(size: int) -> str:
    return f"{size / 1e9:.1f} GB"


def memory_faults(show: Show, before: Show | None, memory: int) -> list[Fault]:
    """The output, if any, that makes a show too large for a machine.

    Parameters
    ----------
    show : Show
    before : Show or None
        The one it was made from; an edit that makes no output larger is never refused.
    memory : int
        Bytes of the machine.

    Returns
    -------
    list of Fault
        At most one.
    """
    if before is not None and show.outputs is before.outputs and show.canvases is before.canvases:
        return []
    total = show_bytes(show)
    if total <= SHARE * memory or (before is not None and total <= show_bytes(before)):
        return []
    largest = max(show.outputs, key=lambda o: output_bytes(show, o), default=None)
    if largest is None:
        return []
    t, size = largest.timing, output_bytes(show, largest)
    return [
        Fault(
            largest.name,
            f"{t.width} × {t.height} px take {_words(size)} of memory, the whole show {_words(total)}; of this "
            f"machine's {_words(memory)} it may take {_words(int(SHARE * memory))}. Make it smaller",
        )
    ]


def memory_note(show: Show, before: Show) -> str | None:
    """A sentence on what an edit costs, if it costs much.

    Parameters
    ----------
    show : Show
    before : Show
        As it was.

    Returns
    -------
    str | None
        In a sentence; None if nothing is.
    """
    if show.outputs is before.outputs or (grown := show_bytes(show) - show_bytes(before)) < NOTED:
        return None
    return (
        f"That takes {_words(grown)} of memory more, {_words(show_bytes(show))} in all; a smaller size would "
        "be quicker to fill, too."
    )
