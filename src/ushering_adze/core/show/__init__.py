"""The show document: an immutable tree of values with stable ids, and the edits that make the next one."""

from ushering_adze.core.show.base import Colour, Fault, Id, Model, ShowError
from ushering_adze.core.show.canvas import Canvas, QuadLanding, RectLanding, Region
from ushering_adze.core.show.layer import Border, Crop, Layer, LayerSettings, Picture, Place
from ushering_adze.core.show.output import Binding, DisplayBinding, FilesBinding, Output, PictureSettings, Timing, WindowBinding
from ushering_adze.core.show.preset import KINDS, Kind, Part, Preset, Scope, Touch
from ushering_adze.core.show.show import FORMAT, VERSION, Show, document_of, show_from_document, show_schema
from ushering_adze.core.show.source import (
    Clip,
    ColourSource,
    Countdown,
    Folder,
    PatternSource,
    Source,
    Still,
)
from ushering_adze.core.show.surface import (
    Cabinet,
    LedWall,
    Monitor,
    MonitorWall,
    Projection,
    Projector,
    RoomPlace,
    Stream,
    Surface,
)

__all__ = [
    "FORMAT", "KINDS", "VERSION", "Binding", "Border", "Cabinet", "Canvas", "Clip", "Colour", "ColourSource", "Countdown", "Crop",
    "DisplayBinding", "Fault", "FilesBinding", "Folder", "Id", "Kind", "Layer", "LayerSettings", "LedWall", "Model", "Monitor",
    "MonitorWall", "Output", "Part", "PatternSource", "Picture", "PictureSettings", "Place", "Preset", "Projection", "Projector",
    "QuadLanding", "RectLanding", "Region", "RoomPlace", "Scope", "Show", "ShowError", "Source", "Still", "Stream", "Surface",
    "Timing", "Touch", "WindowBinding", "document_of", "show_from_document", "show_schema",
]
