"""Opening a source: the player for each kind."""

from __future__ import annotations

from pathlib import Path

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.light.lining_up import Look, shaped
from ushering_adze.core.light.patterns import Label, flat
from ushering_adze.core.picture.cards import input_picture
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.show import Clip, ColourSource, Countdown, Folder, Input, PatternSource, Source, Still
from ushering_adze.core.signal.timing import exact_rate, rate_words
from ushering_adze.io.media.live import LivePlayer
from ushering_adze.io.media.player import (
    ClipPlayer,
    CountdownPlayer,
    FixedPlayer,
    FolderPlayer,
    LinePlayer,
    LostPlayer,
    Player,
)
from ushering_adze.io.media.still import SUFFIXES, MediaError, serials, still_frame
from ushering_adze.io.turns import Turns


def opening_key(source: Source) -> tuple[object, ...]:
    """What of a source decides what is opened: two of the same key show the same pictures, whatever they are called.

    Parameters
    ----------
    source : Source
    """
    drawn = isinstance(source, PatternSource) or (
        isinstance(source, Input) and source.address is None and source.stand_in is None
    )
    left_out = (
        {"colour", "id", "when_lost", "picture"} if drawn else {"colour", "id", "name", "when_lost", "picture"}
    )  # what the program draws says what it is called
    fields = {
        name: value
        for name, value in source.__dict__.items()
        if name in type(source).model_fields and name not in left_out
    }
    return tuple(fields.items())


def open_player(source: Source, turns: Turns | None = None) -> Player:
    """Open a source; what cannot be opened becomes a player of a named lost picture, never an error.

    Parameters
    ----------
    source : Source
    turns : Turns, optional
        When what the source reads ahead may be worked on; by default at any time.
    """
    try:
        match source:
            case Still():
                return FixedPlayer(source, still_frame(Path(source.path)))
            case Clip():
                return ClipPlayer(source, Path(source.path), turns)
            case Folder():
                return FolderPlayer(source, Path(source.path), turns)
            case Countdown():
                return CountdownPlayer(source, turns)
            case ColourSource():
                red, green, blue = rgb_of(source.fill)
                return FixedPlayer(source, Frame(flat(16, 16, blue, green, red), next(serials)))
            case Input(address=str()):
                return LivePlayer(source, turns)
            case Input(stand_in=None):
                words = (
                    f"{source.width}×{source.height}{'i' if source.interlaced else ''} at "
                    f"{rate_words(exact_rate(source.rate))} Hz"
                )
                return FixedPlayer(
                    source, Frame(input_picture(source.name, words, source.width, source.height), next(serials))
                )
            case Input(stand_in=str(path)):
                at = Path(path)
                return (
                    FixedPlayer(source, still_frame(at))
                    if at.suffix.lower() in SUFFIXES
                    else ClipPlayer(source, at, turns)
                )
            case PatternSource(pattern="line"):
                return LinePlayer(source)
            case PatternSource():
                label = Label(source.name)
                red, green, blue = rgb_of(source.ink)
                look = Look(source.spacing, source.line, (blue, green, red))
                return FixedPlayer(
                    source, Frame(shaped(source.pattern, source.width, source.height, label, look), next(serials))
                )
    except MediaError as error:
        return LostPlayer(source, str(error))
    except Exception as error:  # a source must never take the show down with it
        return LostPlayer(source, f"it cannot be opened ({type(error).__name__}: {error})"[:120])
