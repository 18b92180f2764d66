"""An output: a timing, how its picture is adjusted, and where it goes."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ushering_adze.core.show.base import Id, Model, Name
from ushering_adze.core.show.canvas import Side


class Timing(Model):
    """Active raster in pixels and refresh rate in hertz."""

    width: Side
    height: Side
    rate: Annotated[float, Field(gt=0, le=480)] = 60.0


class PictureSettings(Model):
    """How the display behind this output turns codes into light: light = code ** gamma."""

    gamma: Annotated[float, Field(ge=0.5, le=5.0)] = 2.2


class DisplayBinding(Model):
    """A borderless window over the whole of a display of this machine, by the display's name."""

    kind: Literal["display"] = "display"
    name: Name


class WindowBinding(Model):
    """A plain window on the desktop."""

    kind: Literal["window"] = "window"


class FilesBinding(Model):
    """PNG files, about one a second, in a folder."""

    kind: Literal["files"] = "files"
    folder: Annotated[str, Field(min_length=1)]


Binding = Annotated[DisplayBinding | WindowBinding | FilesBinding, Field(discriminator="kind")]


class Output(Model):
    """One signal that leaves.  ``binding`` is None while the output is unbound."""

    id: Id
    number: Annotated[int, Field(ge=1, le=999)]
    name: Name
    timing: Timing
    picture: PictureSettings = PictureSettings()
    binding: Binding | None = None
