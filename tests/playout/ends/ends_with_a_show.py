"""A stand-in for the process that makes the pictures: it ends when it is given a show of a certain name, and cannot map
one of another.
"""

import os
from typing import Any

from ushering_adze.engine import renderer as drawing
from ushering_adze.playout import serving

_do, _compile = serving.Server._do, drawing.compile_output


def _ends(self: serving.Server, ask: Any) -> None:
    if ask.name == "edit" and ask.given[0].name == "Ends":
        os._exit(7)
    _do(self, ask)


def _compiled(show: Any, *more: Any) -> Any:
    if show.name == "Cannot":
        raise ZeroDivisionError
    return _compile(show, *more)


def main() -> None:
    """Serve, with these flaws."""
    drawing.compile_output = _compiled
    serving.Server._do = _ends  # type: ignore[method-assign]
    serving.main()
