"""Output windows: what goes to a display or a window of this machine, and to files, as the show's bindings say."""

from __future__ import annotations

import contextlib
import os
import time
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QRect, QRectF, QSettings, QSocketNotifier, Qt, QTimer, Signal
from PySide6.QtGui import (
    QCloseEvent,
    QGuiApplication,
    QKeyEvent,
    QMoveEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QScreen,
    QTransform,
)
from PySide6.QtWidgets import QWidget

from ushering_adze.core.show import Binding, DisplayBinding, FilesBinding, Output, WindowBinding
from ushering_adze.core.show.edits import with_binding
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import image_of
from ushering_adze.desk.session import Session
from ushering_adze.io.showfile import media_path
from ushering_adze.playout import Frames

AGAIN_SECONDS = 5.0
"""Within which a window must be closed a second time."""
REST_MS = 1500
"""After which a window that was moved is where somebody put it."""


def displays() -> dict[str, QScreen]:
    """The displays of this machine by name; one without a name is called by its place."""
    return {s.name() or f"Display {n + 1}": s for n, s in enumerate(QGuiApplication.screens())}


def binding_choices() -> list[tuple[str, Binding | None]]:
    """Where an output can go on this machine, in words, for menus."""
    here: list[tuple[str, Binding | None]] = [
        (f"Display {name}, full screen", DisplayBinding(name=name)) for name in displays()
    ]
    return [
        ("Unbound", None),
        ("A window", WindowBinding()),
        *here,
        ("PNG files beside the show", FilesBinding(folder="outputs")),
    ]


class OutputWindow(QWidget):
    """Shows an output's frames; the newest always wins, none are queued.

    It never takes the keyboard, and closes only because the show, or the desk, says so.

    Signals
    -------
    close_asked : somebody wants it closed with the window manager
    key_pressed : a key came here all the same
    moved : it was moved or made another size
    """

    close_asked = Signal()
    key_pressed = Signal(object)
    moved = Signal()

    def __init__(self, output: Output, display: str | None, frames: Frames) -> None:
        super().__init__(None)
        self.output = output
        self.display = display
        self.frames = frames
        self.home: tuple[str, QRect] | None = None
        """Where a plain window was put: on which display, and its place."""
        self._notifier = QSocketNotifier(frames.handle, QSocketNotifier.Type.Read, self)
        self._notifier.activated.connect(self._take)
        self._newest: NDArray[np.uint8] | None = None
        self._closing = False
        self.shown = 0
        self.name(output)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAttribute(Qt.WidgetAttribute.WA_ShowWithoutActivating)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._fill_display(display is not None)
        if display is None:
            scale = min(1.0, 720 / output.timing.width)
            self.resize(round(output.timing.width * scale), round(output.timing.height * scale))

    def _fill_display(self, whole: bool) -> None:
        """Whether it is the borderless one over a display, or a plain one."""
        frame = Qt.WindowType.FramelessWindowHint if whole else Qt.WindowType(0)
        self.setWindowFlags(Qt.WindowType.Window | Qt.WindowType.WindowDoesNotAcceptFocus | frame)
        if whole:
            self.setCursor(Qt.CursorShape.BlankCursor)

    def name(self, output: Output) -> None:
        """Bear an output's number and name."""
        self.output = output
        self.setWindowTitle(f"{output.number} {output.name}")

    def open(self) -> None:
        """Show it: over the whole of its display, or as a plain window."""
        screen = displays().get(self.display or "")
        if screen is not None:
            self.cover(screen)
        else:
            self.show()

    def cover(self, screen: QScreen) -> None:
        """Lie over the whole of a display, wherever it was before."""
        if not self.windowFlags() & Qt.WindowType.FramelessWindowHint:
            self._fill_display(True)
        if self.isVisible() and self.screen() is screen and self.geometry() == screen.geometry():
            return
        self.hide()  # a window manager lets a full screen window change its display only so
        self.setScreen(screen)
        self.setGeometry(screen.geometry())
        self.showFullScreen()

    @property
    def fault(self) -> str | None:
        """Why nobody can see it."""
        return self.frames.fault

    @fault.setter
    def fault(self, why: str | None) -> None:
        self.frames.fault = why

    def _take(self) -> None:
        """There is a new frame."""
        sent = self.frames.newest()
        if sent is not None:
            self._newest = sent.pixels
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        pixels = self._newest
        if pixels is None:
            p.fillRect(self.rect(), Qt.GlobalColor.black)
            return
        self.shown += 1
        height, width = pixels.shape[:2]
        ratio = self.devicePixelRatioF()
        real = QRect(0, 0, round(self.width() * ratio), round(self.height() * ratio))
        if real.width() == width and real.height() == height:
            p.setTransform(QTransform.fromScale(1 / ratio, 1 / ratio))
            p.drawImage(0, 0, image_of(pixels))  # one pixel to one pixel, whatever the interface is enlarged by
        else:
            scale = min(self.width() / width, self.height() / height)
            w, h = width * scale, height * scale
            p.fillRect(self.rect(), Qt.GlobalColor.black)
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(QRectF((self.width() - w) / 2, (self.height() - h) / 2, w, h), image_of(pixels))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self.key_pressed.emit(event)

    def keyReleaseEvent(self, event: QKeyEvent) -> None:
        self.key_pressed.emit(event)

    def moveEvent(self, event: QMoveEvent) -> None:
        self.moved.emit()

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.moved.emit()

    def close_quietly(self) -> None:
        """Close because the show says so."""
        self._closing = True
        self._notifier.setEnabled(False)
        self.close()
        self.deleteLater()

    def closeEvent(self, event: QCloseEvent) -> None:
        if self._closing:
            event.accept()
        else:
            event.ignore()
            self.close_asked.emit()


def _agreed() -> set[str]:
    """Folders outside a show's own that somebody at this machine has agreed to."""
    found = QSettings().value("outputs/folders")
    return set(found if isinstance(found, list) else [found] if isinstance(found, str) else [])


class NameCard(QWidget):
    """A name in big letters over a whole display for some seconds; a click takes it away."""

    def __init__(self, words: str, line: str, screen: QScreen) -> None:
        super().__init__(None)
        self.words, self.line = words, line
        self.setWindowFlags(
            Qt.WindowType.Window
            | Qt.WindowType.FramelessWindowHint
            | Qt.WindowType.WindowStaysOnTopHint
            | Qt.WindowType.WindowDoesNotAcceptFocus
        )
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setAttribute(Qt.WidgetAttribute.WA_ShowWithoutActivating)
        self.setWindowTitle(words)
        self.setGeometry(screen.geometry())
        QTimer.singleShot(4000, self.close)

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        p.fillRect(self.rect(), theme.colour(theme.WELL))
        p.setPen(theme.hairline(theme.AMBER, 4))
        p.drawRect(self.rect().adjusted(2, 2, -3, -3))
        size = max(24, min(self.height() // 5, round(self.width() * 1.5 / max(8, len(self.words)))))
        p.setFont(theme.font(size, bold=True))
        p.setPen(theme.colour(theme.TEXT))
        theme.centred(p, QRectF(self.rect()), self.words)
        p.setFont(theme.font(max(14, size // 4), mono=True))
        p.setPen(theme.colour(theme.DIM))
        theme.centred(p, QRectF(0, self.height() / 2 + size * 0.7, self.width(), size), self.line)

    def mousePressEvent(self, event: object) -> None:
        self.close()


class Outputs(QObject):
    """Keeps windows and files as the show's bindings say, and on their displays, however these come and go.

    Signals
    -------
    key_pressed : a key came to an output's window; it is meant for the desk
    """

    key_pressed = Signal(object)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.windows: dict[str, OutputWindow] = {}
        self._files: set[str] = set()
        self._bound: dict[str, object] = {}
        self._asked: dict[str, float] = {}
        self.cards: list[NameCard] = []
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self.refit)
        self._at_rest = QTimer(self)
        self._at_rest.setSingleShot(True)
        self._at_rest.setInterval(REST_MS)
        self._at_rest.timeout.connect(self._remember)
        session.show_changed.connect(self.follow)
        app = QGuiApplication.instance()
        if isinstance(app, QGuiApplication):
            app.screenAdded.connect(self._watch)
            app.screenRemoved.connect(self._gone)
            for screen in app.screens():
                self._watch(screen)
        self.follow()

    # -- bindings ------------------------------------------------------------------------------------------------

    def follow(self) -> None:
        """Open and close until what is open is what the show says."""
        outputs = {o.id: o for o in self._session.show.outputs}
        for id in list(self._bound):
            output = outputs.get(id)
            if output is None or (output.binding, output.timing) != self._bound[id]:
                self._release(id)
            elif id in self.windows:
                self.windows[id].name(output)
        for id, output in outputs.items():
            if output.binding is not None and id not in self._bound:
                self._bind(output)

    def _bind(self, output: Output) -> None:
        self._bound[output.id] = (output.binding, output.timing)
        match output.binding:
            case FilesBinding(folder=folder):
                place = media_path(folder, self._session.root)
                if not self._may_write(place):
                    self._session.trouble.emit(
                        f"{output.number} {output.name}: its PNG files would go to {place}, outside the show's folder. "
                        "Allow that here with the command Allow folders of PNG files, or bind it elsewhere."
                    )
                    return
                self._files.add(output.id)
                self._session.playout.write_files(output.id, place / f"{output.id}.png")
            case WindowBinding() | DisplayBinding() as binding:
                display = binding.name if isinstance(binding, DisplayBinding) else None
                window = OutputWindow(output, display, self._session.playout.frames_of(output.id))
                window.close_asked.connect(lambda id=output.id: self._asked_to_close(id))
                window.key_pressed.connect(self.key_pressed)
                window.moved.connect(self._at_rest.start)
                self.windows[output.id] = window
                if display is not None and display not in displays():
                    self._session.trouble.emit(
                        f'{output.name}: no display "{display}" is connected; it is shown in a window meanwhile'
                    )
                    window.setWindowFlag(Qt.WindowType.FramelessWindowHint, False)
                    window.resize(480, round(480 * output.timing.height / output.timing.width))
                    window.fault = f'no display "{display}" is connected'
                window.open()
                self._tell_of_display(output.id)

    def _may_write(self, folder: Path) -> bool:
        """Whether PNG files may go to a folder: within the show's own always, elsewhere if somebody at this machine has
        agreed.
        """
        real, root = Path(os.path.realpath(folder)), Path(os.path.realpath(self._session.root))
        return real.is_relative_to(root) or str(real) in _agreed()

    def allow_folders(self) -> None:
        """Agree, at this machine, to every folder outside the show's own that its outputs write to."""
        places = [
            media_path(o.binding.folder, self._session.root)
            for o in self._session.show.outputs
            if isinstance(o.binding, FilesBinding)
        ]
        new = sorted({os.path.realpath(place) for place in places if not self._may_write(place)})
        if not new:
            self._session.trouble.emit("No output writes to a folder outside the show's own that is not allowed yet.")
            return
        QSettings().setValue("outputs/folders", sorted({*_agreed(), *new}))
        for id in [id for id in self._bound if id not in self._files and id not in self.windows]:
            self._bound.pop(id)
        self.follow()
        self._session.trouble.emit(f"PNG files may go to {', '.join(new)}.")

    def _release(self, id: str) -> None:
        self._bound.pop(id, None)
        window = self.windows.pop(id, None)
        if window is not None:
            window.close_quietly()
            self._session.playout.release(window.frames)
        if id in self._files:
            self._files.discard(id)
            self._session.playout.stop_files(id)

    def _asked_to_close(self, id: str) -> None:
        """Closing a window that is on air is a gesture of two: once to be told, and once more."""
        output, now = self._session.show.output(id), time.monotonic()
        if now - self._asked.pop(id, -AGAIN_SECONDS) < AGAIN_SECONDS:
            self.unbind(id)
            return
        self._asked[id] = now
        self._session.trouble.emit(
            f"{output.number} {output.name} is on air and stays open. "
            f"To unbind it, close it again within {AGAIN_SECONDS:.0f} s."
        )

    def bind(self, id: str, binding: WindowBinding | DisplayBinding | FilesBinding | None) -> None:
        """Bind an output as an edit of the show."""
        show = self._session.show
        name = show.output(id).name
        if binding is None:
            label = f"Unbind {name}"
        else:
            place = (
                binding.name if isinstance(binding, DisplayBinding) else f"a {binding.kind}".replace("a files", "files")
            )
            label = f"Bind {name} to {place}"
        self._session.edit(label, with_binding(show, id, binding))

    def unbind(self, id: str) -> None:
        """Unbind an output as an edit of the show."""
        if any(o.id == id for o in self._session.show.outputs):
            self.bind(id, None)

    def close(self) -> None:
        """Close every window and file without changing the show."""
        for id in list(self._bound):
            self._release(id)

    # -- displays ------------------------------------------------------------------------------------------------

    def _watch(self, screen: QScreen) -> None:
        screen.geometryChanged.connect(self._changed)
        screen.physicalDotsPerInchChanged.connect(self._changed)
        self._changed()

    def _changed(self) -> None:
        self._at_rest.stop()  # where windows are now is not where anybody put them
        self._soon.start(0)

    def _gone(self, screen: QScreen) -> None:
        """Take windows away with their display, before they are put on another."""
        for window in self.windows.values():
            if window.display is not None and window.screen() is screen:
                window.hide()
        self._changed()

    def refit(self) -> None:
        """Put every window where it belongs on the displays that are there now, and tell what is amiss."""
        there = displays()
        for id, window in list(self.windows.items()):
            name = f"{window.output.number} {window.output.name}"
            if window.display is None:
                if window.home is not None and window.home[0] in there and window.geometry() != window.home[1]:
                    window.setGeometry(window.home[1])
                continue
            screen = there.get(window.display)
            if screen is None:
                if window.fault is None:
                    window.fault = f"display {window.display} is gone"
                    self._session.trouble.emit(
                        f"Display {window.display} is gone: {name} waits for it, and comes back with it."
                    )
                    window.hide()
                continue
            was, window.fault = window.fault, None
            window.cover(screen)
            if was is not None:
                self._session.trouble.emit(f"Display {window.display} is there again, and {name} on it.")
            self._tell_of_display(id)

    def _tell_of_display(self, id: str) -> None:
        """Say what is not as it should be with the display an output is on."""
        window = self.windows[id]
        screen = displays().get(window.display or "")
        if screen is None:
            return
        name = f"{window.output.number} {window.output.name}"
        others = [w.output.name for other, w in self.windows.items() if other != id and w.display == window.display]
        ratio, size, timing = screen.devicePixelRatio(), screen.geometry().size(), window.output.timing
        real = (round(size.width() * ratio), round(size.height() * ratio))
        if others:
            self._session.trouble.emit(
                f"{name} and {others[0]} are both on display {window.display}: only one can be seen; "
                "bind the other elsewhere."
            )
        elif real != (timing.width, timing.height):
            self._session.trouble.emit(
                f"Display {window.display} is {real[0]} × {real[1]}, {name} {timing.width} × {timing.height}: "
                "it is scaled; change one or the other."
            )

    def _remember(self) -> None:
        for window in self.windows.values():
            if window.display is None and window.isVisible():
                window.home = (window.screen().name(), window.geometry())

    def identify(self, output: Output) -> None:
        """Its name on the display it is bound to; unbound, the names of all displays on each of them."""
        binding = output.binding
        timing = f"{output.timing.width} × {output.timing.height}"
        for card in self.cards:
            with contextlib.suppress(RuntimeError):  # it has closed itself meanwhile
                card.close()
        self.cards = []
        for name, screen in displays().items():
            if isinstance(binding, DisplayBinding) and binding.name != name:
                continue
            words = f"{output.number} {output.name}" if isinstance(binding, DisplayBinding) else name
            self.cards.append(
                NameCard(words, timing if isinstance(binding, DisplayBinding) else "a display of this machine", screen)
            )
        for card in self.cards:
            card.show()
