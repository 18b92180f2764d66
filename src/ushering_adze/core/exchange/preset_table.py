"""Presets as a table: typed in, edited many at once, to and from a spreadsheet."""

from __future__ import annotations

import re
from collections import deque
from collections.abc import Collection
from typing import Any, get_args

from pydantic import ValidationError

from ushering_adze.core.document.entry import number_from
from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.wording import shortened
from ushering_adze.core.exchange.rows import as_rows, pasted_rows
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.preset import Preset
from ushering_adze.core.show.rigging import sentence_of
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.variants import free_preset_id, renumbered, with_preset
from ushering_adze.core.show.way import Way

COLUMNS = ("number", "name", "seconds", "curve", "transition", "clears", "key", "page", "note")
KINDS: tuple[str, ...] = get_args(Way.model_fields["kind"].annotation)
FORMS: tuple[str, ...] = get_args(Way.model_fields["form"].annotation)
_WORD = re.compile(r"^(?P<name>[a-z]+)?(?P<value>-?\d+(?:\.\d+)?)?°?$")


def way_words(way: Way | None) -> str:
    """A transition in the words that `way_from` reads.

    Examples
    --------
    >>> way_words(None), way_words(Way(kind="wipe", angle=90)), way_words(Way(kind="dip", colour="#204060"))
    ('dissolve', 'wipe line 90° soft 0.02', 'dip #204060')
    """
    if way is None:
        return "dissolve"
    match way.kind:
        case "wipe":
            angle = f" {way.angle:g}°" if way.form in ("line", "blinds", "clock") else ""
            count = f" count {way.count}" if way.form == "blinds" else ""
            source = f" of {way.source}" if way.form == "picture" and way.source is not None else ""
            return f"wipe {way.form}{angle}{count}{source} soft {way.soft:g}"
        case "push" | "slide":
            return f"{way.kind} {way.angle:g}°"
        case "dip":
            return f"dip {way.colour}"
    return way.kind


def way_from(text: str, show: Show | None = None) -> Way | None:
    """A transition from words: its kind, then what belongs to it, in any order.

    Parameters
    ----------
    text : str
        Such as ``wipe 90° soft 0.1``, ``wipe clock``, ``wipe picture of moon``, ``dip #204060``, ``push 180``.
    show : Show, optional
        Whose sources may be written by their names.

    Returns
    -------
    Way or None
        None for a dissolve.

    Raises
    ------
    ShowError
        Naming the word that is not known, and those that are.
    """
    words = text.strip().split()
    if not words or words == ["dissolve"]:
        return None
    kind = words[0].lower()
    if kind not in KINDS:
        raise ShowError([Fault("transition", f"{shortened(words[0])} is no transition; there are {', '.join(KINDS)}")])
    fields: dict[str, Any] = {"kind": kind}
    rest = deque(words[1:])
    while rest:
        word = rest.popleft()
        low = word.lower()
        if low.startswith("#"):
            fields["colour"] = word.upper()
        elif low in FORMS:
            fields["form"] = low
        elif low in ("soft", "count", "angle"):
            fields[low] = _number(rest.popleft() if rest else "", low)
        elif low == "of":  # a name may have several words
            name = []
            while rest and rest[0].lower() not in ("soft", "count", "angle") and not rest[0].startswith("#"):
                name.append(rest.popleft())
            fields["source"] = _source(show, " ".join(name))
        else:
            fields["angle"] = _number(low.rstrip("°"), "angle")
    if "count" in fields:
        fields["count"] = int(fields["count"])
    try:
        return Way.model_validate(fields)
    except ValidationError as error:
        raise ShowError([Fault("transition", sentence_of(error))]) from None


def _number(word: str, of: str) -> float:
    try:
        return float(word.rstrip("°"))
    except ValueError:
        known = f"{', '.join(FORMS)}, an angle, soft, count, of, a colour"
        raise ShowError([Fault("transition", f"{shortened(word)} is no number for {of}; write {known}")]) from None


def _source(show: Show | None, name: str) -> str:
    """The id of a source that is written by its id, or by its name."""
    if show is None or any(s.id == name for s in show.sources):
        return name
    by_name = {s.name.lower(): s.id for s in show.sources}
    if name.lower() not in by_name:
        raise ShowError([Fault("transition", f"there is no source {shortened(name)}; name one by its id")])
    return by_name[name.lower()]


def cell(show: Show, preset: Preset, column: str) -> str:
    """What stands in a column of a preset.

    Parameters
    ----------
    show : Show
    preset : Preset
    column : str
        One of `COLUMNS`.
    """
    match column:
        case "number":
            return str(preset.number)
        case "seconds":
            return f"{preset.seconds:g}"
        case "curve":
            return preset.easing
        case "transition":
            return way_words(preset.way)
        case "clears":
            return ", ".join(c.name for c in show.canvases if c.id in preset.clears)
        case "key":
            return preset.key or ""
    return str(getattr(preset, column))


def with_cell(show: Show, numbers: Collection[int], column: str, text: str) -> Show:
    """The show with another value in a column, of one preset or of several at once.

    Parameters
    ----------
    show : Show
    numbers : collection of int
    column : str
    text : str
        As it was typed; ``*2`` or ``+1`` are worked out for each.

    Returns
    -------
    Show

    Raises
    ------
    ShowError
        In one sentence.
    """
    if column == "number":
        chosen = sorted(numbers)
        first = int(number_from(text, now=float(chosen[0])))
        return renumbered(show, {n: first + k for k, n in enumerate(chosen)})
    changed = {n: _changed(show, preset, column, text) for n in numbers if (preset := show.preset(n)) is not None}
    return show.model_copy(update={"presets": tuple(changed.get(p.number, p) for p in show.presets)})


def _changed(show: Show, preset: Preset, column: str, text: str) -> Preset:
    value: Any = text.strip()
    name = {"curve": "easing", "transition": "way"}.get(column, column)
    if column == "seconds":
        value = number_from(text, now=preset.seconds)
    elif column == "transition":
        value = way_from(text, show)
    elif column == "clears":
        value = _canvases(show, text)
    elif column == "key":
        value = _key(text)
    try:
        return changed(preset, **{name: value})
    except ValidationError as error:
        raise ShowError([Fault(column, sentence_of(error))]) from None


def _key(text: str) -> str | None:
    """A key as it is written: ``f6``, ``shift f6``; nothing is none."""
    words = text.lower().replace("+", " ").split()
    if not words:
        return None
    if words[-1] not in {f"f{n}" for n in range(3, 13)} or words[:-1] not in ([], ["shift"]):
        raise ShowError([Fault("key", f"{shortened(text.strip())} recalls no preset; write F3 to F12, or Shift+F3")])
    return "+".join(word.title() for word in words)


def _canvases(show: Show, text: str) -> tuple[str, ...]:
    known = {c.name.lower(): c.id for c in show.canvases} | {c.id: c.id for c in show.canvases}
    found = []
    for word in (w.strip() for w in text.split(",") if w.strip()):
        if word.lower() not in known:
            names = ", ".join(c.name for c in show.canvases)
            raise ShowError([Fault("clears", f"there is no canvas {shortened(word)}; there are {names}")])
        found.append(known[word.lower()])
    return tuple(found)


def as_tsv(show: Show) -> str:
    """The presets as lines for a spreadsheet, with headings."""
    return as_rows(COLUMNS, ([cell(show, p, c) for c in COLUMNS] for p in show.presets))


def pasted(show: Show, text: str) -> Show:
    """The show with presets from a spreadsheet: a known number changes that preset, another one is added, empty.

    Parameters
    ----------
    show : Show
    text : str
        With headings, of which *number* must be one.

    Returns
    -------
    Show

    Raises
    ------
    ShowError
        Naming the line; nothing is taken over then.
    """
    for n, values in pasted_rows(text, COLUMNS):
        try:
            number = int(number_from(values["number"], now=0))
            if show.preset(number) is None:
                name = values.get("name", "").strip() or f"Preset {number}"
                made = Preset.model_validate({"id": free_preset_id(show, number), "number": number, "name": name})
                show = with_preset(show, made)
            for column in values:
                if column != "number":
                    show = with_cell(show, [number], column, values[column])
        except (ShowError, ValueError) as error:
            why = sentence_of(error) if isinstance(error, ValidationError) else str(error).removeprefix(": ")
            raise ShowError([Fault(f"line {n}", why)]) from None
    return show
