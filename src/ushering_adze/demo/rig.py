"""The rig of the demo: what hangs in the depot, what it is driven by, and the canvases over it."""

from __future__ import annotations

from typing import Any

from ushering_adze.core.show import (
    Cabinet,
    Canvas,
    Card,
    DataRuns,
    Layer,
    LayerSettings,
    LedWall,
    Monitor,
    MonitorWall,
    Output,
    Picture,
    Place,
    Projection,
    Projector,
    RectLanding,
    Region,
    RoomPlace,
    SignalSettings,
    Stream,
    Surface,
    Timing,
)

VIOLET, SKY, TEAL, CLAY, MOSS, AMBER, GREY = "#9C8AD6", "#6FA0D8", "#5AB4BD", "#C9785A", "#93A84E", "#E3A857", "#9FB0B1"


def px(x: float, y: float, w: float, h: float) -> Place:
    """A place in pixels of a canvas."""
    return Place(x=x, y=y, w=w, h=h, unit="px")


SKY_BOX, WALL_BOX = px(256, 0, 3600, 1080), px(1096, 1080, 1920, 960)
WEST_BOX, EAST_BOX = px(0, 636, 256, 768), px(3856, 636, 256, 768)


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


def demo_surfaces() -> tuple[Surface, ...]:
    """What people see: a wide blended projection, LED walls, masts, monitors, a lectern and the stream."""
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


def demo_outputs() -> tuple[Output, ...]:
    """The connectors of the machine that drive them."""
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


def demo_canvases() -> tuple[Canvas, ...]:
    """House, foyer, lectern and relay, with their layers and regions."""
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
            _layer("guest", "Guest", CLAY, px(880, 56, 352, 198), source="aisle-camera", opacity=0.0),
        ),
        regions=(_region("relay", "Relay", (0, 0, 1280, 720), "relay", (0, 0), "relay"),),
    )
    return house, foyer, lectern, relay
