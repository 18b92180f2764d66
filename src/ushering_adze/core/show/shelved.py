"""Sources on their shelf: put into groups, and found by what is typed."""

from __future__ import annotations

from collections.abc import Collection

from ushering_adze.core.show.show import Show
from ushering_adze.core.show.source import AnySource, Input, Source, without_secrets

KINDS = {
    "still": "still",
    "clip": "clip",
    "folder": "folder of pictures",
    "pattern": "pattern",
    "colour": "colour",
    "countdown": "countdown",
    "pages": "pages",
    "text": "text",
    "clock": "clock",
    "playlist": "playlist",
    "parts": "parts",
    "wall": "a wall of pictures",
    "input": "input",
}
"""What a kind of source is called."""


def by_group(show: Show) -> dict[str, tuple[Source, ...]]:
    """The sources of each group, in the show's order; first those of none, under ``""``.

    Parameters
    ----------
    show : Show

    Returns
    -------
    dict of tuple of Source
    """
    found: dict[str, list[Source]] = {"": []}
    for source in show.sources:
        found.setdefault(source.group, []).append(source)
    return {group: tuple(sources) for group, sources in found.items() if sources}


def in_group(show: Show, ids: Collection[str], group: str) -> Show:
    """The show with these sources in a group, or in none if it is empty.

    Parameters
    ----------
    show : Show
    ids : collection of str
    group : str
        Spaces at its ends do not count; at most 80 letters.

    Returns
    -------
    Show

    Raises
    ------
    pydantic.ValidationError
        If the name is too long.
    """
    name = AnySource(kind="", id="x", name="x", group=group.strip()).group
    sources = tuple(s.model_copy(update={"group": name}) if s.id in ids else s for s in show.sources)
    return show.model_copy(update={"sources": sources})


def words_of(source: Source) -> str:
    """All that a source can be found by, in small letters: name, id, group, kind, file or address."""
    address = without_secrets(source.address or "") if isinstance(source, Input) else ""
    parts = (source.name, source.id, source.group, KINDS[source.kind], getattr(source, "path", None), address)
    return " ".join(str(part) for part in parts if part).lower()


def matching(show: Show, typed: str) -> tuple[Source, ...]:
    """The sources that hold every word that is typed; all of them if nothing is.

    Parameters
    ----------
    show : Show
    typed : str
        Words with spaces between, in any order; parts of words do.

    Returns
    -------
    tuple of Source
    """
    words = typed.lower().split()
    return tuple(s for s in show.sources if all(word in words_of(s) for word in words))
