"""Draw and encode every clip and still of the demo show.

Usage: python tools/demo_media.py [--only NAME ...]

Everything is computed: night skies and orbits with NumPy and OpenCV, cards with QPainter in the type face the
application ships.  Clips are H.264, BT.709, limited range, 30 frames a second, and loop without a seam.
"""

from __future__ import annotations

import argparse
import math
import os
from collections.abc import Callable, Iterator
from pathlib import Path

import av
import cv2
import numpy as np

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).resolve().parents[1] / "src" / "ushering_adze"
MEDIA = ROOT / "demo" / "media"
RATE = 30
NIGHT_TOP, NIGHT_FOOT = (14, 16, 44), (30, 40, 88)
PAPER, INK, AMBER = (237, 232, 220), (30, 34, 46), (227, 168, 87)


def gradient(width: int, height: int, top: tuple[int, ...], foot: tuple[int, ...], seed: int = 1) -> np.ndarray:
    """Vertical gradient with still grain, so that the steps of 8 bits do not show; RGB float32."""
    t = np.linspace(0, 1, height, dtype=np.float32)[:, None, None] ** 1.2
    rows = np.array(top, np.float32) * (1 - t) + np.array(foot, np.float32) * t
    grain = np.random.default_rng(seed).normal(0, 0.9, (height, width, 1)).astype(np.float32)
    return rows + grain


def smooth_noise(height: int, width: int, octaves: list[tuple[float, float]], seed: int) -> np.ndarray:
    """Sum of blurred noise, each octave (sigma px, weight), scaled to 0..1 and periodic across."""
    from scipy.ndimage import gaussian_filter

    rng = np.random.default_rng(seed)
    total = np.zeros((height, width))
    for sigma, weight in octaves:
        layer = gaussian_filter(rng.normal(size=(height, width)), sigma, mode=("nearest", "wrap"))
        total += weight * layer / layer.std()
    total -= total.min()
    return (total / total.max()).astype(np.float32)


# -- clips ---------------------------------------------------------------------------------------------------------


def star_trails() -> Iterator[np.ndarray]:
    """Stars drawing arcs about a pole; each has its own birth, so the loop has no seam."""
    width, height, frames = 4112, 1080, 300  # as wide as the house, so that it can open over the masts pixel for pixel
    sky = gradient(width, height, (9, 11, 34), (34, 46, 104))
    glow = np.zeros((height, width), np.float32)
    cv2.ellipse(glow, (2056, 1130), (2400, 300), 0, 0, 360, 1.0, -1)
    glow = cv2.GaussianBlur(glow, (0, 0), 120)[..., None]
    sky = sky * (1 - 0.35 * glow) + np.array([92, 72, 104], np.float32) * 0.35 * glow
    rng = np.random.default_rng(100)
    pole = np.array([2056.0, 700.0])
    tints = np.array([[232, 236, 255], [190, 210, 255], [255, 226, 190], [150, 178, 240]], np.float32)
    stars = []
    for _ in range(1300):
        radius = 60 + 2300 * math.sqrt(rng.random())
        stars.append(
            (
                radius,
                rng.random() * 2 * math.pi,
                rng.random(),
                0.16 + 0.26 * rng.random(),
                tints[rng.integers(4)] * (0.35 + 0.65 * rng.random() ** 2),
                int(rng.choice([1, 1, 2, 2, 3])),
            )
        )
    hills = (
        985
        + 34 * np.sin(np.arange(width) / 410.0)
        + 22 * np.sin(np.arange(width) / 167.0 + 1)
        + 6 * np.sin(np.arange(width) / 41.0)
    )
    mask = (np.arange(height)[:, None] > hills[None, :]).astype(np.float32)
    mask = cv2.GaussianBlur(mask, (0, 0), 1.0)
    dome = np.zeros((height, width), np.uint8)
    for x, r in ((896, 74), (3236, 52)):
        base = int(hills[x]) + 12
        cv2.rectangle(dome, (x - r, base - r), (x + r, base + 60), 255, -1, cv2.LINE_AA)
        cv2.ellipse(dome, (x, base - r), (r + 8, r + 8), 0, 180, 360, 255, -1, cv2.LINE_AA)
    mask = np.maximum(mask, dome.astype(np.float32) / 255)[..., None]
    for x, r in ((896, 74), (3236, 52)):  # an open slit with a warm lamp behind it
        base = int(hills[x]) + 12
        cv2.line(
            mask[..., 0], (x + r // 5, base - 2 * r), (x + r // 3, base - r - 4), 0.55, max(3, r // 9), cv2.LINE_AA
        )
    ground = np.array([7, 8, 20], np.float32)
    for n in range(frames):
        light = np.zeros((height, width, 3), np.uint8)
        for radius, angle, phase, sweep, tint, thick in stars:
            life = (n / frames + phase) % 1.0
            head = angle + sweep * life
            tail = head - sweep * min(life, 0.55) * min(1.0, (1 - life) * 3)
            shine = min(1.0, life * 5) * min(1.0, (1 - life) * 3)
            a = np.linspace(tail, head, 20)
            pts = np.stack([pole[0] + radius * np.cos(a), pole[1] + radius * np.sin(a)], 1)
            if pts[:, 1].min() > height or pts[:, 0].max() < 0 or pts[:, 0].min() > width:
                continue
            q = np.round(pts * 16).astype(np.int32)
            cv2.polylines(light, [q[:11]], False, (tint * shine * 0.55).tolist(), thick, cv2.LINE_AA, 4)
            cv2.polylines(light, [q[10:]], False, (tint * shine).tolist(), thick, cv2.LINE_AA, 4)
        yield (sky + light) * (1 - mask) + ground * mask


def orrery() -> Iterator[np.ndarray]:
    """Brass rings and planets; every planet makes a whole number of turns in the loop."""
    width, height, frames = 1920, 960, 300
    ground = gradient(width, height, (16, 18, 30), (34, 30, 38), 2)
    centre, squash = np.array([960.0, 490.0]), 0.44
    planets = [
        (150, 5, 13, (214, 190, 160)),
        (240, 3, 22, (227, 180, 110)),
        (350, 2, 26, (120, 168, 214)),
        (470, 1, 18, (206, 110, 84)),
        (650, 1, 46, (222, 190, 150)),
        (840, 1, 38, (226, 206, 150)),
    ]
    rings = np.zeros((height, width, 3), np.uint8)
    for radius, _, _, _ in planets:
        cv2.ellipse(rings, centre.astype(int), (radius, int(radius * squash)), 0, 0, 360, (126, 96, 54), 2, cv2.LINE_AA)
        for k in range(72):
            a = 2 * math.pi * k / 72
            inner, outer = radius - (9 if k % 6 == 0 else 4), radius
            p = centre + np.array([math.cos(a) * inner, math.sin(a) * inner * squash])
            q = centre + np.array([math.cos(a) * outer, math.sin(a) * outer * squash])
            cv2.line(rings, p.astype(int), q.astype(int), (112, 86, 50), 1, cv2.LINE_AA)
    yy, xx = np.mgrid[0:height, 0:width].astype(np.float32)
    sun = np.exp(-(((xx - centre[0]) ** 2 + ((yy - centre[1]) * 1.1) ** 2) / (2 * 120.0**2)))[..., None]
    ground = ground + sun * np.array([120, 84, 36], np.float32)
    for n in range(frames):
        frame = np.clip(ground, 0, 255).astype(np.uint8)
        frame = cv2.add(frame, rings)
        placed = []
        for radius, turns, size, tint in planets:
            a = 2 * math.pi * (turns * n / frames + radius * 0.37)
            placed.append((math.sin(a), centre + radius * np.array([math.cos(a), math.sin(a) * squash]), size, tint))
        placed.append((0.0, centre, 58, (255, 214, 140)))
        for depth, at, size, tint in sorted(placed, key=lambda p: p[0]):
            scale = 1 + 0.18 * depth
            r = size * scale
            cv2.line(frame, at.astype(int), (int(at[0]), int(at[1] + r + 30)), (96, 74, 44), 2, cv2.LINE_AA)
            for k in range(14):  # a ball, lit from the middle of the machine
                f = k / 14
                toward = (centre - at) / (np.linalg.norm(centre - at) + 1e-6)
                c = at + toward * r * 0.42 * f
                shade = 0.42 + 0.58 * f if size != 58 else 0.8 + 0.2 * f
                cv2.circle(
                    frame,
                    np.round(c * 16).astype(int),
                    int(r * (1 - 0.9 * f) * 16),
                    tuple(float(t) * shade for t in tint),
                    -1,
                    cv2.LINE_AA,
                    4,
                )
        yield frame


def moon_phases() -> Iterator[np.ndarray]:
    """One lunation: a relief-lit sphere, the light going once around it."""
    width, height, frames, r = 1920, 960, 300, 400
    rng = np.random.default_rng(8)
    th, tw = 720, 1440
    relief = smooth_noise(th, tw, [(60, 1.0), (18, 0.55), (6, 0.28), (2.2, 0.12)], 5) * 0.9
    maria = smooth_noise(th, tw, [(90, 1.0), (30, 0.4)], 11)
    for _ in range(420):
        cx, cy, cr = rng.integers(tw), int(rng.normal(th / 2, th / 5)), 4 + 46 * rng.random() ** 4
        stretch = 1 / max(0.35, math.cos((cy / th - 0.5) * math.pi))
        y, x = np.ogrid[max(0, cy - 60) : min(th, cy + 60), cx - 90 : cx + 90]
        d = np.hypot((x - cx) / stretch, y - cy) / cr
        bowl = np.where(d < 1, -0.16 * (1 - d**2), 0.11 * np.exp(-(((d - 1.05) / 0.22) ** 2))) * min(1.0, cr / 16)
        relief[y, x % tw] += bowl.astype(np.float32)
    sky = gradient(width, height, (8, 9, 20), (16, 19, 38), 3)
    dots = np.zeros((height, width, 3), np.uint8)
    for _ in range(260):
        shade = int(60 + 150 * rng.random() ** 3)
        cv2.circle(
            dots,
            (int(rng.integers(width * 16)), int(rng.integers(height * 16))),
            int(10 + 12 * rng.random()),
            (shade, shade, min(255, shade + 20)),
            -1,
            cv2.LINE_AA,
            4,
        )
    sky = sky + dots
    yy, xx = np.mgrid[-r - 3 : r + 4, -r - 3 : r + 4].astype(np.float32)
    rho = np.hypot(xx, yy) / r
    z = np.sqrt(np.clip(1 - rho**2, 0, 1))
    lon, lat = np.arctan2(xx / r, z), np.arcsin(np.clip(yy / r, -1, 1))
    mx = ((lon / (2 * np.pi) + 0.5) * tw % tw).astype(np.float32)
    my = ((lat / np.pi + 0.5) * th).astype(np.float32)
    bump = cv2.remap(relief, mx, my, cv2.INTER_CUBIC, borderMode=cv2.BORDER_WRAP)
    dark = cv2.remap(maria, mx, my, cv2.INTER_LINEAR, borderMode=cv2.BORDER_WRAP)
    gx, gy = cv2.Sobel(bump, cv2.CV_32F, 1, 0), cv2.Sobel(bump, cv2.CV_32F, 0, 1)
    nx, ny, nz = xx / r - gx * 1.1, yy / r - gy * 1.1, z + 1e-3
    norm = np.sqrt(nx**2 + ny**2 + nz**2)
    nx, ny, nz = nx / norm, ny / norm, nz / norm
    albedo = 0.98 - 0.42 * np.clip((dark - 0.45) * 4, 0, 1) + 0.10 * (bump - bump.mean())
    edge = np.clip((1 - rho) * r, 0, 1)
    for n in range(frames):
        a = 2 * math.pi * n / frames + math.pi * 0.62
        lit = np.clip(nx * math.sin(a) + ny * -0.08 + nz * -math.cos(a), 0, 1)
        limb = np.clip(xx / r * math.sin(a) - z * math.cos(a) + 0.06, 0, 0.12) / 0.12
        shade = (lit**0.62 * limb * albedo + 0.022 * albedo)[..., None]
        disc = shade * np.array([246, 240, 226], np.float32)
        frame = sky.copy()
        y0, x0 = height // 2 - r - 3, width // 2 - r - 3
        part = frame[y0 : y0 + disc.shape[0], x0 : x0 + disc.shape[1]]
        part[:] = part * (1 - edge[..., None]) + disc * edge[..., None]
        yield frame


def camera_grain(frame: np.ndarray, n: int, bank: list[np.ndarray]) -> np.ndarray:
    return frame + bank[n % len(bank)]


def grain_bank(height: int, width: int, strength: float, count: int = 5) -> list[np.ndarray]:
    rng = np.random.default_rng(77)
    return [
        cv2.GaussianBlur(rng.normal(0, strength, (height, width, 1)).astype(np.float32), (0, 0), 1.1)[..., None]
        for _ in range(count)
    ]


def caption(frame: np.ndarray, text: str) -> None:
    face = cv2.FontFace("sans")
    cv2.putText(frame, text, (38, 676), (150, 160, 165), face, 24, 500)


def roof_camera() -> Iterator[np.ndarray]:
    """The dome by night: clouds drift a whole turn of their texture, the slit turns to and fro."""
    width, height, frames = 1280, 720, 240
    clouds = smooth_noise(height, 1920, [(70, 1.0), (24, 0.5), (8, 0.2)], 21)
    sky = gradient(width, height, (18, 22, 44), (62, 58, 84), 4)
    grain = grain_bank(height, width, 2.2)
    for n in range(frames):
        shift = int(1920 * n / frames / 1) % 1920
        c = np.roll(clouds, -shift, 1)[:, :width, None]
        frame = sky + np.clip(c - 0.42, 0, 1) * np.array([86, 78, 92], np.float32)
        frame = np.ascontiguousarray(np.clip(frame, 0, 255).astype(np.uint8))
        cv2.rectangle(frame, (0, 610), (width, height), (15, 14, 20), -1)
        for x in range(0, width, 64):
            cv2.line(frame, (x, 574), (x, 612), (22, 21, 28), 4, cv2.LINE_AA)
        cv2.line(frame, (0, 574), (width, 574), (26, 25, 32), 5, cv2.LINE_AA)
        cv2.rectangle(frame, (390, 430), (890, 620), (38, 38, 48), -1)
        for k in range(24):
            f = k / 24
            tone = tuple(int(v * (0.5 + 0.6 * f)) for v in (66, 68, 82))
            cv2.ellipse(
                frame,
                (640 + int(70 * f), 432),
                (int(268 * (1 - 0.92 * f)), int(240 * (1 - 0.55 * f))),
                0,
                180,
                360,
                tone,
                -1,
                cv2.LINE_AA,
            )
        turn = 640 + 120 * math.sin(2 * math.pi * n / frames)
        slit = np.array([[turn - 26, 432], [turn - 20, 226], [turn + 22, 224], [turn + 30, 432]])
        cv2.fillPoly(frame, [np.round(slit * 16).astype(np.int32)], (244, 196, 120), cv2.LINE_AA, 4)
        tube = np.array([[turn - 10, 432], [turn - 4 + 30, 190], [turn + 18 + 30, 196], [turn + 16, 432]])
        cv2.fillPoly(frame, [np.round(tube * 16).astype(np.int32)], (52, 44, 40), cv2.LINE_AA, 4)
        for k in range(6):
            cv2.rectangle(
                frame, (430 + 76 * k, 500), (470 + 76 * k, 560), (58, 54, 58) if k % 3 else (190, 148, 88), -1
            )
        caption(frame, "Roof camera")
        yield camera_grain(frame, n, grain)


def aisle_camera() -> Iterator[np.ndarray]:
    """The host at the desk among lamps, seen from the aisle."""
    width, height, frames = 1280, 720, 240
    ground = gradient(width, height, (30, 20, 20), (66, 42, 34), 5)
    yy, xx = np.mgrid[0:height, 0:width].astype(np.float32)
    spot = np.exp(-(((xx - 640) / 420) ** 2 + ((yy - 330) / 360) ** 2))[..., None]
    ground = ground + spot * np.array([96, 62, 42], np.float32)
    grain = grain_bank(height, width, 1.8)
    rng = np.random.default_rng(3)
    heads = [
        (int(x), int(640 + 40 * rng.random()), int(46 + 14 * rng.random()), rng.random() * 6)
        for x in range(20, 1300, 118)
    ]
    for n in range(frames):
        t = 2 * math.pi * n / frames
        frame = np.ascontiguousarray(np.clip(ground, 0, 255).astype(np.uint8))
        for k in range(9):
            glow = 0.75 + 0.25 * math.sin(t * (1 + k % 3) + k)
            cv2.circle(
                frame,
                (90 + 140 * k, 96 + (k % 2) * 34),
                11,
                tuple(int(v * glow) for v in (255, 206, 140)),
                -1,
                cv2.LINE_AA,
            )
        sway = 14 * math.sin(t)
        x, y = 640 + sway, 300 + 4 * math.sin(2 * t)
        body = np.array([[x - 170, 640], [x - 140, 470], [x - 70, 418], [x + 70, 418], [x + 140, 470], [x + 170, 640]])
        cv2.fillPoly(frame, [np.round(body * 16).astype(np.int32)], (44, 48, 66), cv2.LINE_AA, 4)
        cv2.ellipse(frame, (int(x), int(y + 96)), (34, 60), 0, 0, 360, (176, 124, 96), -1, cv2.LINE_AA)
        cv2.ellipse(frame, (int(x), int(y)), (84, 106), sway / 4, 0, 360, (208, 154, 120), -1, cv2.LINE_AA)
        cv2.ellipse(frame, (int(x), int(y - 34)), (90, 84), sway / 4, 180, 360, (52, 38, 34), -1, cv2.LINE_AA)
        hand = np.array([x + 150 + 60 * math.sin(2 * t), 470 - 50 * math.cos(2 * t)])
        cv2.line(frame, (int(x + 120), 500), tuple(hand.astype(int)), (40, 44, 60), 44, cv2.LINE_AA)
        cv2.circle(frame, tuple(hand.astype(int)), 26, (208, 154, 120), -1, cv2.LINE_AA)
        for hx, hy, hr, ph in heads:
            dy = int(3 * math.sin(t * 2 + ph))
            cv2.circle(frame, (hx, hy + dy), hr, (16, 13, 15), -1, cv2.LINE_AA)
            cv2.ellipse(frame, (hx, hy + hr + 60), (hr + 34, 80), 0, 180, 360, (16, 13, 15), -1, cv2.LINE_AA)
        caption(frame, "Aisle camera")
        yield camera_grain(frame, n, grain)


def encode(name: str, frames: Callable[[], Iterator[np.ndarray]], crf: int) -> None:
    path = MEDIA / f"{name}.mp4"
    out: av.container.OutputContainer | None = None
    for picture in frames():
        rgb = np.clip(picture, 0, 255).astype(np.uint8)
        if out is None:
            out = av.open(str(path), "w", options={"movflags": "+faststart"})
            stream = out.add_stream("libx264", rate=RATE)
            stream.width, stream.height, stream.pix_fmt = rgb.shape[1], rgb.shape[0], "yuv420p"
            # Several slices and no deblocking of B-frames would be faster still; this is the fair middle.
            stream.options = {"crf": str(crf), "preset": "medium", "tune": "fastdecode", "g": "60", "bf": "0"}
            context = stream.codec_context
            context.colorspace = context.color_primaries = context.color_trc = 1
            context.color_range = 1
        frame = av.VideoFrame.from_ndarray(np.ascontiguousarray(rgb), "rgb24")
        frame = frame.reformat(
            format="yuv420p", dst_colorspace="ITU709", src_color_range="JPEG", dst_color_range="MPEG"
        )
        for packet in stream.encode(frame):
            out.mux(packet)
    assert out is not None
    for packet in stream.encode():
        out.mux(packet)
    out.close()
    print(f"{path.name}: {path.stat().st_size / 1e6:.2f} MB", flush=True)


# -- cards ---------------------------------------------------------------------------------------------------------


def moon_wipe() -> None:
    """A picture to wipe by: dark in the middle, a little uneven as a moon's face is, bright at the edge."""
    width, height = 960, 480
    y, x = np.mgrid[0:height, 0:width].astype(np.float32)
    away = np.hypot(x - width / 2 + 0.5, y - height / 2 + 0.5) / np.hypot(width / 2, height / 2)
    rough = smooth_noise(height, width, [(24, 1.0), (9, 0.5)], 8) - 0.5
    order = np.clip(away + 0.22 * rough, 0, None)
    rank = order.ravel().argsort().argsort().reshape(height, width) / (width * height - 1)
    MEDIA.mkdir(parents=True, exist_ok=True)
    cv2.imwrite(str(MEDIA / "moon-wipe.png"), np.rint(255 * rank).astype(np.uint8))


def cards() -> None:
    from PySide6.QtCore import QPointF, QRectF, Qt
    from PySide6.QtGui import QColor, QFont, QFontDatabase, QGuiApplication, QImage, QPainter, QPen, QRadialGradient

    app = QGuiApplication.instance() or QGuiApplication([])
    assert app
    for face in (ROOT / "desk" / "fonts").glob("*.otf"):
        QFontDatabase.addApplicationFont(str(face))

    def canvas(w: int, h: int, colour: tuple[int, ...]) -> tuple[QImage, QPainter]:
        image = QImage(w, h, QImage.Format.Format_RGB32)
        image.fill(QColor(*colour))
        p = QPainter(image)
        p.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.TextAntialiasing)
        return image, p

    def text(
        p: QPainter,
        x: float,
        y: float,
        words: str,
        px: int,
        colour: tuple[int, ...],
        bold: bool = False,
        mono: bool = False,
        width: float = 1600,
        align: Qt.AlignmentFlag = Qt.AlignmentFlag.AlignLeft,
    ) -> None:
        font = QFont("B612 Mono" if mono else "B612")
        font.setPixelSize(px)
        font.setBold(bold)
        p.setFont(font)
        p.setPen(QColor(*colour))
        p.drawText(
            QRectF(x, y, width, px * 5), int(align | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap), words
        )

    def arcs(p: QPainter, x: float, y: float, colour: tuple[int, ...], radii: list[int], start: int, span: int) -> None:
        p.setBrush(Qt.BrushStyle.NoBrush)
        for k, r in enumerate(radii):
            p.setPen(QPen(QColor(*colour), 3 if k % 3 else 6))
            p.drawArc(QRectF(x - r, y - r, 2 * r, 2 * r), (start + 17 * k) * 16, (span - 9 * k) * 16)

    def save(image: QImage, p: QPainter, folder: str, name: str) -> None:
        p.end()
        (MEDIA / folder).mkdir(parents=True, exist_ok=True)
        image.save(str(MEDIA / folder / name), "PNG", 1)

    slides = [
        ("A hundred years\nof looking up", "Lanternfell Observatory", "Centenary Night"),
        ("A tram depot,\na dome, a debt", "How the first mirror came up the hill", "1926"),
        ("41 000 plates", "Every clear night since the first winter, kept in one room", "The archive"),
        ("One comet,\ntwo notebooks", "What the night assistants wrote, and what the sky did", "1957"),
        ("The roof still\nopens by hand", "Sixty-four turns of the crank, in under two minutes", "Tonight"),
        ("Thank you for\nkeeping it dark", "The lamps on Depot Lane go out at ten", "Goodnight"),
    ]
    for k, (head, line, kicker) in enumerate(slides):
        image, p = canvas(1920, 960, PAPER)
        arcs(p, 1560, 420, (204, 194, 172), list(range(90, 760, 46)), 20 * k, 150)
        arcs(p, 1560, 420, AMBER, [182 + 46 * k], 60 + 25 * k, 70)
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(QColor(*INK))
        p.drawEllipse(QPointF(1560, 420), 16, 16)
        text(p, 128, 118, kicker, 40, (150, 112, 52), bold=True)
        text(p, 124, 210, head, 132, INK, bold=True, width=1250)
        text(p, 128, 626, line, 44, (92, 94, 100), width=1180)
        p.fillRect(QRectF(0, 846, 1920, 114), QColor(*AMBER))
        text(p, 128, 878, "Lanternfell Observatory", 40, INK, bold=True)
        text(p, 1592, 878, f"{k + 1} / {len(slides)}", 40, INK, mono=True, width=200, align=Qt.AlignmentFlag.AlignRight)
        save(image, p, "slides", f"slide-{k + 1}.png")

    notes = [
        ("Greet the night assistants by name: front row, left.", "Slide 2 after the laugh."),
        ("The mirror story: short version.", "If the roof camera is up, point at the dome."),
        ("Plates: hold for the count. 41 000.", "Wait for the masts to settle."),
    ]
    for k, (head, line) in enumerate(notes):
        image, p = canvas(1920, 1080, (14, 18, 20))
        text(p, 110, 90, f"Notes  {k + 1} of {len(notes)}", 54, AMBER, bold=True)
        text(p, 110, 240, head, 108, (240, 234, 220), bold=True, width=1700)
        text(p, 110, 760, line, 72, (159, 176, 177), width=1700)
        p.fillRect(QRectF(110, 1000, 1700, 8), QColor(49, 69, 75))
        p.fillRect(QRectF(110, 1000, 1700 * (k + 1) / len(notes), 8), QColor(*AMBER))
        save(image, p, "notes", f"note-{k + 1}.png")

    patrons = [
        ("The Depot Lane Neighbours", "for the dark"),
        ("Night Assistants' Guild", "for the hours"),
        ("The Glass Fund", "for the mirror"),
        ("Friends of the Crank", "for the roof"),
        ("Lanternfell School", "for the questions"),
    ]
    for k, (who, why) in enumerate(patrons):
        image, p = canvas(1920, 1080, (24, 30, 52))
        wash = QRadialGradient(QPointF(300 + 330 * k, 1160), 1300)
        tint = [(86, 70, 110), (60, 84, 120), (50, 96, 100), (112, 74, 62), (84, 92, 60)][k]
        wash.setColorAt(0, QColor(*tint))
        wash.setColorAt(1, QColor(*tint, 0))
        p.fillRect(image.rect(), wash)
        rng = np.random.default_rng(40 + k)
        for _ in range(150):
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(QColor(230, 230, 250, int(30 + 190 * rng.random() ** 3)))
            r = 1 + 2.4 * rng.random() ** 2
            p.drawEllipse(QPointF(1920 * rng.random(), 700 * rng.random()), r, r)
        text(p, 160, 330, "With thanks to", 56, AMBER)
        text(p, 156, 430, who, 128, (240, 234, 222), bold=True, width=1640)
        text(p, 160, 830, why, 64, (176, 186, 204))
        save(image, p, "patrons", f"patron-{k + 1}.png")

    image, p = canvas(1920, 1080, (18, 22, 34))
    arcs(p, 960, 470, (60, 70, 100), list(range(110, 720, 38)), 10, 200)
    arcs(p, 960, 470, AMBER, [186, 414], 70, 80)
    text(p, 160, 800, "Back in a moment", 84, PAPER, bold=True, align=Qt.AlignmentFlag.AlignHCenter)
    text(p, 160, 920, "Lanternfell Observatory", 44, (159, 170, 190), align=Qt.AlignmentFlag.AlignHCenter)
    save(image, p, ".", "hold-card.png")


CLIPS: dict[str, tuple[Callable[[], Iterator[np.ndarray]], int]] = {
    "star-trails": (star_trails, 25),
    "orrery": (orrery, 22),
    "moon-phases": (moon_phases, 21),
    "roof-camera": (roof_camera, 26),
    "aisle-camera": (aisle_camera, 26),
}

if __name__ == "__main__":
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--only", nargs="*", choices=[*CLIPS, "cards", "moon-wipe"])
    wanted = parser.parse_args().only or [*CLIPS, "cards", "moon-wipe"]
    MEDIA.mkdir(parents=True, exist_ok=True)
    for clip in CLIPS:
        if clip in wanted:
            encode(clip, *CLIPS[clip])
    if "cards" in wanted:
        cards()
    if "moon-wipe" in wanted:
        moon_wipe()
