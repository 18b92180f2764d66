"""An output: a timing, how its picture is adjusted, and where it goes."""

from __future__ import annotations

from itertools import pairwise
from typing import Annotated, Literal

from pydantic import Field, model_validator

from ushering_adze.core.document.model import Colour, Id, Model, Name
from ushering_adze.core.show.canvas import Corner, Guide, Side
from ushering_adze.core.show.light import White


class TimingByHand(Model):
    """Every count of a timing that no standard gives, and its clock."""

    clock_khz: Annotated[float, Field(gt=0, le=10_000_000)]
    h_front: Annotated[int, Field(ge=0, le=8192)]
    h_sync: Annotated[int, Field(ge=1, le=8192)]
    h_back: Annotated[int, Field(ge=0, le=8192)]
    v_front: Annotated[int, Field(ge=0, le=8192)]
    v_sync: Annotated[int, Field(ge=1, le=8192)]
    v_back: Annotated[int, Field(ge=0, le=8192)]
    h_positive: bool = True
    v_positive: bool = True


class Timing(Model):
    """Active raster in pixels and refresh rate in hertz; 59.94 means 60000/1001.

    ``standard`` is null for the usual choice: CTA-861 where it has the format, else reduced blanking.
    """

    width: Side
    height: Side
    rate: Annotated[float, Field(ge=1, le=480)] = 60.0
    interlaced: bool = False
    standard: Literal["cvt", "cvt-rb", "cvt-rb2", "cta", "custom"] | None = None
    by_hand: TimingByHand | None = None

    @model_validator(mode="after")
    def _by_hand_is_given(self) -> Timing:
        if (self.standard == "custom") != (self.by_hand is not None):
            raise ValueError(
                "a custom timing needs its counts by hand, and only a custom one has them; give both or neither"
            )
        return self


Leak = Annotated[float, Field(ge=0, le=0.5)]
Unit = Annotated[float, Field(ge=-1, le=1)]
Gain = Annotated[float, Field(ge=0, le=4)]


Share = Annotated[float, Field(ge=0, le=1)]


class LightGrid(Model):
    """Factors on light over the raster, at its corners and evenly between, row by row; between them bilinear."""

    columns: Annotated[int, Field(ge=2, le=33)]
    rows: Annotated[int, Field(ge=2, le=33)]
    red: tuple[Share, ...]
    green: tuple[Share, ...]
    blue: tuple[Share, ...]

    @model_validator(mode="after")
    def _a_factor_for_each(self) -> LightGrid:
        if {len(self.red), len(self.green), len(self.blue)} != {self.columns * self.rows}:
            raise ValueError(
                f"a grid of {self.columns} × {self.rows} has {self.columns * self.rows} factors for each colour; give "
                "each one"
            )
        return self


class Mask(Model):
    """A polygon on the raster that gets no light, with a soft edge inwards; ``keep`` lights only its inside instead."""

    name: Name = "Mask"
    points: Annotated[tuple[Corner, ...], Field(min_length=3, max_length=200)]
    soft: Annotated[float, Field(ge=0, le=2000, description="pixels over which light comes back")] = 0.0
    keep: bool = False
    on: bool = True


class BlackMatch(Model):
    """Matching of blacks where pictures overlap: ``leak`` is what the projector gives in black, as a share of its
    white, for each colour.
    """

    leak: tuple[Leak, Leak, Leak]
    soft: Annotated[
        float, Field(ge=0, le=200, description="pixels over which the lift fades at borders of overlaps")
    ] = 2.0
    on: bool = True


class Adjusted(Model):
    """How a picture is adjusted.

    ``brightness`` and ``offset`` are added to codes of 0 to 1; ``contrast`` multiplies about the middle, ``gain`` from
    black.
    """

    brightness: Unit = 0.0
    contrast: Gain = 1.0
    saturation: Gain = 1.0
    gain: tuple[Gain, Gain, Gain] = (1.0, 1.0, 1.0)
    offset: tuple[Unit, Unit, Unit] = (0.0, 0.0, 0.0)
    flip: Literal["none", "left-right", "top-bottom", "both"] = "none"


class PictureSettings(Adjusted):
    """How an output's picture is adjusted, and how its display turns codes into light: light = code ** gamma."""

    gamma: Annotated[float, Field(ge=0.5, le=5.0)] = 2.2
    response: Annotated[
        tuple[Share, ...] | None,
        Field(
            description="light measured at evenly spaced codes, 0 to 1, rising; the picture is then sent so that "
            "``gamma`` holds"
        ),
    ] = None
    white: White | None = None
    uniformity: LightGrid | None = None

    @model_validator(mode="after")
    def _response_rises(self) -> PictureSettings:
        r = self.response
        if r is not None and (
            len(r) < 2 or len(r) > 256 or r[0] != 0 or r[-1] != 1 or any(b <= a for a, b in pairwise(r))
        ):
            raise ValueError(
                "a measured response has 2 to 256 values that rise from 0 to 1; measure again or leave it out"
            )
        return self


LinkName = Literal[
    "dvi", "dvi-dual", "hdmi1.4", "hdmi2.0", "hdmi2.1", "dp1.2", "dp1.4", "sdi1.5", "sdi3", "sdi6", "sdi12", "stream"
]


class SignalSettings(Model):
    """What goes over the wire.

    ``range`` limited RGB is also made in the picture itself; all else here is the wire's: it counts in the link's
    budget and is on the rig sheet.  ``picture_only`` is DVI without audio or data, for old displays.  ``level`` is that
    of 3G SDI.
    """

    link: LinkName | None = None
    encoding: Literal["rgb", "444", "422", "420"] = "rgb"
    bits: Literal[8, 10, 12] = 8
    range: Literal["full", "limited"] = "full"
    picture_only: bool = False
    level: Literal["A", "B"] = "A"
    protected: Annotated[bool, Field(description="may carry copy-protected sources")] = False


class Gang(Model):
    """Several connectors that carry one raster between them, in the order of their parts from the top left,
    row by row.
    """

    columns: Annotated[int, Field(ge=1, le=16)]
    rows: Annotated[int, Field(ge=1, le=16)]
    connectors: tuple[Name, ...]

    @model_validator(mode="after")
    def _a_connector_for_each_part(self) -> Gang:
        if len(self.connectors) != self.columns * self.rows:
            raise ValueError(
                f"a gang of {self.columns} × {self.rows} needs {self.columns * self.rows} connectors, "
                f"not {len(self.connectors)}; name one for each part"
            )
        if len(set(self.connectors)) != len(self.connectors):
            raise ValueError("a connector is in the gang twice; give each part its own")
        return self


class Card(Model):
    """Connectors that share a capacity, named in order; ``clock_mhz`` is what they carry in all."""

    id: Id
    name: Name
    connectors: Annotated[tuple[Name, ...], Field(min_length=1)]
    clock_mhz: Annotated[float, Field(gt=0, le=100_000)]


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
    colour: Colour | None = None
    timing: Timing
    signal: SignalSettings = SignalSettings()
    picture: PictureSettings = PictureSettings()
    connector: Annotated[Name | None, Field(description="the connector it leaves by; a gang names its own")] = None
    gang: Gang | None = None
    mirrors: Annotated[tuple[Name, ...], Field(description="connectors that repeat it")] = ()
    binding: Binding | None = None
    guide: Guide | None = None
    masks: tuple[Mask, ...] = ()
    black: BlackMatch | None = None
