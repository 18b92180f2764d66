"""Scopes show codes where they are published to lie; alarms are raised by what is measured, in their time, and go."""

from __future__ import annotations

import numpy as np
import pytest

from ushering_adze.core.light.patterns import flat
from ushering_adze.core.onair.as_run import noted_alarms
from ushering_adze.core.picture.key import luma_of
from ushering_adze.core.picture.scopes import (
    AMPLITUDE,
    BARS,
    TRACE,
    colour_difference,
    false_colour,
    histogram,
    parade,
    vector_place,
    vectors,
    waveform,
    zebra,
)
from ushering_adze.core.picture.walls import CellNow, paint_cell
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.proof.live import Seen, SourceHeard, SurfaceSeen, Watched, alarms
from ushering_adze.core.show import ColourSource, Feed, Show, Still, Stream, document_of, show_from_document
from ushering_adze.core.show.alarm import USUAL, AlarmRule, Alarms, Apart
from ushering_adze.core.show.alarming import WORDS, rule_for, rules_of, with_apart, with_rule, without_rule
from ushering_adze.core.show.sound import Mix, ShowSound
from ushering_adze.core.show.wall import WallCell
from ushering_adze.core.show.zoning import zones_around
from ushering_adze.core.sound.loudness import Loudness
from ushering_adze.core.sound.metering import Measured
from ushering_adze.demo.show import demo_show


def bars(amplitude: float = AMPLITUDE) -> Pixels:
    """White and the six colours of bars, side by side."""
    made = np.zeros((90, 700, 4), np.uint8)
    made[..., 3] = 255
    for n, (r, g, b) in enumerate([(255, 255, 255), *BARS.values()]):
        made[:, n * 100 : (n + 1) * 100, :3] = np.rint(np.array((b, g, r)) * amplitude)
    return made


# Luma of 75 % bars in per cent of white, BT.709 (SMPTE RP 219, from memory; computed from its coefficients): white 75,
# yellow 69.6, cyan 59.1, green 53.6, magenta 21.4, red 15.9, blue 5.4.
LUMA = {"W": 75.0, "R": 15.9, "Y": 69.6, "G": 53.6, "C": 59.1, "B": 5.4, "M": 21.4}


def test_luma_of_bars_is_as_published() -> None:
    told = luma_of(bars())
    for n, wanted in enumerate(LUMA.values()):
        assert told[45, n * 100 + 50] / 2.55 == pytest.approx(wanted, abs=0.4)


def test_a_waveform_has_each_bar_at_its_height() -> None:
    width, height = 700, 501
    made = waveform(bars(), width, height)
    lit = (made[..., 1].astype(int) - made[..., 0]) > 20  # traces are greener than marks
    for n, wanted in enumerate(LUMA.values()):
        rows = np.flatnonzero(lit[:, n * 100 + 30 : n * 100 + 70].any(axis=1))
        assert len(rows) and abs((height - 1 - rows.mean()) / (height - 1) * 100 - wanted) < 0.8
    assert TRACE[1] > TRACE[0]


def test_a_parade_has_red_green_and_blue_side_by_side() -> None:
    made = parade(flat(64, 36, 51, 153, 204), 300, 101)  # blue 20 %, green 60 %, red 80 %
    for third, channel, wanted in ((0, 2, 80), (1, 1, 60), (2, 0, 20)):
        part = made[:, third * 100 + 20 : third * 100 + 80]
        row = int(part[..., channel].astype(int).sum(axis=1).argmax())
        assert abs(100 - row - wanted) <= 1


def test_vectors_of_bars_lie_in_their_boxes() -> None:
    width = height = 401
    made = vectors(bars(), width, height)
    blank = vectors(flat(8, 8, 90, 90, 90), width, height)
    for r, g, b in BARS.values():
        one = np.array([[[b, g, r, 255]]], np.float32) * np.float32(AMPLITUDE)
        cb, cr = colour_difference(np.rint(one).astype(np.uint8))[0, 0]
        # By the definition of BT.709, section 3.3: the colour difference of a pure colour is known.
        y = 0.2126 * one[0, 0, 2] + 0.7152 * one[0, 0, 1] + 0.0722 * one[0, 0, 0]
        assert cb == pytest.approx((one[0, 0, 0] - y) / 255 / 1.8556, abs=0.003)
        assert cr == pytest.approx((one[0, 0, 2] - y) / 255 / 1.5748, abs=0.003)
        x, down = (round(v) for v in vector_place(float(cb), float(cr), width, height))
        assert (
            made[down - 2 : down + 3, x - 2 : x + 3].astype(int) - blank[down - 2 : down + 3, x - 2 : x + 3]
        ).max() > 60
    assert made[200, 200, 1] > 100, "white lies in the middle"


def test_a_histogram_counts_and_false_colours_and_stripes_mark_what_is_bright() -> None:
    made = histogram(flat(64, 36, 64, 128, 192), 256, 100)
    for channel, code in ((0, 64), (1, 128), (2, 192)):
        assert made[2, code, channel] == 220 and made[50, code - 40, channel] < 220
    ramp = np.zeros((4, 256, 4), np.uint8)
    ramp[..., :3] = np.arange(256)[None, :, None]
    told = false_colour(ramp)
    assert len({tuple(c) for c in told[0, :, :3].tolist()}) == 10, "each band has its colour"
    striped = zebra(ramp)
    changed = (striped != ramp).any(axis=(0, 2))
    assert not changed[:242].any() and changed[243:].any()


def test_a_cell_has_its_frame_its_data_and_its_meter() -> None:
    raster = np.zeros((300, 400, 4), np.uint8)
    picture = flat(320, 180, 200, 200, 200)
    paint_cell(raster, Rect(0, 0, 400, 300), CellNow(picture, "A", data="1920 × 1080"), WallCell(x=0, y=0, frame="1:1"))
    assert raster[140, 200, 0] == 200 and raster[140, 20, 0] == 100, "darker outside the frame"
    loud = Loudness(-20.0, -21.5, -22.0, 3.0)
    paint_cell(raster, Rect(0, 0, 400, 300), CellNow(label="Hall", meter=Measured((-6.0, -30.0), -3.0, -3.0, loud)))
    lit = [(raster[:270, x, :3].max(axis=1) > 150).sum() for x in (40, 40 + 25 + 46)]
    assert lit[0] > lit[1] > 0, "the louder bar is higher"


# -- alarms ------------------------------------------------------------------------------------------------------------


def show(**fields: object) -> Show:
    return Show(
        name="S",
        sources=(
            Still(id="red", name="Red", path="/red.png"),
            ColourSource(id="night", name="Night", fill="#0E1230"),
            ColourSource(id="dark", name="Dark", fill="#000000"),
        ),
        surfaces=tuple(Stream(id=i, name=i.title(), width=64, height=36) for i in ("hall", "relay")),
        sound=ShowSound(mixes=(Mix(id="m", name="Hall"),)),
        **fields,
    )


RNG = np.random.default_rng(5)
BUSY = RNG.integers(0, 255, (36, 64, 4), dtype=np.uint8)
OTHER = RNG.integers(0, 255, (36, 64, 4), dtype=np.uint8)
GOOD = Measured((-20.0, -20.0), -10.0, -12.0, Loudness(-23.0, -23.0, -23.0, 4.0), 0.7)


def seen_with(picture: Pixels, moves: bool = False, sources: tuple[str, ...] = ("red",), by_hand: bool = False) -> Seen:
    return Seen({"hall": SurfaceSeen(picture, sources, by_hand, moves)})


PLANTED = {
    "black:hall": (seen_with(flat(64, 36, 3, 3, 3)), 5.0),
    "flat:hall": (seen_with(flat(64, 36, 90, 80, 70), sources=("night", "red")), 15.0),
    "frozen:hall": (seen_with(BUSY, moves=True), 10.5),
    "asked:hall": (Seen({"hall": SurfaceSeen(BUSY, ("blue",), asked=("red",))}), 3.0),
    "captions:red": (Seen(captions={"red": False}), 4.0),
    "late:frames": (Seen(late=0.2), 3.0),
    "wrong size:red": (Seen(differs={"red": "it is 720 × 576"}), 3.0),
    "loud:m": (Seen(mixes={"m": (GOOD._replace(loudness=Loudness(-5.0, -6.0, -7.0, 1.0)), -23.0, -1.0)}), 1.0),
    "over:m": (Seen(mixes={"m": (GOOD._replace(peak_lately=0.5), -23.0, -1.0)}), 0.0),
    "phase:m": (Seen(mixes={"m": (GOOD._replace(correlation=-0.9), -23.0, -1.0)}), 3.0),
}


@pytest.mark.parametrize("key", PLANTED)
def test_each_alarm_is_raised_in_its_time_and_goes(key: str) -> None:
    planted, seconds = PLANTED[key]
    wanted = (
        AlarmRule(kind="late", seconds=3.0, limit=0.05),  # off, unless a show wants it
        AlarmRule(kind="captions", of="red", seconds=4.0),
    )
    here, watched, raised_at = show(alarms=Alarms(rules=wanted)), Watched(), None
    for n in range(60):
        watched = alarms(here, planted, watched, n * 0.5)
        if key in watched.raised and raised_at is None:
            raised_at = n * 0.5
            assert "; " in watched.raised[key], "it says what to do"
    assert raised_at == pytest.approx(seconds, abs=0.5)
    good = Seen({"hall": SurfaceSeen(OTHER, ("red",), False, True)}, mixes={"m": (GOOD, -23.0, -1.0)})
    watched = alarms(here, good, watched, 30.5)
    assert key in watched.raised, "what comes and goes is one alarm"
    later = good._replace(surfaces={"hall": SurfaceSeen(BUSY, ("red",), False, True)})
    assert alarms(here, later, watched, 32.5).raised == {}, "it is over"


def test_what_is_meant_is_no_alarm() -> None:
    here, watched = show(), Watched()
    for n in range(80):
        black = flat(64, 36, 0, 0, 0)
        moving = BUSY if n % 2 else OTHER
        seen = Seen(
            {
                "hall": SurfaceSeen(black, ("red",), by_hand=True),
                "relay": SurfaceSeen(moving, ("red",), False, True),
            },
            late=0.01,
            dropped={"f": 3},
            heard={"red": SourceHeard(4.0)},
            mixes={"m": (GOOD, -16.0, -1.0)},
        )
        watched = alarms(here, seen, watched, n * 0.5)
        assert watched.raised == {}
    empty = Seen({"hall": SurfaceSeen(flat(64, 36, 0, 0, 0), ())})
    for n in range(40):
        watched = alarms(here, empty, watched, 50 + n)
    assert watched.raised == {}, "a surface with nothing on it is black, and should be"
    plain = Seen({"hall": SurfaceSeen(flat(64, 36, 48, 18, 14), ("night",)), "relay": SurfaceSeen(black, ("dark",))})
    for n in range(80):
        watched = alarms(here, plain, watched, 100 + n)
    assert watched.raised == {}, "a colour is one colour, and black may be one"
    gone = Seen({"hall": SurfaceSeen(black, ("night",))})
    for n in range(20):
        watched = alarms(here, gone, watched, 200 + n)
    assert set(watched.raised) == {"black:hall"}, "but night is not black"


def test_silence_loss_of_pictures_and_surfaces_apart() -> None:
    here = show(alarms=Alarms(apart=(Apart(surface="relay", others=("hall",)),)))
    assert alarms(here, Seen(heard={"red": SourceHeard(9.0)}), Watched(), 0.0).raised == {}
    assert "silent:red" in alarms(here, Seen(heard={"red": SourceHeard(10.0)}), Watched(), 0.0).raised
    watched = Watched()
    for n in range(10):
        watched = alarms(here, Seen(dropped={"f": n}), watched, float(n))
    assert "dropping:f" in watched.raised
    watched = alarms(here, Seen(dropped={"f": 9}), watched, 12.0)
    assert watched.raised == {}
    apart = Seen({"hall": SurfaceSeen(BUSY, ("red",)), "relay": SurfaceSeen(OTHER, ("blue",))})
    for n in range(8):
        watched = alarms(here, apart, watched, 20.0 + n)
    assert list(watched.raised) == ["apart:relay"]


def test_one_thing_has_a_rule_of_its_own_and_goes_back_to_what_is_usual() -> None:
    here = show()
    assert {r.kind for r in USUAL} == set(WORDS)
    one = with_rule(here, "black", "relay", seconds=60.0)
    assert one.alarms.rule("black", "relay").seconds == 60 and one.alarms.rule("black", "hall").seconds == 5
    dark = SurfaceSeen(flat(64, 36, 0, 0, 0), ("red",))
    watched = Watched()
    for n in range(20):
        watched = alarms(one, Seen({"hall": dark, "relay": dark}), watched, float(n))
    assert list(watched.raised) == ["black:hall"]
    for n in range(20, 70):
        watched = alarms(one, Seen({"hall": dark, "relay": dark}), watched, float(n))
    assert set(watched.raised) == {"black:hall", "black:relay"}
    assert without_rule(one, "black", "relay") == here
    assert with_rule(with_rule(here, "late", on=True), "late", on=False) == here, "what is as usual is not written"
    pair = with_apart(here, "relay", ("hall", "relay"))
    assert pair.alarms.apart == (Apart(surface="relay", others=("hall",)),) and with_apart(pair, "relay", ()) == here
    with pytest.raises(ValueError, match="less than or equal"):
        with_rule(here, "black", seconds=1e9)


def test_a_rule_is_for_a_thing_for_its_zone_or_for_its_kind() -> None:
    """The nearest holds: a thing's own, that of the smallest zone around it, of its kind, of all."""
    here = demo_show()  # its zone *hall* holds *arch* and meridian
    assert zones_around(here, "horizon") == ("arch", "hall") and zones_around(here, "meridian") == ("hall",)
    made = with_rule(here, "black", None, "led-wall", seconds=20.0)
    made = with_rule(made, "black", "hall", seconds=30.0)
    made = with_rule(made, "black", "arch", seconds=40.0)
    made = with_rule(made, "black", "west-mast", seconds=50.0)
    made = with_rule(made, "silent", None, "input", seconds=2.0)
    found = {id: rule_for(made, "black", id).seconds for id in ("west-mast", "horizon", "meridian", "relay")}
    assert found == {"west-mast": 50, "horizon": 40, "meridian": 30, "relay": 5}
    bare = without_rule(without_rule(made, "black", "hall"), "black", "arch")
    assert {id: rule_for(bare, "black", id).seconds for id in ("east-mast", "meridian", "horizon", "foyer-wall")} == {
        "east-mast": 20,
        "meridian": 20,
        "horizon": 5,
        "foyer-wall": 5,
    }
    assert rule_for(made, "silent", "guest-laptop").seconds == 2 and rule_for(made, "silent", "orrery").seconds == 10
    assert show_from_document(document_of(made)) == made
    assert [(r.of, r.lot) for r in rules_of(made) if r.kind == "black"] == [
        (None, None),
        (None, "led-wall"),
        ("hall", None),
        ("arch", None),
        ("west-mast", None),
    ]
    dark = SurfaceSeen(flat(64, 36, 0, 0, 0), ("red",))
    watched = Watched()
    for n in range(32):
        watched = alarms(made, Seen(dict.fromkeys(found, dark)), watched, float(n))
    assert set(watched.raised) == {"black:relay", "black:meridian"}


def test_a_surface_that_lacks_what_was_asked_is_told_of_unless_that_is_meant() -> None:
    here = show()
    for seen in (
        SurfaceSeen(BUSY, ("red", "blue"), asked=("red",)),  # more than was asked is what stands in, or is laid over
        SurfaceSeen(BUSY, ("blue",), asked=None),  # it fades
        SurfaceSeen(BUSY, ("blue",), by_hand=True, asked=("red",)),
    ):
        watched = Watched()
        for n in range(20):
            watched = alarms(here, Seen({"hall": seen}), watched, float(n))
        assert watched.raised == {}


def test_alarms_are_lines_of_the_as_run_log() -> None:
    running, ended = noted_alarms({}, {"black:hall": ("Hall", "it is black")}, 10.0)
    running, more = noted_alarms(running, {"black:hall": ("Hall", "it is black"), "x": ("Red", "it is lost")}, 12.0)
    assert ended == more == () and running["black:hall"].begin == 10.0
    running, ended = noted_alarms(running, {}, 15.0)
    assert running == {} and [(e.surface, e.begin, e.end, e.words) for e in ended] == [
        ("Hall", 10.0, 15.0, "it is black (alarm)"),
        ("Red", 12.0, 15.0, "it is lost (alarm)"),
    ]


def test_rules_of_a_show_are_its_own_and_all_can_be_silent() -> None:
    soon = Alarms(
        rules=(AlarmRule(kind="black", seconds=0.0, grade="picture"), AlarmRule(kind="flat", on=False, seconds=1))
    )
    dark = seen_with(flat(64, 36, 0, 0, 0))
    assert "black:hall" in alarms(show(alarms=soon), dark, Watched(), 0.0).raised
    muted = soon.model_copy(update={"muted": True})
    assert alarms(show(alarms=muted), dark, Watched(), 0.0).raised == {}
    plain = seen_with(flat(64, 36, 9, 90, 9))
    watched = Watched()
    for n in range(40):
        watched = alarms(show(alarms=soon), plain, watched, float(n))
    assert watched.raised == {}
    assert Feed(id="f", name="F", shows="wall", of="w", to="w.mp4").is_path
