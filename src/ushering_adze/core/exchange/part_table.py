"""What a preset stores, as a table: a row for each kind of setting of each layer, with how and when it arrives."""

from __future__ import annotations

from collections.abc import Collection
from typing import NamedTuple

from pydantic import ValidationError

from ushering_adze.core.document.entry import number_from
from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.wording import shortened
from ushering_adze.core.exchange.preset_table import way_from, way_words
from ushering_adze.core.kinds import BY_NAME
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.preset import Held, Part, Preset
from ushering_adze.core.show.rigging import sentence_of
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.variants import preset_of, with_preset
from ushering_adze.core.show.way import Way

COLUMNS = ("layer", "kind", "arrives", "seconds", "wait", "curve", "transition")
TYPED = COLUMNS[2:]
"""Columns that can be typed in."""
PRESETS = "preset's"
"""Stands where a setting has what its preset has."""


class Row(NamedTuple):
    """A kind of setting of a layer that a preset stores."""

    canvas: str
    layer: str
    kind: str


def rows_of(show: Show, number: int) -> tuple[Row, ...]:
    """The rows of a preset: layers in the order of their canvases, the topmost first; kinds in theirs.

    Parameters
    ----------
    show : Show
    number : int

    Returns
    -------
    tuple of Row

    Raises
    ------
    ShowError
        If there is no such preset.
    """
    parts = {(p.canvas, p.layer): p for p in preset_of(show, number).parts}
    order = [(c.id, y.id) for c in show.canvases for y in reversed(c.layers)]
    return tuple(Row(*key, kind) for key in order if key in parts for _, kind, _ in parts[key].held)


def _held(preset: Preset, row: Row) -> Held:
    part = next(p for p in preset.parts if (p.canvas, p.layer) == (row.canvas, row.layer))
    held: Held = getattr(part.holds, row.kind)
    return held


def cell(show: Show, number: int, row: Row, column: str) -> str:
    """What stands in a column of a row.

    Parameters
    ----------
    show : Show
    number : int
    row : Row
    column : str
        One of `COLUMNS`.

    Returns
    -------
    str
    """
    preset = preset_of(show, number)
    held = _held(preset, row)
    match column:
        case "layer":
            canvas = show.canvas(row.canvas)
            return f"{next(y.name for y in canvas.layers if y.id == row.layer)} · {canvas.name}"
        case "kind":
            return BY_NAME[row.kind].words
        case "arrives":
            return "fades" if held.how == "faded" else "snaps"
        case "seconds":
            return PRESETS if held.seconds is None else f"{held.seconds:g}"
        case "wait":
            return f"{held.delay:g}"
        case "curve":
            return PRESETS if held.easing is None else held.easing
    if row.kind != "picture":
        return ""
    return PRESETS if held.way is None else way_words(held.way)


def with_cell(show: Show, number: int, rows: Collection[Row], column: str, text: str) -> Show:
    """The show with another value in a column, in one row or several.

    Parameters
    ----------
    show : Show
    number : int
        Of the preset.
    rows : collection of Row
        Of those that are no pictures, a transition is left out.
    column : str
        One of `TYPED`.
    text : str
        As it was typed: empty, or *preset's*, is what the preset has; ``*2`` is worked out for each.

    Returns
    -------
    Show

    Raises
    ------
    ShowError
        In one sentence.
    """
    preset = preset_of(show, number)
    wanted, parts = set(rows), []
    for part in preset.parts:
        holds = part.holds
        for _, kind, held in part.held:
            if Row(part.canvas, part.layer, kind) in wanted and (column != "transition" or kind == "picture"):
                holds = holds.model_copy(update={kind: _changed(show, preset, held, column, text.strip())})
        parts.append(part if holds is part.holds else Part(canvas=part.canvas, layer=part.layer, holds=holds))
    return with_preset(show, preset.model_copy(update={"parts": tuple(parts)}))


def _changed(show: Show, preset: Preset, held: Held, column: str, text: str) -> Held:
    own = text.lower() not in ("", PRESETS)
    fields: dict[str, object] = {}
    match column:
        case "arrives":
            words = {"fades": "faded", "faded": "faded", "fade": "faded"}
            words |= {"snaps": "snapped", "snapped": "snapped", "snap": "snapped"}
            how = words.get(text.lower())
            if how is None:
                raise ShowError([Fault("arrives", f"{shortened(text)} is no way to arrive; write fades or snaps")])
            fields["how"] = how
        case "seconds":
            now = preset.seconds if held.seconds is None else held.seconds
            fields["seconds"] = number_from(text, now=now) if own else None
        case "wait":
            fields["delay"] = number_from(text, now=held.delay) if own else 0.0
        case "curve":
            fields["easing"] = text if own else None
        case _:
            way = way_from(text, show) if own else None
            if own and way is None:  # a dissolve of its own, whatever the preset has
                way = Way()
            fields["way"] = way
    try:
        return changed(held, **fields)
    except ValidationError as error:
        raise ShowError([Fault(column, sentence_of(error))]) from None
