"""What is seen beside the raster: the stand-in, or the picture of the camera that aligns."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QStackedWidget

from ushering_adze.core.show import Projection, Show
from ushering_adze.desk.align.camera import AligningCamera, Sighted
from ushering_adze.desk.align.camera_view import CameraView
from ushering_adze.desk.align.views import ScreenView
from ushering_adze.desk.session import Session
from ushering_adze.engine.aligning import Aligned


class Eye(QStackedWidget):
    """The stand-in screen, or the camera's picture with the screen's corners; looks and alignments are asked of it.

    Signals
    -------
    busy : the camera begins or ends its work
    left : the camera has ended; what it laid over the outputs is to be taken away
    switched : the other of the two is on view; whether it is the camera's picture
    """

    busy = Signal(bool)
    left = Signal()
    switched = Signal(bool)

    def __init__(self, session: Session, screen: ScreenView) -> None:
        super().__init__()
        self._session, self.screen_view = session, screen
        self.camera, self.photo = AligningCamera(session), CameraView()
        for view in (self.screen_view, self.photo):
            self.addWidget(view)
        self.camera.finished.connect(self._take)

    def show_camera(self, on: bool) -> None:
        """The camera's picture in place of the stand-in screen, or that again."""
        self.setCurrentWidget(self.photo if on else self.screen_view)
        self.switched.emit(on)

    def toggle(self, surface: str | None) -> None:
        """The camera's picture, looked through anew, or the stand-in screen."""
        if self.currentWidget() is self.photo:
            self.show_camera(False)
        else:
            self.look(surface)
        self.switched.emit(self.currentWidget() is self.photo)

    def look(self, surface: str | None) -> None:
        """Bring the camera's picture to view, of the screen all in white."""
        if surface is not None and self._can_look(surface):
            self.show_camera(True)
            self.photo.call(self.camera.name())
            self.busy.emit(True)
            self.camera.look(surface)

    def align(self, surface: str | None) -> None:
        """Align the surface by the camera, beside the interface; it becomes one step for undo."""
        if surface is not None and self._can_look(surface):
            self.busy.emit(True)
            self.camera.align(
                surface,
                self.photo.corners.copy() if self.photo.by_hand and self.photo.corners is not None else None,
                self.photo.marks,
            )

    def ask_camera(self) -> None:
        """Ask which camera looks."""
        self.camera.ask(self.window, self.forget)

    def forget(self) -> None:
        """Another camera, or another screen: nothing has been seen of it yet."""
        self.photo.clear(self.camera.name(), "not looked through yet: L")

    def _can_look(self, surface: str) -> bool:
        if self.camera.running is not None:
            return False
        if not isinstance(self._session.show.surface(surface), Projection):
            self._session.trouble.emit("Only projections are aligned by camera; choose one above.")
            return False
        return True

    def _take(self, asked: Show, result: object) -> None:
        self.camera.done()
        self.busy.emit(False)
        self.left.emit()
        if isinstance(result, Exception):
            self._session.trouble.emit(str(result))
        elif isinstance(result, Sighted):
            self.photo.show_photo(result.photo, result.corners, result.words)
        elif isinstance(result, Aligned):
            self._take_alignment(asked, result)

    def _take_alignment(self, asked: Show, found: Aligned) -> None:
        if asked is not self._session.show:
            self._session.trouble.emit(
                "The show was edited while the camera looked; the alignment is left out. Align again."
            )
            return
        if self._session.try_edit("Align by camera", lambda show: found.show):
            self.show_camera(False)
            worst, mean = max(f.worst for f in found.fits), sum(f.mean for f in found.fits) / len(found.fits)
            cost = f" · {100 * found.matched.cost:.0f} % dimmer" if found.matched is not None else ""
            frame = found.sighting.worst
            of_screen = "corners as marked" if frame is None else f"screen to {frame:.2f} px"
            self.screen_view.tell(found.errors, f"mean {mean:.2f}, worst {worst:.2f} px · {of_screen}{cost}")
