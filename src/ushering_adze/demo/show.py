"""The demo show: "Centenary Night" at Lanternfell Observatory, in an old tram depot 18 m wide."""

from __future__ import annotations

import shutil
from pathlib import Path

from ushering_adze.core.show import (
    CabinetKind,
    Clip,
    ColourSource,
    Countdown,
    Dress,
    Fault,
    Folder,
    Gang,
    Input,
    PatternSource,
    Show,
    ShowError,
    Source,
    Still,
    Text,
    Zone,
)
from ushering_adze.core.show.sound import Ducked, Mix, Send, ShowSound, SoundInput, SourceSound
from ushering_adze.core.show.wall import Wall, WallCell, template_cells
from ushering_adze.demo.calendar import demo_schedule
from ushering_adze.demo.cues import demo_lists
from ushering_adze.demo.finishes import demo_finishes
from ushering_adze.demo.presets import demo_presets
from ushering_adze.demo.rig import (
    AMBER,
    CARDS,
    CLAY,
    COARSE,
    FINE,
    GREY,
    MOSS,
    SKY,
    TEAL,
    VIOLET,
    demo_canvases,
    demo_outputs,
    demo_surfaces,
)
from ushering_adze.io.showfile import SUFFIX, absolute, portable, save_show

DEMO_ROOT = Path(__file__).resolve().parent
SPEAKERS = "Ida Fernwood\n-- Keeper of the dome\n\nTom Hale\n-- Forty winters of plates\n\nRuth Amsel\n-- Comets"
"""Who speaks, and of what."""


def _sources() -> tuple[Source, ...]:
    return (
        Folder(id="slides", name="Slides", colour=SKY, path="media/slides", hold=12),
        Folder(id="notes", name="Notes", colour=CLAY, path="media/notes", hold=24),
        Clip(id="roof-camera", name="Roof camera", colour=TEAL, path="media/roof-camera.mp4", live=True),
        Clip(id="aisle-camera", name="Aisle camera", colour=CLAY, path="media/aisle-camera.mp4", live=True),
        Clip(id="star-trails", name="Star trails", colour=VIOLET, path="media/star-trails.mp4"),
        Clip(id="orrery", name="Orrery", colour=AMBER, path="media/orrery.mp4"),
        Clip(id="moon-phases", name="Moon phases", colour=MOSS, path="media/moon-phases.mp4"),
        Countdown(id="countdown", name="Countdown", colour=AMBER, seconds=300),
        Folder(id="patrons", name="Patrons", colour=TEAL, path="media/patrons", hold=7, order="shuffled"),
        Still(id="hold-card", name="Hold card", colour=GREY, path="media/hold-card.png"),
        ColourSource(id="night", name="Night blue", colour=VIOLET, fill="#0E1230"),
        PatternSource(id="grid", name="Grid", colour="#E8E2D3", pattern="grid"),
        Input(
            id="guest-laptop",
            name="Guest laptop",
            colour=SKY,
            width=3840,
            height=2160,
            rate=60,
            link="hdmi1.4",
            audio=True,
            gang=Gang(columns=2, rows=1, connectors=("In 1", "In 2")),
        ),
        Input(
            id="archive-player",
            name="Archive player",
            colour=CLAY,
            width=1920,
            height=1080,
            rate=59.94,
            interlaced=True,
            link="sdi1.5",
            encoding="422",
            bits=10,
            connector="In 3",
            protected=True,
        ),
        Still(id="moon-wipe", name="Moon wipe", colour=MOSS, path="media/moon-wipe.png"),
        Text(
            id="names",
            name="Names",
            words=SPEAKERS,
            dress=Dress(width=1920, height=960, size=150, density=1.0),
        ),
        Text(
            id="names-strip",
            name="Names, strip",
            follows="names",
            dress=Dress(layout="strip", width=1280, height=720, size=54, density=0.8, align="left"),
        ),
    )


# The supplier's two kinds of cabinet, for this show only.
def _watched() -> Wall:
    """What the technician watches: the stream large, beside it the cameras and the surfaces."""
    columns, rows, cells = template_cells("one large and seven")
    shows = (
        *(("surface", "relay"), ("source", "roof-camera"), ("source", "aisle-camera"), ("source", "slides")),
        *(("surface", "meridian"), ("surface", "horizon"), ("mix", "hall"), ("cues", "evening")),
    )
    filled = tuple(
        WallCell.model_validate({**cell.model_dump(), "shows": kind, "of": of, "marks": n == 0})
        for n, (cell, (kind, of)) in enumerate(zip(cells, shows, strict=True))
    )
    return Wall(id="front-of-house", name="Front of house", columns=columns, rows=rows, cells=filled)


def _heard() -> ShowSound:
    """What is heard: in the hall what is on its surfaces, in the foyer, and on the stream, where people come first."""
    hall = ("horizon", "meridian", "west-mast", "east-mast")
    return ShowSound(
        mixes=(
            Mix(id="hall", name="Hall", surfaces=hall, delay=20.0, low_cut=60.0),
            Mix(id="foyer", name="Foyer", surfaces=("foyer-wall",), level=-6.0),
            Mix(id="relay", name="Relay", surfaces=("relay",), target=-16.0, most=-1.5, level=6.0),
        ),
        sources=(
            SourceSound(of="star-trails", level=-6.0),
            SourceSound(of="line-up", heard="never"),
            SourceSound(of="roof-camera", sends=(Send(mix="hall", level=-12.0),)),
        ),
        inputs=(SoundInput(id="line-up", name="Line-up tone", pattern="tone"),),
        ducks=(Ducked(by="aisle-camera", depth=9.0, above=-50.0),),
    )


def demo_show() -> Show:
    """The demo show, with its media in `DEMO_ROOT`."""
    return absolute(
        Show(
            name="Centenary Night",
            rate=30,
            room_width_mm=18000,
            room_height_mm=6000,
            sources=_sources(),
            canvases=demo_canvases(),
            surfaces=demo_surfaces(),
            outputs=demo_outputs(),
            presets=demo_presets(),
            finishes=demo_finishes(),
            zones=(
                Zone(id="arch", name="Arch", holds=("west-mast", "horizon", "east-mast")),
                Zone(id="hall", name="House", holds=("arch", "meridian")),
                Zone(id="foyer", name="Foyer", holds=("foyer-wall",)),
            ),
            lists=demo_lists(),
            schedule=demo_schedule(),
            walls=(_watched(),),
            sound=_heard(),
            opening=5,
            cabinets=(CabinetKind(id="fine-500", cabinet=FINE), CabinetKind(id="coarse-500", cabinet=COARSE)),
            cards=CARDS,
        ),
        DEMO_ROOT,
    )


def copy_demo(folder: Path) -> Path:
    """Write the demo show and its media into a folder; returns the path of the show file.

    Raises
    ------
    ShowError
        If the folder cannot be written.
    """
    path = folder / f"show{SUFFIX}"
    try:
        folder.mkdir(parents=True, exist_ok=True)
        shutil.copytree(DEMO_ROOT / "media", folder / "media", dirs_exist_ok=True)
    except OSError as error:
        raise ShowError(
            [Fault(str(folder), f"the demo could not be written there ({error.strerror}); choose another folder")]
        ) from None
    save_show(absolute(portable(demo_show(), DEMO_ROOT), folder.resolve()), path)
    return path
