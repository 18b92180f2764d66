"""The cue lists of the demo: the evening by hand, some of it following by itself, and the foyer's loop."""

from __future__ import annotations

from ushering_adze.core.show.actions import Action, Black, Recall, Route, StartList, StopList
from ushering_adze.core.show.cue import AfterFormer, Cue, CueList, Doing, Fires

_EVENING: tuple[tuple[float, str, int, Fires | None, str, float], ...] = (
    (1, "Doors open", 1, None, "19:30", 1500),
    (2, "Countdown", 2, None, "19:55", 300),
    (3, "Welcome", 3, None, "20:00", 240),
    (4, "Panorama", 4, None, "", 90),
    (5, "Keynote", 5, None, "20:06", 1200),
    (6, "Interview", 6, None, "20:26", 900),
    (7, "Moon reveal", 7, None, "20:41", 60),
    (7.5, "Masts to the camera", 20, AfterFormer(seconds=12), "", 20),
    (8, "Masts to the stars", 21, AfterFormer(seconds=20), "", 60),
    (9, "Sky across the arch", 29, None, "20:43", 30),
    (10, "Sky on each", 30, AfterFormer(seconds=8, of="end"), "", 60),
    (11, "Closing", 8, None, "20:45", 600),
    (12, "House black", 90, None, "20:55", 0),
)


def demo_lists() -> tuple[CueList, ...]:
    """The lists, in order."""
    return (
        CueList(id="evening", name="Evening", cues=tuple(_cue(*cue) for cue in _EVENING)),
        CueList(
            id="foyer-loop",
            name="Foyer loop",
            loop=True,
            previews=False,
            claims=("foyer",),
            cues=(
                _routed(1, "Patrons", "patrons", AfterFormer(seconds=60)),
                _routed(2, "Star trails", "star-trails", AfterFormer(seconds=120)),
            ),
        ),
    )


def _cue(number: float, name: str, preset: int, fires: Fires | None, start: str, length: float) -> Cue:
    more: dict[float, tuple[Action, ...]] = {
        1: (StartList(list="foyer-loop"),),
        12: (StopList(list="foyer-loop"), Black(outputs=("foyer",))),
    }
    does = [Doing(action=a, delay=0.0 if number == 1 else 2.0) for a in more.get(number, ())]
    fields = {} if fires is None else {"fires": fires}
    return Cue(
        id=f"cue-{number:g}".replace(".", "-"),
        number=number,
        name=name,
        does=(Doing(action=Recall(preset=preset)), *does),
        start=start or None,
        length=length or None,
        **fields,
    )


def _routed(number: float, name: str, source: str, fires: Fires) -> Cue:
    action = Route(surface="foyer-wall", source=source, on="program", seconds=1.5)
    return Cue(id=f"foyer-{number:g}", number=number, name=name, does=(Doing(action=action),), fires=fires)
