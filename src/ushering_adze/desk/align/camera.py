"""The camera that aligns: which one it is, a look through it, and the alignment, each beside the interface."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget

from ushering_adze.core.seeing.sighting import BURNT, burnt_share, find_corners
from ushering_adze.core.show import Clip, Fault, Input, Projection, Show, ShowError
from ushering_adze.desk.align.asking import number
from ushering_adze.desk.drafting.prompt import Field, Prompt, ask
from ushering_adze.desk.session import Session
from ushering_adze.engine.aligning import Camera, align, shots
from ushering_adze.io.logs import log
from ushering_adze.io.photos import PhotoFolder
from ushering_adze.io.priority import give_way
from ushering_adze.io.standins.camera import StandinCamera
from ushering_adze.playout.cameras import RealCamera, folder_look, measured_delay, settling, source_look

STANDIN, FOLDER = "stand-in", "folder"


class Choice(NamedTuple):
    """Which camera looks, and how: ``kind`` is a source's id, or one of the two above."""

    kind: str = STANDIN
    folder: str = ""
    linear: bool = False
    settle: float | None = None
    light: bool = True


class Sighted(NamedTuple):
    """A look at the screen all in white: the photograph, and its corners if they were found."""

    photo: NDArray[np.float32]
    corners: NDArray[np.float64] | None
    words: str


class AligningCamera(QObject):
    """Runs looks and alignments in a thread, one at a time.

    Signals
    -------
    progress : share done, words
    finished : the show that was asked about and what came of it, or an error
    """

    progress = Signal(float, str)
    finished = Signal(object, object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.choice = Choice()
        self.prompt: Prompt | None = None
        self._stop = threading.Event()
        self.running: threading.Thread | None = None

    def name(self) -> str:
        """The camera in words."""
        if self.choice.kind == STANDIN:
            return "stand-in camera"
        if self.choice.kind == FOLDER:
            return f"photographs in {Path(self.choice.folder).name}"
        source = next((s for s in self._session.show.sources if s.id == self.choice.kind), None)
        return source.name if source is not None else "a source that is gone"

    def ask(self, owner: Callable[[], QWidget], done: Callable[[], None]) -> None:
        """Ask which camera looks."""
        now = self.choice
        kinds: list[tuple[str, object]] = [
            ("the stand-in camera", STANDIN),
            ("photographs that come into a folder", FOLDER),
        ]
        kinds += [
            (f"{s.name}, a live source", s.id)
            for s in self._session.show.sources
            if isinstance(s, Input) or (isinstance(s, Clip) and s.live)
        ]
        kinds.sort(key=lambda k: k[1] != now.kind)
        curves: list[tuple[str, object]] = [("as a camera writes it (sRGB)", False), ("linear light", True)]
        curves.sort(key=lambda c: c[1] != now.linear)
        lights: list[tuple[str, object]] = [("gamma, white and blacks too", True), ("the shape alone", False)]
        lights.sort(key=lambda c: c[1] != now.light)

        def act(kind: object, folder: object, linear: object, settle: object, light: object) -> None:
            wait = number(settle, "the wait", 0, 30) if str(settle).strip() else None
            if kind == FOLDER and not Path(str(folder)).expanduser().is_dir():
                raise ValueError(f'there is no folder "{folder}"; type the one that photographs are written to')
            self.choice = Choice(
                str(kind), str(Path(str(folder)).expanduser()) if folder else "", bool(linear), wait, bool(light)
            )
            done()

        fields: list[Field] = [
            ("Which", kinds),
            ("Folder of photographs", now.folder),
            ("Its curve", curves),
            ("Wait after each pattern, s", "" if now.settle is None else f"{now.settle:g}"),
            ("Match", lights),
        ]
        self.prompt = ask(
            owner(),
            "Camera",
            fields,
            "Use it",
            act,
            "A real camera stands still, sees the whole screen, and is set so that white is not burnt out. An empty "
            "wait is measured. It cannot shut projectors, so it leaves blacks as they are; type them under Light.",
        )

    def camera(self, show: Show, surface: str, told: Callable[[float, str], bool]) -> Camera:
        """The chosen camera before a screen.  Raises ValueError if it cannot be had."""
        choice, playout = self.choice, self._session.playout
        if choice.kind == STANDIN:
            return StandinCamera(show, surface)
        count = sum(1 for _ in shots(show, surface, choice.light))
        if choice.kind == FOLDER:
            folder = PhotoFolder(Path(choice.folder), choice.linear, True, self._stop.is_set)
            return RealCamera(
                playout,
                show,
                surface,
                folder_look(folder),
                lambda name: told(folder.count / count, f"photograph {folder.count + 1} of {count}: {name}"),
            )
        if not any(s.id == choice.kind for s in show.sources):
            raise ShowError([Fault("camera", "its source is not in the show any more; choose another camera")])
        playout.look_through(choice.kind)
        settle = choice.settle
        if settle is None:
            told(0.0, "measuring the camera's delay")
            settle = settling(measured_delay(playout, show, surface, choice.kind, choice.linear))
        look = source_look(playout, choice.kind, settle, linear=choice.linear)
        return RealCamera(playout, show, surface, look, lambda name: not self._stop.is_set())

    @property
    def on_outputs(self) -> bool:
        """Whether it is putting patterns on the real outputs now; the stand-in does not need them."""
        return self.running is not None and self.choice.kind != STANDIN

    def look(self, surface: str) -> None:
        """Photograph the screen all in white, and look for its corners."""

        def work(show: Show) -> Sighted:
            camera = self.camera(show, surface, self._told)
            white = next(iter(shots(show, surface)))
            photo = camera.photograph(white.rasters)
            words = "drag marks to the corners; Shift-click marks an edge"
            if burnt_share(photo) > BURNT:
                words = f"{100 * burnt_share(photo):.0f} % is burnt out: shorten the exposure"
            try:
                return Sighted(photo, find_corners(photo), words)
            except ValueError as error:
                return Sighted(photo, None, str(error))

        self._run(work)

    def align(
        self, surface: str, corners: NDArray[np.float64] | None, marks: NDArray[np.float64] | None = None
    ) -> None:
        """Align a screen; ``corners``, and ``marks`` on its edges, are those set by hand."""
        choice = self.choice

        def work(show: Show) -> object:
            return align(
                show, surface, self.camera(show, surface, self._told), corners, choice.light, self._told, marks
            )

        self._run(work)

    def _told(self, share: float, words: str) -> bool:
        self.progress.emit(share, words)
        return not self._stop.is_set()

    def _run(self, work: Callable[[Show], object]) -> None:
        if self.running is not None:
            return
        show = self._session.show
        if not any(isinstance(s, Projection) for s in show.surfaces):
            return
        self._stop.clear()

        def run() -> None:
            give_way(10)
            try:
                result = work(show)
            except ValueError as error:
                result = error
            except Exception as error:  # whatever it is, the window must not wait for ever
                log.exception("the camera failed")
                result = ShowError(
                    [Fault("camera", f"it failed ({type(error).__name__}); nothing is changed, try again")]
                )
            finally:
                self._session.playout.look_through(None)
            self.finished.emit(show, result)

        self.running = threading.Thread(target=run, name="align", daemon=True)
        self.running.start()

    def done(self) -> None:
        """Its thread has ended, and what it found was taken."""
        self.running = None

    def stop(self) -> None:
        """Stop; nothing is changed."""
        self._stop.set()

    def join(self) -> None:
        """Stop, and wait until the thread has ended."""
        self.stop()
        if self.running is not None:
            self.running.join(20)
