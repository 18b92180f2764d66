"""The dialogue level that coded sound says it has."""

from __future__ import annotations

from collections.abc import Iterator


def dialogue_level(packet: bytes) -> int | None:
    """How loud speech is by what an AC-3 or Enhanced AC-3 stream says of itself (*dialnorm*).

    Parameters
    ----------
    packet : bytes
        A frame of it, or the beginning of one.

    Returns
    -------
    int or None
        LKFS, −1 to −31; None if it is no such frame.

    References
    ----------
    ATSC A/52 and ETSI TS 102 366: 5.3.2 and 5.4.2 (bsi of AC-3; 0 stands for −31), annex E.1.2 (from memory).
    """
    if len(packet) < 8 or packet[:2] != b"\x0b\x77":
        return None
    bits = _bits(packet[5:])
    bsid = _take(bits, 5)
    if bsid > 16:
        return None
    if bsid <= 10:
        _take(bits, 3)
        acmod = _take(bits, 3)
        skipped = 2 * bool(acmod & 1 and acmod != 1) + 2 * bool(acmod & 4) + 2 * (acmod == 2)
        _take(bits, skipped + 1)
    return -(_take(bits, 5) or 31)


def _bits(data: bytes) -> Iterator[int]:
    return (byte >> (7 - n) & 1 for byte in data for n in range(8))


def _take(bits: Iterator[int], count: int) -> int:
    value = 0
    for _ in range(count):
        value = 2 * value + next(bits, 0)
    return value
