"""How much memory one show takes beyond another that it was made from."""

from __future__ import annotations

import sys
from typing import Any

from pydantic import BaseModel


def grown_bytes(show: object, before: object) -> int:
    """Bytes of a value that another does not share with it, roughly: what is the very same object counts nothing.

    Parameters
    ----------
    show, before : object
        Values of the show: models, tuples, text, numbers.

    Returns
    -------
    int

    Examples
    --------
    >>> names = ("Meridian", "Horizon")
    >>> grown_bytes(names, names), grown_bytes((*names, "Relay"), names) > 40
    (0, True)
    """
    if show is before:
        return 0
    size = sys.getsizeof(show)
    if isinstance(show, BaseModel):
        fields: dict[str, Any] = show.__dict__
        others: dict[str, Any] = before.__dict__ if isinstance(before, BaseModel) else {}
        size += sys.getsizeof(fields)
        # what another thread works out just now is kept beside the fields: only they are gone through
        return size + sum(grown_bytes(fields[name], others.get(name)) for name in type(show).model_fields)
    if isinstance(show, tuple):
        shared = {id(item) for item in before} if isinstance(before, tuple) else set()
        old = before if isinstance(before, tuple) else ()
        return size + sum(
            grown_bytes(item, old[n] if n < len(old) else None) for n, item in enumerate(show) if id(item) not in shared
        )
    return size
