"""Only what has changed is painted anew, and the picture is the same as if all of it were."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF
from PySide6.QtGui import QImage, QPixmap, QRegion
from PySide6.QtWidgets import QWidget

from ushering_adze.core.mapping.bend import moved_points
from ushering_adze.core.onair.actions import Black
from ushering_adze.core.onair.delta import Change
from ushering_adze.core.onair.stage import Stage
from ushering_adze.core.show.edits import with_region
from ushering_adze.desk.align.raster import AlignRaster
from ushering_adze.desk.deck import PresetCard
from ushering_adze.desk.drafting.guides import Guides
from ushering_adze.desk.map.canvas_view import CanvasView
from ushering_adze.desk.map.output_view import OutputView
from ushering_adze.desk.pictures import Kept
from ushering_adze.desk.qt import settle
from ushering_adze.desk.room import RoomView
from ushering_adze.desk.run.changes import ChangeList
from ushering_adze.desk.session import Session
from ushering_adze.desk.sill import SillTile
from ushering_adze.desk.window import MainWindow
from ushering_adze.engine.report import Report, SurfaceReport


def report(session: Session, seed: int = 0) -> Report:
    rng = np.random.default_rng(seed)
    pictures = {
        s.id: np.repeat(np.repeat(rng.integers(0, 255, (9, 16, 4), np.uint8), 10, 0), 10, 1)
        for s in session.show.surfaces
    }
    for picture in pictures.values():
        picture[..., 3] = 255
    surfaces = {s.id: SurfaceReport(("Slides",), ("slides",), "live") for s in session.show.surfaces}
    return Report(
        Stage.opened(session.show), (), surfaces, pictures, {}, 1.0, False, False, False, 30.0, 9.0, 100, 0, False
    )


def asked_for(
    widget: QWidget, session: Session, first: Report, then: Report, monkeypatch: pytest.MonkeyPatch
) -> tuple[QRegion, QPixmap]:
    """What the second report asks to be painted, and the picture with only that painted over the first one's."""
    session.tell(first)
    settle(20)
    picture, region = widget.grab(), QRegion()
    calls: list[tuple[object, ...]] = []
    monkeypatch.setattr(widget, "update", lambda *args: calls.append(args))
    session.tell(then)
    monkeypatch.undo()
    for args in calls:
        region += QRegion(*args) if args else QRegion(widget.rect())
    if not region.isEmpty():
        widget.render(picture, region.boundingRect().topLeft(), region)
    return region, picture


def alike(a: QPixmap, b: QPixmap) -> bool:
    """The same but for one code: where a scaled picture is clipped elsewhere, Qt's rounding begins elsewhere."""
    one, two = (
        np.frombuffer(i.constBits(), np.uint8).astype(int)
        for i in (p.toImage().convertToFormat(QImage.Format.Format_RGB32) for p in (a, b))
    )
    return one.shape == two.shape and int(np.abs(one - two).max()) <= 1


def area(region: QRegion) -> int:
    return sum(r.width() * r.height() for r in region)


@pytest.mark.parametrize("role", ["program", "preview", "plain"])
@pytest.mark.parametrize("surfaces", [("horizon",), ("meridian", "lectern"), ("west-mast", "foyer-wall", "relay"), ()])
def test_a_room_with_some_pictures_anew_is_the_room_painted_whole(
    session: Session, role: str, surfaces: tuple[str, ...], monkeypatch: pytest.MonkeyPatch
) -> None:
    room = RoomView(session, role)  # type: ignore[arg-type]
    room.resize(860, 284)
    room.show()
    session.select_surface("meridian")
    first = replace(
        report(session),
        delta=(Change("east-mast", ("Slides",), ("Moon phases",)),),
        moving=role == "program",
        progress=0.2,
    )
    other = report(session, 1).program
    then = replace(first, program={**first.program, **{id: other[id] for id in surfaces}}, progress=0.6)
    region, picture = asked_for(room, session, first, then, monkeypatch)
    assert alike(picture, room.grab())
    hung = [room.rect_of(id) for id in surfaces if room.rect_of(id) is not None]
    least = sum(r.width() * r.height() for r in hung)
    assert least <= area(region) <= 1.35 * least + (room.width() * 30 if role == "program" else 0) + 60 * len(hung)


def test_a_room_is_painted_whole_when_more_than_pictures_changes(
    session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    room = RoomView(session, "preview")
    room.resize(860, 284)
    room.show()
    first = report(session)
    for then in (
        replace(first, delta=(Change("meridian", ("Slides",), ("Moon phases",)),)),
        replace(first, stage=first.stage.stage(7)),
        replace(first, surfaces={**first.surfaces, "horizon": SurfaceReport(("Orrery",), ("orrery",), "live")}),
    ):
        region, picture = asked_for(room, session, first, then, monkeypatch)
        assert region.boundingRect() == room.rect() and alike(picture, room.grab())


def test_a_tile_of_the_sill_paints_its_picture_its_words_or_nothing(
    session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    tile = SillTile(session, session.show.surface("meridian"))
    tile.resize(148, 92)
    tile.show()
    first, other = report(session), report(session, 1)
    region, picture = asked_for(tile, session, first, replace(first, program=other.program), monkeypatch)
    assert alike(picture, tile.grab()) and region.boundingRect().height() < 60
    assert asked_for(tile, session, first, replace(first, frames=101), monkeypatch)[0].isEmpty()
    held = replace(first, surfaces={**first.surfaces, "meridian": SurfaceReport(("Slides",), ("slides",), "held")})
    region, picture = asked_for(tile, session, first, held, monkeypatch)
    assert region.boundingRect() == tile.rect() and alike(picture, tile.grab())


class Laid:
    """Counts how often what lies over a raster's picture is drawn; compares a view with itself drawn from nothing."""

    def __init__(self, view: CanvasView | AlignRaster, part: str, monkeypatch: pytest.MonkeyPatch) -> None:
        self.view, self.times = view, 0
        drawn = getattr(view, part)

        def counted(*args: object) -> None:
            self.times += 1
            drawn(*args)

        monkeypatch.setattr(view, part, counted)

    def seen(self) -> int:
        """How often it was drawn for a picture that is the same as one with nothing kept."""
        before = self.times
        kept = self.view.grab()
        times = self.times - before
        self.view._over = Kept()
        assert alike(kept, self.view.grab())
        return times


def test_what_lies_over_a_canvas_is_drawn_when_it_is_another_and_only_then(
    session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = CanvasView(session, Guides(session))
    view.resize(620, 460)
    session.tell(report(session))
    laid = Laid(view, "_paint_outlines", monkeypatch)
    assert laid.seen() == 1
    for n in range(3):
        session.tell(report(session, n))
        assert laid.seen() == 0
    first = view.canvas.regions[0]  # type: ignore[union-attr]

    def renamed() -> None:
        session.try_edit("Name", lambda show: with_region(show, first.model_copy(update={"name": "Otherwise"})))

    for act in (
        renamed,
        lambda: view.zoom(view.scale * 1.4),
        view.fit,
        lambda: view.show_as("plain"),
        lambda: view.resize(700, 500),
        lambda: setattr(view, "hover", first.id),
    ):
        act()
        assert laid.seen() == 1, act
    session.select_region(first.id)
    assert laid.seen() == 0, "what is chosen is marked over it"


def test_what_lies_over_a_raster_in_align_is_drawn_when_it_is_another_and_only_then(
    session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    view = AlignRaster(session, Guides(session))
    view.resize(620, 400)
    view.show_region("horizon-left")
    session.tell(report(session))
    laid = Laid(view, "_paint_mesh", monkeypatch)
    assert laid.seen() == 1 and laid.seen() == 0

    def bent() -> None:
        region = view.region
        assert region is not None
        session.try_edit("Bend", lambda show: with_region(show, moved_points(region, {0}, 30.0, 20.0)))

    acts = (
        lambda: view.choose({0}),
        bent,
        lambda: setattr(view, "falloff", 90.0),
        lambda: view.zoom(view.scale * 1.3),
        lambda: setattr(view, "drawn_mask", [(200.0, 100.0), (300.0, 150.0)]),
        lambda: view.drawn_mask.append((250.0, 220.0)),  # type: ignore[union-attr]
        lambda: setattr(view, "at", QPointF(90, 80)),
        lambda: view.show_region("horizon-right"),
    )
    for act in acts:
        act()
        assert laid.seen() == 1, act


def test_cards_and_the_list_of_changes_rest_while_only_pictures_move(
    session: Session, monkeypatch: pytest.MonkeyPatch
) -> None:
    first, other = report(session), report(session, 1)
    card = PresetCard(session, session.show.preset(7))  # type: ignore[arg-type]
    listed = ChangeList(session)
    for widget in (card, listed):
        widget.resize(200, 300)
        widget.show()
        assert asked_for(widget, session, first, replace(first, program=other.program, frames=101), monkeypatch)[
            0
        ].isEmpty()
    assert not asked_for(card, session, first, replace(first, stage=first.stage.stage(7)), monkeypatch)[0].isEmpty()
    assert asked_for(card, session, first, replace(first, stage=first.stage.stage(6)), monkeypatch)[0].isEmpty()
    changed = replace(first, delta=(Change("meridian", ("Slides",), ("Moon phases",)),))
    assert not asked_for(listed, session, first, changed, monkeypatch)[0].isEmpty()


def test_a_raster_is_painted_anew_when_its_output_sends_another_picture(
    window: MainWindow, qtbot: object, monkeypatch: pytest.MonkeyPatch
) -> None:
    """In Keynote the slides stand still and the stars move."""
    window.show_workspace("Map")
    view: OutputView = window.map.output
    window.session.select_region("meridian")
    painted: list[str] = []
    still = view._paint_still

    def counted(*args: object) -> None:
        painted.append(view.output.id if view.output is not None else "")
        still(*args)  # type: ignore[arg-type]

    monkeypatch.setattr(view, "_paint_still", counted)
    playout, since = window.session.playout, 0

    def stands() -> bool:
        nonlocal since
        if painted:
            painted.clear()
            since = playout.mark[0]
        return playout.mark[0] > since + 24

    since = playout.mark[0]
    qtbot.waitUntil(stands)
    window.session.select_region("horizon-left")
    qtbot.waitUntil(lambda: painted.count("projector-left") >= 4)
    window.session.playout.act(Black())
    qtbot.waitUntil(lambda: window.session.playout.covered == "black")
    at = view.pixels(900, 500, 40, 40).center().toPoint()
    # black is seen as black, though nothing is drawn anew
    qtbot.waitUntil(lambda: view.grab().toImage().pixelColor(at + QPoint(0, 3)).lightness() == 0)
