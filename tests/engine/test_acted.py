"""An evening of actions on a clock of its own: pictures equal to those stored before the heart was changed, and shows
of version 1.
"""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np

from ushering_adze.core.onair.motion import opening_motion, recall
from ushering_adze.core.show import document_of, show_from_document
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.engine.offline import acted, script_from
from ushering_adze.io.showfile import absolute, document_bytes, portable, read_show

STORED = Path(__file__).parents[1] / "stored"


def test_a_show_of_version_1_is_the_demo_and_is_saved_as_version_2() -> None:
    document = json.loads((STORED / "version-1.adze").read_text())
    assert document["version"] == 1
    show = absolute(show_from_document(document), DEMO_ROOT)
    today = demo_show()
    for field in ("canvases", "outputs", "cards", "cabinets", "opening", "name", "rate"):
        assert getattr(show, field) == getattr(today, field), field
    since = [s.model_copy(update={"nits": 0.0}) if hasattr(s, "nits") else s for s in today.surfaces]
    assert list(show.surfaces) == since, "it says since how bright its walls are"
    known = {s.id: s for s in today.sources}
    assert all(known[s.id] == s for s in show.sources) and not show.zones and not show.finishes
    for preset in show.presets:
        now = today.preset(preset.number)
        assert now is not None and now.name == preset.name
        before, after = (recall(s, opening_motion(s), s.preset(preset.number), 0, cut=True) for s in (show, today))
        if preset.number != 6:  # there is a lower third in it since, and its inset is rounded
            assert before.target == after.target, "the demo's presets have other ways since, but lead to the same"
    assert show_from_document(document_of(show)) == show and document_of(show)["version"] == 2
    written = json.loads(document_bytes(show, DEMO_ROOT))
    assert len(json.dumps(written["presets"])) < len(json.dumps(document["presets"])) * 0.7, (
        "parts hold what they touch"
    )
    assert not any(str(DEMO_ROOT) in json.dumps(s) for s in written["sources"]), "relative on disk"
    assert all(Path(s.path).is_absolute() for s in show.sources if hasattr(s, "path")), "absolute in memory"
    assert absolute(portable(show, DEMO_ROOT), DEMO_ROOT) == show
    assert read_show(STORED / "version-1.adze").name == show.name


def test_the_frames_of_an_evening_are_those_from_before() -> None:
    """Stage 7, take, interrupt with 6 at 1.0 s, back: every sixteenth pixel of five outputs, clips and all."""
    stored = np.load(STORED / "evening.npz")
    show = absolute(show_from_document(json.loads((STORED / "version-1.adze").read_text())), DEMO_ROOT)
    seen = {
        f"{shoot.name}/{id}": pixels[::16, ::16, :3]
        for shoot in acted(show, script_from(json.loads((STORED / "evening.json").read_text())))
        for id, pixels in shoot.rasters.items()
    }
    for name in stored.files:
        assert np.abs(seen[name].astype(int) - stored[name]).max() <= 1, name


def test_players_and_patterns_by_actions_reach_the_picture() -> None:
    def shot(*actions: dict[str, object]) -> dict[str, np.ndarray]:
        script = [*({"at": 0.0, "action": a} for a in actions), {"at": 0.5, "shoot": "now"}]
        return next(acted(demo_show(), script_from(script))).rasters

    wall = {"do": "recall", "preset": 7, "seconds": 0}
    plain, same = (
        shot(wall),
        shot(wall, {"do": "pause", "source": "moon-phases"}, {"do": "to", "source": "moon-phases", "seconds": 0.5}),
    )
    assert np.array_equal(plain["processor-a"], same["processor-a"]), (
        "half a second in, whether it ran there or was sent there"
    )
    later = shot(wall, {"do": "to", "source": "moon-phases", "seconds": 5})
    assert not np.array_equal(plain["processor-a"], later["processor-a"])
    pages = [
        shot({"do": "recall", "preset": 5, "seconds": 0}, {"do": "page", "source": "slides", "to": n})["processor-a"]
        for n in (1, 2)
    ]
    assert not np.array_equal(*pages)
    routed = shot({"do": "route", "surface": "meridian", "source": "night", "on": "program", "seconds": 0})[
        "processor-a"
    ]
    assert (routed[100:860:50, 100:1800:50, :3] == (0x30, 0x12, 0x0E)).all()
    grid = shot(
        {
            "do": "lay-over",
            "over": {
                "surface": "horizon",
                "output": "projector-left",
                "pattern": {"name": "white", "on": "output"},
                "where": "output",
            },
        }
    )
    assert (grid["projector-left"][..., :3] == 255).mean() > 0.9 and not (
        grid["projector-right"][..., :3] == 255
    ).mean() > 0.9
