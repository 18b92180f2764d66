"""Fonts of this machine: which there are, and which has the letters of a text."""

from __future__ import annotations

import os
import threading
from collections.abc import Iterator
from functools import lru_cache
from pathlib import Path
from typing import Any

from PIL import ImageFont

OWN = Path(__file__).resolve().parents[2] / "desk" / "fonts"
FOLDERS = (
    OWN,
    Path("/usr/share/fonts"),
    Path("/usr/local/share/fonts"),
    Path("~/.local/share/fonts"),
    Path("~/.fonts"),
)
SUFFIXES = {".ttf", ".otf", ".ttc"}
PREFERRED = (
    "NotoSans-",
    "NotoSansArabic",
    "NotoNaskhArabic",
    "NotoSansHebrew",
    "NotoSansCJK",
    "NotoSans",
    "DejaVuSans",
)
"""Beginnings of the names of files whose letters go well with others, the best first."""
_lock = threading.Lock()


@lru_cache(1)
def font_files() -> tuple[Path, ...]:
    """Every font file, those first that are to be tried first where another one lacks a letter."""
    found: list[Path] = []
    for folder in FOLDERS:
        for where, _, names in os.walk(folder.expanduser()):
            found += [Path(where) / name for name in names if Path(name).suffix.lower() in SUFFIXES]

    def rank(path: Path) -> tuple[int, int, str]:
        best = next((n for n, begin in enumerate(PREFERRED) if path.name.startswith(begin)), len(PREFERRED))
        plain = 0 if "Regular" in path.stem or "-" not in path.stem else 1
        return (plain, -1 if path.parent == OWN else best, path.name)

    return tuple(sorted(found, key=rank))


@lru_cache(512)
def letters_of(path: Path) -> frozenset[int]:
    """The letters that a font has, by their Unicode numbers."""
    with _lock:
        try:
            from fontTools.ttLib import TTFont  # only texts in rarer scripts need it

            with TTFont(path, fontNumber=0, lazy=True) as font:
                return frozenset(font.getBestCmap() or ())
        except Exception:  # a font file that is damaged has no letters
            return frozenset()


@lru_cache(64)
def file_of(family: str) -> Path:
    """The file of a family by its name, as near as its file's name tells; the program's own if there is none."""
    wanted = "".join(c for c in family.lower() if c.isalnum())
    for path in font_files():
        name = "".join(c for c in path.stem.lower() if c.isalnum())
        if name in (wanted, wanted + "regular"):
            return path
    return OWN / "B612-Bold.otf"


@lru_cache(256)
def font_at(path: Path, size: int) -> Any:
    """A font at a size in pixels, set by HarfBuzz."""
    return ImageFont.truetype(str(path), size, layout_engine=ImageFont.Layout.RAQM)


def runs_of(text: str, first: Path) -> Iterator[tuple[str, Path | None]]:
    """A line in runs that one font has all letters of; None for letters that no font here has."""
    run, font = "", first
    for letter in text:
        here = _font_for(letter, font, first)
        if run and here != font and here is not None:
            yield run, font
            run = ""
        if here is None:
            if run:
                yield run, font
                run = ""
            yield letter, None
            continue
        run, font = run + letter, here
    if run:
        yield run, font


def _font_for(letter: str, present: Path, first: Path) -> Path | None:
    code = ord(letter)
    if letter in " \u200b\u200c\u200d\u200e\u200f\ufe0f":
        return present
    if code in letters_of(first):
        return first
    if code in letters_of(present):
        return present
    return _fallback(code)


@lru_cache(4096)
def _fallback(code: int) -> Path | None:
    return next((path for path in font_files() if code in letters_of(path)), None)
