"""Timecode: frames counted as hours, minutes, seconds and frames, and how it comes over wires.

Sources: SMPTE ST 12-1 (the count, and its drop frames); MMA RP-004, *MIDI Time Code* (quarter frames and the full
message); *Art-Net 4* specification, ArtTimeCode (packet 0x9700).  All three from memory.
"""

from __future__ import annotations

import re
from typing import Literal, NamedTuple

CodeRate = Literal["24", "25", "29.97", "30"]
RATES: tuple[CodeRate, ...] = ("24", "25", "29.97", "30")
"""In the order of their numbers in MIDI timecode and in Art-Net."""
_WORDS = re.compile(r"^(\d{1,2}):([0-5]?\d):([0-5]?\d)[:;.,](\d{1,2})$")
_ARTNET = b"Art-Net\0"
_OPCODE = 0x9700


class CodeError(ValueError):
    """A timecode that cannot be, in one sentence."""


def frames_a_second(rate: CodeRate) -> float:
    """Frames in a second of real time."""
    return 30000 / 1001 if rate == "29.97" else float(rate)


def frame_number(hours: int, minutes: int, seconds: int, frames: int, rate: CodeRate) -> int:
    """How many frames a code is from 00:00:00:00.

    At 29.97 the first two numbers of every minute but each tenth are dropped, so that a day of the count is a day.

    Raises
    ------
    CodeError
        If there is no such code.

    Examples
    --------
    >>> frame_number(0, 10, 0, 0, "29.97"), frame_number(0, 1, 0, 2, "29.97"), frame_number(1, 0, 0, 0, "25")
    (17982, 1800, 90000)
    """
    base = 30 if rate == "29.97" else int(rate)
    words = f"{hours:02d}:{minutes:02d}:{seconds:02d}:{frames:02d}"
    if not (0 <= hours < 24 and 0 <= minutes < 60 and 0 <= seconds < 60 and 0 <= frames < base):
        raise CodeError(f"{words} is no timecode at {rate}; there are 24 hours and {base} frames in a second")
    if rate == "29.97" and seconds == 0 and frames < 2 and minutes % 10:
        raise CodeError(f"{words} is dropped at 29.97; the minute begins with frame 02")
    whole = ((hours * 60 + minutes) * 60 + seconds) * base + frames
    if rate != "29.97":
        return whole
    past = hours * 60 + minutes
    return whole - 2 * (past - past // 10)


def seconds_of_code(words: str, rate: CodeRate) -> float:
    """The real seconds of a code from 00:00:00:00.

    Parameters
    ----------
    words : str
        Like 01:00:00:00.
    rate : {"24", "25", "29.97", "30"}

    Raises
    ------
    CodeError
        In one sentence.

    Examples
    --------
    >>> seconds_of_code("01:00:00:00", "25"), round(seconds_of_code("00:10:00:00", "29.97"), 3)
    (3600.0, 599.999)
    """
    found = _WORDS.fullmatch(words.strip())
    if found is None:
        raise CodeError(f"{words.strip()[:40]} is no timecode; type one like 01:00:00:00")
    hours, minutes, seconds, frames = (int(part) for part in found.groups())
    return frame_number(hours, minutes, seconds, frames, rate) / frames_a_second(rate)


def code_parts(seconds: float, rate: CodeRate) -> tuple[int, int, int, int]:
    """Hours, minutes, seconds and frames after so many real seconds; a day later it begins again.

    Examples
    --------
    >>> code_parts(599.9994, "29.97"), code_parts(1800 * 1001 / 30000, "29.97"), code_parts(3600.04, "25")
    ((0, 10, 0, 0), (0, 1, 0, 2), (1, 0, 0, 1))
    """
    base = 30 if rate == "29.97" else int(rate)
    number = int(seconds * frames_a_second(rate) + 1e-3)
    if rate == "29.97":
        number %= 24 * 6 * 17982
        tens, rest = divmod(number, 17982)
        number += 18 * tens + (2 * ((rest - 2) // 1798) if rest >= 1800 else 0)
    frames, whole = number % base, number // base
    return whole // 3600 % 24, whole // 60 % 60, whole % 60, frames


def code_words(seconds: float, rate: CodeRate) -> str:
    """The code after so many real seconds, with a semicolon before frames that may be dropped.

    Examples
    --------
    >>> code_words(3600.0, "25"), code_words(599.9994, "29.97")
    ('01:00:00:00', '00:10:00;00')
    """
    hours, minutes, whole, frames = code_parts(max(0.0, seconds), rate)
    return f"{hours:02d}:{minutes:02d}:{whole:02d}{';' if rate == '29.97' else ':'}{frames:02d}"


class Heard(NamedTuple):
    """A code as it came over a wire: real seconds from 00:00:00:00, and its rate."""

    seconds: float
    rate: CodeRate


def _heard(hours: int, minutes: int, seconds: int, frames: int, rate: CodeRate, later: int = 0) -> Heard | None:
    try:
        number = frame_number(hours, minutes, seconds, frames, rate) + later
    except CodeError:
        return None
    return Heard(number / frames_a_second(rate), rate)


class QuarterFrames:
    """Reads MIDI timecode: eight quarter frames make one code, which is two frames old when the last has come; a full
    message is one at once.
    """

    def __init__(self) -> None:
        self._parts: list[int | None] = [None] * 8
        self._next = 0

    def read(self, message: bytes) -> Heard | None:
        """A message of the MIDI wire; the code that it completes, if it does.

        Parameters
        ----------
        message : bytes
            ``F1 nd`` with a quarter frame, or ``F0 7F id 01 01 hh mm ss ff F7``; others say nothing.
        """
        if len(message) == 10 and message[:2] == b"\xf0\x7f" and message[3:5] == b"\x01\x01":
            self._parts, self._next = [None] * 8, 0
            hours, minutes, seconds, frames = message[5:9]
            return _heard(hours & 31, minutes, seconds, frames, RATES[hours >> 5 & 3])
        if len(message) != 2 or message[0] != 0xF1 or message[1] > 0x7F:
            return None
        part, value = message[1] >> 4, message[1] & 15
        if part != self._next:  # one was lost, or it runs backwards: begin again with the next first one
            self._parts, self._next = [None] * 8, 0
            if part != 0:
                return None
        self._parts[part], self._next = value, (part + 1) % 8
        if part != 7 or any(p is None for p in self._parts):
            return None
        low = [p or 0 for p in self._parts]
        frames, seconds, minutes = (low[k] | low[k + 1] << 4 for k in (0, 2, 4))
        hours = low[6] | (low[7] & 1) << 4
        rate = RATES[low[7] >> 1 & 3]
        return _heard(hours, minutes, seconds, frames, rate, later=2)


def quarter_frames(seconds: float, rate: CodeRate) -> tuple[bytes, ...]:
    """The eight messages by which MIDI says a code."""
    hours, minutes, whole, frames = code_parts(seconds, rate)
    high = hours | RATES.index(rate) << 5
    values = [v for n in (frames, whole, minutes, high) for v in (n & 15, n >> 4)]
    return tuple(bytes((0xF1, part << 4 | value)) for part, value in enumerate(values))


def artnet_code(packet: bytes) -> Heard | None:
    """The code in a packet of Art-Net; None if it is another packet, or damaged.

    Parameters
    ----------
    packet : bytes
        As it came by UDP.
    """
    if len(packet) < 19 or packet[:8] != _ARTNET or int.from_bytes(packet[8:10], "little") != _OPCODE:
        return None
    frames, seconds, minutes, hours, kind = packet[14:19]
    return _heard(hours, minutes, seconds, frames, RATES[kind]) if kind < len(RATES) else None


def artnet_packet(seconds: float, rate: CodeRate) -> bytes:
    """The packet by which Art-Net says a code.

    Examples
    --------
    >>> artnet_packet(3600.0, "25").hex()
    '4172742d4e6574000097000e00000000000101'
    """
    hours, minutes, whole, frames = code_parts(seconds, rate)
    head = _ARTNET + _OPCODE.to_bytes(2, "little") + bytes((0, 14, 0, 0))
    return head + bytes((frames, whole, minutes, hours, RATES.index(rate)))
