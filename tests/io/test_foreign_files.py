"""Files from others that mean no well: each costs a sentence or its own picture, never the program."""

from __future__ import annotations

import os
import signal
import subprocess
from pathlib import Path

import cv2
import numpy as np
import pytest

from ushering_adze.core.picture.cards import lost_picture
from ushering_adze.core.show import Folder, ShowError
from ushering_adze.io import apart
from ushering_adze.io.exchange.dxf import read_outlines
from ushering_adze.io.exchange.guide import read_guide
from ushering_adze.io.media import open_player
from ushering_adze.io.reader import svg_size

SVG = '<svg xmlns="http://www.w3.org/2000/svg" {size}>{inside}</svg>'


@pytest.mark.parametrize("text", ["no file \udce9clair.png", "a\x00b", "\ud800", "", "x" * 20_000])
def test_any_text_can_be_drawn_on_the_picture_of_a_lost_source(text: str) -> None:
    assert lost_picture(text, text).shape == (720, 1280, 4)


def test_a_folder_of_names_that_are_no_text_plays_and_may_vanish(tmp_path: Path) -> None:
    names = [b"plain.png", b"not utf-8 \xe9\xff.png", b"broken \xe9.png"]
    picture = cv2.imencode(".png", np.full((8, 8, 3), 200, np.uint8))[1].tobytes()
    for name in names:
        (tmp_path / os.fsdecode(name)).write_bytes(picture if b"broken" not in name else b"no picture")
    player = open_player(Folder(id="f", name="Stills", path=str(tmp_path), hold=1))
    assert player.fault is None
    shapes = {player.exact(float(n)).pixels.shape for n in range(3)}
    assert shapes == {(8, 8, 4), (720, 1280, 4)}, "the broken one is named, the others are shown"
    for name in names:
        (tmp_path / os.fsdecode(name)).unlink()
    tmp_path.rmdir()
    fresh = open_player(Folder(id="f", name="Stills", path=str(tmp_path), hold=1))
    assert fresh.fault is not None and "no folder" in fresh.fault and fresh.exact(0.0).pixels.shape == (720, 1280, 4)


def test_a_folder_that_vanishes_while_it_plays_shows_why(tmp_path: Path) -> None:
    folder = tmp_path / "usb"
    folder.mkdir()
    for n in range(20):
        cv2.imencode(".png", np.full((8, 8, 3), n, np.uint8))[1].tofile(folder / os.fsdecode(b"%d \xe9.png" % n))
    player = open_player(Folder(id="f", name="Stills", path=str(folder), hold=1))
    for file in folder.iterdir():
        file.unlink()
    folder.rmdir()
    assert player.exact(7.0).pixels.shape == (720, 1280, 4)


@pytest.mark.parametrize(
    ("size", "px"),
    [
        ('width="80" height="60"', (80, 60)),
        ('width="1in" height="25.4mm"', (96, 96)),
        ('viewBox="0 0 300 200"', (300, 200)),
        ('width="50%" height="50%" viewBox="0,0,300,200"', (150, 100)),
        ('width="3.2e11" height="3.2e11"', (3.2e11, 3.2e11)),
        ("", None),
    ],
)
def test_the_size_of_a_drawing_is_known_before_it_is_drawn(size: str, px: tuple[float, float] | None) -> None:
    # CSS Values and Units Level 3, section 5.2: an inch is 96 px, and 2.54 cm
    assert svg_size("<?xml version='1.0'?><!-- <svg -->" + SVG.format(size=size, inside="")) == (
        pytest.approx(px) if px else None
    )


@pytest.mark.parametrize("side", ["320000000000", "60000"])
def test_a_drawing_too_large_to_draw_is_refused_by_its_size(side: str, tmp_path: Path) -> None:
    path = tmp_path / "huge.svg"
    path.write_text(SVG.format(size=f'width="{side}" height="{side}"', inside="<rect width='9' height='9'/>"))
    with pytest.raises(ShowError, match=r"huge.svg: it is .* × .* px, .*smaller"):
        read_guide(path)


def test_a_drawing_that_brings_its_reader_down_costs_one_sentence(tmp_path: Path) -> None:
    path = tmp_path / "deep.svg"
    path.write_text(SVG.format(size='width="80" height="60"', inside="<g>" * 200_000 + "</g>" * 200_000))
    with pytest.raises(ShowError, match=r"deep.svg: .*(crashed|gave up|no SVG).*PNG") as told:
        read_guide(path)
    assert "\n" not in str(told.value)
    path.write_text(SVG.format(size='width="80" height="60"', inside="<rect width='80' height='60' fill='red'/>"))
    assert read_guide(path)[30, 40].tolist() == [0, 0, 255, 255], "the next drawing is read as ever"


def test_a_reader_that_crashes_hangs_or_eats_memory_is_told(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "map.pdf"
    path.write_bytes(b"%PDF")

    real = subprocess.Popen

    def reader(what: str) -> None:
        monkeypatch.setattr(apart.subprocess, "Popen", lambda command, **more: real([command[0], "-c", what], **more))

    reader(f"import os; os.kill(os.getpid(), {int(signal.SIGSEGV)})")
    with pytest.raises(ShowError, match=r"map.pdf: its reader crashed on it \(SIGSEGV\)"):
        apart.read_apart("pdf", path)
    reader("import time; time.sleep(600)")
    with pytest.raises(ShowError, match="stopped"):
        apart.read_apart("pdf", path, seconds=0.2)
    monkeypatch.undo()
    monkeypatch.setattr(apart, "LEAST_BYTES", 1 << 20)
    monkeypatch.setattr(apart, "MOST_BYTES", 1 << 20)
    with pytest.raises(ShowError, match=r"map.pdf: .*(gave up|memory|crashed|read)"):
        apart.read_apart("pdf", path)


@pytest.mark.parametrize(
    "data",
    [
        b"",
        b"0\n",
        b"0\nSECTION\n2\nENTITIES\n",
        b"\x00" * 64,
        b"0\nSECTION\n2\nHEADER\n9\n$ACADVER\n1\nAC9999\n",
        b"AutoCAD Binary DXF\r\n\x1a\x00" + b"\xff" * 40,
        b"  0\nSECTION\n  2\nENTITIES\n 0\nLWPOLYLINE\n 90\nx\n0\nEOF\n",
    ],
)
def test_short_and_odd_drawings_are_one_sentence(data: bytes, tmp_path: Path) -> None:
    path = tmp_path / "panels.dxf"
    path.write_bytes(data)
    with pytest.raises(ShowError, match=r"^panels.dxf: .*(damaged|no closed polyline|no DXF)"):
        read_outlines(path)
