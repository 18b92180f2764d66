"""Actions as values: everything that can be asked to happen on air, whoever asks for it.

A key, a button, a cue, a message from the network make the same action.  Actions have a JSON schema, and can be played
back.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field, model_validator

from ushering_adze.core.document.model import Id, Model, Seldom
from ushering_adze.core.show.laid import Laid
from ushering_adze.core.show.preset import Part, Settings

Number = Annotated[int, Field(ge=1, le=9999)]
Seconds = Annotated[float, Field(ge=0, le=3600)]
Only = Annotated[tuple[Id, ...] | None, Field(description="only what these surfaces, or zones, show; all if null")]
Outputs = Annotated[tuple[Id, ...] | None, Field(description="which outputs; all if null")]


class StagePreset(Seldom):
    """Put a preset on preview; nothing goes on air."""

    do: Literal["stage"] = "stage"
    preset: Number


class Unstage(Seldom):
    """Clear the preview."""

    do: Literal["unstage"] = "unstage"


class Take(Seldom):
    """Preview to program, in the preset's time or in ``seconds``; only what the named surfaces show, if any
    are named.
    """

    do: Literal["take"] = "take"
    seconds: Seconds | None = None
    surfaces: Annotated[
        tuple[Id, ...] | None, Field(description="take only what these surfaces, or zones, show; all if null")
    ] = None


class Cut(Seldom):
    """Preview to program at once."""

    do: Literal["cut"] = "cut"
    surfaces: Annotated[
        tuple[Id, ...] | None, Field(description="cut only what these surfaces, or zones, show; all if null")
    ] = None


class Recall(Seldom):
    """A preset to program directly, in its time or in ``seconds``."""

    do: Literal["recall"] = "recall"
    preset: Number
    seconds: Seconds | None = None


class Hand(Seldom):
    """Lead the fade to what is on preview by hand: 0 is before, 1 is done."""

    do: Literal["hand"] = "hand"
    position: Annotated[float, Field(ge=0, le=1)]


class Back(Seldom):
    """Program to its former state."""

    do: Literal["back"] = "back"
    seconds: Seconds | None = None


class Black(Seldom):
    """Send black on outputs, or lift it."""

    do: Literal["black"] = "black"
    on: bool = True
    outputs: Outputs = None


class Mute(Seldom):
    """Make mixes of sound silent, or let them be heard again."""

    do: Literal["mute"] = "mute"
    on: bool = True
    mixes: Annotated[tuple[Id, ...] | None, Field(description="ids of mixes; null: all")] = None


class Arrange(Seldom):
    """Lay out a wall as another one is, wherever it is shown; as itself again if null."""

    do: Literal["arrange"] = "arrange"
    wall: Id
    like: Annotated[Id | None, Field(description="the wall whose cells it shows")] = None


class Hold(Seldom):
    """Keep the picture of outputs as it is, or let it go on."""

    do: Literal["hold"] = "hold"
    on: bool = True
    outputs: Outputs = None


class Keep(Seldom):
    """Keep a surface, or all of a zone, from every take and recall until it is released."""

    do: Literal["keep"] = "keep"
    surface: Id


class Release(Seldom):
    """Let takes and recalls touch a kept surface, or all of a zone, again."""

    do: Literal["release"] = "release"
    surface: Id


class Edit(Seldom):
    """Change settings of a layer: on preview, where nothing goes on air before a take, or on program at once."""

    do: Literal["edit"] = "edit"
    canvas: Id
    layer: Id
    set: Annotated[
        Settings, Field(description="what becomes of each kind of setting that changes, and how it gets there")
    ]
    on: Literal["preview", "program"] = "preview"
    seconds: Annotated[Seconds | None, Field(description="of what fades, on program; null is the usual time")] = None
    goes_on: Annotated[bool, Field(description="on program, one step for *back* with the edit before it")] = False


class SetPreview(Seldom):
    """Put a preset and edits upon it on preview, in place of whatever is there; nothing goes on air."""

    do: Literal["preview"] = "preview"
    preset: Number | None = None
    edits: tuple[Part, ...] = ()


class Route(Seldom):
    """Put a source on a surface, in the layer that lies there: on preview, or on program at once."""

    do: Literal["route"] = "route"
    surface: Id
    source: Annotated[Id | None, Field(description="null takes away what is there")]
    on: Literal["preview", "program"] = "preview"
    seconds: Annotated[Seconds | None, Field(description="of the fade; 0 cuts, null is the usual time")] = None


class Play(Seldom):
    """Let a source go on from where it stands."""

    do: Literal["play"] = "play"
    source: Id
    speed: Annotated[float | None, Field(ge=0.1, le=4)] = None
    looping: bool | None = None


class Pause(Seldom):
    """Let a source stand where it is."""

    do: Literal["pause"] = "pause"
    source: Id


class To(Seldom):
    """Send a source to a moment, in seconds from its start; it goes on, or stands, as it did."""

    do: Literal["to"] = "to"
    source: Id
    seconds: Annotated[float, Field(ge=0, le=86400)]


class Loop(Seldom):
    """Let a source begin anew at its end, or stand on its last picture."""

    do: Literal["loop"] = "loop"
    source: Id
    on: bool = True


class Next(Seldom):
    """Turn to the next page, to the next step of a text, or to the next picture of a folder."""

    do: Literal["next"] = "next"
    source: Id


class Previous(Seldom):
    """Turn back to the page, step or picture before."""

    do: Literal["previous"] = "previous"
    source: Id


class Page(Seldom):
    """Turn to a page, or to a picture of a folder, by its number, from 1."""

    do: Literal["page"] = "page"
    source: Id
    to: Annotated[int, Field(ge=1, le=9999)]


class LayOver(Seldom):
    """Lay a pattern over the outputs of a surface, dim them, or send them bare; null takes it away."""

    do: Literal["lay-over"] = "lay-over"
    over: Laid | None = None


class BringBack(Seldom):
    """Show a source itself again that comes back by hand alone, in place of what stood in for it while it was lost."""

    do: Literal["bring-back"] = "bring-back"
    source: Id


class SendFeed(Seldom):
    """Send a feed, or end it: a recording is whole then."""

    do: Literal["feed"] = "feed"
    feed: Id
    on: bool = True


class Arm(Seldom):
    """Have a cue ready to be fired, and its preset on preview; null arms none.  Nothing goes on air.

    With ``as_if`` preview is as if all cues before it had run.
    """

    do: Literal["arm"] = "arm"
    list: Id
    cue: Id | None = None
    as_if: bool = False


class Go(Seldom):
    """Fire the armed cue of a list, or a named one, and arm the next."""

    do: Literal["go"] = "go"
    list: Id
    cue: Id | None = None


class StartList(Seldom):
    """Fire the first cue of a list, and let it go on by itself."""

    do: Literal["start-list"] = "start-list"
    list: Id


class StopList(Seldom):
    """Let a list stand: nothing of it happens by itself any more, nor what was still to come of its last cue."""

    do: Literal["stop-list"] = "stop-list"
    list: Id


class PauseList(Seldom):
    """Let a list wait: its delays and what follows by itself stand still until it goes on, or is armed or fired by
    hand.
    """

    do: Literal["pause-list"] = "pause-list"
    list: Id
    on: bool = True


class Message(Seldom):
    """Say something to a speaker: a line below the digits of a clock; an empty one takes it away."""

    do: Literal["message"] = "message"
    source: Id
    text: Annotated[str, Field(max_length=120)] = ""


class RunCode(Seldom):
    """Let the timecode that the program makes itself go on, or stand; ``seconds`` sends it to a moment first."""

    do: Literal["code"] = "code"
    on: bool = True
    seconds: Annotated[float | None, Field(ge=0, le=86400, description="from 00:00:00:00")] = None


class Fire(Seldom):
    """A signal by its name: every cue that waits for it fires."""

    do: Literal["signal"] = "signal"
    name: Annotated[str, Field(min_length=1, max_length=80)]


class Override(Seldom):
    """Have surfaces, or zones, show black, the picture they have, a pattern or one source, above everything that is
    recalled, taken or fired, until it is lifted.
    """

    do: Literal["override"] = "override"
    surfaces: Annotated[tuple[Id, ...], Field(min_length=1)]
    shows: Literal["black", "hold", "pattern", "source"] = "black"
    source: Annotated[Id | None, Field(description="which, if a source is shown")] = None
    by: Annotated[str, Field(max_length=80, description="who asks for it")] = ""

    @model_validator(mode="after")
    def _a_source_is_named(self) -> Override:
        if (self.shows == "source") != (self.source is not None):
            raise ValueError('name a source where one is shown, and none elsewhere; set shows to "source" with it')
        return self


class Lift(Seldom):
    """Lift what overrides surfaces, or zones; all overrides there are if null."""

    do: Literal["lift"] = "lift"
    surfaces: Only = None


class Rehearse(Seldom):
    """Run a list on preview while program and all outputs stay: what is armed and fired of it is so there alone.  It
    goes ``speed`` times as fast; 0 is step by step.  ``let`` are surfaces that show it all the same.  A list that is
    null ends it.
    """

    do: Literal["rehearse"] = "rehearse"
    list: Id | None = None
    speed: Annotated[float, Field(ge=0, le=16)] = 1.0
    let: tuple[Id, ...] = ()


KINDS_OF_ACTION: tuple[type[Model], ...] = (
    StagePreset,
    Unstage,
    Take,
    Cut,
    Recall,
    Hand,
    Back,
    Black,
    Hold,
    Mute,
    Arrange,
    Keep,
    Release,
    Edit,
    SetPreview,
    Route,
    Play,
    Pause,
    To,
    Loop,
    Next,
    Previous,
    Page,
    LayOver,
    BringBack,
    SendFeed,
    Arm,
    Go,
    StartList,
    StopList,
    PauseList,
    Message,
    RunCode,
    Fire,
    Override,
    Lift,
    Rehearse,
)
Action = Annotated[
    StagePreset
    | Unstage
    | Take
    | Cut
    | Recall
    | Hand
    | Back
    | Black
    | Hold
    | Mute
    | Arrange
    | Keep
    | Release
    | Edit
    | SetPreview
    | Route
    | Play
    | Pause
    | To
    | Loop
    | Next
    | Previous
    | Page
    | LayOver
    | BringBack
    | SendFeed
    | Arm
    | Go
    | StartList
    | StopList
    | PauseList
    | Message
    | RunCode
    | Fire
    | Override
    | Lift
    | Rehearse,
    Field(discriminator="do"),
]
