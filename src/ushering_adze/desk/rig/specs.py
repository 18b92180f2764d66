"""Which fields the inspector offers for each kind of item."""

from __future__ import annotations

from typing import Any

from ushering_adze.core.onair.calendar import RuleError, zone_of
from ushering_adze.core.show import (
    Fault,
    Feed,
    Input,
    LedWall,
    Monitor,
    MonitorWall,
    Output,
    Projection,
    Show,
    ShowError,
    Stream,
)
from ushering_adze.core.show.rigging import with_field
from ushering_adze.desk.fields import Spec
from ushering_adze.desk.rig.feed_specs import feed_sections
from ushering_adze.desk.rig.media_specs import media_sections
from ushering_adze.desk.rig.signal_specs import (
    NAME,
    Section,
    input_sections,
    key_section,
    output_sections,
    source_picture_section,
    when_lost_section,
)
from ushering_adze.desk.rig.surface_specs import (
    NITS,
    led_sections,
    monitor_wall_sections,
    place_specs,
    projection_sections,
)


def _zoned(show: Show, text: str) -> Show:
    """The show in a time zone; in that of whichever machine it runs on, if none is typed.  Raises ShowError."""
    name = text.strip()
    try:
        made = with_field(show, "time_zone", (name and zone_of(name).key) or None)
    except RuleError as error:
        raise ShowError([Fault("", str(error))]) from None
    return made


SHOW_SECTIONS: list[Section] = [
    ("", [NAME]),
    (
        "Clock",
        [
            Spec(
                "Time zone",
                read=lambda s: s.time_zone or "",
                write=_zoned,
                hint="Like Europe/Berlin; that of the machine if empty. Its calendar goes by it",
            )
        ],
    ),
    (
        "Rate",
        [
            Spec("Frames a second", "rate", "float", unit="Hz", hint="59.94 means 60000/1001"),
            Spec("Reference", "reference", "choice", [("internal", "internal"), ("external", "external")]),
            Spec("Its name", "reference_name", hint="What the external reference is, for the rig sheet"),
        ],
    ),
    (
        "Room",
        [Spec("Width", "room_width_mm", "float", unit="mm"), Spec("Height", "room_height_mm", "float", unit="mm")],
    ),
]


def sections_of(item: Any, show: Show) -> list[Section]:
    """The fields of an item, in sections; items of other kinds have a name and a colour."""
    found = _sections_of(item, show)
    is_source = any(s is item for s in show.sources)
    if not is_source:
        return found
    return [*found, source_picture_section(), key_section(item, show), when_lost_section(item, show)]


def _sections_of(item: Any, show: Show) -> list[Section]:
    match item:
        case Feed():
            return feed_sections(item, show)
        case Show():
            return SHOW_SECTIONS
        case Output():
            return output_sections(item)
        case Input():
            return input_sections(item)
        case LedWall():
            return led_sections(item, show)
        case MonitorWall():
            return monitor_wall_sections(item)
        case Projection():
            return projection_sections(item)
        case Monitor():
            return [
                ("", [NAME]),
                (
                    "Monitor",
                    [
                        Spec("Pixels across", "width", "int", unit="px"),
                        Spec("Pixels down", "height", "int", unit="px"),
                        Spec("Width", "width_mm", "float", unit="mm"),
                        Spec("Height", "height_mm", "float", unit="mm"),
                        NITS,
                    ],
                ),
                ("In the room", place_specs()),
            ]
        case Stream():
            return [
                ("", [NAME]),
                (
                    "Stream",
                    [
                        Spec("Width", "width", "int", unit="px"),
                        Spec("Height", "height", "int", unit="px"),
                        Spec("Rate", "rate", "float", unit="Hz"),
                        Spec(
                            "Bit rate",
                            kind="float",
                            unit="Mb/s",
                            read=lambda s: s.mbps,
                            write=lambda s, v: with_field(s, "mbps", v or None),
                        ),
                    ],
                ),
            ]
        case _:
            return media_sections(item, show) or [("", [NAME, Spec("Colour", "colour")])]
