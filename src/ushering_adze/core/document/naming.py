"""Ids that are not used yet."""

from __future__ import annotations

from collections.abc import Iterable


def new_id(wanted: str, used: Iterable[str]) -> str:
    """An id that is not used yet, made from a name.

    Parameters
    ----------
    wanted : str
        What is wanted.
    used : Iterable[str]
        What is used already.

    Returns
    -------
    str

    Examples
    --------
    >>> new_id("West mast", {"west-mast", "west-mast-2"})
    'west-mast-3'
    """
    plain = "".join(c if c.isascii() and c.isalnum() else "-" for c in wanted.lower())
    base = "-".join(p for p in plain.split("-") if p)[:56] or "item"
    taken = set(used)
    if base not in taken:
        return base
    return next(f"{base}-{n}" for n in range(2, 10**6) if f"{base}-{n}" not in taken)
