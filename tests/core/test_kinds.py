"""A kind of setting, and a transition, are one file each: with no other edit the whole program knows them."""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path

import pytest

import ushering_adze
from ushering_adze.core.kinds import KINDS
from ushering_adze.core.show import Canvas, Layer, LayerSettings, Scope, part_of

TILT = '''"""How far a layer is tilted, in degrees."""
from __future__ import annotations
from typing import Annotated
from pydantic import Field
from ushering_adze.core.kinds.kind import Kind

DEGREES = Annotated[float, Field(ge=-180, le=180)]
KIND = Kind("tilt", "Tilt", 25, DEGREES, 0.0, "faded", glyph=(((0.0, 1.0), (1.0, 0.0)),))
'''
USED = """
import json, os, sys
os.environ["QT_QPA_PLATFORM"] = "offscreen"
from ushering_adze.core.onair.actions import action_from, actions_schema, apply
from ushering_adze.core.onair.document import stage_document, stage_from
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show import Touch, document_of, show_from_document, show_schema, with_held
from ushering_adze.demo.show import DEMO_ROOT, demo_show

show = demo_show()
preset = show.preset(7)
assert preset.parts[1].layer == "inset" and preset.parts[1].how("tilt") == "left"
part = with_held(preset.parts[1], "tilt", 30.0, "faded")
tilted = preset.model_copy(update={"parts": (preset.parts[0], part, *preset.parts[2:])})
edited = show.model_copy(update={"presets": tuple(tilted if p.number == 7 else p for p in show.presets)})
assert show_from_document(json.loads(json.dumps(document_of(edited)))) == edited, "stored"
assert "tilt" in json.dumps(show_schema()) and "tilt" in json.dumps(actions_schema()), "described"
bad = document_of(edited)
bad["presets"][6]["parts"][1]["holds"]["tilt"]["to"] = 999
try:
    show_from_document(bad)
    sys.exit("a value out of its range was taken")
except ValueError as error:
    assert "tilt" in str(error), error
stage = apply(edited, Stage.opened(edited), action_from({"do": "recall", "preset": 7}), 0.0)
inset = stage.program.at(1.0)["house", "inset"]
assert 14 < inset.tilt < 16 and stage.program.at(5.0)["house", "inset"].tilt == 30, "faded"
assert stage.program.at(5.0)["house", "west"].tilt == 0, "scoped"
again = stage_from(stage_document(stage, 1.0), edited, 50.0)
assert abs(again.program.at(50.0)["house", "inset"].tilt - inset.tilt) < 1e-6, "brought back"
edit = {"do": "edit", "canvas": "house", "layer": "sky", "set": {"tilt": {"to": 9}}}
stage = apply(edited, stage, action_from(edit), 6.0)
assert stage.preview()["house", "sky"].tilt == 9, "edited on preview"

from PySide6.QtGui import QImage
from ushering_adze.desk.qt import application
from ushering_adze.desk.deck import PresetCard
from ushering_adze.desk.session import Session
app = application()
session = Session(show, None, DEMO_ROOT)
def drawn():
    card = PresetCard(session, session.show.preset(7))
    card.resize(180, 90)
    return card.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)
before = drawn()
session.edit("Tilt", edited)
after = drawn()
assert before != after, "drawn in the grid"
session.undo()
assert drawn() == before and session.show == show, "undone"
session.playout.stop()
print("known everywhere", flush=True)
os._exit(0)
"""


def with_file(tmp_path: Path, where: str, text: str) -> Path:
    """A copy of the program with one more file."""
    shutil.copytree(
        Path(ushering_adze.__file__).parent,
        tmp_path / "src/ushering_adze",
        ignore=shutil.ignore_patterns("__pycache__"),
    )
    (tmp_path / "src/ushering_adze" / where).write_text(text)
    return tmp_path / "src"


def ran(source: Path, code: str) -> str:
    found = subprocess.run(
        [sys.executable, "-c", code],
        capture_output=True,
        text=True,
        timeout=300,
        env={"PYTHONPATH": str(source), "PATH": "/usr/bin:/bin", "HOME": str(source), "XDG_STATE_HOME": str(source)},
    )
    assert found.returncode == 0, found.stderr[-3000:]
    return found.stdout


def test_a_kind_in_one_file_is_stored_scoped_faded_undone_and_drawn(tmp_path: Path) -> None:
    assert ran(with_file(tmp_path, "core/kinds/tilt.py", TILT), USED).strip() == "known everywhere"


def test_what_is_on_air_of_every_kind_can_be_stored_again() -> None:
    canvas = Canvas(id="c", name="C", width=400, height=200, layers=(Layer(id="l", name="L"),))
    settings = LayerSettings.model_validate(
        {
            "picture": {"source": None, "fit": "fit"},
            "opacity": 0.25,
            "crop": {"left": 0.1},
            "border": {"width": 3, "colour": "#12AB9F"},
            "place": {"x": 10, "y": 20, "w": 30, "h": 40, "unit": "px"},
        }
    )
    for kind in KINDS:
        stored = getattr(settings, kind.name)
        assert kind.document(kind.value(stored, canvas.width, canvas.height), canvas.width, canvas.height) == stored, (
            kind.name
        )
        assert kind.sane(kind.value(stored, 400, 200)) and kind.words and kind.glyph
    assert len({kind.order for kind in KINDS}) == len(KINDS)


@pytest.mark.parametrize("kind", [k.name for k in KINDS])
def test_a_part_holds_what_its_scope_does_not_leave(kind: str) -> None:
    only = Scope(**{k.name: {"how": "faded" if k.name == kind else "left"} for k in KINDS})
    part = part_of("c", "l", LayerSettings(), only)
    assert [name for _, name, _ in part.held] == [kind] and set(part.model_dump(mode="json")["holds"]) == {kind}
