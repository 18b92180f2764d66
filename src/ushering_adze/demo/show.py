"""The demo show: "Centenary Night" at Lanternfell Observatory, in an old tram depot 18 m wide."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Any, Literal

from ushering_adze.core.kinds import NAMES
from ushering_adze.core.kinds.shadow import Shadow
from ushering_adze.core.kinds.shape import Shape
from ushering_adze.core.kinds.spread import Spread
from ushering_adze.core.show import (
    Border,
    Cabinet,
    CabinetKind,
    Canvas,
    Card,
    Clip,
    ColourSource,
    Countdown,
    DataRuns,
    Dress,
    Fault,
    Folder,
    Gang,
    Input,
    Layer,
    LayerSettings,
    LedWall,
    Monitor,
    MonitorWall,
    Output,
    Part,
    PatternSource,
    Picture,
    Place,
    Preset,
    Projection,
    Projector,
    RectLanding,
    Region,
    RoomPlace,
    Scope,
    Show,
    ShowError,
    SignalSettings,
    Source,
    Still,
    Stream,
    Surface,
    Text,
    Timing,
    Touch,
    Zone,
    part_of,
    with_held,
)
from ushering_adze.core.show.sound import Ducked, Mix, Send, ShowSound, SoundInput, SourceSound
from ushering_adze.core.show.wall import Wall, WallCell, template_cells
from ushering_adze.core.show.way import Way
from ushering_adze.demo.calendar import demo_schedule
from ushering_adze.demo.cues import demo_lists
from ushering_adze.demo.finishes import demo_finishes
from ushering_adze.io.showfile import SUFFIX, absolute, portable, save_show

DEMO_ROOT = Path(__file__).resolve().parent
VIOLET, SKY, TEAL, CLAY, MOSS, AMBER, GREY = "#9C8AD6", "#6FA0D8", "#5AB4BD", "#C9785A", "#93A84E", "#E3A857", "#9FB0B1"
SNAPPED, LEFT = Touch(how="snapped"), Touch(how="left")


def _px(x: float, y: float, w: float, h: float) -> Place:
    return Place(x=x, y=y, w=w, h=h, unit="px")


SPEAKERS = "Ida Fernwood\n-- Keeper of the dome\n\nTom Hale\n-- Forty winters of plates\n\nRuth Amsel\n-- Comets"
"""Who speaks, and of what."""
SKY_BOX, WALL_BOX = _px(256, 0, 3600, 1080), _px(1096, 1080, 1920, 960)
WEST_BOX, EAST_BOX = _px(0, 636, 256, 768), _px(3856, 636, 256, 768)


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
FINE = Cabinet(
    name="Fine 500",
    width_mm=500,
    height_mm=500,
    columns_px=192,
    rows_px=192,
    weight_kg=8.2,
    max_watts=190,
    mean_watts=65,
)
COARSE = Cabinet(
    name="Coarse 500",
    width_mm=500,
    height_mm=500,
    columns_px=128,
    rows_px=128,
    weight_kg=7.4,
    max_watts=170,
    mean_watts=55,
)
CARDS = (
    Card(id="card-a", name="Card A", connectors=("Out 1", "Out 2", "Out 3", "Out 4"), clock_mhz=600),
    Card(id="card-b", name="Card B", connectors=("Out 5", "Out 6", "Out 7"), clock_mhz=450),
    Card(id="card-in", name="Card In", connectors=("In 1", "In 2", "In 3", "In 4"), clock_mhz=600),
)


def _surfaces() -> tuple[Surface, ...]:
    left = Projector(
        id="left",
        name="Projector left",
        width=1920,
        height=1080,
        lumens=12000,
        throw_min=1.2,
        throw_max=1.8,
        shift_y=50,
        distance_mm=7200,
    )
    right = left.model_copy(update={"id": "right", "name": "Projector right"})
    west = LedWall(
        id="west-mast",
        name="West mast",
        place=RoomPlace(x_mm=2600, foot_mm=300),
        cabinet=COARSE,
        columns=2,
        rows=6,
        nits=1200,
        data=DataRuns(along="columns", start="bottom-left"),
    )
    east = west.model_copy(update={"id": "east-mast", "name": "East mast", "place": RoomPlace(x_mm=14400, foot_mm=300)})
    return (
        Projection(
            id="horizon",
            name="Horizon",
            place=RoomPlace(x_mm=4500, foot_mm=2900),
            width_mm=9000,
            height_mm=2700,
            overlap_px=240,
            material="matt white, perforated",
            gain=1.0,
            room_lux=8,
            projectors=(left, right),
        ),
        LedWall(
            id="meridian",
            name="Meridian",
            place=RoomPlace(x_mm=6500, foot_mm=350),
            columns=10,
            rows=5,
            nits=900,
            cabinet=FINE,
            data=DataRuns(backup=True),
        ),
        west,
        east,
        MonitorWall(
            id="foyer-wall",
            name="Foyer wall",
            place=RoomPlace(x_mm=0, foot_mm=900, apart=True),
            columns=3,
            rows=2,
            active_width_mm=1018.1,
            active_height_mm=572.7,
            edge_mm=3.5,
            feed_width=1920,
            feed_height=1080,
        ),
        Monitor(
            id="lectern",
            name="Lectern",
            place=RoomPlace(x_mm=400, foot_mm=300),
            width=1920,
            height=1080,
            width_mm=1102,
            height_mm=620,
        ),
        Stream(id="relay", name="Relay", width=1280, height=720),
    )


def _outputs() -> tuple[Output, ...]:
    full = Timing(width=1920, height=1080, rate=60)
    hdmi, sdi = SignalSettings(link="hdmi1.4"), SignalSettings(link="sdi3", encoding="422", bits=10)
    return (
        Output(id="processor-a", number=1, name="Processor A", timing=full, signal=hdmi, connector="Out 1"),
        Output(
            id="processor-b",
            number=2,
            name="Processor B",
            timing=Timing(width=1024, height=768, rate=60),
            signal=SignalSettings(link="dvi"),
            connector="Out 2",
        ),
        Output(id="projector-left", number=3, name="Projector left", timing=full, signal=sdi, connector="Out 3"),
        Output(id="projector-right", number=4, name="Projector right", timing=full, signal=sdi, connector="Out 4"),
        Output(
            id="foyer",
            number=5,
            name="Foyer",
            timing=full,
            signal=SignalSettings(link="hdmi1.4", protected=True),
            connector="Out 5",
        ),
        Output(id="lectern", number=6, name="Lectern", timing=full, signal=hdmi, connector="Out 6", mirrors=("Out 7",)),
        Output(
            id="relay",
            number=7,
            name="Relay",
            timing=Timing(width=1280, height=720, rate=30),
            signal=SignalSettings(link="stream", encoding="420"),
        ),
    )


def _region(
    id: str,
    name: str,
    rect: tuple[int, int, int, int],
    output: str,
    at: tuple[int, int],
    surface: str,
    projector: str | None = None,
) -> Region:
    x, y, w, h = rect
    return Region(
        id=id,
        name=name,
        x=x,
        y=y,
        w=w,
        h=h,
        output=output,
        surface=surface,
        projector=projector,
        landing=RectLanding(x=at[0], y=at[1], w=w, h=h),
    )


def _layer(
    id: str, name: str, colour: str, place: Place | None = None, source: str | None = None, **more: Any
) -> Layer:
    settings = LayerSettings(picture=Picture(source=source), place=place or Place(), **more)
    return Layer(id=id, name=name, colour=colour, settings=settings)


def _canvases() -> tuple[Canvas, ...]:
    house = Canvas(
        id="house",
        name="House",
        width=4112,
        height=2040,
        layers=(
            _layer("sky", "Sky", VIOLET, SKY_BOX),
            _layer("wall", "Wall", SKY, WALL_BOX),
            _layer("inset", "Inset", CLAY, WALL_BOX, opacity=0.0),
            _layer("west", "West", TEAL, WEST_BOX),
            _layer("east", "East", TEAL, EAST_BOX),
        ),
        regions=(
            _region("horizon-left", "Horizon left", (256, 0, 1920, 1080), "projector-left", (0, 0), "horizon", "left"),
            _region(
                "horizon-right", "Horizon right", (1936, 0, 1920, 1080), "projector-right", (0, 0), "horizon", "right"
            ),
            _region("meridian", "Meridian", (1096, 1080, 1920, 960), "processor-a", (0, 0), "meridian"),
            _region("west-mast", "West mast", (0, 636, 256, 768), "processor-b", (0, 0), "west-mast"),
            _region("east-mast", "East mast", (3856, 636, 256, 768), "processor-b", (256, 0), "east-mast"),
        ),
    )
    foyer = Canvas(
        id="foyer",
        name="Foyer",
        width=1920,
        height=1080,
        layers=(_layer("loop", "Loop", TEAL, source="patrons"),),
        regions=(_region("foyer", "Foyer wall", (0, 0, 1920, 1080), "foyer", (0, 0), "foyer-wall"),),
    )
    lectern = Canvas(
        id="lectern",
        name="Lectern",
        width=1920,
        height=1080,
        layers=(_layer("notes", "Notes", CLAY, source="notes"),),
        regions=(_region("lectern", "Lectern", (0, 0, 1920, 1080), "lectern", (0, 0), "lectern"),),
    )
    relay = Canvas(
        id="relay",
        name="Relay",
        width=1280,
        height=720,
        background="#12161F",
        layers=(
            _layer("feed", "Feed", SKY, source="hold-card"),
            _layer("guest", "Guest", CLAY, _px(880, 56, 352, 198), source="aisle-camera", opacity=0.0),
        ),
        regions=(_region("relay", "Relay", (0, 0, 1280, 720), "relay", (0, 0), "relay"),),
    )
    return house, foyer, lectern, relay


def _part(
    canvas: str,
    layer: str,
    source: str | None,
    place: Place | None = None,
    fit: Any = "fill",
    *,
    opacity: float = 1.0,
    border: Border | None = None,
    move: bool = False,
    seconds: float | None = None,
) -> Part:
    settings = LayerSettings(
        picture=Picture(source=source, fit=fit), place=place or Place(), opacity=opacity, border=border or Border()
    )
    faded = Touch(how="faded", seconds=seconds)
    return part_of(
        canvas,
        layer,
        settings,
        Scope(
            picture=faded,
            place=faded if move else SNAPPED,
            crop=SNAPPED,
            opacity=faded,
            border=SNAPPED if border else LEFT,
            **dict.fromkeys(set(NAMES) - {"picture", "place", "crop", "opacity", "border"}, LEFT),
        ),
    )


def _sky(source: str, box: Place = SKY_BOX) -> Part:
    return with_held(_part("house", "sky", source, box, move=True), "spread", Spread(), "faded")


def _wall(source: str | None, fit: Any = "fill", opacity: float = 1.0) -> Part:
    return _part("house", "wall", source, WALL_BOX, fit, opacity=opacity)


def _masts(source: str | None, opacity: float = 1.0, seconds: float | None = None) -> tuple[Part, Part]:
    return (
        _part("house", "west", source, WEST_BOX, opacity=opacity, seconds=seconds),
        _part("house", "east", source, EAST_BOX, opacity=opacity, seconds=seconds),
    )


def _fade_only(canvas: str, layer: str, opacity: float) -> Part:
    return with_held(Part(canvas=canvas, layer=layer), "opacity", opacity, "faded")


def _relay(source: str, fit: Any = "fill") -> Part:
    return _part("relay", "feed", source, None, fit)


def _spread(source: str, over: Literal["across", "each"]) -> Part:
    """The sky's layer over the arch of masts and Horizon."""
    part = with_held(Part(canvas="house", layer="sky"), "picture", Picture(source=source), "faded")
    part = with_held(part, "opacity", 1.0, "faded")
    return with_held(part, "spread", Spread(over=over, zone="arch", by="mm"), "faded")


def _presets() -> tuple[Preset, ...]:
    no_inset, no_guest = _fade_only("house", "inset", 0.0), _fade_only("relay", "guest", 0.0)
    lectern, foyer = _part("lectern", "notes", "notes"), _part("foyer", "loop", "patrons")
    guest = _part("relay", "guest", "aisle-camera", _px(880, 56, 352, 198), border=Border(width=3, colour="#E8E2D3"))
    panel = _part("house", "inset", "slides", _px(2272, 1488, 704, 352), border=Border(width=6, colour="#E8E2D3"))
    panel = with_held(panel, "shape", Shape(radius=18))
    panel = with_held(panel, "shadow", Shadow(x=10, y=14, blur=36, opacity=0.7))
    third = _part("relay", "guest", "names-strip", Place(), border=Border())
    return (
        Preset(
            id="doors-open",
            number=1,
            name="Doors open",
            seconds=3.0,
            parts=(
                _sky("star-trails"),
                _wall("orrery"),
                no_inset,
                *_masts("star-trails"),
                foyer,
                lectern,
                _relay("hold-card"),
                no_guest,
            ),
        ),
        Preset(
            id="countdown",
            number=2,
            name="Countdown",
            seconds=1.5,
            parts=(_sky("star-trails"), _wall("countdown"), no_inset, *_masts("orrery"), _relay("countdown"), no_guest),
        ),
        Preset(
            id="welcome",
            number=3,
            name="Welcome",
            seconds=1.5,
            parts=(
                _sky("star-trails"),
                _wall("aisle-camera"),
                no_inset,
                *_masts("star-trails"),
                lectern,
                _relay("aisle-camera"),
                no_guest,
            ),
        ),
        Preset(
            id="panorama",
            number=4,
            name="Panorama",
            seconds=4.0,
            way=Way(kind="wipe", form="iris", soft=0.2),
            parts=(_sky("star-trails", _px(0, 0, 4112, 1080)), _wall("night"), no_inset, *_masts(None, opacity=0.0)),
        ),
        Preset(
            id="keynote",
            number=5,
            name="Keynote",
            seconds=2.0,
            parts=(
                _sky("star-trails"),
                _wall("slides", "1:1"),
                no_inset,
                *_masts("star-trails"),
                foyer,
                lectern,
                _relay("slides", "fit"),
                guest,
            ),
        ),
        Preset(
            id="interview",
            number=6,
            name="Interview",
            seconds=0.8,
            parts=(
                _sky("star-trails"),
                _wall("aisle-camera"),
                panel,
                *_masts("orrery"),
                lectern,
                _relay("aisle-camera"),
                third,
            ),
        ),
        Preset(
            id="moon-reveal",
            number=7,
            name="Moon reveal",
            seconds=2.0,
            way=Way(kind="wipe", form="picture", source="moon-wipe", soft=0.2),
            parts=(_wall("moon-phases"), no_inset, *_masts("roof-camera")),
        ),
        Preset(
            id="closing",
            number=8,
            name="Closing",
            seconds=3.0,
            parts=(
                _sky("orrery"),
                _wall("hold-card"),
                no_inset,
                *_masts("moon-phases"),
                foyer,
                _part("lectern", "notes", "hold-card"),
                _relay("hold-card"),
                no_guest,
            ),
        ),
        Preset(id="masts-camera", number=20, name="Masts camera", seconds=1.0, parts=_masts("aisle-camera")),
        Preset(id="masts-stars", number=21, name="Masts stars", seconds=1.0, parts=_masts("star-trails")),
        Preset(
            id="spread-across",
            number=29,
            name="Spread across",
            seconds=1.2,
            parts=(_spread("orrery", "across"), *_masts(None, opacity=0.0)),
            key="F5",
        ),
        Preset(
            id="spread-each",
            number=30,
            name="Spread each",
            seconds=1.2,
            parts=(_spread("orrery", "each"), *_masts(None, opacity=0.0)),
            key="F6",
        ),
        Preset(id="black", number=90, name="Black", seconds=1.0, clears=("house", "relay")),
    )


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
            canvases=_canvases(),
            surfaces=_surfaces(),
            outputs=_outputs(),
            presets=_presets(),
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
