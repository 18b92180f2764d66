"""Edits of a show's sound: mixes, levels of sources in them, sounds without a picture, what gives way."""

from __future__ import annotations

from typing import Any, Literal

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show.rigging import free_name, with_field
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.sound import LISTEN, Ducked, How, Mix, Send, SoundInput, SourceSound
from ushering_adze.core.sound.patterns import Pattern


def _with(show: Show, **fields: Any) -> Show:
    return show.model_copy(update={"sound": show.sound.model_copy(update=fields)})


def with_new_mix(show: Show, surfaces: tuple[str, ...] = ()) -> tuple[Show, str]:
    """The show with one more mix, which hears what is on some surfaces, or on any.

    Parameters
    ----------
    show : Show
    surfaces : tuple of str
        Ids; the mix is called after the first.

    Returns
    -------
    Show
    str
        The mix's id.
    """
    names = {m.name for m in show.sound.mixes}
    wanted = show.surface(surfaces[0]).name if surfaces else "Hall"
    name = wanted if wanted not in names else free_name("Mix", names)
    mix = Mix(id=new_id(name, {m.id for m in show.sound.mixes} | {LISTEN}), name=name, surfaces=surfaces)
    return _with(show, mixes=(*show.sound.mixes, mix)), mix.id


def _changed(items: tuple[Any, ...], id: str, fields: dict[str, object]) -> tuple[Any, ...]:
    """Items, of which one has fields as given.  Raises ShowError."""

    def made(item: Any) -> Any:
        for name, value in fields.items() if item.id == id else ():
            item = with_field(item, name, value)
        return item

    return tuple(made(item) for item in items)


def with_mix(show: Show, id: str, **fields: object) -> Show:
    """The show with fields of a mix as given.  Raises ShowError."""
    return _with(show, mixes=_changed(show.sound.mixes, id, fields))


def without_mix(show: Show, id: str) -> Show:
    """The show without a mix; feeds and the operator that had it have none."""
    sources = tuple(
        s.model_copy(update={"sends": tuple(d for d in s.sends if d.mix != id)}) for s in show.sound.sources
    )
    listen = show.sound.listen
    if listen.otherwise == id:
        listen = listen.model_copy(update={"otherwise": None})
    feeds = tuple(f.model_copy(update={"mix": None}) if f.mix == id else f for f in show.feeds)
    made = _with(show, mixes=tuple(m for m in show.sound.mixes if m.id != id), sources=sources, listen=listen)
    return made.model_copy(update={"feeds": feeds})


def with_source_sound(show: Show, of: str, **fields: object) -> Show:
    """The show with fields of how a source is heard as given; what is as usual is not kept.  Raises ShowError."""
    made: Any = show.sound.of(of)
    for name, value in fields.items():
        made = with_field(made, name, value)
    others = tuple(s for s in show.sound.sources if s.of != of)
    return _with(show, sources=others if made == SourceSound(of=of) else (*others, made))


def with_send(
    show: Show,
    of: str,
    mix: str,
    level: float | None = None,
    mute: bool | None = None,
    heard: How | Literal["as ever"] | None = None,
) -> Show:
    """The show with the level of a source in one mix as given, or muted there, or heard there at other times.

    Parameters
    ----------
    show : Show
    of, mix : str
        Ids of the source and the mix.
    level : float, optional
        dB.
    mute : bool, optional
    heard : {"picture", "always", "never", "as ever"}, optional
        When it is heard in that mix; *as ever* as in all others.
    """
    one = show.sound.of(of)
    send: Any = next((s for s in one.sends if s.mix == mix), Send(mix=mix))
    if level is not None:
        send = with_field(send, "level", level)
    if mute is not None:
        send = send.model_copy(update={"mute": mute})
    if heard is not None:
        send = send.model_copy(update={"heard": None if heard == "as ever" else heard})
    others = tuple(s for s in one.sends if s.mix != mix)
    return with_source_sound(show, of, sends=others if send == Send(mix=mix) else (*others, send))


def with_new_input(show: Show, pattern: Pattern | None = None, device: str = "default") -> tuple[Show, str]:
    """The show with one more sound without a picture: of a device, or a test sound, which nobody hears before it is let
    in.

    Parameters
    ----------
    show : Show
    pattern : {"tone", "sweep", "pink", "left-right", "beep"}, optional
    device : str

    Returns
    -------
    Show
    str
        Its id.
    """
    taken = {s.id for s in show.sources} | {s.id for s in show.sound.inputs}
    name = free_name("Sound" if pattern is None else PATTERN_NAMES[pattern], {s.name for s in show.sound.inputs})
    made = SoundInput(id=new_id(name, taken), name=name, device=device if pattern is None else None, pattern=pattern)
    show = _with(show, inputs=(*show.sound.inputs, made))
    return with_source_sound(show, made.id, heard="never"), made.id


PATTERN_NAMES: dict[Pattern, str] = {
    "tone": "Tone of 1 kHz",
    "sweep": "Sweep",
    "pink": "Pink noise",
    "left-right": "Left and right",
    "beep": "Beeps",
}


def with_input(show: Show, id: str, **fields: object) -> Show:
    """The show with fields of a sound without a picture as given.  Raises ShowError."""
    return _with(show, inputs=_changed(show.sound.inputs, id, fields))


def without_input(show: Show, id: str) -> Show:
    """The show without a sound, and whatever was said of it."""
    sound = show.sound
    return _with(
        show,
        inputs=tuple(s for s in sound.inputs if s.id != id),
        sources=tuple(s for s in sound.sources if s.of != id),
        ducks=tuple(d for d in sound.ducks if id not in (d.by, d.of)),
    )


def with_duck(show: Show, by: str, of: str | None = None, depth: float | None = 12.0) -> Show:
    """The show in which what ``of`` says, or everything, gives way to a source by so many decibels; no more, with a
    depth of None.
    """
    others = tuple(d for d in show.sound.ducks if (d.by, d.of) != (by, of))
    return _with(show, ducks=others if depth is None else (*others, Ducked(by=by, of=of, depth=depth)))
