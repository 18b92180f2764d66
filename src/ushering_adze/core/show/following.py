"""Sources that show the pages of another one, each some pages further on."""

from __future__ import annotations

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.show.show import Show
from ushering_adze.core.show.source import Pages, Text


def with_pages_in_turn(show: Show, source: str, count: int) -> tuple[Show, tuple[str, ...]]:
    """A show with what it takes to have the pages of a source side by side.

    Parameters
    ----------
    show : Show
    source : str
        A document or a text, or one that follows such a source.
    count : int
        How many pages are wanted, from 1.

    Returns
    -------
    Show
        With sources that follow the source by one page, by two, and so on; those that do already are taken.
    tuple of str
        The sources in order, the first of them being the one that is followed.

    Raises
    ------
    ValueError
        If the source has no pages that are turned.
    """
    first = show.source(source)
    if not isinstance(first, (Pages, Text)):
        raise ValueError(f"{first.name} has no pages that are turned; take a document or a text")
    if first.follows is not None:
        return with_pages_in_turn(show, first.follows, count)
    there = {s.further: s.id for s in reversed(show.sources) if isinstance(s, (Pages, Text)) and s.follows == first.id}
    found, made = [first.id], list(show.sources)
    for n in range(1, count):
        id = there.get(n)
        if id is None:
            id = new_id(f"{first.name} {n} on", {s.id for s in made})
            origin = {"words": None, "path": None} if isinstance(first, Text) else {}
            following = {"id": id, "name": f"{first.name}, {n} on", "follows": first.id, "further": n, **origin}
            made.insert([s.id for s in made].index(found[-1]) + 1, first.model_copy(update=following))
        found.append(id)
    return show.model_copy(update={"sources": tuple(made)}), tuple(found)
