"""Output windows: what goes to a display or a window of this machine, and to files, as the show's bindings say."""

from __future__ import annotations

import contextlib
import threading
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from PySide6.QtCore import QObject, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QGuiApplication, QKeyEvent, QPainter, QPaintEvent, QScreen
from PySide6.QtWidgets import QWidget

from ushering_adze.core.show import Binding, DisplayBinding, FilesBinding, Output, WindowBinding
from ushering_adze.core.show.edits import with_binding
from ushering_adze.desk import theme
from ushering_adze.desk.pictures import image_of
from ushering_adze.desk.session import Session
from ushering_adze.io.outputs.png import PngSink


def displays() -> dict[str, QScreen]:
    """The displays of this machine by name; one without a name is called by its place."""
    return {s.name() or f"Display {n + 1}": s for n, s in enumerate(QGuiApplication.screens())}


def binding_choices() -> list[tuple[str, Binding | None]]:
    """Where an output can go on this machine, in words, for menus."""
    here: list[tuple[str, Binding | None]] = [(f"Display {name}, full screen", DisplayBinding(name=name)) for name in displays()]
    return [("Unbound", None), ("A window", WindowBinding()), *here, ("PNG files beside the show", FilesBinding(folder="outputs"))]


class OutputWindow(QWidget):
    """Shows an output's frames; the newest always wins, none are queued.

    Signals
    -------
    closed_by_hand : the user closed it with the window manager
    """

    closed_by_hand = Signal()
    _arrived = Signal()

    def __init__(self, output: Output, display: str | None) -> None:
        super().__init__(None)
        self.output = output
        self.display = display
        self._lock = threading.Lock()
        self._newest: NDArray[np.uint8] | None = None
        self._told = False
        self._closing = False
        self.shown = 0
        self.setWindowTitle(f"{output.number} {output.name}")
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self._arrived.connect(self.update)
        if display is not None:
            self.setWindowFlags(Qt.WindowType.Window | Qt.WindowType.FramelessWindowHint)
            self.setCursor(Qt.CursorShape.BlankCursor)
        else:
            scale = min(1.0, 720 / output.timing.width)
            self.resize(round(output.timing.width * scale), round(output.timing.height * scale))

    def open(self) -> None:
        """Show it: over the whole of its display, or as a plain window."""
        screen = displays().get(self.display or "")
        if screen is not None:
            self.setGeometry(screen.geometry())
            self.showFullScreen()
        else:
            self.show()

    def take(self, pixels: NDArray[np.uint8]) -> None:
        """A new frame, from the render thread; returns at once."""
        with self._lock:
            told, self._told = self._told, True
            self._newest = pixels
        if not told:
            self._arrived.emit()

    def paintEvent(self, event: QPaintEvent) -> None:
        p = QPainter(self)
        with self._lock:
            pixels, self._told = self._newest, False
        if pixels is None:
            p.fillRect(self.rect(), Qt.GlobalColor.black)
            return
        self.shown += 1
        height, width = pixels.shape[:2]
        ratio = self.devicePixelRatioF()
        real = QRect(0, 0, round(self.width() * ratio), round(self.height() * ratio))
        if real.width() == width and real.height() == height:
            p.drawImage(QRectF(self.rect()), image_of(pixels))  # one pixel to one pixel
        else:
            scale = min(self.width() / width, self.height() / height)
            w, h = width * scale, height * scale
            p.fillRect(self.rect(), Qt.GlobalColor.black)
            p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            p.drawImage(QRectF((self.width() - w) / 2, (self.height() - h) / 2, w, h), image_of(pixels))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.display is not None:
            self.close()

    def close_quietly(self) -> None:
        """Close because the show says so."""
        self._closing = True
        self.close()
        self.deleteLater()

    def closeEvent(self, event: QCloseEvent) -> None:
        if not self._closing:
            self.closed_by_hand.emit()
        event.accept()


class NameCard(QWidget):
    """A name in big letters over a whole display for some seconds; a click or key takes it away."""

    def __init__(self, words: str, line: str, screen: QScreen) -> None:
        super().__init__(None)
        self.words, self.line = words, line
        self.setWindowFlags(Qt.WindowType.Window | Qt.WindowType.FramelessWindowHint | Qt.WindowType.WindowStaysOnTopHint)
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

    def keyPressEvent(self, event: QKeyEvent) -> None:
        self.close()


class Outputs(QObject):
    """Keeps windows and files as the show's bindings say."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.windows: dict[str, OutputWindow] = {}
        self._files: dict[str, PngSink] = {}
        self._bound: dict[str, object] = {}
        self.cards: list[NameCard] = []
        session.show_changed.connect(self.follow)
        self.follow()

    def follow(self) -> None:
        """Open and close until what is open is what the show says."""
        outputs = {o.id: o for o in self._session.show.outputs}
        for id in list(self._bound):
            output = outputs.get(id)
            if output is None or (output.binding, output.timing, output.name) != self._bound[id]:
                self._release(id)
        for id, output in outputs.items():
            if output.binding is not None and id not in self._bound:
                self._bind(output)

    def _bind(self, output: Output) -> None:
        self._bound[output.id] = (output.binding, output.timing, output.name)
        match output.binding:
            case FilesBinding(folder=folder):
                sink = PngSink(self._session.root / Path(folder).expanduser() / f"{output.id}.png")
                self._files[output.id] = sink
                self._session.engine.add_sink(output.id, self, sink)
            case WindowBinding() | DisplayBinding() as binding:
                display = binding.name if isinstance(binding, DisplayBinding) else None
                if display is not None and display not in displays():
                    self._session.trouble.emit(f'{output.name}: no display "{display}" is connected; it is shown in a window meanwhile')
                    display = None
                window = OutputWindow(output, display)
                window.closed_by_hand.connect(lambda id=output.id: self.unbind(id))
                self.windows[output.id] = window
                self._session.engine.add_sink(output.id, self, window.take)
                window.open()

    def _release(self, id: str) -> None:
        self._bound.pop(id, None)
        self._session.engine.remove_sink(id, self)
        window = self.windows.pop(id, None)
        if window is not None:
            window.close_quietly()
        sink = self._files.pop(id, None)
        if sink is not None:
            sink.close()

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
            self.cards.append(NameCard(words, timing if isinstance(binding, DisplayBinding) else "a display of this machine", screen))
        for card in self.cards:
            card.show()

    def bind(self, id: str, binding: WindowBinding | DisplayBinding | FilesBinding | None) -> None:
        """Bind an output as an edit of the show."""
        show = self._session.show
        name = show.output(id).name
        if binding is None:
            label = f"Unbind {name}"
        else:
            label = f"Bind {name} to {'a window' if binding.kind == 'window' else 'files' if binding.kind == 'files' else binding.name}"
        self._session.edit(label, with_binding(show, id, binding))

    def unbind(self, id: str) -> None:
        """Unbind an output as an edit of the show."""
        if any(o.id == id for o in self._session.show.outputs):
            self.bind(id, None)

    def close(self) -> None:
        """Close every window and file without changing the show."""
        for id in list(self._bound):
            self._release(id)
