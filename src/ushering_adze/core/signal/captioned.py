"""Captions that come in pictures: those of line 21, or digital ones where there are none of these."""

from __future__ import annotations

from collections.abc import Iterator

from ushering_adze.core.signal.captions608 import Captions608, pairs_of
from ushering_adze.core.signal.captions708 import Captions708, parts_of

_MARK = b"\xb5\x00\x31GA94\x03"
"""Of captions in the pictures of a stream: country, provider, ATSC, caption data (ATSC A/53 part 4)."""


class CaptionsOfPictures:
    """What a viewer reads, as picture after picture comes."""

    def __init__(self) -> None:
        self._line, self._digital = Captions608(), Captions708()
        self._has_line = False

    def take(self, data: bytes) -> None:
        """What the next picture carries: triples of ``cc_data``."""
        for pair in pairs_of(data):
            self._has_line = self._has_line or bool(pair[0] & 0x7F or pair[1] & 0x7F)
            self._line.take(*pair)
        for part in parts_of(data):
            self._digital.take(*part)

    @property
    def text(self) -> str:
        """What is read now, rows from the top."""
        return self._line.text if self._has_line else self._digital.text


def carried_by(packet: bytes) -> Iterator[bytes]:
    """Triples of ``cc_data`` that a packet of MPEG-2, H.264 or HEVC carries, without decoding it.

    Parameters
    ----------
    packet : bytes
        Of one picture, or of several.

    References
    ----------
    ATSC A/53 part 4 (user data ``GA94``); ITU-T H.264, 7.4.1 (emulation prevention); from memory.

    Examples
    --------
    >>> [d.hex() for d in carried_by(b"..\\xb5\\x00\\x31GA94\\x03\\xc1\\xff\\xfc\\x94\\x20\\xff")]
    ['fc9420']
    """
    n = packet.find(_MARK)
    while n >= 0:
        begin = n + len(_MARK)
        # an encoder puts 3 behind two zeros, so that no picture seems to begin there
        data = packet[begin : begin + 140].replace(b"\x00\x00\x03", b"\x00\x00")
        if len(data) >= 2 and data[0] & 0x40:
            size = 3 * (data[0] & 0x1F)
            if len(data) >= 2 + size:
                yield data[2 : 2 + size]
        n = packet.find(_MARK, begin)
