"""Timings, links, gangs, EDID and rates, against reference programs and published tables."""

from __future__ import annotations

import random
import re
import shutil
import subprocess
from fractions import Fraction
from itertools import pairwise
from pathlib import Path

import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from ushering_adze.core.displays.rig import output_wires
from ushering_adze.core.show import Gang, Output, Timing
from ushering_adze.core.signal.advice import suggestions, timing_for
from ushering_adze.core.signal.cta import cta_timing, timings
from ushering_adze.core.signal.cvt import cvt
from ushering_adze.core.signal.edid import EdidWish, made_edid
from ushering_adze.core.signal.edid_read import read_edid
from ushering_adze.core.signal.gang import card_load, gang_parts
from ushering_adze.core.signal.link import LINKS, load
from ushering_adze.core.signal.rate import cadence
from ushering_adze.core.signal.timing import SignalError, SignalTiming, custom_timing, exact_rate, rate_words, wanted

NTSC = Fraction(1000, 1001)


def reference(*command: str) -> str:
    if shutil.which(command[0]) is None:
        pytest.skip(f"{command[0]} is not installed: apt-get install xcvt edid-decode")
    return subprocess.run(command, capture_output=True, text=True, timeout=300).stdout


# -- timings: Debian's `cvt` (package xcvt) and `edid-decode` are the references ---------------------------------------


def test_cvt_and_reduced_blanking_agree_with_debians_cvt() -> None:
    chance = random.Random(20)
    cases = [
        (1920, 1080, 60.0, False),
        (1920, 1080, 60.0, True),
        (1920, 2160, 60.0, True),
        (2688, 864, 60.0, False),
        (1366, 768, 60.0, False),
    ]
    for n in range(240):
        width, height = chance.randint(64, 8192), chance.randint(64, 4400)
        if n % 5 == 0:
            height = width * 9 // 16
        if n % 2:
            cases.append(
                (width, height, float(chance.choice([60, 120, 180])), True)
            )  # the reference reduces only multiples of 60 Hz
        else:
            cases.append(
                (
                    width,
                    height,
                    chance.choice([23.976, 24, 25, 30, 50, 59.94, 60, 75, 85, 100, 120, chance.randint(10, 200)]),
                    False,
                )
            )
    for width, height, rate, reduced in cases:
        said = reference("cvt", str(width), str(height), str(rate), *(["-r"] if reduced else []))
        found = re.search(
            r'Modeline "\S+" +([\d.]+) +(\d+) (\d+) (\d+) (\d+) +(\d+) (\d+) (\d+) (\d+) ([+-])hsync ([+-])vsync', said
        )
        assert found, said
        t = cvt(width, height, rate, "cvt-rb" if reduced else "cvt")
        across, down = [int(v) for v in found.groups()[1:5]], [int(v) for v in found.groups()[5:9]]
        here = (width, height, rate, reduced)
        assert (t.h_active, t.h_total) == (across[0], across[3]), here
        if t.v_back == 7 or (width % 5 == 0 and t.v_sync != down[2] - down[1]):
            continue  # the reference has shorter back porches, and calls few pictures 16:10 and 5:3
        if not reduced:  # its reduced clock misses the rate: edid-decode's does not, below
            assert float(t.clock_khz) == pytest.approx(float(found[1]) * 1000, abs=0.5), here
        assert [t.v_active, t.v_active + t.v_front, t.v_active + t.v_front + t.v_sync, t.v_total] == down, here
        assert t.h_active + t.h_front + t.h_sync == across[2], here
        # The reference begins the sync a cell late where 8 % of the line is whole cells; the standard rounds down to
        # cells.
        assert 0 <= across[1] - (t.h_active + t.h_front) <= 8, here
        assert ("+" if t.h_positive else "-", "+" if t.v_positive else "-") == (found[10], found[11]), here


def _decoded(said: str) -> tuple[float, tuple[int, ...], str]:
    found = re.search(
        r"([\d.]+) MHz.*?Hfront +(\d+) Hsync +(\d+) Hback +(\d+) Hpol (.).*?Vfront +(\d+) Vsync +(\d+) Vback +(\d+) "
        r"+Vpol (.)",
        said,
        re.S,
    )
    assert found, said
    return float(found[1]) * 1000, tuple(int(found[n]) for n in (2, 3, 4, 6, 7, 8)), found[5] + found[9]


def test_cvt_of_every_rate_agrees_with_edid_decode() -> None:
    """Two hundred sizes and rates, standard blanking with and without interlace, and both reductions."""
    chance = random.Random(21)
    for n in range(200):
        width, height, standard = (
            chance.randint(8, 1024) * 8,
            chance.randint(48, 4400),
            ("cvt", "cvt-rb", "cvt-rb2", "cvt-rb")[n % 4],
        )
        rate = chance.choice([24, 25, 30, 48, 50, 60, 72, 75, 100, 120, 144, chance.randint(10, 200)])
        interlaced = standard == "cvt" and n % 8 == 0
        height &= ~1 if interlaced else ~0
        width += chance.randint(0, 7) if standard == "cvt-rb2" else 0
        reduced = {"cvt": "", "cvt-rb": ",rb=1", "cvt-rb2": ",rb=2"}[standard]
        said = reference(
            "edid-decode", "--cvt", f"w={width},h={height},fps={rate}{reduced}{',interlaced' if interlaced else ''}"
        )
        clock, counts, signs = _decoded(said)
        t, here = cvt(width, height, rate, standard, interlaced), (width, height, rate, standard, interlaced)  # type: ignore[arg-type]
        assert float(t.clock_khz) == pytest.approx(clock, abs=1.01 if standard == "cvt-rb2" else 0.01), (
            here
        )  # a float, floored to kHz
        assert (t.h_front, t.h_sync, t.h_back, t.v_front, t.v_sync, t.v_back) == counts, here
        assert signs == ("NP" if standard == "cvt" else "PN") and t.h_active == width


def test_reduced_blanking_meets_its_rate_and_the_timings_of_dmt() -> None:
    """The clock is under what the rate takes by less than its step; DMT's own reduced modes are the same to
    the count.
    """
    chance = random.Random(4)
    for _ in range(300):
        width, height, rate = (
            chance.randint(40, 1024) * 8,
            chance.randint(96, 4400),
            chance.choice([24, 25, 30, 50, 60, 75, 120]),
        )
        t = cvt(width, height, rate, "cvt-rb")
        assert 0 <= rate * t.h_total * t.v_total / 1000 - t.clock_khz < 250
    for dmt in ("16", "1b", "1f", "22", "26", "29", "2e", "39", "3d", "44", "4c"):
        said = reference("edid-decode", "--dmt", f"0x{dmt}")
        size = re.search(r"(\d+)x(\d+) +([\d.]+) Hz", said)
        assert size is not None, said
        t = cvt(int(size[1]), int(size[2]), round(float(size[3])), "cvt-rb")
        clock, counts, _ = _decoded(said)
        assert (float(t.clock_khz), (t.h_front, t.h_sync, t.h_back, t.v_front, t.v_sync, t.v_back)) == (
            clock,
            counts,
        ), said


def test_cta_formats_agree_with_the_published_table() -> None:
    # CTA-861-I, as `edid-decode --vic` prints it: every format there is, and no other.
    listed: dict[int, list[SignalTiming]] = {}
    for t in timings():
        listed.setdefault(t.vic, []).append(t)  # type: ignore[arg-type]
    for vic in (*range(1, 128), *range(193, 220)):
        said = reference("edid-decode", "--vic", str(vic))
        clock, counts, signs = _decoded(said)
        hz = float(re.search(r"([\d.]+) Hz", said)[1])  # type: ignore[index]
        t = next(t for t in listed.pop(vic) if abs(float(t.clock_khz) - clock) < 0.1)
        assert float(t.refresh_hz) == pytest.approx(hz, abs=1e-5), vic
        assert (t.h_front, t.h_sync, t.h_back, t.v_front, t.v_sync, t.v_back) == counts, vic
        assert ("P" if t.h_positive else "N") + ("P" if t.v_positive else "N") == signs
        assert f"{t.h_active}x{t.v_active}{'i' if t.interlaced else ''} " in said
    assert not listed
    assert cta_timing(7680, 4320, 60).clock_khz == 2_376_000 and cta_timing(2560, 1080, 50).clock_khz == 185_625
    for width, height, rate, clock, total in (
        (1920, 1080, 60, 148500, (2200, 1125)),
        (3840, 2160, 30, 297000, (4400, 2250)),
        (3840, 2160, 60, 594000, (4400, 2250)),
        (1280, 720, 60, 74250, (1650, 750)),
        (3840, 2160, 24, 297000, (5500, 2250)),
    ):
        t = cta_timing(width, height, rate)
        assert (t.clock_khz, (t.h_total, t.v_total), t.refresh_hz) == (clock, total, rate)


def test_fractional_rates_are_exact_and_interlaced_lines_come_out() -> None:
    assert (
        exact_rate(59.94) == 60 * NTSC
        and exact_rate("23.976") == exact_rate(23.98) == 24 * NTSC
        and exact_rate(119.88) == 120 * NTSC
    )
    assert (
        cta_timing(1920, 1080, 59.94).clock_khz == 148500 * NTSC
        and cta_timing(1920, 1080, 23.976).refresh_hz == 24 * NTSC
    )
    field = cta_timing(1920, 1080, 59.94, interlaced=True)
    assert (field.v_total, field.refresh_hz, field.line_khz) == (1125, 60 * NTSC, Fraction(33750, 1000) * NTSC)
    assert [rate_words(exact_rate(r)) for r in (59.94, 23.976, 29.97, 60, 12.5, 119.88)] == [
        "59.94",
        "23.976",
        "29.97",
        "60",
        "12.5",
        "119.88",
    ]
    i = cvt(1920, 1080, 60, "cvt", interlaced=True)  # `cvt 1920 1080 30 -i` counts 82.00 MHz and 2432 across
    assert (i.clock_khz, i.h_total, i.v_total) == (82000, 2432, 1125)


@given(
    st.integers(64, 8192),
    st.integers(64, 4400),
    st.sampled_from([23.976, 25, 50, 59.94, 60, 100]),
    st.sampled_from(["cvt", "cvt-rb", "cvt-rb2"]),
)
@example(64, 1152, 100, "cvt")  # `cvt 64 1152 100` prints a sync from 72 to 72: none at all
def test_every_timing_adds_up(width: int, height: int, rate: float, standard: str) -> None:
    try:
        t = cvt(width, height, rate, standard)  # type: ignore[arg-type]
    except SignalError as error:
        # Sync is 8 % of a line in whole cells of 8: of less than 100 there is none.  Else a clock below any that CVT
        # lists.
        narrow = standard == "cvt" and width < 96
        assert (
            "too small for CVT's clock steps" in str(error)
            and standard != "cvt-rb2"
            and (narrow or width * height * rate < 640 * 480 * 24)
        )
        return
    assert (
        t.h_total == t.h_active + t.h_front + t.h_sync + t.h_back
        and t.v_total == t.v_active + t.v_front + t.v_sync + t.v_back
    )
    assert t.refresh_hz * t.h_total * t.v_total == t.clock_khz * 1000
    assert min(t.h_front, t.v_front - 1) >= 0 and min(t.h_sync, t.h_back, t.v_sync, t.v_back) > 0
    if standard == "cvt-rb2":
        assert 0 <= exact_rate(rate) - t.refresh_hz < Fraction(1000, t.h_total * t.v_total), (
            "as near as whole kHz allow"
        )


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda: cvt(0, 1080), "width of 0 px is outside 1 to 32768"),
        (lambda: cvt(1920, 40000), "height of 40000 px is outside 1 to 32768"),
        (lambda: cvt(1920, 1080, 0.5), "rate of 0.5 Hz is outside 1 to 480"),
        (lambda: cvt(1920, 1080, 500), "rate of 500 Hz"),
        (lambda: cvt(1920, 1080, 60, "cvt-rb", True), "progressive"),
        (lambda: cvt(1920, 1081, 60, "cvt", True), "even height, not 1081"),
        (lambda: cta_timing(1920, 1080, 75), "CTA-861 has no 1920×1080 at 75 Hz; it has it at 23.976, 24, 25"),
        (lambda: cta_timing(2688, 864), "nearest is"),
        (lambda: wanted("1920 by 1080"), "not a size and rate"),
        (lambda: wanted("1920x1080@fast"), "not a size and rate"),
        (lambda: custom_timing(148500, (1920, 88, 0, 148), (1080, 4, 5, 36)), "horizontal sync of 0"),
        (lambda: load(cta_timing(1920, 1080), "vga"), 'no link "vga"'),
        (lambda: load(cta_timing(1920, 1080), "dvi", 9), "9 bits"),
        (lambda: gang_parts(1920, 1080, 2, 2, ("a", "b", "c")), "needs 4 connectors, not 3"),
        (lambda: gang_parts(1920, 1080, 2, 1, ("a", "a")), '"a" is in the gang twice'),
        (lambda: read_edid(b"x" * 40), "at least 128 bytes"),
        (lambda: read_edid(b"\0" * 128), "does not begin with"),
        (lambda: made_edid(EdidWish(cvt(8192, 1080, 30), "Wide")), "width of up to 4095, not 8192"),
        (lambda: made_edid(EdidWish(cvt(1920, 1080), "A name far too long")), "1 to 13 characters"),
    ],
)
def test_what_cannot_be_is_refused_in_one_sentence(call: object, words: str) -> None:
    with pytest.raises(SignalError) as error:
        call()  # type: ignore[operator]
    assert words in str(error.value) and "\n" not in str(error.value)


# -- links: capacities from DVI 1.0, HDMI 1.4b/2.0, DisplayPort 1.2/1.4, SMPTE ST 292-1/424/2081/2082 (from memory) ----


@pytest.mark.parametrize(
    ("size", "link", "bits", "encoding", "fits", "used"),
    [
        ("3840x2160@60", "hdmi1.4", 8, "rgb", False, 594),
        ("3840x2160@30", "hdmi1.4", 8, "rgb", True, 297),
        ("1920x2160@60", "hdmi1.4", 8, "rgb", True, 277.25),
        ("1920x1080@60", "dvi", 8, "rgb", True, 148.5),
        ("1920x1200@60", "dvi", 8, "rgb", True, 154),
        ("2560x1600@60", "dvi", 8, "rgb", False, 268.5),
        ("2560x1600@60", "dvi-dual", 8, "rgb", True, 268.5),
        ("3840x2160@60", "hdmi2.0", 8, "rgb", True, 594),
        ("3840x2160@60", "hdmi2.0", 10, "rgb", False, 742.5),
        ("3840x2160@60", "hdmi2.0", 12, "422", True, 594),
        ("3840x2160@60", "hdmi2.0", 10, "420", True, 371.25),
        ("1920x1080@60", "hdmi1.4", 12, "rgb", True, 222.75),
        ("3840x2160@60", "dp1.2", 8, "rgb", True, 14.256),
        ("3840x2160@60", "dp1.2", 10, "rgb", False, 17.82),
        ("3840x2160@60", "dp1.4", 10, "rgb", True, 17.82),
        ("3840x2160@120", "hdmi2.1", 10, "rgb", True, 35.64),
        ("1920x1080@60", "sdi3", 10, "422", True, 2.97),
        ("1920x1080@60", "sdi3", 10, "444", False, 5.94),
        ("1920x1080@30", "sdi3", 12, "444", True, 2.97),
        ("1920x1080i@60", "sdi1.5", 10, "422", True, 1.485),
        ("3840x2160@30", "sdi6", 10, "422", True, 5.94),
        ("3840x2160@60", "sdi12", 10, "422", True, 11.88),
        ("2688x864@60", "sdi3", 10, "422", False, None),
        ("1921x1080@60", "hdmi2.0", 8, "422", False, None),
        ("1920x1080@60", "dvi", 10, "rgb", False, None),
    ],
)
def test_links_carry_what_the_standards_say(
    size: str, link: str, bits: int, encoding: str, fits: bool, used: float | None
) -> None:
    width, height, rate, interlaced = wanted(size)
    budget = load(timing_for(width, height, rate, None, interlaced), link, bits, encoding)  # type: ignore[arg-type]
    assert budget.fits is fits
    if used is not None:
        assert float(budget.used) == pytest.approx(used)


@given(
    st.sampled_from([(3840, 2160), (2560, 1600), (4096, 2160), (1920, 1200), (3840, 1080), (2688, 864), (1367, 801)]),
    st.sampled_from([30, 50, 60, 120]),
    st.sampled_from(list(LINKS)),
    st.sampled_from([8, 10, 12]),
    st.sampled_from(["rgb", "422"]),
)
def test_everything_suggested_really_fits(
    size: tuple[int, int], rate: int, link: str, bits: int, encoding: str
) -> None:
    found = suggestions(*size, rate, link, bits, encoding)  # type: ignore[arg-type]
    assert all(s.load.fits for s in found)
    if link == "hdmi1.4" and size == (3840, 2160) and rate == 60 and (bits, encoding) == (8, "rgb"):
        assert {s.kind for s in found} >= {"rate", "links", "connector"}


# -- gangs and cards --------------------------------------------------------------------------------------------------


@given(st.integers(8, 8192), st.integers(8, 4320), st.integers(1, 4), st.integers(1, 4))
def test_a_gang_covers_its_raster_once(width: int, height: int, columns: int, rows: int) -> None:
    parts = [p.at for p in gang_parts(width, height, columns, rows, [str(n) for n in range(columns * rows)])]
    assert sum(p.area for p in parts) == width * height
    assert all(a.meet(b).empty for n, a in enumerate(parts) for b in parts[n + 1 :])
    for side in ("w", "h"):
        sizes = {getattr(p, side) for p in parts}
        assert max(sizes) - min(sizes) <= 1
    for a, b in pairwise(parts[:columns]):
        assert a.right == b.x and a.y == b.y


def test_uhd_as_one_two_or_four_and_a_card_that_cannot_take_them_all() -> None:
    names = ("a", "b", "c", "d")
    assert [tuple(p.at) for p in gang_parts(3840, 2160, 2, 1, names[:2])] == [(0, 0, 1920, 2160), (1920, 0, 1920, 2160)]
    assert {(p.at.w, p.at.h) for p in gang_parts(3840, 2160, 2, 2, names)} == {(1920, 1080)}
    assert [p.at.w for p in gang_parts(1367, 768, 2, 1, names[:2])] == [684, 683]
    whole, quarter = Fraction(594), Fraction(297, 2)
    assert card_load(600, {"1": quarter, "2": quarter, "3": quarter, "4": quarter}).fits
    taken = card_load(600, {"1": quarter, "2": whole, "3": quarter})
    assert not taken.fits and taken.switch_off == ("3", "1"), "the one that takes 4K stays"


# -- EDID: `edid-decode --check` is the reference ----------------------------------------------------------------------

WISHES = [
    (256, 768, 60),
    (640, 480, 60),
    (1280, 720, 50),
    (1920, 1080, 60),
    (1920, 1080, 59.94),
    (1920, 2160, 60),
    (3840, 2160, 30),
    (3840, 2160, 60),
    (1080, 1920, 60),
    (2688, 864, 60),
    (1366, 768, 60),
    (1025, 769, 60),
    (4095, 1080, 50),
    (3840, 1080, 120),
    (1024, 768, 24),
]


@pytest.mark.parametrize(("width", "height", "rate"), WISHES)
def test_edids_pass_the_reference_check_and_read_back_as_it_says(
    width: int, height: int, rate: float, tmp_path: Path
) -> None:
    audio, ycbcr = width % 2 == 0, width > 1500
    timing = timing_for(width, height, rate)
    data = made_edid(EdidWish(timing, "Meridian L", audio, ycbcr, size_mm=(500, 250)))
    path = tmp_path / "made.bin"
    path.write_bytes(data)
    said = reference("edid-decode", "--check", "--long-timings", "--skip-hex-dump", str(path))
    assert "EDID conformity: PASS" in said and "Failures" not in said, said
    edid = read_edid(data)
    first = edid.timings[0]
    mark = said.index("DTD 1")
    clock, counts, signs = _decoded(said[mark : mark + 420])
    assert (
        round(float(first.clock_khz)),
        (first.h_front, first.h_sync, first.h_back, first.v_front, first.v_sync, first.v_back),
    ) == (round(clock), counts)
    assert signs == ("P" if first.h_positive else "N") + ("P" if first.v_positive else "N")
    assert f"{first.h_active}x{first.v_active}" in said[mark : mark + 40] and (first.h_active, first.v_active) == (
        timing.h_active,
        timing.v_active,
    )
    assert float(first.clock_khz) == pytest.approx(float(timing.clock_khz), abs=5), "in steps of 10 kHz"
    assert f"Display Product Name: '{edid.name}'" in said and edid.name == "Meridian L"
    limits = re.search(r"(\d+)-(\d+) Hz V, (\d+)-(\d+) kHz H, max dotclock (\d+) MHz", said)
    assert limits and tuple(int(v) for v in limits.groups()) == edid.limits
    assert edid.audio is audio and ("Basic audio support" in said) is audio
    assert edid.ycbcr is ycbcr and ("Supports YCbCr 4:4:4" in said) is ycbcr
    assert set(edid.vics) == {int(v) for v in re.findall(r"VIC +(\d+):", said)}
    tmds = [int(v) for v in re.findall(r"Maximum TMDS (?:clock|Character Rate): (\d+) MHz", said)]
    assert edid.max_tmds_mhz == max(tmds) and f"Maximum image size: {edid.size_cm[0]} cm x {edid.size_cm[1]} cm" in said


@given(st.integers(0, 255), st.integers(0, 7))
def test_one_flipped_bit_in_an_edid_is_found(byte: int, bit: int) -> None:
    data = bytearray(made_edid(EdidWish(cvt(1920, 1080, 60, "cvt-rb"), "Desk")))
    data[byte] ^= 1 << bit
    with pytest.raises(SignalError):
        read_edid(bytes(data))


@given(st.binary(max_size=400))
def test_rubbish_is_no_edid(data: bytes) -> None:
    for rubbish in (data, b"\0\xff\xff\xff\xff\xff\xff\0" + data):
        with pytest.raises(SignalError):
            read_edid(rubbish)


# -- rates: counted frame by frame -------------------------------------------------------------------------------------


@given(
    st.sampled_from([23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60, 100, 120]),
    st.sampled_from([23.976, 24, 25, 29.97, 30, 50, 59.94, 60]),
)
def test_a_cadence_is_what_counting_frames_gives(source: float, show: float) -> None:
    found = cadence(source, show)
    a, b = exact_rate(source), exact_rate(show)
    assert (found.period_s * a).denominator == 1 and (found.period_s * b).denominator == 1
    if found.pattern:
        shown = [
            int(Fraction(n) / b * a) for n in range(int(found.period_s * b))
        ]  # the newest source frame at each show frame
        assert [shown.count(k) for k in range(int(found.period_s * a))] == list(found.pattern)
        if found.how == "repeat":
            assert (len(set(found.pattern)) == 1) is (found.uneven_s is None)


def test_film_pulldown_and_the_slip_of_59_94() -> None:
    assert cadence(24, 60).pattern == (3, 2) and cadence(23.976, 59.94).pattern == (3, 2)
    assert cadence(25, 30).uneven_s == Fraction(1, 5) and cadence(59.94, 60).uneven_s == Fraction(1001, 60)
    assert cadence(60, 30).uneven_s is None and cadence(50, 50).how == "same"


@given(
    st.integers(640, 4095),
    st.integers(480, 2160),
    st.sampled_from([23.976, 24, 25, 50, 59.94, 60]),
    st.sampled_from(["cvt", "cvt-rb", "cvt-rb2"]),
    st.booleans(),
    st.booleans(),
    st.text("ABC xyz-09", min_size=1, max_size=13),
)
def test_what_an_edid_says_is_what_was_put_in(
    width: int, height: int, rate: float, standard: str, audio: bool, ycbcr: bool, name: str
) -> None:
    timing = cvt(width, height, rate, standard)  # type: ignore[arg-type]
    try:
        data = made_edid(EdidWish(timing, name, audio, ycbcr, (24, 75), (1200, 675)))
    except SignalError as error:
        assert (
            not name.strip()
            or timing.h_total > 4095
            or timing.clock_khz > 655_350
            or timing.v_sync > 63
            or timing.h_active > 4095
        )
        assert str(error).endswith(("gang", "it", "blanking"))
        return
    edid = read_edid(data)
    first = edid.timings[0]
    assert first._replace(clock_khz=timing.clock_khz, standard=timing.standard, vic=None) == timing
    assert abs(first.clock_khz - timing.clock_khz) <= 5 and first.clock_khz % 10 == 0
    assert (edid.name, edid.audio, edid.ycbcr, edid.size_cm, edid.hdmi, edid.version) == (
        name.strip(),
        audio,
        ycbcr,
        (120, 68),
        True,
        "1.3",
    )
    assert edid.limits is not None
    low, high, low_khz, high_khz, clock = edid.limits
    assert low <= first.refresh_hz <= high and low_khz <= first.line_khz <= high_khz and clock * 1000 >= first.clock_khz
    assert any(
        "Preferred" in line and f"{width if standard == 'cvt-rb2' else first.h_active}×{height}" in line
        for line in edid.words
    )


@pytest.mark.parametrize("rate", [50, 59.94, 60])
def test_an_interlaced_format_goes_through_an_edid(rate: float, tmp_path: Path) -> None:
    timing = cta_timing(1920, 1080, rate, interlaced=True)
    data = made_edid(EdidWish(timing, "Fields"))
    (tmp_path / "i.bin").write_bytes(data)
    said = reference("edid-decode", "--check", "--skip-hex-dump", str(tmp_path / "i.bin"))
    assert "EDID conformity: PASS" in said and re.search(r"DTD 1: +1920x1080i", said), said
    first = read_edid(data).timings[0]
    assert first.interlaced and (first.v_active, first.v_total) == (1080, 1125)
    assert float(first.refresh_hz) == pytest.approx(float(timing.refresh_hz), rel=1e-4)


@given(
    st.integers(1, 32768),
    st.integers(1, 32768),
    st.one_of(st.integers(1, 480), st.floats(1, 480)),
    st.sampled_from([None, "cvt", "cvt-rb", "cvt-rb2", "cta"]),
    st.booleans(),
)
def test_any_wish_within_the_limits_has_a_timing_or_a_sentence(
    width: int, height: int, rate: float, standard: str | None, interlaced: bool
) -> None:
    try:
        t = timing_for(width, height, rate, standard, interlaced)  # type: ignore[arg-type]
    except SignalError as error:
        assert len(str(error)) > 20 and "\n" not in str(error)
        return
    assert t.v_active == height and width <= t.h_active < width + 8 and t.clock_khz > 0
    assert (t.h_active == width) or t.standard in ("cvt", "cvt-rb")
    for link in LINKS:
        assert load(t, link).used > 0


def test_budgets_follow_the_whole_table() -> None:
    """8K at 30 Hz and 12 bits does not fit HDMI 2.1 uncompressed; 4:2:2 takes 24 bits at every depth there; 2560×1080
    at 100 Hz is past 1.4.
    """
    eight = cta_timing(7680, 4320, 30)
    assert not load(eight, "hdmi2.1", 12).fits and load(eight, "hdmi2.1", 10).fits
    assert {load(eight, "hdmi2.1", bits, "422").used for bits in (8, 10, 12)} == {Fraction(1188 * 24, 1000)}
    assert load(eight, "dp1.4", 10, "422").used == Fraction(1188 * 20, 1000)
    assert not load(cta_timing(2560, 1080, 100), "hdmi1.4").fits and load(cta_timing(2560, 1080, 60), "hdmi1.4").fits


@given(
    st.integers(2, 4),
    st.integers(1, 2),
    st.integers(1000, 8000),
    st.integers(400, 2200),
    st.sampled_from([25, 50, 59.94, 60]),
)
def test_connectors_of_a_gang_run_at_one_rate_whatever_its_width(
    columns: int, rows: int, width: int, height: int, rate: float
) -> None:
    names = tuple(f"C{n}" for n in range(columns * rows))
    output = Output(
        id="o",
        number=1,
        name="O",
        timing=Timing(width=width, height=height, rate=rate),
        gang=Gang(columns=columns, rows=rows, connectors=names),
    )
    wires = output_wires(output)
    assert len({w.timing for w in wires}) == 1
    assert all(w.part.at.w <= w.timing.h_active and w.part.at.h <= w.timing.v_active for w in wires)


@pytest.mark.parametrize("rate", [50, 59.94, 60])
def test_an_interlaced_edid_prefers_its_own_format(rate: float, tmp_path: Path) -> None:
    path = tmp_path / "i.bin"
    path.write_bytes(made_edid(EdidWish(cta_timing(1920, 1080, rate, interlaced=True), "Deck")))
    said = reference("edid-decode", "--check", "--skip-hex-dump", "--preferred-timings", str(path))
    preferred = said.split("Preferred Video Timings if Block 0 and CTA-861 Blocks are parsed:")[1].split("-----")[0]
    assert "1920x1080i" in preferred.splitlines()[1] and "640x480" not in preferred and "conformity: PASS" in said
    path.write_bytes(made_edid(EdidWish(cvt(2048, 1152, 50, "cvt", interlaced=True), "Deck")))
    said = reference("edid-decode", "--check", "--skip-hex-dump", "--preferred-timings", str(path))
    assert "640x480" not in said.split("Preferred Video Timing")[1] and "conformity: PASS" in said


def test_every_cta_block_of_an_edid_is_read(tmp_path: Path) -> None:
    """Two extensions, formats past VIC 127, some as 4:2:0 alone, HDMI's own 4K formats: the list is edid-decode's."""
    data = bytearray(made_edid(EdidWish(cta_timing(1920, 1080), "Wall", audio=True)))
    video = bytes((0x45, 0x90, 95 + 0, 118, 199, 219))  # 16 native, 95, 118, 199, 219
    only420 = bytes((0xE3, 0x0E, 96, 97))
    hdmi = bytes((0x6C, 0x03, 0x0C, 0x00, 0x10, 0x00, 0x00, 60, 0x20, 0x00, 0x60, 1, 3))
    body = bytes((2, 3, 4 + len(video + only420 + hdmi), 0x00)) + video + only420 + hdmi
    second = body.ljust(127, b"\0")
    data[126] = 2
    data[127] = -sum(data[:127]) % 256
    whole = bytes(data) + second + bytes((-sum(second) % 256,))
    edid = read_edid(whole)
    path = tmp_path / "two.bin"
    path.write_bytes(whole)
    said = reference("edid-decode", "--skip-hex-dump", str(path))
    told = {int(n) for n in re.findall(r"^ +VIC +(\d+):", said, re.M)}
    assert set(edid.vics) == told | {95, 93} and {199, 219, 96, 97} < told, "HDMI VIC 1 and 3 are 95 and 93"
    assert edid.native_vics == (16, 16) and edid.audio
    assert any("7680×4320" in line for line in edid.words)
