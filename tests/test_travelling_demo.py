"""The demo as it is opened: its cameras come over the network, and its relay goes out."""

from __future__ import annotations

from pathlib import Path

from ushering_adze.core.picture.numbered import number_in
from ushering_adze.core.show import Input, document_of, show_from_document
from ushering_adze.demo.show import demo_show
from ushering_adze.demo.travelling import travelled
from ushering_adze.playout import Playout, Report
from waiting import wait_for


def test_cameras_travel_and_the_relay_leaves_and_all_ends_with_the_demo() -> None:
    demo = demo_show()
    reports: list[Report] = []
    with travelled(demo) as show:
        assert show_from_document(document_of(show)) == show
        camera = show.source("roof-camera")
        assert isinstance(camera, Input) and camera.stand_in == demo.source("roof-camera").path  # type: ignore[union-attr]
        playout = Playout(show, reports.append)
        playout.start()
        try:
            playout.look_through("roof-camera")
            assert wait_for(
                lambda: (f := playout.picture_of("roof-camera")) is not None and number_in(f.pixels) is not None
            )
            assert wait_for(lambda: any(f.sent > 5 and f.state == "sending" for f in reports[-1].feeds))
            assert wait_for(lambda: reports[-1].feeds[0].heard in ("live", "frozen", "stalled"))
            assert {s.source for s in reports[-1].signals} >= {"roof-camera", "aisle-camera", "relay-far-end"}
        finally:
            playout.stop()
        ours = pids("standin camera --to")
        assert len(ours) >= 2
    assert wait_for(lambda: not ours & pids("standin camera --to"))


def pids(words: str) -> set[int]:
    """Processes whose command line has these words."""
    found = set()
    for path in Path("/proc").glob("[0-9]*/cmdline"):
        try:
            line = path.read_bytes().replace(b"\0", b" ").decode("utf-8", "replace")
        except OSError:
            continue
        if words in line:
            found.add(int(path.parent.name))
    return found


def test_offline_its_cameras_show_their_films() -> None:
    from ushering_adze.demo.travelling import travelling
    from ushering_adze.engine.pool import SourcePool

    show = travelling(demo_show(), {"roof-camera": 1, "aisle-camera": 2}, 3)
    pool = SourcePool()
    try:
        pool.set_show(show.model_copy(update={"sources": (show.source("roof-camera"),)}))
        found = pool.exact(["roof-camera"], 1.0)["roof-camera"]
        assert found.pixels.shape == (720, 1280, 4) and number_in(found.pixels) is None
    finally:
        pool.close()
