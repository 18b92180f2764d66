"""A speaker's view: the notes of the page, the next page, the time and what is said."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest
from reportlab.pdfgen.canvas import Canvas as Sheet

from ushering_adze.core.onair.actions import fault_of
from ushering_adze.core.onair.speaking import speaker_view
from ushering_adze.core.show import Pages, Show, ShowError
from ushering_adze.core.show.actions import Message, Next, Recall, Route
from ushering_adze.demo.show import demo_show
from ushering_adze.engine.offline import Shoot, acted


def pdf(path: Path, greys: tuple[float, ...]) -> Path:
    """A page of flat grey for each."""
    sheet = Sheet(str(path), pagesize=(640, 360))
    for grey in greys:
        sheet.setFillGray(grey)
        sheet.rect(0, 0, 640, 360, stroke=0, fill=1)
        sheet.showPage()
    sheet.save()
    return path


@pytest.fixture
def show(tmp_path: Path) -> Show:
    deck = Pages(id="deck", name="Deck", path=str(pdf(tmp_path / "deck.pdf", (0.2, 0.4, 0.6))))
    notes = Pages(id="deck-notes", name="Deck notes", path=str(pdf(tmp_path / "notes.pdf", (0.9, 0.8, 0.7))))
    demo = demo_show()
    return demo.model_copy(update={"sources": (*demo.sources, deck, notes)})


def parts(shoot: Shoot) -> tuple[int, int, np.ndarray]:
    """The middle of the notes, of the next page, and the picture of the time."""
    raster = shoot.rasters["lectern"]
    high, wide = raster.shape[:2]
    time = raster[high // 2 + 20 : high - 40, wide * 2 // 3 :]
    return int(raster[high // 2, wide // 4, 0]), int(raster[high // 4, wide * 5 // 6, 0]), time


def near(code: int, grey: float) -> bool:
    return abs(code - grey * 255) <= 2


def test_notes_and_the_next_page_go_with_the_page_and_words_come_below_the_time(show: Show) -> None:
    made, number = speaker_view(show, "lectern", "deck", "deck-notes")
    timer = next(s.id for s in made.sources if s.name == "Speaker")
    route = Route(surface="meridian", source="deck", on="program", seconds=0)
    script = [
        *((0, Recall(preset=number, seconds=0)), (0, route), (1, "first"), (1.1, Next(source="deck")), (1.2, "second")),
        *(
            (1.3, Message(source=timer, text="two minutes more")),
            (1.4, "said"),
            (1.5, Message(source=timer)),
            (1.6, "gone"),
        ),
    ]
    shots = {s.name: s for s in acted(made, script)}
    first, second, said, gone = (parts(shots[n]) for n in ("first", "second", "said", "gone"))
    assert near(first[0], 0.9) and near(first[1], 0.4), "notes of the first page, and the second page"
    assert near(second[0], 0.8) and near(second[1], 0.6)
    meridian = [int(shots[n].rasters["processor-a"][400, 900, 0]) for n in ("first", "second")]
    assert near(meridian[0], 0.2) and near(meridian[1], 0.4), "the wall is at the same page"
    half = said[2].shape[0] // 2
    assert not np.array_equal(said[2], second[2]) and said[2][half:].max() > 60, "words below the digits"
    assert np.array_equal(gone[2], second[2]) or gone[2][half:].sum() < said[2][half:].sum()


def test_what_cannot_be_is_said(show: Show) -> None:
    assert (
        fault_of(show, Message(source="slides", text="x")) == "Slides is no clock, and shows no message; name a clock"
    )
    with pytest.raises(ShowError, match="Orrery has no pages of a document"):
        speaker_view(show, "lectern", "orrery")
