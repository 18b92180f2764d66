"""Layers shaped, turned, framed, shadowed, coloured, blended: against scikit-image, SciPy, Pillow, W3C's formulas."""

from __future__ import annotations

import random
import warnings
from itertools import product
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageChops
from scipy.ndimage import gaussian_filter
from skimage.draw import disk, ellipse, polygon
from skimage.transform import rotate

from ushering_adze.core.kinds import BY_NAME, KINDS
from ushering_adze.core.kinds.colour import PLAIN, ColourNow
from ushering_adze.core.kinds.keying import LumaKey
from ushering_adze.core.kinds.mixed import DEEPEST, Mixed, depth, rested
from ushering_adze.core.kinds.on_its_way import Shown, Turning
from ushering_adze.core.kinds.shape import BOX, ShapeNow
from ushering_adze.core.onair.motion import at_rest, recall
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.picture.blending import blended
from ushering_adze.core.picture.colours import coloured, through
from ushering_adze.core.picture.dressed import Dresser, extent_of, is_plain, turned
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import between, is_sane, layer_state
from ushering_adze.core.picture.outlines import outline
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import (
    Canvas,
    ColourSource,
    Layer,
    LayerSettings,
    Part,
    Picture,
    Place,
    Preset,
    Show,
    with_held,
)
from ushering_adze.core.show.way import Way
from ushering_adze.engine.canvas import CanvasPainter
from ushering_adze.io.media.cube import read_cube
from ushering_adze.io.media.still import MediaError

with warnings.catch_warnings():
    warnings.simplefilter("ignore")
    import colour as science

HOUSE = Canvas(id="house", name="House", width=400, height=300)
MODES = ["normal", "add", "multiply", "screen", "lighten", "darken"]


def state(**kinds: object) -> object:
    place = Place(x=100, y=80, w=200, h=120, unit="px")
    made = LayerSettings(picture=Picture(source="a", fit="stretch"), place=place)
    return layer_state(made, HOUSE)._replace(**kinds)


def flat(width: int = 200, height: int = 120, bgra: tuple[int, ...] = (40, 80, 160, 255)) -> np.ndarray:
    return np.full((height, width, 4), bgra, np.uint8)


# -- blending ----------------------------------------------------------------------------------------------------------


def w3c(s: np.ndarray, u: np.ndarray, mode: str) -> np.ndarray:
    """Section 5.8 and 10.1 of W3C Compositing and Blending Level 1, on premultiplied values of 0 to 1."""
    a, b = s[..., 3:], u[..., 3:]
    if mode == "add":
        return np.minimum(1, s + u)
    with np.errstate(divide="ignore", invalid="ignore"):
        cs, cb = np.nan_to_num(s / a), np.nan_to_num(u / b)
    made = {
        "normal": cs,
        "multiply": cs * cb,
        "screen": cs + cb - cs * cb,
        "lighten": np.maximum(cs, cb),
        "darken": np.minimum(cs, cb),
    }[mode]
    out = s * (1 - b) + u * (1 - a) + a * b * made
    out[..., 3:] = a + b - a * b
    return out


def premultiplied(rng: np.random.Generator, opaque: bool) -> np.ndarray:
    codes = rng.integers(0, 256, (40, 50, 4))
    if opaque:
        codes[..., 3] = 255
    codes[..., :3] = codes[..., :3] * codes[..., 3:] // 255
    return codes.astype(np.uint8)


@pytest.mark.parametrize(("mode", "opaque", "opacity"), list(product(MODES, [True, False], [1.0, 0.4])))
def test_blend_modes_are_those_of_the_formulas(mode: str, opaque: bool, opacity: float) -> None:
    rng = np.random.default_rng(3)
    under, over = premultiplied(rng, opaque), premultiplied(rng, False)
    meant = w3c(over / 255 * opacity, under / 255, mode) * 255
    assert np.abs(blended(under, over, mode, opacity) - meant).max() <= 2


@pytest.mark.parametrize(
    ("mode", "by_pillow"),
    [("multiply", ImageChops.multiply), ("screen", ImageChops.screen), ("lighten", ImageChops.lighter),
     ("darken", ImageChops.darker), ("add", ImageChops.add)],
)  # fmt: skip
def test_opaque_ones_are_those_of_pillow(mode: str, by_pillow: object) -> None:
    rng = np.random.default_rng(4)
    under, over = premultiplied(rng, True), premultiplied(rng, True)
    made = by_pillow(Image.fromarray(under[..., :3]), Image.fromarray(over[..., :3]))  # type: ignore[operator]
    assert np.abs(blended(under, over, mode)[..., :3].astype(int) - np.asarray(made).astype(int)).max() <= 1
    half = blended(under, over, Mixed("normal", mode, 0.5)).astype(int)
    assert np.abs(half - (over.astype(int) + blended(under, over, mode)) / 2).max() <= 1


# -- shapes ------------------------------------------------------------------------------------------------------------


def test_outlines_cover_what_scikit_image_draws() -> None:
    made = outline(ShapeNow("ellipse"), 200, 120)
    drawn = np.zeros((1200, 2000))
    drawn[ellipse(599.5, 999.5, 600, 1000, drawn.shape)] = 1
    meant = drawn.reshape(120, 10, 200, 10).mean((1, 3))
    assert made is not None and np.abs(made - meant).max() < 0.12 and abs(made.sum() / meant.sum() - 1) < 1e-3
    round_box = outline(ShapeNow(radius=30), 200, 120)
    assert round_box is not None
    corner = np.zeros((300, 300))
    corner[disk((299.5, 299.5), 300, shape=corner.shape)] = 1
    assert np.abs(round_box[:30, :30] - corner.reshape(30, 10, 30, 10).mean((1, 3))).max() < 0.12
    assert (round_box[40:80] == 1).all() and (round_box[:, 40:160] == 1).all(), "its sides stay sharp"
    shape = ShapeNow("polygon", points=((0.1, 0.1), (0.9, 0.3), (0.6, 0.95)))
    made = outline(shape, 200, 120)
    fine = np.zeros((1200, 2000))
    fine[polygon([120, 360, 1140], [200, 1800, 1200], fine.shape)] = 1
    meant = fine.reshape(120, 10, 200, 10).mean((1, 3))
    assert made is not None and abs(made.sum() / meant.sum() - 1) < 4e-3 and np.abs(made - meant).max() < 0.3
    assert outline(BOX, 200, 120) is None, "a whole box is left as it is, bit for bit"


def test_soft_edges_fade_inwards_evenly() -> None:
    made = outline(ShapeNow(soft=40), 200, 120)
    assert made is not None
    row = made[60, :60]
    assert row[0] < 0.03 and np.allclose(np.diff(row[:39]), 1 / 40, atol=1e-3) and (row[41:] == 1).all()


def test_a_mask_is_the_brightness_or_alpha_of_a_source() -> None:
    ramp = np.zeros((10, 200, 4), np.uint8)
    ramp[..., :3] = np.linspace(0, 255, 200).astype(np.uint8)[None, :, None]
    ramp[..., 3] = 255
    laid = Dresser().dressed(flat(), state(shape=ShapeNow(mask="m")), pictures={"m": ramp})
    assert np.abs(laid.pixels[60, :, 3].astype(int) - ramp[0, :, 0]).max() <= 1
    over = Dresser().dressed(flat(), state(shape=ShapeNow(mask="m", turned=True)), pictures={"m": ramp})
    assert np.abs(laid.pixels[..., 3].astype(int) + over.pixels[..., 3] - 255).max() <= 1
    clear = ramp.copy()
    clear[:, :100, 3] = 0
    laid = Dresser().dressed(flat(), state(shape=ShapeNow(mask="m", of="alpha")), pictures={"m": clear})
    assert laid.pixels[60, 20, 3] == 0 and laid.pixels[60, 180, 3] == 255


@pytest.mark.parametrize("outside", [0.0, 1.0])
def test_a_border_lies_inside_or_outside_and_follows_the_shape(outside: float) -> None:
    border = (10.0, 255.0, 0.0, 0.0, outside)
    made = state(border=border, shape=ShapeNow("ellipse"))
    laid = Dresser().dressed(flat(), made)
    grow = 10 if outside else 0
    assert laid.at == Rect(100 - grow, 80 - grow, 200 + 2 * grow, 120 + 2 * grow) == extent_of(made)
    red = (laid.pixels[..., 2] > 200) & (laid.pixels[..., 0] < 20)
    a, b = (100 + grow, 60 + grow)
    meant = np.pi * (a * b - (a - 10) * (b - 10))
    assert abs(red.sum() / meant - 1) < 0.06
    assert laid.pixels[60 + grow, 100 + grow].tolist() == [40, 80, 160, 255]
    assert (laid.pixels[..., :3] <= laid.pixels[..., 3:]).all(), "premultiplied"


# -- turned, shadows ---------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("degrees", [10.0, 45.0, -33.0, 90.0])
def test_turned_pictures_are_those_of_scikit_image(degrees: float) -> None:
    rng = np.random.default_rng(5)
    picture = gaussian_filter(rng.uniform(0, 255, (120, 200, 4)), (4, 4, 0))
    picture = (picture - picture.min()) / np.ptp(picture) * 255
    picture[..., 3] = 255
    made = turned(picture.astype(np.uint8), degrees)
    h, w = made.shape[:2]
    pad = np.zeros((h + 200, w + 200, 4))
    y, x = (pad.shape[0] - 120) // 2, (pad.shape[1] - 200) // 2
    pad[y : y + 120, x : x + 200] = picture.astype(np.uint8)
    meant = rotate(pad, -degrees, order=3, preserve_range=True, center=(x + 99.5, y + 59.5))
    oy, ox = y + 60 - h / 2, x + 100 - w / 2
    if oy == int(oy) and ox == int(ox):
        part = meant[int(oy) : int(oy) + h, int(ox) : int(ox) + w]
        inside = part[..., 3] > 254
        assert inside.sum() > 15000 and np.abs(part - made)[inside].mean() < 1.5
    assert abs((made[..., 3] / 255).sum() / (120 * 200) - 1) < 0.01, "its area stays"
    assert turned(flat(), 360.0) is not None and (turned(flat(), 720.0) == flat()).all()


@pytest.mark.parametrize("blur", [0.0, 6.0, 24.0, 60.0])
def test_a_shadow_is_a_gaussian_of_half_its_blur(blur: float) -> None:
    made = state(shadow=(20.0, 10.0, blur, 0.8, 0.0, 0.0, 0.0))
    laid = Dresser().dressed(flat(), made)
    ground = np.zeros((laid.at.h, laid.at.w))
    x, y = 120 - laid.at.x, 90 - laid.at.y
    ground[y : y + 120, x : x + 200] = 0.8 * 255
    meant = gaussian_filter(ground, blur / 2, mode="constant") if blur else ground
    alpha = laid.pixels[..., 3].astype(float)
    seen = np.ones_like(alpha, bool)
    seen[80 - laid.at.y : 200 - laid.at.y, 100 - laid.at.x : 300 - laid.at.x] = False
    assert np.abs(alpha - meant)[seen].max() <= (5 if blur > 16 else 2), "wide ones are made at a smaller size"
    assert laid.pixels[80 - laid.at.y, 100 - laid.at.x].tolist() == [40, 80, 160, 255]
    dresser = Dresser()
    first, again = (dresser.dressed(flat(), made, still=True).pixels for _ in range(2))
    assert np.array_equal(first, again) and np.array_equal(first, laid.pixels), "kept, it is the same"


# -- colours -----------------------------------------------------------------------------------------------------------


def test_tables_are_those_of_colour_science(tmp_path: Path) -> None:
    rng = np.random.default_rng(6)
    path = tmp_path / "warm.cube"
    lattice = science.LUT3D(size=9)
    lattice.table = np.clip(lattice.table**1.3 * (1.0, 0.9, 0.7) + rng.normal(0, 0.01, lattice.table.shape), 0, 1)
    science.write_LUT(lattice, str(path))
    table = read_cube(path)
    codes = rng.integers(0, 256, (30, 40, 4)).astype(np.uint8)
    codes[..., 3] = 255
    meant = lattice.apply(codes[..., 2::-1] / 255, interpolator=science.algebra.table_interpolation_trilinear) * 255
    assert np.abs(through(codes, table)[..., 2::-1] - meant).max() <= 1
    clear = codes.copy()
    clear[..., 3] = 128
    clear[..., :3] //= 2
    made = coloured(clear, PLAIN._replace(table="t"), {"t": table})
    assert (made[..., 3] == 128).all() and (made[..., :3] <= 129).all()
    for text, wrong in (
        ("LUT_3D_SIZE 2\n0 0 0\n", "says 2 points an edge and has 1 rows"),
        ("LUT_3D_SIZE 2\n0 0 zero\n", "line 2: three numbers"),
        ("0 0 0\n", "says how large it is nowhere"),
        ("LUT_1D_SIZE 2\nDOMAIN_MAX 2 2 2\n0 0 0\n1 1 1\n", "not for codes of 0 to 1"),
    ):
        path.write_text(text)
        with pytest.raises(MediaError, match=wrong):
            read_cube(path)
    path.write_text("LUT_1D_SIZE 2\n1 1 1\n0 0 0\n")
    assert np.abs(through(codes, read_cube(path))[..., :3].astype(int) + codes[..., :3] - 255).max() <= 1


def test_gamma_and_gains_are_powers_and_factors() -> None:
    codes = np.dstack([np.arange(256, dtype=np.uint8)[None]] * 3 + [np.full((1, 256), 255, np.uint8)])
    made = coloured(codes, PLAIN._replace(numbers=(0, 1, 1, 2.0, 1, 1, 1)), {})
    assert np.abs(made[0, :, 0] - 255 * (np.arange(256) / 255) ** 0.5).max() <= 0.51
    made = coloured(codes, PLAIN._replace(numbers=(0, 1, 1, 1, 0.5, 1, 2)), {})
    assert made[0, 100].tolist() == [200, 100, 50, 255]
    assert coloured(codes, PLAIN, {}) is codes
    assert (coloured(codes, PLAIN._replace(flip="left-right"), {})[0, 0] == codes[0, 255]).all()


# -- on the canvas -----------------------------------------------------------------------------------------------------


def painted(*layers: tuple[str, object], frames: dict[str, Frame] | None = None) -> np.ndarray:
    painter = CanvasPainter(HOUSE)
    frames = frames or {"a": Frame(flat(50, 30), 1)}
    painter.draw(list(layers), frames)  # type: ignore[arg-type]
    assert not painter.faults
    return painter.pixels.copy()


def test_what_is_not_dressed_is_painted_as_ever_and_what_is_stays_within_its_extent() -> None:
    plain = painted(("a", state()))
    assert is_plain(state()) and (plain[80:200, 100:300, :3] == (40, 80, 160)).all()  # type: ignore[arg-type]
    for kinds in (
        {"turn": 30.0},
        {"shape": ShapeNow("ellipse", soft=10)},
        {"shadow": (15.0, -10.0, 30.0, 1.0, 255.0, 0.0, 0.0)},
        {"border": (8.0, 0.0, 255.0, 0.0, 1.0)},
        {"turn": 70.0, "shadow": (9.0, 9.0, 12.0, 0.5, 0.0, 0.0, 255.0), "border": (4.0, 9.0, 9.0, 9.0, 0.5)},
    ):
        made = state(**kinds)
        picture = painted(("a", made))
        where = extent_of(made).meet(Rect(0, 0, 400, 300))  # type: ignore[arg-type]
        outside = picture.copy()
        outside[where.cut()] = (0, 0, 0, 255)
        assert (outside[..., :3] == 0).all() and (picture[..., :3] > 0).any(), kinds


@pytest.mark.parametrize("seed", range(6))
def test_what_was_dressed_before_is_what_would_be_made_anew(seed: int, monkeypatch: pytest.MonkeyPatch) -> None:
    draw = random.Random(seed)
    calls: list[int] = []
    dressed = Dresser.dressed
    monkeypatch.setattr(Dresser, "dressed", lambda *a, **k: (calls.append(1), dressed(*a, **k))[1])
    noise = np.random.default_rng(seed)
    kept = CanvasPainter(HOUSE)
    looks: list[dict[str, object]] = [
        {"shadow": (5.0, 4.0, 12.0, 0.8, 0.0, 0.0, 0.0), "shape": ShapeNow("box", radius=9.0)},
        {"border": (4.0, 200.0, 90.0, 30.0, 0.5), "shape": ShapeNow("box", radius=9.0)},
        {"border": (4.0, 200.0, 90.0, 30.0, 0.0), "shadow": (5.0, 4.0, 12.0, 0.8, 90.0, 0.0, 0.0)},
        {"turn": 20.0},
        {"blend": "screen"},
        {"key": LumaKey(low=0.3)},
    ]
    look, weight, opacity, serial, opaque = looks[0], 1.0, 1.0, 1, True
    x, y, wide = 100.0, 80.0, 200.0
    again, before = 0, state()
    pictures: dict[tuple[int, bool], np.ndarray] = {}
    for _ in range(60):
        match draw.randrange(7):
            case 0:
                look = draw.choice(looks)
            case 1:
                weight = draw.choice([0.0, 0.3, 0.6, 1.0])
            case 2:
                opacity = draw.choice([0.0, 0.5, 1.0])
            case 3:
                serial = draw.randrange(1, 4)
            case 4:
                opaque = not opaque
            case 5:
                x, y = draw.uniform(-60, 300), draw.uniform(-40, 200)
            case 6:
                wide = draw.choice([200.0, 200.4, 150.0])
        if (serial, opaque) not in pictures:
            made = noise.integers(0, 256, (30, 50, 4), np.uint8)
            made[..., 3] = 255 if opaque else 140
            pictures[serial, opaque] = np.minimum(made, made[..., 3:])
        frames = {"a": Frame(pictures[serial, opaque], serial + 10 * opaque, opaque)}
        picture = Turning("dissolve", Shown(None, "stretch"), Shown("a", "stretch"), weight)
        now = state(picture=picture, opacity=opacity, place=(x, y, wide, 120.0), **look)
        calls.clear()
        kept.draw([("a", now)], frames)  # type: ignore[list-item]
        again += not calls and before != now
        before = now
        assert not kept.faults
        fresh = CanvasPainter(HOUSE)
        fresh.draw([("a", now)], frames)  # type: ignore[list-item]
        assert np.array_equal(kept.pixels, fresh.pixels), (look, weight, opacity)
    assert again > 5, "and it is not made anew each time"


def test_a_blend_meets_what_is_below_and_only_there() -> None:
    frames = {"a": Frame(flat(50, 30), 1), "b": Frame(flat(50, 30, (200, 100, 50, 255)), 2)}
    ground = state(picture=state().picture._replace(source="b"), place=(0.0, 0.0, 400.0, 150.0))  # type: ignore[attr-defined]
    made = painted(("b", ground), ("a", state(blend="multiply", opacity=0.5)), frames=frames)
    meant = [under * (0.5 + 0.5 * over / 255) for under, over in ((200, 40), (100, 80), (50, 160))]
    assert made[100, 150].tolist()[:3] == pytest.approx(meant, abs=2)
    assert (made[160:200, 100:300, :3] == 0).all(), "times black is black"


def model(kind: str, **fields: st.SearchStrategy[object]) -> st.SearchStrategy[object]:
    return st.builds(lambda **k: BY_NAME[kind].model(**k), **fields)


side, least, shift = st.integers(-50, 250), st.integers(8, 300), st.floats(-40, 40)
values = {
    "picture": model(
        "picture", source=st.sampled_from(["a", "b"]), fit=st.sampled_from(["fill", "fit", "stretch", "1:1"])
    ),
    "place": model("place", x=side, y=side, w=least, h=least, unit=st.just("px")),
    "turn": st.floats(-400, 400),
    "opacity": st.floats(0, 1),
    "shape": model(
        "shape",
        form=st.sampled_from(["box", "ellipse", "polygon"]),
        radius=st.floats(0, 90),
        soft=st.floats(0, 60),
        sides=st.integers(3, 7),
        mask=st.sampled_from([None, "b"]),
    ),
    "shadow": model("shadow", x=shift, y=shift, blur=st.floats(0, 50), opacity=st.floats(0, 1)),
    "border": model("border", width=st.floats(0, 20), outside=st.booleans()),
    "key": st.sampled_from([None, LumaKey(low=0.2), LumaKey(low=0.5, turned=True)]),
    "colour": model(
        "colour", gamma=st.floats(0.5, 2), saturation=st.floats(0, 2), flip=st.sampled_from(["none", "both"])
    ),
    "blend": st.sampled_from(MODES),
    "crop": st.just(BY_NAME["crop"].default),
}
settings_of_any = st.fixed_dictionaries(values)


ways = st.one_of(
    st.none(),
    st.builds(
        Way,
        kind=st.sampled_from(["cut", "dissolve", "dip", "wipe", "push", "slide", "zoom"]),
        form=st.sampled_from(["line", "iris", "clock", "blinds", "picture"]),
        angle=st.floats(-360, 360),
        soft=st.floats(0, 1),
        source=st.sampled_from([None, "b"]),
    ),
)


def preset_of(number: int, kinds: dict[str, object], way: Way | None = None) -> Preset:
    part = Part(canvas="house", layer="x")
    for name, value in kinds.items():
        part = with_held(part, name, value, "faded")
    return Preset(id=f"p{number}", number=number, name="P", seconds=1.0, easing="linear", way=way, parts=(part,))


@given(*[settings_of_any] * 3, ways, ways, st.floats(0.05, 0.95), st.floats(0.05, 0.9))
@settings(max_examples=60, deadline=None)
def test_any_settings_go_to_any_others_without_a_leap(first, second, third, one, two, when, then) -> None:  # type: ignore[no-untyped-def]
    sources = (ColourSource(id="a", name="A", fill="#804020"), ColourSource(id="b", name="B", fill="#2080C0"))
    canvas = HOUSE.model_copy(update={"layers": (Layer(id="x", name="X"),)})
    presets = (preset_of(1, first), preset_of(2, second, one), preset_of(3, third, two))
    show = Show(name="Any", canvases=(canvas,), sources=sources, presets=presets)
    stage = Stage.opened(show).recall(1, 0.0, cut=True).recall(2, 1.0)
    frames = {"a": Frame(flat(64, 36), 1), "b": Frame(flat(48, 48, (200, 120, 20, 255)), 2)}
    painter = CanvasPainter(canvas, 0.25)

    def at(motion: object, moment: float) -> np.ndarray:
        now = motion.at(moment)["house", "x"]  # type: ignore[attr-defined]
        assert is_sane(now)
        painter.draw([("x", now)], frames)
        assert not painter.faults and painter.fault is None
        return painter.pixels[..., :3].astype(int)

    moment = 1.0 + when
    before = at(stage.program, moment)
    turned_to = recall(show, stage.program, presets[2], moment)
    assert np.abs(at(turned_to, moment) - before).mean() < 0.6, "at that moment nothing leaps"
    at(turned_to, moment + then)
    again = recall(show, turned_to, presets[0], moment + then)
    settled = at_rest(again.settled(moment + 9).target)
    target = layer_state(LayerSettings(**{**{k.name: k.default for k in KINDS}, **first}), canvas)
    assert settled.at(99.0)["house", "x"] == target, "and it ends where it was sent"


def test_mixes_are_never_deeper_than_they_may_be() -> None:
    value: object = "normal"
    for n in range(20):
        value = rested(between("blend", value, MODES[1 + n % 5], 0.4), 0.0)
        assert depth(value) <= DEEPEST
    document = BY_NAME["blend"].to_json(value, 0.0)
    assert BY_NAME["blend"].from_json(document, 0.0) == value
    shape = Mixed(ShapeNow("ellipse"), ShapeNow(radius=5.0), 0.25)
    assert BY_NAME["shape"].from_json(BY_NAME["shape"].to_json(shape, 0.0), 0.0) == shape
    assert BY_NAME["shape"].document(shape, 1, 1).form == "ellipse"
    assert BY_NAME["colour"].from_json(BY_NAME["colour"].to_json(ColourNow(), 0.0), 0.0) == PLAIN
