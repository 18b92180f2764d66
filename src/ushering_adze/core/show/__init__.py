"""The show document: an immutable tree of values with stable ids, and the edits that make the next one."""

from ushering_adze.core.document.model import Colour, Fault, Id, Model, ShowError
from ushering_adze.core.kinds.border import Border
from ushering_adze.core.kinds.crop import Crop
from ushering_adze.core.kinds.picture import Picture
from ushering_adze.core.kinds.place import Place
from ushering_adze.core.show.canvas import Canvas, Edge, Edges, Guide, MeshLanding, QuadLanding, RectLanding, Region
from ushering_adze.core.show.layer import Layer, LayerSettings
from ushering_adze.core.show.led import Batch, Cabinet, CabinetKind, Cell, ColumnGap, DataRuns, LedWall, OtherCabinets, Supply, TurnedCell
from ushering_adze.core.show.light import White
from ushering_adze.core.show.output import (
    Binding,
    BlackMatch,
    Card,
    DisplayBinding,
    FilesBinding,
    Gang,
    LightGrid,
    Mask,
    Output,
    PictureSettings,
    SignalSettings,
    Timing,
    TimingByHand,
    WindowBinding,
)
from ushering_adze.core.show.preset import Held, Part, Preset, Scope, Touch, part_of, with_held
from ushering_adze.core.show.room import RoomPlace
from ushering_adze.core.show.show import FORMAT, Show, document_of, show_from_document, show_schema
from ushering_adze.core.show.source import (
    Clip,
    ColourSource,
    Countdown,
    Folder,
    Input,
    PatternSource,
    Source,
    Still,
)
from ushering_adze.core.show.surface import Blend, Monitor, MonitorWall, Projection, Projector, ScatteredMonitor, Stream, Surface
from ushering_adze.core.show.upgrade import VERSION

__all__ = [
    "FORMAT", "VERSION", "Batch", "Binding", "BlackMatch", "Blend", "Border", "Cabinet", "CabinetKind", "Canvas", "Card", "Cell",
    "Clip", "Colour", "ColourSource", "ColumnGap", "Countdown", "Crop", "DataRuns", "DisplayBinding", "Edge", "Edges", "Fault", "FilesBinding",
    "Folder", "Gang", "Guide", "Held", "Id", "Input", "Layer", "LayerSettings", "LedWall", "LightGrid", "Mask", "MeshLanding", "Model",
    "Monitor", "MonitorWall", "OtherCabinets", "Output", "Part", "PatternSource", "Picture", "PictureSettings", "Place", "Preset",
    "Projection", "Projector", "QuadLanding", "RectLanding", "Region", "RoomPlace", "ScatteredMonitor", "Scope", "Show", "ShowError",
    "SignalSettings", "Source", "Still", "Stream", "Supply", "Surface", "Timing", "TimingByHand", "Touch", "TurnedCell", "White",
    "WindowBinding", "document_of", "part_of", "show_from_document", "show_schema", "with_held",
]
