"""The calendar of the demo: the weeks of the old observatory that the show plays in."""

from __future__ import annotations

from ushering_adze.core.show.actions import Arm, Lift, Override, StartList, StopList
from ushering_adze.core.show.schedule import Event


def demo_schedule() -> tuple[Event, ...]:
    """The events, the foyer's loop first."""
    return (
        Event(
            id="foyer-opens",
            name="Foyer loop",
            begin="2026-11-03T10:00",
            end="2026-11-03T18:00",
            rule="FREQ=WEEKLY;BYDAY=TU,WE,TH,FR,SA,SU",
            left_out=("2026-12-25T10:00",),
            begins=(StartList(list="foyer-loop"),),
            ends=(StopList(list="foyer-loop"),),
            colour="#6FA8A0",
        ),
        Event(
            id="school-visit",
            name="School visit",
            begin="2026-11-05T11:00",
            end="2026-11-05T12:00",
            rule="FREQ=WEEKLY;INTERVAL=2;BYDAY=TH",
            priority=3,
            begins=(Override(surfaces=("foyer-wall",), shows="source", source="hold-card"),),
            ends=(Lift(surfaces=("foyer-wall",)),),
            colour="#E3A857",
        ),
        Event(
            id="wall-test",
            name="Wall test",
            begin="2026-11-02T09:00",
            end="2026-11-02T09:20",
            rule="FREQ=MONTHLY;BYDAY=1MO",
            begins=(Override(surfaces=("arch",), shows="pattern"),),
            ends=(Lift(surfaces=("arch",)),),
            colour="#8E8BB8",
        ),
        Event(
            id="centenary-night",
            name="Centenary Night",
            begin="2026-12-05T19:15",
            begins=(Arm(list="evening", cue="cue-1"),),
            colour="#C77B5A",
        ),
    )
