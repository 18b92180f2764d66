"""Opening a source: the player for each kind."""

from __future__ import annotations

from pathlib import Path

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.light.lining_up import Look, shaped
from ushering_adze.core.light.patterns import Label, flat
from ushering_adze.core.picture.cards import input_picture
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.show import (
    Clip,
    Clock,
    ColourSource,
    Countdown,
    Folder,
    Input,
    Pages,
    Parts,
    PatternSource,
    Playlist,
    Source,
    SourcePicture,
    Still,
    Text,
    WallSource,
)
from ushering_adze.core.show.files import STILLS
from ushering_adze.core.signal.timing import exact_rate, rate_words
from ushering_adze.core.text.pages import pages_of_text
from ushering_adze.io.media.animated import AnimatedPlayer, animated
from ushering_adze.io.media.live import LivePlayer
from ushering_adze.io.media.paged import EMPTY, ClockPlayer, PagesPlayer, TextPlayer, read_pages
from ushering_adze.io.media.player import (
    ClipPlayer,
    CountdownPlayer,
    FixedPlayer,
    FlashPlayer,
    FolderPlayer,
    LinePlayer,
    LostPlayer,
    PartsPlayer,
    Player,
    WallPlayer,
)
from ushering_adze.io.media.playlist import PlaylistPlayer
from ushering_adze.io.media.still import MediaError, serials, still_frame
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
    left_out = {"colour", "finishes", "group", "id", "when_lost", "picture", "watch", "delay", "by_hand", "mark"}
    match source:
        case Text():
            left_out |= {"dress", "further"} | ({"words"} if source.words is not None else set())
        case Pages():
            left_out |= {"follows", "further"}
        case Clock():
            left_out |= {"dress", "shows", "until", "seconds"}
        case Parts():
            return ("parts",)
        case Clip() | Still() if source.picture.alpha != "straight":
            key = opening_key(source.model_copy(update={"picture": SourcePicture()}))
            return (*key, ("alpha", source.picture.alpha))
        case Clip():
            left_out |= {"begin", "stop", "at_end", "fade", "follow", "taken", "runs_on", "live"}
    if not drawn:  # what the program draws says what it is called
        left_out |= {"name"}
    if isinstance(source, Input) and source.address is not None:
        left_out |= {"stand_in"}
    return tuple((name, getattr(source, name)) for name in type(source).model_fields if name not in left_out)


def open_player(source: Source, turns: Turns | None = None, near: bool = True) -> Player:
    """Open a source; what cannot be opened becomes a player of a named lost picture, never an error.

    Parameters
    ----------
    source : Source
    turns : Turns, optional
        When what the source reads ahead may be worked on; by default at any time.
    near : bool, optional
        Whether it is about to be shown; else it takes as little memory as can be until it is.
    """
    try:
        match source:
            case Still() | Clip() if animated(Path(source.path)):
                return AnimatedPlayer(source, Path(source.path))
            case Still():
                return FixedPlayer(source, still_frame(Path(source.path), source.picture.alpha))
            case Clip():
                return ClipPlayer(source, Path(source.path), turns, near)
            case Folder():
                return FolderPlayer(source, Path(source.path), turns)
            case Countdown():
                return CountdownPlayer(source, turns)
            case Pages():
                return PagesPlayer(source, turns)
            case Text(follows=None, words=None):
                return TextPlayer(source, read_pages(Path(source.path or "")), turns)
            case Text(follows=None):
                return TextPlayer(source, pages_of_text(source.words or "") or EMPTY, turns)
            case Text():
                return LostPlayer(source, "what it follows is no text that is turned itself; name another text")
            case Clock():
                return ClockPlayer(source, turns)
            case Playlist():
                return PlaylistPlayer(source, turns)
            case Parts():
                return PartsPlayer(source)
            case WallSource():
                return WallPlayer(source)
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
                    if at.suffix.lower() in STILLS
                    else ClipPlayer(source, at, turns, near)
                )
            case PatternSource(pattern="line"):
                return LinePlayer(source)
            case PatternSource(pattern="flash"):
                return FlashPlayer(source)
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
