"""Edits that add something, or part it from what it was, and what came of them."""

from __future__ import annotations

from collections.abc import Callable

from ushering_adze.core.show import Show

Edit = Callable[[str, Callable[[Show], Show]], bool]
"""Does an edit under these words; says whether it was not refused."""


def added(edit: Edit, words: str, make: Callable[[Show], tuple[Show, str]]) -> str | None:
    """The id of what came of an edit; None if it was refused."""
    ids: list[str] = []

    def made(show: Show) -> Show:
        show, id = make(show)
        ids.append(id)
        return show

    return ids[-1] if edit(words, made) else None
