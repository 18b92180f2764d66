"""A stand-in for the process that makes the pictures: it ends when it is given a show of a certain name."""

import os
from typing import Any

from ushering_adze.playout import serving

_do = serving.Server._do


def _ends(self: serving.Server, ask: Any) -> None:
    if ask.name == "edit" and ask.given[0].name == "Ends":
        os._exit(7)
    _do(self, ask)


serving.Server._do = _ends  # type: ignore[method-assign]
main = serving.main
