"""EDID read, and told in words."""

from __future__ import annotations

from typing import NamedTuple

from ushering_adze.core.signal.cta import timings
from ushering_adze.core.signal.edid import BLOCK, HEADER, checksum, fraction_khz
from ushering_adze.core.signal.timing import SignalError, SignalTiming, plain, rate_words


class Edid(NamedTuple):
    """What an EDID says.  ``timings`` are its detailed timings, the preferred one first; ``vics`` the CTA-861 formats
    it lists.
    """

    maker: str
    product: int
    year: int
    version: str
    digital: bool
    bits: int | None
    size_cm: tuple[int, int]
    gamma: float | None
    name: str | None
    serial: str | None
    limits: tuple[int, int, int, int, int] | None
    timings: tuple[SignalTiming, ...]
    vics: tuple[int, ...]
    native_vics: tuple[int, ...]
    audio: bool
    ycbcr: bool
    hdmi: bool
    max_tmds_mhz: int | None
    extensions: int

    def as_dict(self) -> dict[str, object]:
        """The same as plain values."""
        limits = (
            None
            if self.limits is None
            else dict(
                zip(("v_min_hz", "v_max_hz", "h_min_khz", "h_max_khz", "clock_max_mhz"), self.limits, strict=True)
            )
        )
        return {
            **self._asdict(),
            "size_cm": list(self.size_cm),
            "limits": limits,
            "timings": [t.as_dict() for t in self.timings],
            "vics": list(self.vics),
            "native_vics": list(self.native_vics),
        }

    @property
    def words(self) -> list[str]:
        """The same in lines for reading."""
        lines = [
            f"Name            {self.name or 'none'}",
            f"Maker           {self.maker}, product {self.product}, made {self.year}",
            f"EDID            {self.version}, {'digital' if self.digital else 'analogue'}"
            + (f", {self.bits} bits" if self.bits else "")
            + (", HDMI" if self.hdmi else ""),
        ]
        if self.size_cm != (0, 0):
            lines.append(f"Picture         {self.size_cm[0]} × {self.size_cm[1]} cm")
        for n, t in enumerate(self.timings):
            lines.append(
                f"{'Preferred' if n == 0 else 'Also':<16}{t.h_active}×{t.v_active}{'i' if t.interlaced else ''} at "
                f"{plain(t.refresh_hz, 3)} Hz, {plain(t.clock_khz / 1000, 3)} MHz, {t.h_total}×{t.v_total} in all"
            )
        for vic in self.vics:
            known = next((t for t in timings() if t.vic == vic), None)
            what = "another format"
            if known is not None:
                what = (
                    f"{known.h_active}×{known.v_active}{'i' if known.interlaced else ''} at "
                    f"{rate_words(known.refresh_hz)} Hz"
                )
            native = ", native" if vic in self.native_vics else ""
            lines.append(f"CTA format {vic:<5}{what}{native}")
        if self.limits:
            a, b, c, d, e = self.limits
            lines.append(f"Limits          {a} to {b} Hz, {c} to {d} kHz, up to {e} MHz")
        lines.append(f"Audio           {'yes' if self.audio else 'no'}")
        lines.append(f"Colour          RGB{', YCbCr 4:4:4 and 4:2:2' if self.ycbcr else ''}")
        if self.max_tmds_mhz:
            lines.append(f"Link clock      up to {self.max_tmds_mhz} MHz")
        return lines


def _timing(d: bytes) -> SignalTiming:
    h_active, h_blank = d[2] | (d[4] >> 4) << 8, d[3] | (d[4] & 15) << 8
    v_active, v_blank = d[5] | (d[7] >> 4) << 8, d[6] | (d[7] & 15) << 8
    h_front, h_sync = d[8] | (d[11] >> 6) << 8, d[9] | (d[11] >> 4 & 3) << 8
    v_front, v_sync = d[10] >> 4 | (d[11] >> 2 & 3) << 4, d[10] & 15 | (d[11] & 3) << 4
    interlaced = bool(d[17] & 0x80)
    separate = d[17] & 0x18 == 0x18
    return SignalTiming(
        fraction_khz(d[0], d[1]),
        h_active,
        h_front,
        h_sync,
        h_blank - h_front - h_sync,
        v_active * 2 if interlaced else v_active,
        v_front,
        v_sync,
        v_blank - v_front - v_sync,
        interlaced,
        separate and bool(d[17] & 2),
        separate and bool(d[17] & 4),
    )


def _fault(data: bytes) -> str | None:
    if len(data) < BLOCK:
        return f"an EDID has at least {BLOCK} bytes, this has {len(data)}; the file is cut off or something else"
    if data[:8] != HEADER:
        return "this does not begin with EDID's header 00 FF FF FF FF FF FF 00; it is another kind of file, or damaged"
    if len(data) % BLOCK:
        return f"an EDID is whole blocks of {BLOCK} bytes, this has {len(data)}; the file is cut off"
    if len(data) // BLOCK < 1 + data[126]:
        return f"the first block names {data[126]} more, but only {len(data) // BLOCK - 1} follow; the file is cut off"
    for n in range(1 + data[126]):
        block = data[n * BLOCK : (n + 1) * BLOCK]
        if checksum(block) != block[-1]:
            return (
                f"the checksum of block {n} is {block[-1]:#04x} and should be {checksum(block):#04x}; the EDID "
                "is damaged, read it again"
            )
    return None


def read_edid(data: bytes) -> Edid:
    """Read an EDID of one or more blocks.

    Raises
    ------
    SignalError
        If it is cut off, damaged, or no EDID at all.

    References
    ----------
    VESA E-EDID standard, release A, revision 2, section 3; CTA-861-G, section 7.3 (both from memory).
    """
    fault = _fault(data)
    if fault is not None:
        raise SignalError(fault)
    maker = data[8] << 8 | data[9]
    letters = "".join(chr(64 + (maker >> shift & 31)) for shift in (10, 5, 0))
    digital = bool(data[20] & 0x80)
    bits = {1: 6, 2: 8, 3: 10, 4: 12, 5: 14, 6: 16}.get(data[20] >> 4 & 7) if digital and data[19] >= 4 else None
    timings: list[SignalTiming] = []
    texts: dict[int, str] = {}
    limits = None
    for at in range(54, 126, 18):
        d = data[at : at + 18]
        if d[0] or d[1]:
            timings.append(_timing(d))
        elif d[3] in (0xFC, 0xFF, 0xFE):
            texts[d[3]] = d[5:].split(b"\n")[0].decode("cp437").rstrip()
        elif d[3] == 0xFD:
            limits = (
                d[5] + (255 if d[4] & 1 else 0),
                d[6] + (255 if d[4] & 2 else 0),
                d[7] + (255 if d[4] & 4 else 0),
                d[8] + (255 if d[4] & 8 else 0),
                d[9] * 10,
            )
    found = _cta(data)
    ycbcr = found.ycbcr or bool(digital and data[19] >= 4 and data[24] & 0x18)
    return Edid(
        letters,
        data[10] | data[11] << 8,
        1990 + data[17],
        f"{data[18]}.{data[19]}",
        digital,
        bits,
        (data[21], data[22]),
        None if data[23] == 255 else (data[23] + 100) / 100,
        texts.get(0xFC),
        texts.get(0xFF),
        limits,
        (*(t for t in timings if _is_timing(t)), *found.timings),
        found.vics,
        found.native,
        found.audio,
        ycbcr,
        found.hdmi,
        found.tmds,
        data[126],
    )


class _Cta(NamedTuple):
    timings: tuple[SignalTiming, ...] = ()
    vics: tuple[int, ...] = ()
    native: tuple[int, ...] = ()
    audio: bool = False
    ycbcr: bool = False
    hdmi: bool = False
    tmds: int | None = None


_HDMI_VICS = {1: 95, 2: 94, 3: 93, 4: 98}
"""Formats that HDMI's own block numbers, by their VIC (HDMI 1.4b, table 8-13, from memory)."""


def _cta(data: bytes) -> _Cta:
    """What all CTA-861 extensions say together."""
    found = _Cta()
    for n in range(1, 1 + data[126]):
        block = data[n * BLOCK : (n + 1) * BLOCK]
        if block[0] == 2:
            one = _cta_block(block)
            found = _Cta(
                found.timings + one.timings,
                tuple(dict.fromkeys(found.vics + one.vics)),
                found.native + one.native,
                found.audio or one.audio,
                found.ycbcr or one.ycbcr,
                found.hdmi or one.hdmi,
                max(found.tmds or 0, one.tmds or 0) or None,
            )
    return found


def _formats(codes: bytes) -> tuple[list[int], list[int]]:
    """VICs that short descriptors name, and those of them that are native."""
    vics = [code & 127 if 129 <= code <= 192 else code for code in codes if code not in (0, 128, 254, 255)]
    return vics, [code & 127 for code in codes if 129 <= code <= 192]


def _cta_block(block: bytes) -> _Cta:
    vics: list[int] = []
    native: list[int] = []
    hdmi, tmds = False, None
    end = min(block[2] or BLOCK - 1, BLOCK - 1) if block[1] >= 3 else 4  # the first two revisions have no data blocks
    at = 4
    while at < end:
        tag, length = block[at] >> 5, block[at] & 31
        payload = block[at + 1 : min(end, at + 1 + length)]
        if tag == 2:
            more, own = _formats(payload)
            vics, native = vics + more, native + own
        elif tag == 7 and payload[:1] == b"\x0e":  # formats that go as 4:2:0 alone
            vics += _formats(payload[1:])[0]
        elif tag == 3 and payload[:3] == b"\x03\x0c\x00":
            hdmi = True
            tmds = max(tmds or 0, payload[6] * 5) if len(payload) > 6 else tmds
            vics += _hdmi_formats(payload)
        elif tag == 3 and payload[:3] == b"\xd8\x5d\xc4" and len(payload) > 4:
            tmds = max(tmds or 0, payload[4] * 5)
        at += 1 + length
    timings = []
    at = block[2]
    while at >= 4 and at + 18 <= BLOCK - 1 and (block[at] or block[at + 1]):
        timings.append(_timing(block[at : at + 18]))
        at += 18
    told = block[1] >= 2
    return _Cta(
        tuple(t for t in timings if _is_timing(t)),
        tuple(vics),
        tuple(native),
        told and bool(block[3] & 0x40),
        told and bool(block[3] & 0x30),
        hdmi,
        tmds or None,
    )


def _hdmi_formats(payload: bytes) -> list[int]:
    """The 4K formats in HDMI's own block, behind its latencies."""
    if len(payload) < 8 or not payload[7] & 0x20:
        return []
    at = 8 + 2 * bool(payload[7] & 0x80) + 2 * bool(payload[7] & 0x40)
    if len(payload) <= at + 1:
        return []
    return [_HDMI_VICS[code] for code in payload[at + 2 : at + 2 + (payload[at + 1] >> 5)] if code in _HDMI_VICS]


def _is_timing(t: SignalTiming) -> bool:
    """Whether a descriptor has a picture at all; a damaged one may be of no pixels."""
    return min(t.h_active, t.v_active, t.h_sync, t.v_sync) > 0 and min(t.h_back, t.v_back) >= 0
