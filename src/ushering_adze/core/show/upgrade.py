"""Older documents, brought to the present version of the format, one step at a time."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Literal

VERSION: Literal[2] = 2
_USUAL_1 = {"picture": "faded", "place": "snapped", "crop": "snapped", "opacity": "faded", "border": "snapped"}
_DEFAULT_1: dict[str, Any] = {"picture": {}, "place": {}, "crop": {}, "opacity": 1.0, "border": {}}
"""What version 1 took for granted where nothing was written."""


def _partial(part: Any) -> Any:
    """A part of version 1, which had all settings and a scope beside them, as one that holds what it touches."""
    if not isinstance(part, dict):
        return part
    part = dict(part)
    settings, scope = part.pop("settings", {}), part.pop("scope", {})
    if not isinstance(settings, dict) or not isinstance(scope, dict):
        return {**part, "holds": settings if not isinstance(settings, dict) else scope}
    holds: dict[str, Any] = {}
    for kind in dict.fromkeys([*_USUAL_1, *settings, *scope]):
        touch = scope.get(kind, {"how": _USUAL_1.get(kind, "snapped")})
        if not isinstance(touch, dict):
            holds[kind] = touch
        elif touch.get("how", "left") != "left" or kind not in _USUAL_1:
            holds[kind] = {
                "to": settings.get(kind, _DEFAULT_1.get(kind)),
                "how": touch.get("how"),
                "seconds": touch.get("seconds"),
                **{k: v for k, v in touch.items() if k not in ("how", "seconds")},
            }
    return {**part, "holds": holds}


def _from_1(document: dict[str, Any]) -> dict[str, Any]:
    presets = document.get("presets")
    if not isinstance(presets, list):
        return document
    return {
        **document,
        "presets": [
            {**p, "parts": [_partial(part) for part in p["parts"]]}
            if isinstance(p, dict) and isinstance(p.get("parts"), list)
            else p
            for p in presets
        ],
    }


_STEPS: dict[int, Callable[[dict[str, Any]], dict[str, Any]]] = {1: _from_1}


def upgraded(document: dict[str, Any]) -> dict[str, Any]:
    """A document of an older version as one of the present version.

    Parameters
    ----------
    document : dict
        With a whole number as ``version``, from 1 to `VERSION`.  What is wrong in it stays wrong, for its reader to
        tell.
    """
    for version in range(document["version"], VERSION):
        document = {**_STEPS[version](document), "version": version + 1}
    return document
