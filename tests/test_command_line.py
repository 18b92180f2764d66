"""The command line as a user runs it: pictures, reports, and one sentence with exit 2 for anything bad."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import cv2
import jsonschema
import numpy as np
import pytest

import commanded
from ushering_adze.core.show import Show, document_of
from ushering_adze.io.media.clip import frame_at
from ushering_adze.io.showfile import read_show


def adze(*args: object, ok: bool = True, env: dict[str, str] | None = None) -> subprocess.CompletedProcess[str]:
    """A command in this process; in one of its own if it needs another environment, or plays in its own time."""
    if env is None and "--headless" not in args and "demo" not in args[:1]:
        done = commanded.adze(*args)
    else:
        done = subprocess.run(
            [sys.executable, "-m", "ushering_adze", *map(str, args)],
            capture_output=True,
            text=True,
            timeout=300,
            env=env,
        )
    if ok:
        assert done.returncode == 0, done.stderr
    return done


def rgb(path: Path) -> np.ndarray:
    picture = cv2.imread(str(path), cv2.IMREAD_UNCHANGED)
    assert picture is not None and picture.shape[2] == 3
    return picture[..., ::-1]


def test_white_on_both_projectors_adds_to_one_across_the_overlap(demo_file: Path, tmp_path: Path) -> None:
    adze("pattern", demo_file, "white", "--out", tmp_path)
    show = read_show(demo_file)
    assert {p.name for p in tmp_path.iterdir()} == {f"{o.id}.png" for o in show.outputs}
    for output in show.outputs:
        assert rgb(tmp_path / f"{output.id}.png").shape == (output.timing.height, output.timing.width, 3)
    left, right = (
        (rgb(tmp_path / f"projector-{s}.png") / 255.0) ** show.output(f"projector-{s}").picture.gamma
        for s in ("left", "right")
    )
    assert np.abs(left[:, 1680:] + right[:, :240] - 1).max() <= 0.01
    assert (left[:, :1680] == 1).all() and (right[:, 240:] == 1).all()


def test_another_gamma_still_blends(show: Show, demo_file: Path, tmp_path: Path) -> None:
    document = document_of(show)
    document["outputs"][2]["picture"]["gamma"], document["outputs"][3]["picture"]["gamma"] = 1.8, 2.6
    path = demo_file.parent / "other-gamma.adze"
    path.write_text(json.dumps(document))
    adze("pattern", path, "white", "--out", tmp_path)
    left, right = ((rgb(tmp_path / f"projector-{s}.png") / 255.0) ** g for s, g in (("left", 1.8), ("right", 2.6)))
    assert np.abs(left[:, 1680:] + right[:, :240] - 1).max() <= 0.01


def test_keynote_settles_and_meridian_is_a_copy_of_its_canvas(demo_file: Path, tmp_path: Path) -> None:
    adze("render", demo_file, "--preset", 5, "--out", tmp_path, "--canvases")
    meridian, canvas = rgb(tmp_path / "processor-a.png"), rgb(tmp_path / "canvas-house.png")
    assert (meridian[:960] == canvas[1080:2040, 1096:3016]).all() and (meridian[960:] == 0).all()
    assert (meridian[:960] == rgb(demo_file.parent / "media/slides/slide-1.png")).all(), "one slide pixel on one LED"
    masts = rgb(tmp_path / "processor-b.png")
    assert (masts[:, :256] == canvas[636:1404, :256]).all() and (masts[:, 256:512] == canvas[636:1404, 3856:]).all()


def test_moon_reveal_is_half_way_after_a_second(demo_file: Path, tmp_path: Path) -> None:
    document = json.loads(demo_file.read_text())
    next(p for p in document["presets"] if p["number"] == 7).pop("way")  # dissolved instead of wiped
    dissolving = demo_file.parent / "dissolving.adze"
    dissolving.write_text(json.dumps(document))
    adze("render", dissolving, "--preset", 7, "--at", 1.0, "--out", tmp_path / "half")
    slide = rgb(demo_file.parent / "media/slides/slide-1.png").astype(float)
    moon = frame_at(demo_file.parent / "media/moon-phases.mp4", 1.0).pixels[
        ..., 2::-1
    ]  # as large as the wall: no resampling
    half = rgb(tmp_path / "half/processor-a.png")[:960]
    assert np.abs(half - (slide + moon) / 2).max() <= 0.5
    assert np.abs(moon - slide).mean() > 60, "and the two are different pictures"


def test_the_same_render_is_the_same_picture(demo_file: Path, tmp_path: Path) -> None:
    for name in ("a", "b"):
        adze("render", demo_file, "--preset", 6, "--at", 0.4, "--out", tmp_path / name)
    for path in (tmp_path / "a").iterdir():
        assert path.read_bytes() == (tmp_path / "b" / path.name).read_bytes()


def test_headless_plays_and_reports(tmp_path: Path) -> None:
    adze("demo", "--headless", "--seconds", 2, "--out", tmp_path)
    report = json.loads((tmp_path / "report.json").read_text())
    assert report["frames"] > 2 and report["fps"] > 0 and report["late_frames"] >= 0 and report["faults"] == {}
    assert [o["id"] for o in report["outputs"]] == [
        "processor-a",
        "processor-b",
        "projector-left",
        "projector-right",
        "foyer",
        "lectern",
        "relay",
    ]
    for output in report["outputs"]:
        picture = rgb(tmp_path / f"{output['id']}.png")
        assert picture.shape == (output["height"], output["width"], 3) and picture.std() > 4 and output["frames"] > 0


def test_without_a_display_the_demo_plays_and_says_where_the_pictures_are(tmp_path: Path) -> None:
    import os

    env = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    done = adze("demo", "--seconds", 1, "--out", tmp_path, env=env)
    assert str(tmp_path / "window.png") in done.stdout and str(tmp_path / "relay.png") in done.stdout
    assert rgb(tmp_path / "window.png").shape == (800, 1280, 3)


def test_schema_is_the_schema_of_the_demo(demo_file: Path) -> None:
    jsonschema.validate(json.loads(demo_file.read_text()), json.loads(adze("schema").stdout))


@pytest.mark.parametrize(
    ("args", "words"),
    [
        (["render", "nowhere.adze", "--preset", 1, "--out", "x"], "nowhere.adze: there is no such show file"),
        (["open", "nowhere.adze"], "there is no such show file"),
        (["render", "SHOW", "--preset", 55, "--out", "x"], "no preset number 55; there are: 1, 2, 3"),
        (["render", "SHOW", "--preset", "five", "--out", "x"], "--preset"),
        (["render", "SHOW", "--preset", 5], "--out"),
        (["pattern", "SHOW", "stripes", "--out", "x"], 'no pattern "stripes"; there are: white, black'),
        (["fly"], "fly"),
        (["demo", "--seconds", 0], "0"),
        (["pattern", "CUT", "white", "--out", "x"], "cut.adze: the file is cut off"),
        (["pattern", "NEWER", "white", "--out", "x"], ": version: the show is of format version 9"),
        (
            ["pattern", "HUGE", "white", "--out", "x"],
            ": canvases[0].width: must be at most 32768 (it is 100000); type another number",
        ),
        (
            ["pattern", "SHOW", "white", "--out", "FILE/x"],
            "the picture could not be saved (a file is where its folder should be)",
        ),
    ],
)
def test_anything_bad_is_one_line_and_exit_2(args: list[object], words: str, demo_file: Path, tmp_path: Path) -> None:
    document = json.loads(demo_file.read_text())
    (tmp_path / "cut.adze").write_text(demo_file.read_text()[:4000])
    (tmp_path / "newer.adze").write_text(json.dumps({**document, "version": 9}))
    document["canvases"][0]["width"] = 100000
    (tmp_path / "huge.adze").write_text(json.dumps(document))
    (tmp_path / "FILE").write_text("")
    names = {
        "SHOW": demo_file,
        "CUT": tmp_path / "cut.adze",
        "NEWER": tmp_path / "newer.adze",
        "HUGE": tmp_path / "huge.adze",
        "FILE/x": tmp_path / "FILE/x",
        "x": tmp_path / "x",
    }
    done = adze(*[names.get(str(a), a) for a in args], ok=False)
    assert done.returncode == 2 and len(done.stderr.strip().splitlines()) == 1 and words in done.stderr
    assert "Traceback" not in done.stderr


def test_lost_media_are_rendered_by_name_and_told(demo_file: Path, tmp_path: Path) -> None:
    lonely = tmp_path / "show.adze"
    lonely.write_text(demo_file.read_text())
    done = adze("render", lonely, "--preset", 7, "--out", tmp_path / "o", ok=False)
    assert done.returncode == 2 and 'sources[0].path: Slides: no folder "' in done.stderr
    assert len(done.stderr.strip().splitlines()) == 1
    assert rgb(tmp_path / "o/processor-a.png").std() > 4, "the named lost picture"


def test_timing_link_edid_and_rig_on_the_command_line(demo_file: Path, tmp_path: Path) -> None:
    made = json.loads(adze("timing", "1920x1080@60", "--standard", "cvt", "--json").stdout)
    assert (
        made["clock_khz"],
        made["h_total"],
        made["v_total"],
        made["interlaced"],
        made["h_positive"],
        made["v_positive"],
    ) == (173000, 2576, 1120, False, False, True)
    assert {"h_active", "h_front", "h_sync", "h_back", "v_active", "v_front", "v_sync", "v_back", "refresh_hz"} <= set(
        made
    )
    rounded = adze("timing", "1366x768@60", "--standard", "cvt")
    assert "1366 px become 1368" in rounded.stderr and "1368×768" in rounded.stdout
    no = adze("link", "3840x2160@60", "--link", "hdmi1.4", "--json", ok=False)
    report = json.loads(no.stdout)
    assert (
        no.returncode == 1
        and not report["fits"]
        and (report["used"], report["capacity"], report["unit"]) == (594, 340, "MHz")
    )
    assert [s["kind"] for s in report["suggestions"]] == ["rate", "links", "connector"]
    assert "297 of 340 MHz" in adze("link", "3840x2160@30", "--link", "hdmi1.4").stdout
    path = tmp_path / "left.bin"
    adze("edid", "make", "1920x2160@60", "--name", "Left half", "--out", path, "--audio")
    assert path.stat().st_size == 256
    read = json.loads(adze("edid", "read", path, "--json").stdout)
    assert (read["name"], read["audio"], read["timings"][0]["clock_khz"]) == ("Left half", True, 277250)
    assert "Preferred       1920×2160" in adze("edid", "read", path).stdout
    rig = json.loads(adze("rig", demo_file, "--json").stdout)
    assert all({"id", "kind", "pixels", "mm", "output", "load"} <= set(s) for s in rig["surfaces"])
    adze("rig", demo_file, "--out", tmp_path / "sheet.pdf")
    assert (tmp_path / "sheet.pdf").read_bytes()[:5] == b"%PDF-"
    path.write_bytes(path.read_bytes()[:200])
    for call, words in (
        (("timing", "0x1080@60"), "a width of 0 px"),
        (("timing", "1920x1080@999"), "a rate of 999 Hz"),
        (("timing", "99999x4@60"), "outside 1 to 32768 px"),
        (("link", "1921x1080@60", "--link", "hdmi2.0", "--bits", "9"), "9 bits"),
        (("edid", "read", path), "left.bin: an EDID is whole blocks"),
        (("edid", "read", tmp_path / "none.bin"), "there is no such EDID"),
        (("edid", "make", "1920x1080@60", "--name", "Far too long a name", "--out", path), "1 to 13 characters"),
        (("rig", demo_file, "--out", tmp_path / "sheet.doc"), "is a .pdf or a .png"),
    ):
        done = adze(*call, ok=False)
        assert done.returncode == 2 and words in done.stderr and done.stderr.count("\n") == 1, done.stderr


def test_the_rig_of_a_show_with_faults_in_it_is_still_told(demo_file: Path, tmp_path: Path) -> None:
    document = json.loads(demo_file.read_text())
    document["outputs"][0]["timing"] |= {"rate": 75, "standard": "cta"}
    document["outputs"][4]["timing"] |= {"width": 3840, "height": 2160}
    document["surfaces"][1]["data"]["gbps"] = 0.01
    path = tmp_path / "odd.adze"
    path.write_text(json.dumps(document))
    rig = json.loads(adze("rig", path).stdout)
    assert "CTA-861 has no 1920×1080 at 75 Hz" in rig["outputs"][0]["wires"][0]["fault"]
    assert rig["outputs"][4]["wires"][0]["fits"] is False
    assert (
        rig["surfaces"][1]["led"]["runs"] == []
        and "one cabinet of 192×192 px is over a port" in rig["surfaces"][1]["led"]["fault"]
    )
    adze("rig", path, "--out", tmp_path / "odd.png")
    assert cv2.imread(str(tmp_path / "odd.png")).shape == (1588 * 6, 2246, 3)
    limits = tmp_path / "slow.bin"
    adze("edid", "make", "1280x720@50", "--name", "Desk", "--out", limits, "--rates", "24-75", "--ycbcr")
    read = json.loads(adze("edid", "read", limits, "--json").stdout)
    assert (read["limits"]["v_min_hz"], read["limits"]["v_max_hz"], read["ycbcr"], read["vics"]) == (
        24,
        75,
        True,
        [19, 1],
    )
    for rates in ("fast", "60-24", "0-60", "24-999"):
        bad = adze("edid", "make", "1280x720@50", "--name", "Desk", "--out", limits, "--rates", rates, ok=False)
        assert bad.returncode == 2 and "no range; write two whole numbers" in bad.stderr


def test_actions_are_played_on_a_clock_of_their_own(tmp_path: Path, demo_file: Path) -> None:
    """The same as `render` for a recall alone; exact in the middle of fades, with some outputs black and a surface
    kept.
    """
    script = [
        {"at": 0, "action": {"do": "recall", "preset": 7}},
        {"at": 1.0, "shoot": "middle"},
        {"at": 1.25, "action": {"do": "black", "outputs": ["relay"]}},
        {"at": 1.25, "action": {"do": "keep", "surface": "foyer-wall"}},
        {"at": 1.5, "action": {"do": "stage", "preset": 4}},
        {"at": 1.5, "action": {"do": "cut"}},
        {"at": 2.0, "shoot": "cut"},
    ]
    path = tmp_path / "actions.json"
    path.write_text(json.dumps(script))
    adze("act", demo_file, path, "--out", tmp_path / "a", "--states")
    adze("act", demo_file, path, "--out", tmp_path / "b")
    adze("render", demo_file, "--preset", 7, "--at", 1.0, "--out", tmp_path / "r")
    for file in sorted((tmp_path / "r").glob("*.png")):
        assert (rgb(file) == rgb(tmp_path / "a" / "middle" / file.name)).all(), file.name
    for file in sorted((tmp_path / "a").rglob("*.png")):
        assert file.read_bytes() == (tmp_path / "b" / file.relative_to(tmp_path / "a")).read_bytes(), (
            "the same every time"
        )
    assert (
        rgb(tmp_path / "a" / "cut" / "relay.png").max() == 0 and rgb(tmp_path / "a" / "middle" / "relay.png").max() > 60
    )
    middle, cut = (json.loads((tmp_path / "a" / f"{n}.json").read_text()) for n in ("middle", "cut"))
    assert (
        cut["relay"]["state"] == "black"
        and cut["foyer-wall"]["state"] == "kept"
        and cut["foyer-wall"]["sources"] == ["patrons"]
    )
    assert cut["meridian"] != middle["meridian"] and set(cut) == {s.id for s in read_show(demo_file).surfaces}
    for bad, words in (
        ("{}", "no list of actions"),
        ("[", "not JSON (line 1"),
        ('[{"action": {"do": "cut"}}]', "actions[0]: it has no moment"),
        ('[{"at": 1, "action": {"do": "cutt"}}]', 'write "cut"'),
        ('[{"at": 1, "shoot": "../x"}]', "letters, digits"),
        (
            '[{"at": 1, "action": {"do": "keep", "surface": "relai"}}]',
            'surface or zone "relai"; write "relay"',
        ),
    ):
        path.write_text(bad)
        done = adze("act", demo_file, path, "--out", tmp_path / "c", ok=False)
        assert done.returncode == 2 and words in done.stderr and done.stderr.count("\n") == 1, done.stderr
    jsonschema.validate({"do": "take", "surfaces": ["relay"]}, json.loads(adze("schema", "actions").stdout))


def test_a_plan_is_printed_as_json_and_drawn(demo_file: Path, tmp_path: Path) -> None:
    """What it says is what `act` paints after the same cues, in one and the other command."""
    told = json.loads(adze("plan", demo_file, "--json").stdout)
    assert told["list"] == "evening" and [c["number"] for c in told["cues"]][:3] == [1, 2, 3]
    script = [
        {"at": 0.0, "action": {"do": "go", "list": "evening", "cue": "cue-6"}},
        {"at": 4.0, "action": {"do": "go", "list": "evening", "cue": "cue-11"}},
        {"at": 9.0, "shoot": "a"},
    ]
    (tmp_path / "acts.json").write_text(json.dumps(script))
    adze("act", demo_file, tmp_path / "acts.json", "--out", tmp_path, "--states")
    painted = json.loads((tmp_path / "a.json").read_text())
    column = [c["id"] for c in told["cues"]].index("cue-11")
    for surface in told["surfaces"]:
        cell = surface["cells"][column]
        if surface["id"] in ("meridian", "lectern", "relay", "west-mast"):  # what the cue itself brings
            assert cell["sources"] == painted[surface["id"]]["sources"], surface["id"]
    words = adze("plan", demo_file).stdout
    assert "7.5 Masts to the camera\n" in words and "  * Meridian: Moon phases" in words
    for name, magic in (("plan.pdf", b"%PDF"), ("plan.svg", b"<svg"), ("plan.png", b"\x89PNG")):
        adze("plan", demo_file, "--out", tmp_path / name)
        assert (tmp_path / name).read_bytes()[:300].find(magic) >= 0
    wrong = adze("plan", demo_file, "--list", "evenings", ok=False)
    assert wrong.returncode == 2 and "no cue list" in wrong.stderr and "evening" in wrong.stderr


def test_cues_go_by_the_time_of_day_that_is_said(demo_file: Path, tmp_path: Path) -> None:
    document = json.loads(demo_file.read_text())
    document["lists"] = [
        {
            "id": "day",
            "name": "Day",
            "cues": [
                {
                    "id": "eight",
                    "number": 1,
                    "does": [{"action": {"do": "recall", "preset": 8, "seconds": 0}}],
                    "fires": {"kind": "time", "at": "20:00"},
                }
            ],
        }
    ]
    (demo_file.parent / "day.adze").write_text(json.dumps(document))
    more = ("--from", "19:59:59", "--states", "--out", tmp_path)
    script = [{"at": 0.9, "shoot": "before"}, {"at": 1.1, "shoot": "after"}]
    (tmp_path / "acts.json").write_text(json.dumps(script))
    adze("act", demo_file.parent / "day.adze", tmp_path / "acts.json", *more)
    before, after = (
        json.loads((tmp_path / f"{n}.json").read_text())["meridian"]["sources"] for n in ("before", "after")
    )
    assert before == ["slides"] and after == ["hold-card"]
    wrong = adze("act", demo_file, tmp_path / "acts.json", "--out", tmp_path, "--from", "8 pm", ok=False)
    assert wrong.returncode == 2 and "is no time of day" in wrong.stderr
