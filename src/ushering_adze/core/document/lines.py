"""On which line of a JSON text a value stands."""

from __future__ import annotations

import re

_TOKEN = re.compile(r'"(?:[^"\\]|\\.)*"|[{}\[\],:]|[^\s{}\[\],:"]+')
_STEP = re.compile(r"([^.\[\]]+)|\[(\d+)\]")


def line_of(text: str, where: str) -> int | None:
    """The line of a value, or of the nearest thing around it that is there.

    Parameters
    ----------
    text : str
        JSON.
    where : str
        A place such as ``canvases[0].regions[2].landing.kind``.

    Returns
    -------
    int or None
        From 1; None for the whole document.

    Examples
    --------
    >>> line_of('{"a": 1,\\n "b": [1,\\n {"c": 2}]}', "b[1].c"), line_of('{\\n"a": {}}', "a.gone"), line_of("{}", "")
    (3, 2, None)
    """
    wanted: list[str | int] = [int(n) if n else name for name, n in _STEP.findall(where)]
    if not wanted:
        return None
    best, depth_found = None, 0
    path: list[str | int] = []
    in_object: list[bool] = []
    key: str | None = None
    for token in _TOKEN.finditer(text):
        sign = token[0]
        if sign in "}]":
            if not in_object:
                break
            in_object.pop()
            path.pop()
            continue
        if sign == ":":
            continue
        if sign == ",":
            if path and isinstance(path[-1], int):
                path[-1] += 1
            key = None
            continue
        if in_object and in_object[-1] and key is None:
            key = sign.strip('"')
            path[-1] = key
            if len(path) > depth_found and path == wanted[: len(path)]:
                best, depth_found = token.start(), len(path)
            continue
        if path and isinstance(path[-1], int) and len(path) > depth_found and path == wanted[: len(path)]:
            best, depth_found = token.start(), len(path)
        if depth_found == len(wanted):
            break
        if sign in "{[":
            in_object.append(sign == "{")
            path.append("" if sign == "{" else 0)
            key = None
        else:
            key = None if in_object and in_object[-1] else key
    return None if best is None else text.count("\n", 0, best) + 1
