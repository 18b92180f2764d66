"""Addresses of live signals: which may be opened, and how."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from typing import Any

import av

from ushering_adze.core.show import Input
from ushering_adze.io.srt import through_srt

OPENING, READING = 6.0, 2.0
"""Seconds that opening, and waiting for the next packet, may take."""
LISTENING = 2.0
"""The same for packets that nobody has to be asked for: it is listened again at once."""
ALLOWED = frozenset({"rtsp", "rtsps", "rtp", "udp", "http", "https", "hls", "rtmp", "rtmps", "srt"})
PROTOCOLS = "rtp,udp,tcp,http,https,tls,crypto,rtmp,rtmps,rtsp,hls,httpproxy"
"""What FFmpeg may use to follow an address; files are not among them, whatever a playlist says."""
_MADE = re.compile(r"lavfi:(testsrc2?|smptebars|smptehdbars|rgbtestsrc|sine)(=[\w=:.]*)?")
"""Pictures that FFmpeg makes by itself, to try a feed with."""
ROOM = 8192
"""Packets of 188 bytes that wait for being read."""


def _with_option(address: str, **options: str) -> str:
    """An address with more options after its question mark; what it says itself stays."""
    more = "&".join(f"{name}={value}" for name, value in options.items() if f"{name}=" not in address)
    return address if not more else f"{address}{'&' if '?' in address else '?'}{more}"


def _packets(address: str, card: str | None) -> str:
    """Where FFmpeg listens for packets: a flood is not the end, and several may listen to one multicast."""
    options = {"overrun_nonfatal": "1", "fifo_size": str(ROOM), "reuse": "1"}
    return _with_option(address, **options, **({"localaddr": card} if card else {}))


@contextmanager
def opened(source: Input) -> Iterator[Any]:
    """Open what an input names: a capture device, ``/dev/video0``, one of FFmpeg's own such as ``lavfi:testsrc2``, or
    a stream by its URL.

    Only the ways of `ALLOWED` are gone, also by what an address leads to: FFmpeg knows others that read any file.

    Raises
    ------
    av.FFmpegError, OSError, ValueError
    """
    address = source.address or ""
    kind, _, rest = address.partition(":")
    kind = kind.lower()
    local = address.startswith("/") or kind == "file"
    if not local and kind not in ALLOWED and not _MADE.fullmatch(address):
        raise ValueError(
            f"{kind[:20]!r} is no way to read a feed here; there are /dev/video0, a file, {', '.join(sorted(ALLOWED))}"
        )
    with ExitStack() as stack:
        if address.startswith("/dev/"):  # Video4Linux: asked for its size, it gives the nearest it has
            wanted = {"video_size": f"{source.width}x{source.height}", "framerate": f"{source.rate:g}"}
            yield stack.enter_context(av.open(address, format="v4l2", options=wanted, timeout=(OPENING, READING)))
            return
        if kind == "lavfi":
            yield stack.enter_context(av.open(rest, format=kind))
            return
        options = {
            "protocol_whitelist": "file" if local else PROTOCOLS,
            "fflags": "nobuffer",
            "flags": "low_delay",
            "probesize": "500000",
            "analyzeduration": "700000",
        }
        if kind == "srt":
            address, _ = stack.enter_context(through_srt(address))
            kind = "udp"
        if kind in ("udp", "rtp"):
            address = _packets(address, source.network_card)
        # Packets are a transport stream: to find that out by looking takes seconds where little is sent.
        form = "mpegts" if kind == "udp" else None
        opening = LISTENING if kind in ("udp", "rtp") else OPENING
        yield stack.enter_context(av.open(address, format=form, options=options, timeout=(opening, READING)))
