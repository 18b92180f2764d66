"""Keeping what is shown now: a still of the selected source or surface, in the show's folder and on its shelf."""

from __future__ import annotations

import time
from pathlib import Path

from ushering_adze.core.document.naming import new_id
from ushering_adze.core.plane.pixels import straight
from ushering_adze.core.show import Show, ShowError, Still
from ushering_adze.core.show.rigging import with_item
from ushering_adze.desk.session import Session
from ushering_adze.desk.waiting import answered
from ushering_adze.io.outputs.png import write_png

FOLDER = "stills"


def still_of(show: Show, name: str, folder: Path, moment: float) -> Still:
    """A still for the shelf that is new there, with a file of its own.

    Parameters
    ----------
    show : Show
    name : str
        Of what is kept.
    folder : Path
        Of the show's stills.
    moment : float
        Seconds since 1970.
    """
    called = f"{name[:64]} {time.strftime('%H:%M:%S', time.localtime(moment))}"
    id = new_id(called, {*(s.id for s in show.sources), *(file.stem for file in folder.glob("*.png"))})
    return Still(id=id, name=called, path=str(folder / f"{id}.png"))


class StillKeeper:
    """The command that keeps a still; without anything selected, or a folder to keep it in, it says so."""

    def __init__(self, session: Session) -> None:
        self._session = session

    def keep(self) -> None:
        """Keep a still of the selected source, or else of the selected surface."""
        session = self._session
        show, trouble = session.show, session.trouble.emit
        if session.path is None:
            trouble("Save the show first: stills are kept in its folder.")
            return
        if session.source is not None:
            name, frame = show.source(session.source).name, session.playout.picture_of(session.source)
            pixels = None if frame is None else straight(frame.pixels)
        elif session.surface is not None:
            name, pixels = show.surface(session.surface).name, session.playout.surface_picture(session.surface)
        else:
            trouble("Nothing is selected; choose a source or a surface first.")
            return
        if pixels is None:
            trouble(f"{name} shows nothing yet; try again when it does.")
            return
        still = still_of(show, name, session.root / FOLDER, time.time())
        kept = pixels.copy()
        try:
            answered(lambda: write_png(kept, Path(still.path), bool(kept[..., 3].min() < 255)), still.name)
        except ShowError as error:
            session.refused.emit(str(error))
            return
        if session.try_edit(f"Keep still {still.name}", lambda now: with_item(now, "sources", still)):
            trouble(f"{still.name} is kept in {FOLDER}, and on the shelf.")
