"""Cues as a table: typed in, added, renumbered, to and from a spreadsheet."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterable
from itertools import pairwise
from typing import Any

from pydantic import ValidationError

from ushering_adze.core.document.entry import number_from
from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.exchange.cue_words import does_from, does_words, fires_from, fires_words, time_from
from ushering_adze.core.exchange.rows import as_rows, pasted_rows
from ushering_adze.core.picture.cards import clock_digits
from ushering_adze.core.show.cue import Cue, CueList, number_words
from ushering_adze.core.show.edits import changed
from ushering_adze.core.show.rigging import sentence_of
from ushering_adze.core.show.show import Show

COLUMNS = ("number", "name", "fires", "does", "start", "length", "note")


def span_words(seconds: float) -> str:
    """A length as it is typed: minutes and seconds from a minute on.

    Examples
    --------
    >>> span_words(45.5), span_words(1500), span_words(3725)
    ('45.5', '25:00', '1:02:05')
    """
    if seconds < 60 or seconds != int(seconds):
        return f"{seconds:g}"
    return clock_digits(int(seconds))


def span_from(text: str, now: float) -> float:
    """The seconds of a length: ``25:00``, ``1:02:05``, or a number of seconds, worked out if need be.

    Raises
    ------
    EntryError
        If it is none.

    Examples
    --------
    >>> span_from("25:00", 0), span_from("90", 0), span_from("+30", 60)
    (1500.0, 90.0, 90.0)
    """
    found = re.fullmatch(r"(?:(\d+):)?(\d{1,3}):([0-5]\d)", text.strip())
    if found is None:
        return number_from(text, now=now)
    return float(int(found[1] or 0) * 3600 + int(found[2]) * 60 + int(found[3]))


def with_list(show: Show, cues: CueList) -> Show:
    """The show with a cue list in place of the one with its id, or behind the others."""
    there = tuple(cues if y.id == cues.id else y for y in show.lists)
    known = cues.id in {y.id for y in show.lists}
    return show.model_copy(update={"lists": there if known else (*there, cues)})


def with_new_list(show: Show, name: str) -> tuple[Show, str]:
    """The show with one more cue list, empty, and its id."""
    id = new_id(name, {y.id for y in show.lists})
    return with_list(show, CueList(id=id, name=name)), id


def without_list(show: Show, id: str) -> Show:
    """The show without a cue list."""
    return show.model_copy(update={"lists": tuple(y for y in show.lists if y.id != id)})


def _placed(cues: CueList, made: Iterable[Cue]) -> CueList:
    """A list with these cues, in the order of their numbers; none may have the number of another.

    Raises
    ------
    ShowError
    """
    order = sorted(made, key=lambda c: c.number)
    for one, other in pairwise(order):
        if one.number == other.number:
            why = f"there is a cue {number_words(one.number)} already; type another number, such as "
            raise ShowError([Fault("number", why + number_words(free_between(cues, one.number)))])
    return cues.model_copy(update={"cues": tuple(order)})


def free_between(cues: CueList, after: float) -> float:
    """A number that no cue has, behind one and before the next: whole if there is room, else with decimals.

    Parameters
    ----------
    cues : CueList
    after : float
        The number behind which it is to come.

    Examples
    --------
    >>> cues = CueList(id="a", name="A", cues=tuple(Cue(id=f"c{n}", number=n) for n in (1, 2, 7)))
    >>> free_between(cues, 7), free_between(cues, 2), free_between(cues, 1), free_between(cues, 0)
    (8.0, 3.0, 1.5, 0.5)
    """
    later = sorted(c.number for c in cues.cues if c.number > after)
    if not later:
        return float(int(after) + 1)
    whole = float(int(after) + 1)
    if whole < later[0]:
        return whole
    for places in (1, 2, 3):
        step = 10.0**-places
        middle = round((after + later[0]) / 2 / step) * step
        if after + 1e-9 < middle < later[0] - 1e-9:
            return round(middle, 3)
    raise ShowError([Fault("number", f"no number is free behind {number_words(after)}; renumber the list")])


def _new_cue(show: Show, cues: CueList, after: float | None, preset: int | None) -> Cue:
    """A cue for a list: behind a number, or behind its last."""
    number = free_between(cues, max((c.number for c in cues.cues), default=0.0) if after is None else after)
    found = None if preset is None else show.preset(preset)
    return Cue(
        id=new_id(f"cue {number_words(number)}", {c.id for c in cues.cues}),
        number=number,
        name="" if found is None else found.name,
        does=() if found is None else does_from(str(found.number), show),
    )


def with_new_cue(show: Show, list: str, after: float | None = None, preset: int | None = None) -> tuple[Show, str]:
    """The show with one more cue behind a number, and its id.

    Parameters
    ----------
    show : Show
    list : str
        Id of the list.
    after : float, optional
        The last one's if not given.
    preset : int, optional
        Number of a preset that it recalls; it is called so too.

    Raises
    ------
    ShowError
        If no number is free there.
    """
    cues = show.cue_list(list)
    made = _new_cue(show, cues, after, preset)
    return with_list(show, _placed(cues, (*cues.cues, made))), made.id


def with_cues_of_presets(show: Show, list: str) -> Show:
    """The show with a cue behind the last of a list for each preset that no cue of it recalls, by their numbers.

    Parameters
    ----------
    show : Show
    list : str
        Id of the list.

    Raises
    ------
    ShowError
        If there is none.
    """
    cues = show.cue_list(list)
    there = {cue.preset for cue in cues.cues}
    wanted = sorted(p.number for p in show.presets if p.number not in there)
    if not wanted:
        raise ShowError([Fault("", "every preset has its cue in this list already; store more in Build")])
    for preset in wanted:
        cues = _placed(cues, (*cues.cues, _new_cue(show, cues, None, preset)))
    return with_list(show, cues)


def without_cues(show: Show, list: str, ids: Collection[str]) -> Show:
    """The show without some cues of a list."""
    cues = show.cue_list(list)
    return with_list(show, cues.model_copy(update={"cues": tuple(c for c in cues.cues if c.id not in ids)}))


def with_copies(show: Show, list: str, ids: Collection[str]) -> Show:
    """The show with some cues of a list once more, each behind itself.

    Raises
    ------
    ShowError
        If no number is free there.
    """
    for id in ids:
        cues = show.cue_list(list)
        cue = cues.cue(id)
        if cue is not None:
            number = free_between(cues, cue.number)
            other = cue.model_copy(update={"id": new_id(cue.id, {c.id for c in cues.cues}), "number": number})
            show = with_list(show, _placed(cues, (*cues.cues, other)))
    return show


def switched(show: Show, list: str, ids: Collection[str], off: bool) -> Show:
    """The show with some cues of a list passed over, or not."""
    cues = show.cue_list(list)
    made = tuple(c.model_copy(update={"off": off}) if c.id in ids else c for c in cues.cues)
    return with_list(show, cues.model_copy(update={"cues": made}))


def renumbered(show: Show, list: str, first: float = 1.0, step: float = 1.0) -> Show:
    """The show with the cues of a list under even numbers, in their order."""
    cues = show.cue_list(list)
    order = sorted(cues.cues, key=lambda c: c.number)
    made = [c.model_copy(update={"number": round(first + n * step, 3)}) for n, c in enumerate(order)]
    return with_list(show, cues.model_copy(update={"cues": tuple(made)}))


def cell(show: Show, cue: Cue, column: str) -> str:
    """What stands in a cell."""
    match column:
        case "number":
            return number_words(cue.number)
        case "fires":
            return fires_words(cue.fires, show)
        case "does":
            return does_words(cue, show)
        case "length":
            return "" if cue.length is None else span_words(cue.length)
    return str(getattr(cue, column) or "")


def _value(show: Show, cue: Cue, column: str, text: str) -> Any:
    words = text.strip()
    match column:
        case "number":
            return number_from(words, now=cue.number)
        case "fires":
            return fires_from(words, show)
        case "does":
            return does_from(words, show, cue)
        case "length":
            return span_from(words, cue.length or 0.0) if words else None
        case "start":
            return time_from(words) if words else None
    return words


def with_cell(show: Show, list: str, ids: Collection[str], column: str, text: str) -> Show:
    """The show with a cell of some cues typed into.

    Parameters
    ----------
    show : Show
    list : str
        Id of the list.
    ids : collection of str
        Of its cues.
    column : str
    text : str
        As it was typed.

    Raises
    ------
    ShowError
        In one sentence.
    """
    cues = show.cue_list(list)
    made = []
    try:
        for cue in cues.cues:
            if cue.id in ids:
                cue = changed(cue, **{column: _value(show, cue, column, text)})
            made.append(cue)
    except ValidationError as error:
        raise ShowError([Fault(column, sentence_of(error))]) from None
    except ValueError as error:
        raise error if isinstance(error, ShowError) else ShowError([Fault(column, str(error))]) from None
    return with_list(show, _placed(cues, made))


def as_tsv(show: Show, list: str) -> str:
    """A list as lines for a spreadsheet, with headings."""
    return as_rows(COLUMNS, ([cell(show, cue, c) for c in COLUMNS] for cue in show.cue_list(list).cues))


def pasted(show: Show, list: str, text: str) -> Show:
    """The show with cues from a spreadsheet: a known number changes that cue, another one is added.

    Parameters
    ----------
    show : Show
    list : str
        Id of the list.
    text : str
        Lines with tabs; with headings, or number, name, fires, does, in this order.

    Raises
    ------
    ShowError
        Naming the line; nothing is taken over then.
    """
    for n, values in pasted_rows(text, COLUMNS, usual=True):
        try:
            number = number_from(values["number"], now=0)
            cues = show.cue_list(list)
            cue = cues.numbered(number)
            if cue is None:
                id = new_id(f"cue {number_words(number)}", {c.id for c in cues.cues})
                cue = Cue.model_validate({"id": id, "number": number})
                show = with_list(show, _placed(cues, (*cues.cues, cue)))
            for column in values:
                if column != "number":
                    show = with_cell(show, list, [cue.id], column, values[column])
        except (ShowError, ValueError) as error:
            why = sentence_of(error) if isinstance(error, ValidationError) else str(error).removeprefix(": ")
            raise ShowError([Fault(f"line {n}", why)]) from None
    return show
