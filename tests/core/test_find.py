"""Finding the rectangles of a pixel map: synthetic maps with labels, grid lines and frames, without loss and
as JPEG.
"""

from __future__ import annotations

import cv2
import numpy as np
import pytest

from ushering_adze.core.seeing.find import MAX_PIXELS, find_rectangles

WIDTH, HEIGHT = 1920, 1200


def made_map(
    seed: int, frames: bool, ground: int, smooth: bool = True
) -> tuple[np.ndarray, list[tuple[int, int, int, int]]]:
    """A map of 24 flat rectangles of any size and place, each with a cabinet grid, a label, and perhaps a frame on its
    edge pixels.
    """
    rng = np.random.default_rng(seed)
    picture = np.full((HEIGHT, WIDTH, 3), ground, np.uint8)
    wanted = []
    for row in range(4):
        for column in range(6):
            cw, ch = WIDTH // 6, HEIGHT // 4
            w, h = int(rng.integers(60, cw - 4)), int(rng.integers(60, ch - 4))
            x, y = column * cw + int(rng.integers(0, cw - w)), row * ch + int(rng.integers(0, ch - h))
            picture[y : y + h, x : x + w] = rng.integers(40, 230, 3)
            line = rng.integers(0, 255, 3) if rng.random() < 0.5 else (255, 255, 255)
            for at in range(x, x + w, int(rng.integers(24, 64))):
                picture[y : y + h, at] = line
            for at in range(y, y + h, int(rng.integers(24, 64))):
                picture[at, x : x + w] = line
            if frames:
                cv2.rectangle(picture, (x, y), (x + w - 1, y + h - 1), (255, 255, 255), 1)
            size = max(0.35, min(w / 220, h / 80, 2.5))
            colour = (255, 255, 255) if rng.random() < 0.5 else (0, 0, 0)
            at = (int(w * 0.08), int(h * 0.6))
            cv2.putText(
                picture[y : y + h, x : x + w],
                f"P{row}{column} {w}x{h}",
                at,
                cv2.FONT_HERSHEY_SIMPLEX,
                size,
                colour,
                max(1, int(2 * size)),
                cv2.LINE_AA if smooth else cv2.LINE_8,
            )
            wanted.append((x, y, w, h))
    return picture, wanted


def edges(rect: tuple[int, int, int, int]) -> np.ndarray:
    x, y, w, h = rect
    return np.array([x, y, x + w, y + h])


@pytest.mark.parametrize("seed", range(3))
@pytest.mark.parametrize("frames", [False, True])
@pytest.mark.parametrize("ground", [0, 40])
def test_all_24_are_found_exactly_without_loss_and_within_a_pixel_in_jpeg(seed: int, frames: bool, ground: int) -> None:
    picture, wanted = made_map(seed, frames, ground)
    found = find_rectangles(picture)
    assert sorted(tuple(f.rect) for f in found) == sorted(wanted), (
        "every bound is exact, and nothing else is taken for a panel"
    )
    assert min(f.confidence for f in found) > 0.5
    done, data = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, 90])
    assert done
    lossy = [edges(tuple(f.rect)) for f in find_rectangles(cv2.imdecode(data, cv2.IMREAD_COLOR))]
    assert len(lossy) == 24
    for rect in wanted:
        assert min(int(np.abs(e - edges(rect)).max()) for e in lossy) <= 1


def test_panels_that_touch_share_their_line_and_leave_no_pixel_between_them() -> None:
    picture = np.zeros((600, 900, 3), np.uint8)
    wanted = []
    for n in range(6):
        x, y = n % 3 * 300, n // 3 * 300
        picture[y : y + 300, x : x + 300] = [
            (200, 60, 40),
            (50, 160, 70),
            (40, 70, 190),
            (150, 150, 40),
            (140, 50, 150),
            (90, 120, 200),
        ][n]
        for at in range(0, 300, 60):  # lines where cabinets begin, so that each panel's first line is its own
            picture[y : y + 300, x + at] = picture[y + at, x : x + 300] = (250, 250, 250)
        wanted.append((x, y, 300, 300))
    assert sorted(tuple(f.rect) for f in find_rectangles(picture)) == sorted(wanted)


def test_two_panels_of_one_colour_stay_two_and_one_cut_by_dark_lines_is_one() -> None:
    picture = np.zeros((300, 700, 3), np.uint8)
    picture[50:250, 40:300] = picture[50:250, 306:600] = (90, 90, 200)
    picture[50:250, 170] = picture[150, 40:300] = 0
    assert [tuple(f.rect) for f in find_rectangles(picture)] == [(40, 50, 260, 200), (306, 50, 294, 200)]


def test_see_through_parts_are_ground_and_letters_are_no_panels() -> None:
    picture = np.zeros((400, 800, 4), np.uint8)
    picture[100:300, 200:600] = (60, 120, 30, 255)
    cv2.putText(picture, "BIG", (230, 270), cv2.FONT_HERSHEY_SIMPLEX, 5, (255, 255, 255, 255), 24)
    found = find_rectangles(picture)
    assert [tuple(f.rect) for f in found] == [(200, 100, 400, 200)] and found[0].colour == "#1E783C"
    picture[..., 3] = 0
    assert find_rectangles(picture) == []


def test_pictures_that_hold_none_or_are_too_large() -> None:
    noise = np.random.default_rng(0).integers(0, 255, (300, 400, 3), dtype=np.uint8)
    assert find_rectangles(noise) == []
    ramp = np.dstack([np.tile(np.arange(256, dtype=np.uint8), (200, 1))] * 3)
    assert all(f.confidence < 1 for f in find_rectangles(ramp))
    large = np.broadcast_to(np.zeros((1, 1, 3), np.uint8), (20000, MAX_PIXELS // 20000 + 1, 3))
    with pytest.raises(ValueError, match="too large"):
        find_rectangles(large)


# -- families that could be read in two ways, or were taken for something else -----------------------------------------


def drawn(seed: int, kind: str) -> tuple[np.ndarray, list[tuple[int, int, int, int]]]:
    """A map of one family, and its panels."""
    draw = np.random.default_rng(seed)
    ground = int(draw.choice([0, 30, 60]))
    picture = np.full((700, 1000, 3), ground, np.uint8)
    wanted = []

    def colours() -> tuple[np.ndarray, np.ndarray]:
        while True:
            a, b = draw.integers(70, 240, (2, 3))
            if np.abs(a - b).max() > 50:
                return a, b

    for k in range({"checkerboard": 2, "shape": 4, "strip": 8}.get(kind, 6)):
        a, b = colours()
        x, y = 40 + k % 3 * 310 + int(draw.integers(0, 30)), 40 + k // 3 * 330 + int(draw.integers(0, 30))
        if kind == "frame":  # of one to four pixels
            w, h, t = int(draw.integers(80, 240)), int(draw.integers(80, 240)), int(draw.integers(1, 5))
            picture[y : y + h, x : x + w] = b
            picture[y + t : y + h - t, x + t : x + w - t] = a
            wanted.append((x, y, w, h))
        elif kind == "pair":  # of one colour, one to three pixels apart
            one, two, high, gap = (int(draw.integers(*r)) for r in ((60, 130), (60, 130), (60, 250), (1, 4)))
            cut = [(x, y, one, high), (x + one + gap, y, two, high)]
            cut = cut if draw.random() < 0.5 else [(x, y, high, one), (x, y + one + gap, high, two)]
            for left, top, w, h in cut:
                picture[top : top + h, left : left + w] = a
            wanted += cut
        elif kind == "checkerboard":
            x, n, m, c = 40 + k * 480, int(draw.integers(2, 7)), int(draw.integers(2, 6)), int(draw.integers(30, 70))
            for j in range(m):
                for i in range(n):
                    picture[y + j * c : y + j * c + c, x + i * c : x + i * c + c] = a if (i + j) % 2 else b
            wanted.append((x, y, n * c, m * c))
        elif kind == "gradient" and not k:
            along = np.linspace(90, 240, 700)[None] if draw.random() < 0.5 else np.linspace(90, 240, 400)[:, None]
            picture[60:460, 60:760] = (np.broadcast_to(along, (400, 700))[..., None] * draw.uniform(0.8, 1, 3)).astype(
                np.uint8
            )
            wanted.append((60, 60, 700, 400))
        elif kind == "shape":  # an L
            x, y, w, h = 50 + k % 2 * 480, 40 + k // 2 * 330, int(draw.integers(180, 400)), int(draw.integers(150, 280))
            picture[y : y + h, x : x + w] = a
            cw, ch = int(w * draw.uniform(0.25, 0.7)), int(h * draw.uniform(0.25, 0.7))
            left, top = x + (w - cw) * int(draw.integers(2)), y + (h - ch) * int(draw.integers(2))
            picture[top : top + ch, left : left + cw] = ground
            wanted.append((x, y, w, h))
        elif kind == "strip":  # of 6 to 13 pixels
            w, h, y = int(draw.integers(120, 800)), int(draw.integers(6, 14)), 30 + k * 80
            picture[y : y + h, x % 200 : x % 200 + w] = a
            wanted.append((x % 200, y, w, h))
    return picture, wanted


@pytest.mark.parametrize("kind", ["frame", "pair", "checkerboard", "gradient", "strip"])
@pytest.mark.parametrize("seed", range(8))
def test_families_of_panels_are_found_whole_and_exactly(kind: str, seed: int) -> None:
    picture, wanted = drawn(seed, kind)
    found = find_rectangles(picture)
    assert sorted(tuple(f.rect) for f in found) == sorted(wanted)
    if kind == "checkerboard":
        assert all(sum(p.area for p in f.parts) == f.rect.area and len(f.parts) >= 4 for f in found), (
            "the grid is offered too"
        )
    assert kind not in ("checkerboard", "gradient") or max(f.confidence for f in found) < 0.9


@pytest.mark.parametrize("seed", range(8))
def test_an_l_is_no_rectangle_and_its_rectangles_are_not_sure(seed: int) -> None:
    picture, boxes = drawn(seed, "shape")
    found = find_rectangles(picture)
    assert not {tuple(f.rect) for f in found} & set(boxes) and all(f.confidence <= 0.7 for f in found)
    for x, y, w, h in boxes:  # what was found covers the shape, and none of its notch
        mine = [f.rect for f in found if x <= f.rect.x < x + w and y <= f.rect.y < y + h]
        assert sum(r.area for r in mine) == int((picture[y : y + h, x : x + w] != picture[0, 0]).any(-1).sum())


def test_a_grid_of_dark_lines_is_offered_both_ways_and_is_not_sure() -> None:
    picture = np.zeros((300, 700, 3), np.uint8)
    picture[50:250, 40:300] = (90, 90, 200)
    picture[50:250, 170] = picture[150, 40:300] = 0
    (found,) = find_rectangles(picture)
    assert tuple(found.rect) == (40, 50, 260, 200) and found.confidence < 0.9
    assert [tuple(p) for p in found.parts] == [
        (40, 50, 130, 100),
        (171, 50, 129, 100),
        (40, 151, 130, 99),
        (171, 151, 129, 99),
    ]


@pytest.mark.parametrize("thick", [1, 2, 3, 4])
def test_frames_with_rounded_corners_belong_to_their_panels(thick: int) -> None:
    """As a drawing program strokes them: the bounds are those of everything that was drawn."""
    picture = np.full((500, 700, 3), 20, np.uint8)
    picture[100:400, 150:600] = (120, 60, 60)
    cv2.rectangle(picture, (150, 100), (599, 399), (220, 220, 220), thick)
    ys, xs = np.nonzero((picture != 20).any(-1))
    (found,) = find_rectangles(picture)
    assert tuple(found.rect) == (xs.min(), ys.min(), xs.max() + 1 - xs.min(), ys.max() + 1 - ys.min())
