"""Links: what a connector can carry, and how much of it a signal takes.

Capacities are those of DVI 1.0, HDMI 1.4b, 2.0 and 2.1, DisplayPort 1.2 and 1.4, SMPTE ST 292-1, 424, 2081-10 and
2082-10 (from memory).
"""

from __future__ import annotations

from fractions import Fraction
from typing import Literal, NamedTuple

from ushering_adze.core.signal.timing import SignalError, SignalTiming

LinkName = Literal[
    "dvi", "dvi-dual", "hdmi1.4", "hdmi2.0", "hdmi2.1", "dp1.2", "dp1.4", "sdi1.5", "sdi3", "sdi6", "sdi12", "stream"
]
Encoding = Literal["rgb", "444", "422", "420"]
ENCODINGS: tuple[Encoding, ...] = ("rgb", "444", "422", "420")
BITS = (8, 10, 12)


class Link(NamedTuple):
    """A kind of connector.

    ``how`` says what is counted: ``tmds`` the character clock in MHz, ``payload`` bits of the whole raster in Gb/s,
    ``sdi`` bits of its word stream in Gb/s, ``stream`` compressed bits in Mb/s.  ``capacity`` is in that unit.
    """

    name: LinkName
    words: str
    how: Literal["tmds", "payload", "sdi", "stream"]
    capacity: Fraction
    encodings: tuple[Encoding, ...]
    bits: tuple[int, ...]
    audio: bool

    @property
    def unit(self) -> str:
        """Unit of the capacity."""
        return {"tmds": "MHz", "stream": "Mb/s"}.get(self.how, "Gb/s")


def _link(
    name: LinkName,
    words: str,
    how: Literal["tmds", "payload", "sdi", "stream"],
    capacity: str,
    encodings: tuple[Encoding, ...] = ("rgb", "444", "422"),
    bits: tuple[int, ...] = BITS,
    audio: bool = True,
) -> Link:
    return Link(name, words, how, Fraction(capacity), encodings, bits, audio)


LINKS: dict[str, Link] = {
    link.name: link
    for link in (
        _link("dvi", "DVI single link", "tmds", "165", ("rgb",), (8,), audio=False),
        _link("dvi-dual", "DVI dual link", "tmds", "330", ("rgb",), (8,), audio=False),
        _link("hdmi1.4", "HDMI 1.4", "tmds", "340"),
        _link("hdmi2.0", "HDMI 2.0", "tmds", "600", ENCODINGS),
        _link("hdmi2.1", "HDMI 2.1", "payload", "128/3", ENCODINGS),  # 48 Gb/s in 16b/18b
        _link("dp1.2", "DisplayPort 1.2", "payload", "17.28"),  # 4 × 5.4 Gb/s in 8b/10b
        _link("dp1.4", "DisplayPort 1.4", "payload", "25.92", ENCODINGS),  # 4 × 8.1 Gb/s in 8b/10b
        _link("sdi1.5", "SDI 1.5G", "sdi", "1.485"),
        _link("sdi3", "SDI 3G", "sdi", "2.97"),
        _link("sdi6", "SDI 6G", "sdi", "5.94"),
        _link("sdi12", "SDI 12G", "sdi", "11.88"),
        _link("stream", "network stream", "stream", "1000", ("420", "422", "444"), (8, 10, 12)),
    )
}
SDI_SIZES = ((1280, 720), (1920, 1080), (2048, 1080), (3840, 2160), (4096, 2160))
STREAM_BITS_PER_PIXEL = Fraction(1, 10)
"""Bits a compressed pixel takes in a good picture: common practice, no source."""


class Load(NamedTuple):
    """What a signal takes of a link; ``why_not`` is a sentence when it cannot be sent at all."""

    link: Link
    used: Fraction
    capacity: Fraction
    unit: str
    why_not: str | None = None

    @property
    def fits(self) -> bool:
        """Whether the link carries the signal."""
        return self.why_not is None and self.used <= self.capacity

    @property
    def share(self) -> float:
        """Used part of the capacity."""
        return float(self.used / self.capacity)

    @property
    def words(self) -> str:
        """The budget in one sentence."""
        if self.why_not is not None:
            return self.why_not
        figures = f"{float(self.used):.4g} of {float(self.capacity):.4g} {self.unit}"
        return (
            f"fits: {figures} ({self.share * 100:.0f} %)"
            if self.fits
            else f"does not fit: {figures} ({self.share * 100:.0f} %)"
        )


def link_named(name: str) -> Link:
    """A link by its name.  Raises SignalError with the known names."""
    try:
        return LINKS[name.lower()]
    except KeyError:
        raise SignalError(f'no link "{name}"; there are: {", ".join(LINKS)}') from None


def bits_per_pixel(bits: int, encoding: Encoding) -> Fraction:
    """Bits of one pixel, both or all colour parts counted.

    Parameters
    ----------
    bits : int
        Of each code.
    encoding : Encoding
        Of the signal: ``rgb``, ``444``, ``422`` or ``420``.

    Returns
    -------
    Fraction

    Examples
    --------
    >>> bits_per_pixel(8, "rgb"), bits_per_pixel(10, "422"), bits_per_pixel(8, "420")
    (Fraction(24, 1), Fraction(20, 1), Fraction(12, 1))
    """
    return bits * {"rgb": Fraction(3), "444": Fraction(3), "422": Fraction(2), "420": Fraction(3, 2)}[encoding]


def _tmds(timing: SignalTiming, bits: int, encoding: Encoding) -> Fraction:
    """Character clock in MHz: 4:2:2 carries up to 12 bits in the clock of 8, 4:2:0 halves it, deep colour
    adds to it.
    """
    deep = Fraction(1) if encoding == "422" else Fraction(bits, 8)
    return timing.clock_khz / 1000 * deep * (Fraction(1, 2) if encoding == "420" else 1)


def load(
    timing: SignalTiming, link: Link | str, bits: int = 8, encoding: Encoding = "rgb", mbps: float | None = None
) -> Load:
    """What a timing takes of a link.

    Parameters
    ----------
    timing : SignalTiming
    link : Link or str
    bits : {8, 10, 12}
        Bits of each colour part.
    encoding : {"rgb", "444", "422", "420"}
    mbps : float, optional
        Bit rate of a stream, if it is known; else a tenth of a bit for every pixel is taken (common practice, no
        source).

    Returns
    -------
    Load

    Raises
    ------
    SignalError
        If link, bits or encoding are not known.

    References
    ----------
    HDMI specification 1.4b, section 6.5; VESA DisplayPort 1.2, section 2.3; SMPTE ST 292-1 and ST 424 (from memory).

    Examples
    --------
    >>> from ushering_adze.core.signal.cta import cta_timing
    >>> load(cta_timing(3840, 2160, 30), "hdmi1.4").words
    'fits: 297 of 340 MHz (87 %)'
    >>> load(cta_timing(3840, 2160, 60), "hdmi1.4").fits
    False
    """
    link = link_named(link) if isinstance(link, str) else link
    if bits not in BITS:
        raise SignalError(f"{bits} bits are not a depth that links carry; choose 8, 10 or 12")
    if encoding not in ENCODINGS:
        raise SignalError(f'no encoding "{encoding}"; there are: {", ".join(ENCODINGS)}')
    why = None
    if encoding not in link.encodings:
        why = (
            f"{link.words} does not carry {encoding_words(encoding)}; it carries "
            f"{', '.join(map(encoding_words, link.encodings))}"
        )
    elif bits not in link.bits:
        why = f"{link.words} does not carry {bits} bits; it carries {', '.join(map(str, link.bits))}"
    elif encoding in ("422", "420") and timing.h_active % 2:
        why = (
            f"{encoding_words(encoding)} needs an even width, not {timing.h_active} px; use "
            f"{timing.h_active + 1} px or RGB"
        )
    elif encoding == "420" and timing.v_active % 2:
        why = f"4:2:0 needs an even height, not {timing.v_active} lines; use {timing.v_active + 1} lines or RGB"
    if link.how == "tmds":
        return Load(link, _tmds(timing, bits, encoding), link.capacity, link.unit, why)
    if link.how == "payload":
        # HDMI sends 4:2:2 of every depth in the 24 bits of its 12-bit form (HDMI 2.1, section 6.5, from memory).
        taken = Fraction(24) if encoding == "422" and link.name.startswith("hdmi") else bits_per_pixel(bits, encoding)
        return Load(link, timing.clock_khz * taken / 1_000_000, link.capacity, link.unit, why)
    if link.how == "stream":
        compressed = (
            Fraction(str(mbps))
            if mbps is not None
            else (
                timing.h_active
                * timing.v_active
                * timing.refresh_hz
                / (2 if timing.interlaced else 1)
                * STREAM_BITS_PER_PIXEL
                / 1_000_000
            )
        )
        return Load(link, compressed, link.capacity, link.unit, why)
    # SDI: 20 bits a pixel clock for 4:2:2 of up to 10 bits; two such streams for everything richer (SMPTE ST 425-1).
    if why is None and (timing.h_active, timing.v_active) not in SDI_SIZES:
        sizes = ", ".join(f"{w}×{h}" for w, h in SDI_SIZES)
        why = (
            f"SDI carries the sizes {sizes}, not {timing.h_active}×{timing.v_active}; use HDMI or DisplayPort, "
            "or a size of these"
        )
    streams = 1 if encoding == "422" and bits <= 10 else 2
    return Load(link, timing.clock_khz * 20 * streams / 1_000_000, link.capacity, link.unit, why)


def encoding_words(encoding: Encoding) -> str:
    """An encoding as people write it.

    Examples
    --------
    >>> encoding_words("rgb"), encoding_words("420")
    ('RGB', '4:2:0')
    """
    return "RGB" if encoding == "rgb" else ":".join(encoding)
