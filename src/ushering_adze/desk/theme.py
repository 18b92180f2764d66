"""Colours, type and the style sheet: the one place where the look is decided."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from functools import cache
from pathlib import Path

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFont, QFontDatabase, QPainter, QPalette, QPen
from PySide6.QtWidgets import QApplication, QWidget

GROUND, PANEL, RAISED, LINE = "#12191C", "#182225", "#203036", "#31454B"
FAINT, DIM, TEXT = "#5E757B", "#9FB0B1", "#E8E2D3"
AMBER, RED, GREEN = "#E3A857", "#E2504A", "#55B27C"
RED_WORDS = "#EC6E68"
"""The red of words: a step lighter than that of bars, so that small text keeps its contrast."""
VIOLET, SKY, TEAL, CLAY, MOSS = "#9C8AD6", "#6FA0D8", "#5AB4BD", "#C9785A", "#93A84E"
WELL = "#0D1214"
"""Ground of drawings: darker than panels, so that pictures are the only bright things."""

ARROW = (Path(__file__).parent / "look" / "arrow.png").as_posix()

TOP_BAR, SILL, GAP, TOUCH = 44, 108, 8, 44


def colour(token: str, alpha: int = 255) -> QColor:
    """A token as a QColor."""
    c = QColor(token)
    c.setAlpha(alpha)
    return c


def font(px: int = 13, bold: bool = False, mono: bool = False) -> QFont:
    """The type face at one of the sizes in use: 11, 12, 13, 15, 20 px."""
    f = QFont("B612 Mono" if mono else "B612")
    f.setPixelSize(px)
    f.setBold(bold)
    return f


def hairline(token: str = LINE, width: float = 1.0, dashed: bool = False) -> QPen:
    """A cosmetic pen."""
    pen = QPen(colour(token), width)
    pen.setCosmetic(True)
    if dashed:
        pen.setDashPattern([5, 3])
    return pen


def program_bar(p: QPainter, rect: QRectF) -> None:
    """The solid red bar of what is on program."""
    p.fillRect(rect, colour(RED))


def preview_bar(p: QPainter, rect: QRectF) -> None:
    """The dashed green bar of what is on preview."""
    upright = rect.height() > rect.width()
    step = 0.0
    length = rect.height() if upright else rect.width()
    while step < length:
        part = min(7.0, length - step)
        p.fillRect(
            QRectF(rect.x(), rect.y() + step, rect.width(), part)
            if upright
            else QRectF(rect.x() + step, rect.y(), part, rect.height()),
            colour(GREEN),
        )
        step += 11


STYLE = f"""
* {{ font-family: "B612"; font-size: 13px; color: {TEXT}; }}
QMainWindow, QDialog, QMessageBox {{ background: {GROUND}; }}
QMessageBox {{ border: 1px solid {LINE}; }}
QDialogButtonBox {{ dialogbuttonbox-buttons-have-icons: 0; }}
QWidget#panel {{ background: {PANEL}; border: 1px solid {LINE}; border-radius: 3px; }}
QWidget#plain {{ background: {GROUND}; }}
QLabel {{ background: transparent; }}
QLabel[role="title"] {{ font-weight: bold; font-size: 20px; }}
QLabel[role="line"] {{ color: {DIM}; font-size: 15px; }}
QLabel[role="head"] {{ font-weight: bold; font-size: 13px; }}
QLabel[role="clock"] {{ font-weight: bold; font-size: 15px; }}
QLabel[role="figures"] {{ font-size: 12px; }}
QLabel[role="dim"] {{ color: {DIM}; font-size: 12px; }}
QLabel[role="mono"] {{ font-family: "B612 Mono"; font-size: 12px; color: {DIM}; }}
QLabel[role="error"] {{ color: {AMBER}; font-size: 11px; }}
QPushButton {{ background: {RAISED}; border: 1px solid {LINE}; border-radius: 3px; padding: 4px 12px; min-height: 22px; }}
QPushButton:hover {{ border-color: {FAINT}; }}
QPushButton:pressed {{ background: {LINE}; }}
QPushButton:disabled {{ color: {FAINT}; }}
QPushButton:checked {{ border-color: {AMBER}; color: {AMBER}; }}
QPushButton#take {{ background: {RED}; color: #140706; border: none; font-weight: bold; font-size: 15px; }}
QPushButton#take:disabled {{ background: #4A2A2A; color: #B58A85; }}
QPushButton#take:pressed {{ background: #B93B36; }}
QPushButton#tab {{ background: transparent; border: none; border-bottom: 3px solid transparent; border-radius: 0; color: {DIM};
  font-size: 13px; padding: 0 18px; }}
QPushButton#tab:checked {{ color: {TEXT}; border-bottom-color: {AMBER}; font-weight: bold; }}
QPushButton#tab:hover {{ color: {TEXT}; }}
QPushButton#proof {{ background: transparent; border: 1px solid {LINE}; border-radius: 3px; padding: 2px 8px; font-size: 12px; }}
QPushButton#switch {{ background: {GROUND}; border: 1px solid {LINE}; border-radius: 3px; padding: 0 4px; min-height: 18px;
  color: {DIM}; font-size: 11px; }}
QPushButton#switch:hover {{ color: {TEXT}; border-color: {FAINT}; }}
QPushButton#mark {{ background: transparent; border: none; padding: 0 6px; text-align: left; }}
QPushButton#mark::menu-indicator {{ width: 0; }}
QLineEdit, QComboBox {{ background: {GROUND}; border: 1px solid {LINE}; border-radius: 3px; padding: 4px 8px; min-height: 20px;
  selection-background-color: {AMBER}; selection-color: {GROUND}; }}
QLineEdit#geometry {{ font-family: "B612 Mono"; }}
QLineEdit:focus, QComboBox:focus {{ border-color: {AMBER}; }}
QLineEdit:disabled, QComboBox:disabled {{ color: {FAINT}; border-color: {RAISED}; }}
QCheckBox:disabled {{ color: {FAINT}; }}
QLineEdit[wrong="true"] {{ border-color: {RED}; }}
QLineEdit:read-only {{ color: {DIM}; border-color: {RAISED}; }}
QWidget#inspector QLineEdit, QWidget#inspector QComboBox {{ min-height: 16px; padding: 2px 6px; font-size: 12px; }}
QTableWidget {{ background: {WELL}; alternate-background-color: {PANEL}; border: 1px solid {LINE}; gridline-color: {LINE};
  selection-background-color: {RAISED}; selection-color: {AMBER}; font-family: "B612 Mono"; font-size: 12px; }}
QTableWidget QLineEdit {{ padding: 0 4px; min-height: 16px; }}
QHeaderView::section {{ background: {PANEL}; color: {DIM}; border: none; border-right: 1px solid {LINE}; border-bottom: 1px solid {LINE};
  padding: 5px 8px; font-size: 12px; }}
QCheckBox::indicator {{ width: 14px; height: 14px; border: 1px solid {FAINT}; border-radius: 3px; background: {GROUND}; }}
QCheckBox::indicator:checked {{ background: {AMBER}; border-color: {AMBER}; }}
QCheckBox::indicator:disabled {{ border-color: {LINE}; }}
QCheckBox::indicator:checked:disabled {{ background: {FAINT}; border-color: {FAINT}; }}
QComboBox::drop-down {{ border: none; width: 18px; }}
QComboBox::down-arrow {{ image: url("{ARROW}"); width: 10px; height: 6px; margin-right: 6px; }}
QComboBox QAbstractItemView, QMenu, QListWidget {{ background: {PANEL}; border: 1px solid {LINE}; outline: none; }}
QMenu::item {{ padding: 6px 26px 6px 16px; }}
QMenu::item:selected, QListWidget::item:selected {{ background: {RAISED}; color: {TEXT}; }}
QMenu::item:disabled {{ color: {FAINT}; }}
QMenu::separator {{ height: 1px; background: {LINE}; margin: 4px 8px; }}
QListWidget::item {{ padding: 6px 8px; }}
QListWidget#lines::item {{ padding: 2px 6px; }}
QListWidget#lines::indicator, QTableView::indicator {{ width: 12px; height: 12px; border: 1px solid {FAINT}; border-radius: 3px; background: {GROUND}; }}
QListWidget#lines::indicator:checked, QTableView::indicator:checked {{ background: {AMBER}; border-color: {AMBER}; }}
QPushButton#step {{ padding: 1px 8px; min-height: 20px; }}
QSplitter::handle {{ background: {GROUND}; }}
QScrollBar:vertical {{ background: transparent; width: 8px; }}
QScrollBar::handle:vertical {{ background: {LINE}; border-radius: 3px; min-height: 24px; }}
QScrollBar::add-line, QScrollBar::sub-line {{ height: 0; }}
QScrollArea {{ background: transparent; border: none; }}
QToolTip {{ background: {RAISED}; color: {TEXT}; border: 1px solid {LINE}; padding: 4px; }}
QSlider::groove:horizontal {{ height: 4px; background: {LINE}; border-radius: 2px; }}
QSlider::sub-page:horizontal {{ background: {AMBER}; border-radius: 2px; }}
QSlider::handle:horizontal {{ width: 14px; height: 30px; margin: -13px 0; background: {TEXT}; border-radius: 3px; }}
QSlider::handle:horizontal:disabled {{ background: {FAINT}; }}
"""


@cache
def load_fonts() -> None:
    """Make the shipped faces known to Qt, once."""
    for face in sorted((Path(__file__).parent / "fonts").glob("*.otf")):
        QFontDatabase.addApplicationFont(str(face))


def apply(app: QApplication) -> None:
    """Load the fonts and set style and palette; the style sheet is laid on by `undressed`."""
    load_fonts()
    app.setStyle("Fusion")
    palette = QPalette()
    for role, token in (
        (QPalette.ColorRole.Window, GROUND),
        (QPalette.ColorRole.Base, GROUND),
        (QPalette.ColorRole.Button, RAISED),
        (QPalette.ColorRole.AlternateBase, PANEL),
        (QPalette.ColorRole.WindowText, TEXT),
        (QPalette.ColorRole.Text, TEXT),
        (QPalette.ColorRole.ButtonText, TEXT),
        (QPalette.ColorRole.Highlight, AMBER),
        (QPalette.ColorRole.HighlightedText, GROUND),
        (QPalette.ColorRole.PlaceholderText, FAINT),
    ):
        palette.setColor(role, QColor(token))
    app.setPalette(palette)
    app.setFont(font())


@contextmanager
def undressed(app: QApplication) -> Iterator[None]:
    """Build many widgets, and lay on the style sheet at the end: by one that is there, each widget that finds a parent
    is measured anew.
    """
    if app.styleSheet():
        app.setStyleSheet("")
    try:
        yield
    finally:
        app.setStyleSheet(STYLE)


def centred(p: QPainter, rect: QRectF, text: str) -> None:
    """Text in the middle of a rectangle, cut with an ellipsis if it is too long."""
    shown = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, int(rect.width()))
    p.drawText(rect, Qt.AlignmentFlag.AlignCenter, shown)


def left(p: QPainter, rect: QRectF, text: str) -> None:
    """Text at the left of a rectangle, in the middle of its height, cut with an ellipsis if it is too long."""
    shown = p.fontMetrics().elidedText(text, Qt.TextElideMode.ElideRight, max(0, int(rect.width())))
    p.drawText(rect, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, shown)


def right(p: QPainter, rect: QRectF, text: str) -> None:
    """Text at the right of a rectangle, in the middle of its height."""
    p.drawText(rect, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, text)


def restyle(widget: QWidget, style: str) -> None:
    """Give a widget its own style, only where it is another: laying on a style measures the widget and all around it
    anew.
    """
    if widget.styleSheet() != style:
        widget.setStyleSheet(style)
