"""Show files: reading with one clear sentence for each fault, and saving that never leaves half a file."""

from __future__ import annotations

import contextlib
import json
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar

from ushering_adze.core.document.lines import line_of
from ushering_adze.core.show import (
    Canvas,
    Clip,
    Fault,
    Folder,
    Input,
    Model,
    Output,
    Show,
    ShowError,
    Source,
    Still,
    document_of,
    show_from_document,
)
from ushering_adze.io.asking import read_small
from ushering_adze.io.writing import write_whole

SUFFIX = ".adze"
MOST_TOLD = 50
"""Faults of one file that are looked up and told."""
Guided = TypeVar("Guided", Canvas, Output)
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
        odd = [
            s.name for s in show.sources if not _is_text(getattr(s, "path", None) or getattr(s, "stand_in", None) or "")
        ]
        where = f"{odd[0]}: its path" if odd else "a path"
        raise ShowError(
            [
                Fault(
                    "the show", f"it cannot be saved ({where} has a name that is not UTF-8); rename that folder or file"
                )
            ]
        ) from None


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
    return _with_paths(show, lambda path: str(media_path(path, folder)))


def portable(show: Show, folder: Path) -> Show:
    """The same show for a file in a folder: paths into that folder start at it, others are absolute."""

    def near(path: str) -> str:
        at = Path(path)
        return at.relative_to(folder).as_posix() if at.is_relative_to(folder) else path

    return _with_paths(show, near)


def _with_paths(show: Show, moved: Callable[[str], str]) -> Show:
    def source_of(source: Source) -> Source:
        if isinstance(source, (Still, Clip, Folder)):
            return _with(source, path=moved(source.path))
        if isinstance(source, Input) and source.stand_in is not None:
            return _with(source, stand_in=moved(source.stand_in))
        return source

    def guided(item: Guided) -> Guided:
        return item if item.guide is None else _with(item, guide=_with(item.guide, path=moved(item.guide.path)))

    return _with(
        show,
        sources=_each(show.sources, source_of),
        canvases=_each(show.canvases, guided),
        outputs=_each(show.outputs, guided),
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
        path = (
            source.path
            if isinstance(source, (Still, Clip, Folder))
            else source.stand_in
            if isinstance(source, Input)
            else None
        )
        if path is not None:
            at = Path(path)
            there = at.is_dir() if isinstance(source, Folder) else at.is_file()
            if not there:
                noun = "folder" if isinstance(source, Folder) else "file"
                field = "stand_in" if isinstance(source, Input) else "path"
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
