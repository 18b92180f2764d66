"""Show files: reading with one clear sentence for each fault, and saving that never leaves half a file."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from ushering_adze.core.document.lines import line_of
from ushering_adze.core.kinds import BY_NAME, KINDS
from ushering_adze.core.show import (
    Canvas,
    Clip,
    Fault,
    Finish,
    Folder,
    Input,
    LayerSettings,
    Model,
    Output,
    Pages,
    Part,
    Playlist,
    Show,
    ShowError,
    Source,
    Still,
    Text,
    document_of,
    show_from_document,
)
from ushering_adze.io.asking import read_small
from ushering_adze.io.writing import write_whole

SUFFIX = ".adze"
MOST_TOLD = 50
"""Faults of one file that are looked up and told."""
Guided = TypeVar("Guided", Canvas, Output)
Holding = TypeVar("Holding", Part, Finish)
AModel = TypeVar("AModel", bound=Model)
T = TypeVar("T")


def read_show(path: Path) -> Show:
    """Read and check a show file; paths in it that start at its folder are absolute from then on.

    Raises
    ------
    ShowError
        With a sentence that names the file, the place in it, and the cure.
    """
    name = path.name or str(path)
    try:
        text = read_small(path, "show file").decode("utf-8")
    except UnicodeDecodeError:
        raise ShowError(
            [Fault(name, "this is not a show file (it is not UTF-8 text); open a file that this application saved")]
        ) from None
    try:
        document = json.loads(text)
    except json.JSONDecodeError as error:
        if not text.strip():
            what = "the file is empty; open a backup of it"
        elif error.pos >= len(text.rstrip()) - 1 or "Unterminated" in error.msg:
            what = f"the file is cut off at line {error.lineno}; open a backup of it"
        else:
            what = (
                f"this is not JSON (line {error.lineno}, column {error.colno}: {error.msg.lower()}); open a "
                "file that this application saved"
            )
        raise ShowError([Fault(name, what)]) from None
    except ValueError:
        raise ShowError([Fault(name, "a number in it has thousands of digits; open a backup of it")]) from None
    except RecursionError:
        raise ShowError(
            [Fault(name, "this is nested too deep for a show; open a file that this application saved")]
        ) from None
    try:
        return absolute(show_from_document(document), path.resolve().parent)
    except ShowError as error:
        raise ShowError([Fault(_place(name, text, f.where), f.what) for f in error.faults[:MOST_TOLD]]) from None


def _place(name: str, text: str, where: str) -> str:
    line = line_of(text, where)
    return f"{name}, line {line}: {where}" if line is not None else f"{name}: {where}" if where else name


def save_show(show: Show, path: Path) -> None:
    """Save a show, whole or not at all.

    Raises
    ------
    ShowError
        If the disk refuses; the old file is then untouched.
    """
    write_whole(path, document_bytes(show, path.resolve().parent), "the show")


def document_bytes(show: Show, folder: Path | None = None) -> bytes:
    """What a show's file holds in a folder: paths into that folder start at it.

    Raises
    ------
    ShowError
        If a path in it is no text.
    """
    try:
        return (
            json.dumps(
                document_of(show if folder is None else portable(show, folder)), indent=1, ensure_ascii=False
            ).encode()
            + b"\n"
        )
    except ValueError:  # half of a surrogate pair stands for a byte that is no UTF-8
        odd = [s.name for s in show.sources if not all(_is_text(path) for _, path, _ in paths_of(s))]
        where = f"{odd[0]}: its path" if odd else "a path"
        raise ShowError(
            [
                Fault(
                    "the show", f"it cannot be saved ({where} has a name that is not UTF-8); rename that folder or file"
                )
            ]
        ) from None


def paths_of(source: Source) -> list[tuple[str, str, bool]]:
    """The files and folders that a source is read from: the field that names each, the path, whether it is a folder."""
    match source:
        case Folder():
            return [("path", source.path, True)]
        case Still() | Clip() | Pages():
            return [("path", source.path, False)]
        case Text(path=str(path)):
            return [("path", path, False)]
        case Input(stand_in=str(path)):
            return [("stand_in", path, False)]
        case Playlist():
            found = [(f"items[{n}].path", item.path, False) for n, item in enumerate(source.items)]
            return found if source.folder is None else [*found, ("folder", source.folder, True)]
    return []


def _is_text(path: str) -> bool:
    return path.encode("utf-8", "replace").decode() == path


def media_path(path: str, root: Path) -> Path:
    """Where a path of a document leads: relative ones start at the folder of the show file."""
    with contextlib.suppress(RuntimeError):  # a home of nobody: then it is a name like any other
        return root / Path(path).expanduser()
    return root / path


def absolute(show: Show, folder: Path) -> Show:
    """The same show with every path that is read absolute; relative ones start at a folder.

    Folders that outputs write to stay as they are: they lie beside the show, wherever it is.
    """
    return with_paths(show, lambda path: str(media_path(path, folder)))


def portable(show: Show, folder: Path) -> Show:
    """The same show for a file in a folder: paths into that folder start at it, others are absolute."""

    def near(path: str) -> str:
        at = Path(path)
        return at.relative_to(folder).as_posix() if at.is_relative_to(folder) else path

    return with_paths(show, near)


def with_paths(show: Show, moved: Callable[[str], str]) -> Show:
    """The same show with every path as ``moved`` gives it."""

    def source_of(source: Source) -> Source:
        if isinstance(source, (Still, Clip, Folder, Pages)):
            return _with(source, path=moved(source.path))
        if isinstance(source, Text) and source.path is not None:
            return _with(source, path=moved(source.path))
        if isinstance(source, Playlist):
            items = _each(source.items, lambda item: _with(item, path=moved(item.path)))
            return _with(source, items=items, folder=None if source.folder is None else moved(source.folder))
        if isinstance(source, Input) and source.stand_in is not None:
            return _with(source, stand_in=moved(source.stand_in))
        return source

    def guided(item: Guided) -> Guided:
        return item if item.guide is None else _with(item, guide=_with(item.guide, path=moved(item.guide.path)))

    def layered(canvas: Canvas) -> Canvas:
        return _with(canvas, layers=_each(canvas.layers, lambda y: _with(y, settings=kinds_moved(y.settings))))

    def kinds_moved(settings: LayerSettings) -> LayerSettings:
        return _with(settings, **{k.name: k.moved(getattr(settings, k.name), moved) for k in KINDS if k.moved})

    def holding(item: Holding) -> Holding:
        held = {k.name: h for k in KINDS if k.moved and (h := getattr(item.holds, k.name)) is not None}
        there = {name: _with(h, to=BY_NAME[name].moved(h.to, moved)) for name, h in held.items()}  # type: ignore[misc]
        return _with(item, holds=_with(item.holds, **there)) if there else item

    return _with(
        show,
        presets=_each(show.presets, lambda p: _with(p, parts=_each(p.parts, holding))),
        finishes=_each(show.finishes, holding),
        sources=_each(show.sources, source_of),
        canvases=_each(show.canvases, lambda c: guided(layered(c))),
        outputs=_each(show.outputs, guided),
        feeds=_each(show.feeds, lambda feed: _with(feed, to=moved(feed.to)) if feed.is_path else feed),
    )


def _with(item: AModel, **fields: Any) -> AModel:
    """An item with other fields; the very same if they are what it has."""
    return (
        item
        if all(getattr(item, name) is value or getattr(item, name) == value for name, value in fields.items())
        else (item.model_copy(update=fields))
    )


def _each(items: tuple[T, ...], made: Callable[[T], T]) -> tuple[T, ...]:
    others = tuple(made(item) for item in items)
    return items if all(a is b for a, b in zip(items, others, strict=True)) else others


def media_faults(show: Show) -> list[Fault]:
    """Sources whose files are not there."""
    faults = []
    for n, source in enumerate(show.sources):
        for field, path, folder in paths_of(source):
            at = Path(path)
            if not (at.is_dir() if folder else at.is_file()):
                noun = "folder" if folder else "file"
                faults.append(
                    Fault(f"sources[{n}].{field}", f'{source.name}: no {noun} "{path}"; put it there or name another')
                )
    guided: list[tuple[str, Canvas | Output]] = [(f"canvases[{n}]", c) for n, c in enumerate(show.canvases)]
    guided += [(f"outputs[{n}]", o) for n, o in enumerate(show.outputs)]
    for where, item in guided:
        if item.guide is not None and not Path(item.guide.path).is_file():
            faults.append(
                Fault(f"{where}.guide.path", f'{item.name}: no file "{item.guide.path}"; put it there or name another')
            )
    return faults
