"""The running show, and how others speak to it: actions and edits go in, reports and pictures come out, all of them
values.

Who shows or commands a show uses `Playout` and nothing below it.
"""

from ushering_adze.core.onair.faults import FaultNow
from ushering_adze.engine.forecasting import Forecast
from ushering_adze.engine.memory import set_aside
from ushering_adze.engine.report import FeedReport, PlayerReport, Report, SignalReport, SurfaceReport
from ushering_adze.engine.sounding import MixReport, SoundReport
from ushering_adze.io.sound.devices import devices as sound_devices
from ushering_adze.playout.beside import Beside, Running
from ushering_adze.playout.frames import Frames
from ushering_adze.playout.memory import Remembered
from ushering_adze.playout.playout import Playout

__all__ = [
    "Beside",
    "FaultNow",
    "FeedReport",
    "Forecast",
    "Frames",
    "MixReport",
    "PlayerReport",
    "Playout",
    "Remembered",
    "Report",
    "Running",
    "SignalReport",
    "SoundReport",
    "SurfaceReport",
    "set_aside",
    "sound_devices",
]
