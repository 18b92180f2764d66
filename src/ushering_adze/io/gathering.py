"""Files of sources copied beside the show, so that its folder holds all that it needs."""

from __future__ import annotations

import filecmp
import os
import shutil
from collections.abc import Collection
from pathlib import Path

from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.io.showfile import paths_of, with_paths

MEDIA = "media"
"""The folder beside the show that files come into."""


def outside(show: Show, folder: Path, ids: Collection[str] | None = None) -> tuple[Path, ...]:
    """Files and folders of sources that do not lie in a folder, each once; of all sources, or of those named.

    Parameters
    ----------
    show : Show
        With absolute paths.
    folder : Path
    ids : collection of str, optional
    """
    found = [
        Path(path) for source in show.sources if ids is None or source.id in ids for _, path, _ in paths_of(source)
    ]
    return tuple(dict.fromkeys(p for p in found if not p.is_relative_to(folder)))


def gathered(show: Show, folder: Path, ids: Collection[str] | None = None) -> dict[str, str]:
    """Copy what lies outside a folder into its *media*; it may take long.

    A file that is there already under its name, byte for byte, is used; another one of that name stays, and the copy
    is called otherwise.  A copy is whole or not there.

    Parameters
    ----------
    show : Show
        With absolute paths.
    folder : Path
        Of the show.
    ids : collection of str, optional
        Only of these sources.

    Returns
    -------
    dict
        The new path for each old one.

    Raises
    ------
    ShowError
        Naming the file that cannot be read or written; nothing of the show has changed then.
    """
    moved: dict[str, str] = {}
    for path in outside(show, folder, ids):
        try:
            moved[str(path)] = str(_copied(path, folder / MEDIA))
        except OSError as error:
            why = error.strerror or type(error).__name__
            raise ShowError(
                [Fault(path.name, f"it cannot be copied beside the show ({why}); mend that and try again")]
            ) from None
    return moved


def _copied(path: Path, into: Path) -> Path:
    into.mkdir(parents=True, exist_ok=True)
    for n in range(1, 10_000):
        name = path.name if n == 1 else f"{path.stem}-{n}{path.suffix}"
        target = into / name
        if not target.exists():
            break
        if _same(path, target):
            return target
    part = into / f".{target.name}.{os.getpid()}.part"
    try:
        if path.is_dir():
            shutil.copytree(path, part)
        else:
            shutil.copyfile(path, part)
        part.rename(target)
    except BaseException:
        shutil.rmtree(part, ignore_errors=True) if part.is_dir() else part.unlink(missing_ok=True)
        raise
    return target


def _same(a: Path, b: Path) -> bool:
    """Whether two files, or folders, hold the same."""
    if a.is_dir() != b.is_dir():
        return False
    if not a.is_dir():
        return filecmp.cmp(a, b, shallow=False)
    names = sorted(p.name for p in a.iterdir())
    return names == sorted(p.name for p in b.iterdir()) and all(_same(a / n, b / n) for n in names)


def with_gathered(show: Show, moved: dict[str, str]) -> Show:
    """The show with files where they were copied to."""
    return with_paths(show, lambda path: moved.get(path, path))
