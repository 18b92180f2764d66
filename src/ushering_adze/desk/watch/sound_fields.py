"""Fields of mixes, sources and sounds."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ushering_adze.core.document.entry import EntryError, signed_from
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.core.show.rigging import with_field
from ushering_adze.core.show.sound import SoundInput
from ushering_adze.desk.fields import Spec


def _surfaces(show: Show) -> Spec:
    names = {s.id: s.name for s in show.surfaces}
    known = {s.name.lower(): s.id for s in show.surfaces}

    def write(mix: Any, text: Any) -> Any:
        found = []
        for name in (part.strip() for part in str(text).split(",")):
            if name and name.lower() not in known:
                raise ShowError([Fault("", f"no surface is named {name}; write names with commas between, or nothing")])
            if name:
                found.append(known[name.lower()])
        return with_field(mix, "surfaces", tuple(found))

    return Spec(
        "Hears",
        read=lambda m: ", ".join(names.get(s, s) for s in m.surfaces),
        write=write,
        hint="Surfaces by name, with commas between: what is on them is heard. Empty: what is on any",
    )


def mix_specs(show: Show, devices: Sequence[str]) -> list[Spec]:
    """Fields of a mix."""
    ways: list[tuple[str, Any]] = [("no device", None), ("the usual device", "default"), *((d, d) for d in devices)]
    return [
        Spec("Name", "name"),
        _surfaces(show),
        Spec("Level", "level", "float", unit="dB", signed=True, usual=0.0, resets=True),
        Spec("Device", "device", "choice", ways),
        Spec("Left to", "left", "int", hint="Channel of the device"),
        Spec("Right to", "right", "int", hint="Channel of the device"),
        Spec("Delay", "delay", "float", unit="ms", usual=0.0, resets=True, hint="As long as pictures take to the wall"),
        Spec("Low cut", "low_cut", "float", unit="Hz", usual=0.0, resets=True, hint="0: none"),
        Spec("True peak", "most", "float", unit="dBTP", signed=True, usual=-1.0, resets=True, hint="Of its limiter"),
        Spec("Target", "target", "float", unit="LUFS", signed=True, hint="EBU R 128: −23; many streams: −16"),
    ]


def listen_specs(show: Show, devices: Sequence[str]) -> list[Spec]:
    """Fields of what the operator hears."""
    ways: list[tuple[str, Any]] = [("no device", None), ("the usual device", "default"), *((d, d) for d in devices)]
    mixes: list[tuple[str, Any]] = [("silence", None), *((m.name, m.id) for m in show.sound.mixes)]
    return [
        Spec("Device", "device", "choice", ways, hint="Through which you listen"),
        Spec("Level", "level", "float", unit="dB", signed=True),
        Spec("Left to", "left", "int", hint="Channel of the device"),
        Spec("Right to", "right", "int", hint="Channel of the device"),
        Spec("Otherwise", "otherwise", "choice", mixes, hint="What is heard while nothing is chosen"),
    ]


def _channels(text: Any) -> tuple[int, ...]:
    try:
        return tuple(int(part) for part in str(text).replace(",", " ").split())
    except ValueError:
        raise ShowError([Fault("", "channels are numbers, like 1 2; write these")]) from None


def input_specs(given: SoundInput, show: Show, devices: Sequence[str]) -> list[Spec]:
    """Fields of a sound without a picture."""
    sources: list[tuple[str, Any]] = [("always let in", None), *((s.name, s.id) for s in show.sources)]
    specs = [Spec("Name", "name"), Spec("Goes with", "beside", "choice", sources, hint="Heard when this is seen")]
    if given.pattern is not None:
        return [*specs, Spec("Level", "level", "float", unit="dBFS", signed=True, usual=-18.0, resets=True)]
    ways: list[tuple[str, Any]] = [("the usual device", "default"), *((d, d) for d in devices)]
    return [
        *specs,
        Spec("Device", "device", "choice", ways),
        Spec(
            "Channels",
            read=lambda s: " ".join(str(c) for c in s.channels),
            write=lambda s, text: with_field(s, "channels", _channels(text)),
            hint="Numbers, like 1 2",
        ),
    ]


def decibels_from(text: str, now: float) -> float:
    """A level that was typed: a number, or off.  Raises EntryError."""
    words = text.strip().lower().removesuffix("db").strip()
    if words in ("off", "-inf", "−inf"):
        return -120.0
    found = signed_from(words, now)
    if not -120 <= found <= 12:
        raise EntryError("a level is between −120 and 12 dB; off is silent")
    return found
