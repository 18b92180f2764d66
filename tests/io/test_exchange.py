"""What goes out to others and comes back: tables, pixel maps in three formats, templates, outlines, guide pictures, and
the commands.
"""

from __future__ import annotations

import json
import xml.etree.ElementTree as ElementTree
from pathlib import Path

import cv2
import ezdxf
import numpy as np
import pypdfium2
import pytest
from PIL import Image

from commanded import adze
from ushering_adze.core.exchange.content import content_rows, h264_level
from ushering_adze.core.exchange.pixelmap import canvas_map, output_map, surface_map, template
from ushering_adze.core.exchange.region_table import (
    COLUMNS,
    as_table,
    matched_columns,
    read_rows,
    with_rows,
    with_show_regions,
)
from ushering_adze.core.exchange.sheet import Box, Line, Sheet, Words, as_svg
from ushering_adze.core.mapping.lands import turned
from ushering_adze.core.mapping.regions import rect_of, without_regions
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.seeing.find import find_rectangles
from ushering_adze.core.show import Show, ShowError
from ushering_adze.core.show.show import faults_of
from ushering_adze.demo.show import copy_demo, demo_show
from ushering_adze.io.exchange.dxf import outline_rects, read_outlines
from ushering_adze.io.exchange.guide import read_guide
from ushering_adze.io.exchange.sheets import sheet_picture, write_sheet
from ushering_adze.io.showfile import media_faults, portable, read_show, save_show


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory) -> Path:
    folder = tmp_path_factory.mktemp("demo")
    copy_demo(folder)
    return folder / "show.adze"


# -- tables ------------------------------------------------------------------------------------------------------------


@pytest.mark.parametrize("mark", [",", "\t"])
def test_a_table_round_trip_changes_nothing_and_makes_what_was_gone_anew(mark: str) -> None:
    show = turned(demo_show(), ["west-mast"], 180)
    text = as_table(show, mark)
    assert text.splitlines()[0].split(mark) == list(COLUMNS)
    rows, faults = read_rows(text)
    again, more, count = with_rows(show, rows)
    assert not faults and not more and count == 8 and again == show
    bare = without_regions(show, [r.id for _, r in show.regions()])
    fresh, faults, count = with_rows(bare, rows)
    assert not faults and count == 8 and not faults_of(fresh)
    for (ca, a), (cb, b) in zip(show.regions(), fresh.regions(), strict=True):
        assert (ca.id, rect_of(a), a.output, a.landing.x, a.landing.y) == (
            cb.id,
            rect_of(b),
            b.output,
            b.landing.x,
            b.landing.y,
        )


def test_headings_of_others_are_understood_and_rows_that_are_wrong_are_told_one_by_one() -> None:
    assert matched_columns(["Label", "Start X", "Start Y", "W (px)", "Height", "Port"]) == dict(
        zip(("name", "x", "y", "w", "h", "output"), range(6), strict=True)
    )
    text = (
        "Screen;X;Y;Width;Height;Output;Out X;Out Y\nA;0;0;100;50;1;0;1000\nB;0;0;-4;50;1;0;1000\n"
        "C;ten;0;10;50;1;0;1000\nD;0;0;10;50;Nowhere;0;0\nE;0;0;10.5;50;1;;\nF;0;0;120;60;processor-a;50;1010\n"
        "G;0;0;40000;60;1;0;0\n"
    )
    rows, faults = read_rows(text)
    show, more, count = with_rows(demo_show(), rows)
    told = [str(f) for f in (*faults, *more)]
    for place, why in (
        ("row 3", "w is -4"),
        ("row 4", 'x: "ten" is not a number'),
        ("row 6", "whole pixels"),
        ("row 8", "past the largest canvas"),
        ("row 5", 'no output "Nowhere"; there are: processor-a'),
        ("row 7", "the same pixels of processor-a as row 2"),
    ):
        assert any(t.startswith(place) and why in t for t in told), (place, told)
    assert count == 1 and [r.name for _, r in show.regions()][-4:] == ["A", "Foyer wall", "Lectern", "Relay"]
    for bad, why in (
        ("title,x,y,w\nA,1,2,3\n", 'no column "name"'),
        ("name,canvas\nA,b\n", "no column tells where"),
        ("", "empty"),
    ):
        with pytest.raises(ShowError, match=why):
            read_rows(bad)
    with pytest.raises(ShowError, match="no canvas or no output"):
        with_rows(Show(name="Bare"), rows)
    _, faults, count = with_show_regions(without_regions(demo_show(), ["meridian"]), demo_show())
    assert count == 8 and not faults, "the regions of another show"


# -- pixel maps --------------------------------------------------------------------------------------------------------


def visible(show: Show, canvas: str) -> list[tuple[int, int, int, int]]:
    return sorted(tuple(rect_of(r)) for c, r in show.regions() if c.id == canvas)


@pytest.mark.parametrize("suffix", [".png", ".svg", ".pdf"])
def test_a_pixel_map_has_its_exact_size_and_its_regions_are_found_again(suffix: str, tmp_path: Path) -> None:
    show = demo_show()
    path = tmp_path / f"map{suffix}"
    write_sheet(canvas_map(show, "house"), path)
    picture = read_guide(path)
    assert picture.shape == (2040, 4112, 4)
    found = sorted(tuple(f.rect) for f in find_rectangles(picture))
    wanted = [r for r in visible(show, "house") if r[:2] != (256, 0)]
    assert [f for f in found if f[:2] != (256, 0)] == wanted and (256, 0, 1680, 1080) in found, (
        "the overlap belongs to the one drawn last"
    )
    if suffix == ".png":
        assert (picture[1080, 1096] == 255).all() and (picture[2039, 3015] == 255).all(), "edge pixels are white"
        assert picture[1079, 1500, :3].tolist() != picture[1090, 1500, :3].tolist()
        assert (picture[1200, 1096 + 192 * 3, :3] == (214, 211, 201)).all(), "a cabinet begins on its column"
    elif suffix == ".svg":
        tree = ElementTree.parse(path)
        assert tree.getroot().get("viewBox") == "0 0 4112 2040" and "Meridian" in "".join(tree.getroot().itertext())
    else:
        document = pypdfium2.PdfDocument(path)
        assert len(document) == 1 and document[0].get_size() == (4112, 2040)
        assert "Meridian" in document[0].get_textpage().get_text_range()


def test_maps_of_outputs_and_surfaces_and_templates() -> None:
    show = turned(demo_show(), ["east-mast"], 180)
    sheet = output_map(show, "processor-b")
    assert (sheet.width, sheet.height) == (1024, 768)
    words = [item.text for item in sheet.items if isinstance(item, Words)]
    assert (
        "West mast" in words
        and any("256×768 at 256, 0 turned 180°" in w for w in words)
        and any("from House 3856, 636" in w for w in words)
    )
    wall = surface_map(show, "meridian")
    words = [item.text for item in wall.items if isinstance(item, Words)]
    assert {"port 1", "1/1", "10/5"} <= set(words) and (wall.width, wall.height) == (1920, 960)
    overlap = [
        item
        for item in surface_map(show, "horizon").items
        if isinstance(item, Words) and item.text.startswith("overlap")
    ]
    assert [w.text for w in overlap] == ["overlap 240 px"]
    meridian = show.surface("meridian")
    holed = show.model_copy(
        update={
            "surfaces": tuple(
                meridian.model_copy(update={"missing": ({"column": 3, "row": 2},)}) if s.id == "meridian" else s
                for s in show.surfaces
            )
        }
    )
    holed = Show.model_validate(holed.model_dump())
    picture = sheet_picture(template(holed, "meridian"))
    hole = picture[192:384, 384:576, 3]
    assert picture.shape == (960, 1920, 4) and (hole == 0).mean() > 0.8 and (picture[0:190, 0:190, 3] == 255).all()
    with pytest.raises(KeyError):
        canvas_map(show, "nowhere")


def test_boxes_and_upright_lines_are_exact_and_bad_suffixes_are_told(tmp_path: Path) -> None:
    sheet = Sheet(
        20, 10, (Box(2, 3, 10, 5, fill="#336699", stroke="#FFFFFF"), Line(7, 3, 7, 8, "#FF0000")), "#000000", "A & B"
    )
    picture = sheet_picture(sheet)
    expected = np.zeros((10, 20, 4), np.uint8)
    expected[..., 3] = 255
    expected[3:8, 2:12, :3] = 255
    expected[4:7, 3:11, :3] = (0x99, 0x66, 0x33)
    expected[3:8, 7, :3] = (0, 0, 255)
    assert (picture == expected).all()
    assert "<title>A &amp; B</title>" in as_svg(sheet)
    with pytest.raises(ShowError, match=r"written as .png, .svg, .pdf"):
        write_sheet(sheet, tmp_path / "map.gif")
    with pytest.raises(ShowError, match="could not be saved"):
        write_sheet(sheet, Path("/proc/none/map.png"))


def test_what_content_makers_are_told() -> None:
    # Rec. ITU-T H.264 table A-1, from memory: level 4.0 carries 1920×1080 at 30, 5.1 carries 3840×2160 at 30.
    assert (
        h264_level(1920, 1080, 30) == "4.0"
        and h264_level(3840, 2160, 30) == "5.1"
        and h264_level(20000, 200, 30) is None
    )
    rows = {r.surface: r for r in content_rows(demo_show())}
    assert (rows["Meridian"].width, rows["Meridian"].height, rows["Meridian"].shape) == (1920, 960, "2:1")
    assert rows["Meridian"].pitch_mm == 2.604 and rows["Horizon"].shape == "10:3" and "level" in rows["Horizon"].encode


# -- outlines and guides -----------------------------------------------------------------------------------------------


def test_outlines_of_panels_become_rectangles_in_pixels(tmp_path: Path) -> None:
    drawing = ezdxf.new(units=ezdxf.units.M)
    space = drawing.modelspace()
    for n in range(3):  # three panels of 0.5 m side by side, 1 m high, their feet 2 m up
        x = 10 + n * 0.5
        space.add_lwpolyline(
            [(x, 2), (x + 0.5, 2), (x + 0.5, 3), (x, 3)], close=True, dxfattribs={"layer": f"PANEL{n}"}
        )
    space.add_lwpolyline([(0, 0), (1, 1)])
    space.add_lwpolyline([(13, 2), (14, 2.5), (13, 3)], close=True)
    path = tmp_path / "panels.dxf"
    drawing.saveas(path)
    outlines, faults = read_outlines(path)
    assert [(o.layer, round(o.x_mm), round(o.y_mm), round(o.w_mm), round(o.h_mm)) for o in outlines[:3]] == [
        (f"PANEL{n}", n * 500, 0, 500, 1000) for n in range(3)
    ]
    assert [str(f).split(":")[0] for f in faults] == ["polyline 4", "outline 4"] and "not closed" in str(faults[0])
    assert outline_rects(outlines[:3], 500 / 192) == [
        Rect(0, 0, 192, 384),
        Rect(192, 0, 192, 384),
        Rect(384, 0, 192, 384),
    ]
    with pytest.raises(ShowError, match="no scale"):
        outline_rects(outlines, 0)
    with pytest.raises(ShowError, match="under a pixel"):
        outline_rects(outlines, 5000)
    path.write_text(path.read_text()[:400])
    with pytest.raises(ShowError, match=r"damaged|no closed"):
        read_outlines(path)
    with pytest.raises(ShowError, match="no such file"):
        read_outlines(tmp_path / "none.dxf")


def test_guides_of_every_kind_and_those_that_cannot_be_read(tmp_path: Path) -> None:
    picture = np.zeros((60, 80, 3), np.uint8)
    picture[10:50, 20:60] = (200, 100, 50)
    for name in ("g.png", "g.jpg", "g.tiff", "g.webp"):
        cv2.imwrite(str(tmp_path / name), picture)
        assert read_guide(tmp_path / name).shape == (60, 80, 4)
    (tmp_path / "g.svg").write_text(
        '<svg xmlns="http://www.w3.org/2000/svg" width="80" height="60"><rect x="20" y="10" width="40" height="40" '
        'fill="#3264c8"/></svg>'
    )
    svg = read_guide(tmp_path / "g.svg")
    assert svg.shape == (60, 80, 4) and svg[30, 40].tolist() == [200, 100, 50, 255] and svg[2, 2, 3] == 0
    for name, data, why in (
        ("bad.pdf", b"%PDF-1.4 nothing", "damaged"),
        ("bad.svg", b"<svg", "no SVG"),
        ("bad.png", b"\x89PNG\r\n", "cannot be read"),
        ("none.png", None, "no such picture"),
    ):
        if data is not None:
            (tmp_path / name).write_bytes(data)
        with pytest.raises(ShowError, match=why):
            read_guide(tmp_path / name)
    Image.new("1", (20000, 20000)).save(tmp_path / "huge.png")
    with pytest.raises(ShowError, match=r"20000 × 20000 px|million px"):
        read_guide(tmp_path / "huge.png")


def test_a_guide_goes_with_the_show_file(tmp_path: Path) -> None:
    from ushering_adze.core.show import Guide

    show = demo_show()
    house = show.canvas("house").model_copy(update={"guide": Guide(path=str(tmp_path / "a" / "g.png"), x=3)})
    show = show.model_copy(update={"canvases": (house, *show.canvases[1:])})
    assert portable(show, tmp_path / "a").canvas("house").guide.path == "g.png"
    assert any("canvases[0].guide.path" in str(f) for f in media_faults(show))
    save_show(show, tmp_path / "s.adze")
    assert read_show(tmp_path / "s.adze") == show and '"a/g.png"' in (tmp_path / "s.adze").read_text()


# -- commands ----------------------------------------------------------------------------------------------------------


def test_the_commands_of_maps(demo: Path, tmp_path: Path) -> None:
    out = tmp_path / "house.png"
    assert adze("pixelmap", demo, "--canvas", "house", "--out", out).stdout.strip().endswith("4112×2040 px")
    found = json.loads(adze("find-regions", out, "--json").stdout)
    assert len(found) == 5 and {"x", "y", "w", "h", "confidence"} <= set(found[0])
    assert {(f["x"], f["y"], f["w"], f["h"]) for f in found} >= {(1096, 1080, 1920, 960), (0, 636, 256, 768)}
    wrong = adze("pixelmap", demo, "--canvas", "nowhere", "--out", out)
    assert (
        wrong.returncode == 2
        and 'no canvas "nowhere"; there are: house, foyer' in wrong.stderr
        and wrong.stderr.count("\n") == 1
    )
    table = tmp_path / "r.csv"
    table.write_text(adze("regions", demo, "--csv").stdout.replace("0,636,256,768", "8,640,256,768"))
    assert json.loads(adze("regions", demo, "--json").stdout)[2]["out_x"] == 0
    done = adze("regions", demo, "--import", table, "--save")
    assert done.returncode == 0 and "8 regions imported and saved" in done.stderr
    assert next(r for _, r in read_show(demo).regions() if r.id == "west-mast").x == 8
    table.write_text("name,x,y,w,h\nA,0,0,0,5\nB,0,0,10,10\n")
    before = demo.read_bytes()
    bad = adze("regions", demo, "--import", table, "--save")
    assert (
        bad.returncode == 2 and "row 2: w is 0" in bad.stderr and "--good" in bad.stderr and demo.read_bytes() == before
    )
    good = adze("regions", demo, "--import", table, "--save", "--good")
    assert good.returncode == 0 and [r.name for _, r in read_show(demo).regions()].count("B") == 1
    checked = adze("proof", demo, "--json")
    rules = {f["rule"] for f in json.loads(checked.stdout)}
    assert checked.returncode == 0 and "asymmetric" in rules, "West mast was moved, East mast was not"
    table.write_text("name,canvas,x,y,w,h,output,out_x,out_y\nC,house,0,0,10,10,foyer,1915,0\n")
    assert adze("regions", demo, "--import", table, "--save").returncode == 0
    checked = adze("proof", demo)
    assert (
        checked.returncode == 1
        and "off-raster" in checked.stdout
        and "claimed-twice" in checked.stdout
        and "2 errors" in checked.stdout
    )
    assert adze("template", demo, "--out", tmp_path / "t").returncode == 0
    assert (tmp_path / "t" / "sizes.tsv").read_text().startswith("surface\twidth")
    assert Image.open(tmp_path / "t" / "meridian.png").mode == "RGBA"


def test_panels_in_blocks_turned_scaled_and_mirrored_are_where_they_are_drawn(tmp_path: Path) -> None:
    """Inserts at quarter turns, scaled unevenly, in rows, within one another, and on the back of the plane; expected by
    hand.
    """
    drawing = ezdxf.new(units=ezdxf.units.MM)
    panel = drawing.blocks.new("PANEL")
    panel.add_lwpolyline([(0, 0), (500, 0), (500, 250), (0, 250)], close=True)
    pair = drawing.blocks.new("PAIR")
    pair.add_blockref("PANEL", (0, 0))
    pair.add_blockref("PANEL", (500, 0), dxfattribs={"xscale": 2, "layer": "WIDE"})
    space = drawing.modelspace()
    space.add_blockref("PANEL", (0, 0), dxfattribs={"layer": "PLAIN"})
    space.add_blockref("PANEL", (1000, 0), dxfattribs={"rotation": 90, "layer": "TURNED"})
    space.add_blockref("PAIR", (2000, 1000), dxfattribs={"layer": "PAIR"})
    space.add_blockref("PANEL", (0, 2000), dxfattribs={"column_count": 3, "column_spacing": 600, "layer": "ROW"})
    space.add_lwpolyline(
        [(0, 0), (100, 0), (100, 50), (0, 50)], close=True, dxfattribs={"extrusion": (0, 0, -1), "layer": "BACK"}
    )
    space.add_lwpolyline(
        [(0, 0), (10, 0), (10, 10), (0, 10)], close=True, dxfattribs={"extrusion": (1, 0, 0), "layer": "UPRIGHT"}
    )
    space.add_lwpolyline(
        [(3000, 0, 0), (3100, 0, 1), (3100, 100, 0), (3000, 100, 0)],
        format="xyb",
        close=True,
        dxfattribs={"layer": "ARC"},
    )
    space.add_circle((0, 0), 50)
    space.add_line((0, 0), (1, 1))
    path = tmp_path / "blocks.dxf"
    drawing.saveas(path)
    outlines, faults = read_outlines(path)
    left, top = -100, 2250
    boxes = {
        (o.layer, round(o.x_mm + left, 3), round(top - o.y_mm - o.h_mm, 3), round(o.w_mm, 3), round(o.h_mm, 3))
        for o in outlines
    }
    assert boxes >= {
        ("PLAIN", 0, 0, 500, 250),
        ("TURNED", 750, 0, 250, 500),
        ("PAIR", 2000, 1000, 500, 250),
        ("WIDE", 2500, 1000, 1000, 250),
        ("ROW", 0, 2000, 500, 250),
        ("ROW", 600, 2000, 500, 250),
        ("ROW", 1200, 2000, 500, 250),
        ("BACK", -100, 0, 100, 50),
    }
    arc = next(b for b in boxes if b[0] == "ARC")
    assert arc[1:3] == (3000, 0) and arc[3] == pytest.approx(150, abs=0.02) and arc[4] == 100 and len(boxes) == 9
    told = "\n".join(map(str, faults))
    assert (
        "does not lie in the plane of the drawing" in told
        and "left out, being no closed polylines: 1 CIRCLE, 1 LINE" in told
    )
    assert 'no upright rectangle (layer "ARC"); the box around it is taken' in told
