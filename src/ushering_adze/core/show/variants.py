"""Presets made from others: with another source, merged, split, renumbered; and what is done to many at once."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Mapping

from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show.preset import Part, Preset, with_held
from ushering_adze.core.show.rigging import free_name
from ushering_adze.core.show.show import Show


def preset_of(show: Show, number: int | None) -> Preset:
    """The preset of a number.

    Raises
    ------
    ShowError
        If there is none.
    """
    found = None if number is None else show.preset(number)
    if found is None:
        raise ShowError([Fault("", f"there is no preset {number}; name one that is in the deck, or store it first")])
    return found


def _with(show: Show, presets: Iterable[Preset]) -> Show:
    return show.model_copy(update={"presets": tuple(sorted(presets, key=lambda p: p.number))})


def with_preset(show: Show, preset: Preset) -> Show:
    """The show with a preset in place of the one of its number, or as one more; in the order of their numbers."""
    return _with(show, [*(p for p in show.presets if p.number != preset.number), preset])


def _free(show: Show, number: int) -> None:
    """Raise ShowError if a number is taken."""
    if show.preset(number) is not None:
        raise ShowError([Fault("", f"number {number} is taken; choose another")])


def free_number_after(show: Show, number: int) -> int:
    """The first number after one that no preset has."""
    taken = {p.number for p in show.presets}
    return next(n for n in range(number + 1, number + len(taken) + 2) if n not in taken)


def free_preset_id(show: Show, number: int) -> str:
    """An id for a preset of a number that no preset has."""
    return new_id(f"p{number}", {p.id for p in show.presets})


def sources_of_preset(show: Show, number: int) -> dict[tuple[str, str], str]:
    """The source that a preset puts into each layer of which it stores a picture, the topmost first.

    Parameters
    ----------
    show : Show
    number : int

    Returns
    -------
    dict
        By canvas and layer.

    Raises
    ------
    ShowError
        If there is no such preset.
    """
    preset = preset_of(show, number)
    held = {(p.canvas, p.layer): p.holds.picture.to.source for p in preset.parts if p.holds.picture is not None}
    order = [(c.id, y.id) for c in show.canvases for y in reversed(c.layers)]
    return {key: held[key] for key in order if held.get(key) is not None}


def with_other_source(part: Part, old: str, new: str) -> Part:
    """A part that shows another source wherever it showed one; its times and ways stay."""
    held = part.holds.picture
    if held is None or held.to.source != old:
        return part
    to = held.to.model_copy(update={"source": new})
    return with_held(part, "picture", to, held.how, like=held)


def variant(show: Show, number: int, old: str, new: str, fresh: int) -> Show:
    """The show with a copy of a preset in which one source stands for another.

    Parameters
    ----------
    show : Show
    number : int
        Of the preset that is copied.
    old, new : str
        Ids of sources.
    fresh : int
        The copy's number.

    Returns
    -------
    Show

    Raises
    ------
    ShowError
        If there is no such preset, or the number is taken.
    """
    preset = preset_of(show, number)
    made = copied(show, number, fresh)
    name = free_name(f"{preset.name} · {show.source(new).name}"[:76], {p.name for p in show.presets})
    parts = tuple(with_other_source(p, old, new) for p in preset.parts)
    return with_preset(made, preset_of(made, fresh).model_copy(update={"name": name, "parts": parts}))


def with_replaced_source(show: Show, numbers: Collection[int], old: str, new: str) -> Show:
    """The show with one source in place of another in some presets.

    Parameters
    ----------
    show : Show
    numbers : collection of int
    old, new : str

    Returns
    -------
    Show
    """
    return _with(
        show,
        [
            p.model_copy(update={"parts": tuple(with_other_source(q, old, new) for q in p.parts)})
            if p.number in numbers
            else p
            for p in show.presets
        ],
    )


def copied(show: Show, number: int, fresh: int) -> Show:
    """The show with a copy of a preset under another number.

    Parameters
    ----------
    show : Show
    number, fresh : int

    Returns
    -------
    Show

    Raises
    ------
    ShowError
    """
    preset = preset_of(show, number)
    _free(show, fresh)
    name = free_name(preset.name, {p.name for p in show.presets})
    return with_preset(
        show,
        preset.model_copy(update={"id": free_preset_id(show, fresh), "number": fresh, "name": name, "key": None}),
    )


def merged(show: Show, numbers: Collection[int], fresh: int, name: str) -> Show:
    """The show with one more preset that does what several do, the later ones over the earlier.

    Parameters
    ----------
    show : Show
    numbers : collection of int
        In the order in which they are laid one over another.
    fresh : int
    name : str

    Returns
    -------
    Show

    Raises
    ------
    ShowError
    """
    chosen = [preset_of(show, n) for n in numbers]
    _free(show, fresh)
    if not chosen:
        raise ShowError([Fault("", "no presets are chosen; choose some first")])
    parts: dict[tuple[str, str], Part] = {}
    for preset in chosen:
        for part in preset.parts:
            there = parts.get((part.canvas, part.layer), Part(canvas=part.canvas, layer=part.layer))
            holds = there.holds.model_copy(update={kind: held for _, kind, held in part.held})
            parts[part.canvas, part.layer] = there.model_copy(update={"holds": holds})
    clears = tuple(dict.fromkeys(c for p in chosen for c in p.clears))
    made = copied(show, chosen[0].number, fresh)
    new = {"name": name, "parts": tuple(parts.values()), "clears": clears}
    return with_preset(made, preset_of(made, fresh).model_copy(update=new))


def split(show: Show, number: int, canvases: Collection[str], fresh: int) -> Show:
    """The show with a preset in two: what it stores of some canvases goes into another one.

    Parameters
    ----------
    show : Show
    number : int
    canvases : collection of str
    fresh : int
        Of the new one.

    Returns
    -------
    Show

    Raises
    ------
    ShowError
        If either would be empty.
    """
    preset = preset_of(show, number)
    mine = tuple(p for p in preset.parts if p.canvas not in canvases)
    other = tuple(p for p in preset.parts if p.canvas in canvases)
    _free(show, fresh)
    if not mine or not other:
        raise ShowError([Fault("", "one of the two would be empty; choose other canvases")])
    made = copied(show, number, fresh)
    kept = {"parts": mine, "clears": tuple(c for c in preset.clears if c not in canvases)}
    parted = {"parts": other, "clears": tuple(c for c in preset.clears if c in canvases)}
    made = with_preset(made, preset.model_copy(update=kept))
    return with_preset(made, preset_of(made, fresh).model_copy(update=parted))


def renumbered(show: Show, numbers: Mapping[int, int]) -> Show:
    """The show with other numbers of presets; who opens the show still does.

    Parameters
    ----------
    show : Show
    numbers : mapping
        From old to new.

    Returns
    -------
    Show

    Raises
    ------
    ShowError
        If two would have the same.
    """
    new = [numbers.get(p.number, p.number) for p in show.presets]
    for n in new:
        if new.count(n) > 1 or not 1 <= n <= 9999:
            raise ShowError([Fault("", f"{n} would be the number of two presets, or is none; choose others")])
    presets = [p.model_copy(update={"number": n}) for p, n in zip(show.presets, new, strict=True)]
    opening = None if show.opening is None else numbers.get(show.opening, show.opening)
    return _with(show.model_copy(update={"opening": opening}), presets)


def with_order(show: Show, number: int, before: int) -> Show:
    """The show with a preset at the place of another one, which moves on with those between them: the numbers there
    are stay, and are handed round.

    Parameters
    ----------
    show : Show
    number : int
        Of the preset that moves.
    before : int
        Of the preset whose place it takes.

    Returns
    -------
    Show

    Examples
    --------
    >>> from ushering_adze.core.show.preset import Preset
    >>> show = Show(name="S", presets=tuple(Preset(id=c, number=n, name=c) for c, n in zip("abcd", (1, 2, 5, 9))))
    >>> {p.name: p.number for p in with_order(show, 9, 2).presets}
    {'a': 1, 'd': 2, 'b': 5, 'c': 9}
    """
    order = sorted(p.number for p in show.presets)
    moved = [n for n in order if n != number]
    moved.insert(order.index(before), number)
    return renumbered(show, dict(zip(moved, order, strict=True)))


def without_presets(show: Show, numbers: Collection[int]) -> Show:
    """The show without some presets; one that opened it no more does.

    Parameters
    ----------
    show : Show
    numbers : collection of int

    Returns
    -------
    Show
    """
    opening = None if show.opening in numbers else show.opening
    return _with(show.model_copy(update={"opening": opening}), [p for p in show.presets if p.number not in numbers])


def found(show: Show, typed: str) -> tuple[Preset, ...]:
    """The presets that hold every word that is typed: in their number, name, note, sources, or surfaces' canvases.

    Parameters
    ----------
    show : Show
    typed : str

    Returns
    -------
    tuple of Preset
    """
    words = typed.lower().split()
    names = {s.id: s.name for s in show.sources} | {c.id: c.name for c in show.canvases}

    def text(preset: Preset) -> str:
        ids = [p.canvas for p in preset.parts] + [id for p in preset.parts for _, id in p.named()]
        return " ".join([str(preset.number), preset.name, preset.note, *(names.get(id, id) for id in ids)]).lower()

    return tuple(p for p in show.presets if all(w in text(p) for w in words))
