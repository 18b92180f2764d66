"""Show files: reading with one clear sentence for each fault, and saving that never leaves half a file."""

from __future__ import annotations

import contextlib
import json
from pathlib import Path
from typing import TypeVar

from ushering_adze.core.show import Canvas, Clip, Fault, Folder, Input, Output, Show, ShowError, Source, Still, document_of, show_from_document
from ushering_adze.io.writing import write_whole

SUFFIX = ".adze"
Guided = TypeVar("Guided", Canvas, Output)


def read_show(path: Path) -> Show:
    """Read and check a show file.

    Raises
    ------
    ShowError
        With a sentence that names the file, the place in it, and the cure.
    """
    name = path.name or str(path)
    try:
        text = path.read_bytes().decode("utf-8")
    except FileNotFoundError:
        raise ShowError([Fault(str(path), "there is no such file; check the path")]) from None
    except IsADirectoryError:
        raise ShowError([Fault(str(path), f"this is a folder; name the show file in it, such as show{SUFFIX}")]) from None
    except UnicodeDecodeError:
        raise ShowError([Fault(name, "this is not a show file (it is not UTF-8 text); open a file that this application saved")]) from None
    except OSError as error:
        raise ShowError([Fault(str(path), f"it cannot be read ({error.strerror}); check its permissions")]) from None
    try:
        document = json.loads(text)
    except json.JSONDecodeError as error:
        if not text.strip():
            what = "the file is empty; open a backup of it"
        elif error.pos >= len(text.rstrip()) - 1 or "Unterminated" in error.msg:
            what = f"the file is cut off at line {error.lineno}; open a backup of it"
        else:
            what = f"this is not JSON (line {error.lineno}, column {error.colno}: {error.msg.lower()}); open a file that this application saved"
        raise ShowError([Fault(name, what)]) from None
    except RecursionError:
        raise ShowError([Fault(name, "this is nested too deep for a show; open a file that this application saved")]) from None
    try:
        return show_from_document(document)
    except ShowError as error:
        raise ShowError([Fault(f"{name}: {f.where}" if f.where else name, f.what) for f in error.faults]) from None


def save_show(show: Show, path: Path) -> None:
    """Save a show, whole or not at all.

    Raises
    ------
    ShowError
        If the disk refuses; the old file is then untouched.
    """
    write_whole(path, json.dumps(document_of(show), indent=1, ensure_ascii=False).encode() + b"\n", "the show")


def media_path(path: str, root: Path) -> Path:
    """Where a source's path leads: relative paths start at the folder of the show file."""
    with contextlib.suppress(RuntimeError):  # a home of nobody: then it is a name like any other
        return root / Path(path).expanduser()
    return root / path


def rebased(show: Show, old_root: Path, new_root: Path) -> Show:
    """The same show for a file in another folder: paths into that folder become relative, others absolute."""
    old_root, new_root = old_root.resolve(), new_root.resolve()
    if old_root == new_root:
        return show

    def moved(path: str) -> str:
        at = media_path(path, old_root)
        return at.relative_to(new_root).as_posix() if at.is_relative_to(new_root) else str(at)

    def kept(source: Source) -> Source:
        if isinstance(source, (Still, Clip, Folder)):
            return source.model_copy(update={"path": moved(source.path)})
        if isinstance(source, Input) and source.stand_in is not None:
            return source.model_copy(update={"stand_in": moved(source.stand_in)})
        return source

    def guided(item: Guided) -> Guided:
        return item if item.guide is None else item.model_copy(update={"guide": item.guide.model_copy(update={"path": moved(item.guide.path)})})

    return show.model_copy(update={"sources": tuple(kept(s) for s in show.sources), "canvases": tuple(guided(c) for c in show.canvases),
                                   "outputs": tuple(guided(o) for o in show.outputs)})


def media_faults(show: Show, root: Path) -> list[Fault]:
    """Sources whose files are not there."""
    faults = []
    for n, source in enumerate(show.sources):
        path = source.path if isinstance(source, (Still, Clip, Folder)) else source.stand_in if isinstance(source, Input) else None
        if path is not None:
            at = media_path(path, root)
            there = at.is_dir() if isinstance(source, Folder) else at.is_file()
            if not there:
                noun = "folder" if isinstance(source, Folder) else "file"
                field = "stand_in" if isinstance(source, Input) else "path"
                faults.append(Fault(f"sources[{n}].{field}", f'{source.name}: no {noun} "{path}"; put it there or name another'))
    guided: list[tuple[str, Canvas | Output]] = [(f"canvases[{n}]", c) for n, c in enumerate(show.canvases)]
    guided += [(f"outputs[{n}]", o) for n, o in enumerate(show.outputs)]
    for where, item in guided:
        if item.guide is not None and not media_path(item.guide.path, root).is_file():
            faults.append(Fault(f"{where}.guide.path", f'{item.name}: no file "{item.guide.path}"; put it there or name another'))
    return faults
