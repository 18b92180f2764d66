"""What the tests share: the demo show, and a Qt that needs no screen."""

from __future__ import annotations

import gc
import os
import shutil
from collections.abc import Callable, Iterator
from pathlib import Path

import hypothesis
import pytest
from pytestqt.qtbot import QtBot

from waiting import PATIENCE
from x_screen import XScreen

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from ushering_adze.core.show import Show
from ushering_adze.demo.show import copy_demo, demo_show
from ushering_adze.desk.collecting import collect_due

gc.disable()
hypothesis.settings.register_profile("any machine", deadline=None)
hypothesis.settings.load_profile("any machine")  # no example fails for being slow


def pytest_collection_modifyitems(config: pytest.Config, items: list[pytest.Item]) -> None:
    """Where tests are shared between two processes, those that play a show in its own time are one behind another in
    one of them.
    """
    for item in items:
        if {"desk", "engine"} & set(item.path.parts):
            item.add_marker(pytest.mark.xdist_group("playing"))


class PatientBot(QtBot):
    """The Qt bot, whose waits end when what they wait for is seen, however busy the machine is."""

    def waitUntil(self, callback: Callable[[], object], *, timeout: float = 1000 * PATIENCE) -> None:
        super().waitUntil(callback, timeout=int(timeout))


@pytest.fixture
def qtbot(qapp: object, request: pytest.FixtureRequest) -> PatientBot:
    return PatientBot(request)


@pytest.fixture(autouse=True)
def collected() -> Iterator[None]:
    """Garbage is collected between tests, in this thread: windows are in it, and other threads must not take
    them down.
    """
    yield
    collect_due()


@pytest.fixture(scope="session")
def show() -> Show:
    return demo_show()


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo, copied to a folder of its own; not to be changed."""
    return copy_demo(tmp_path_factory.mktemp("demo"))


@pytest.fixture(autouse=True)
def settings_of_their_own(tmp_path_factory: pytest.TempPathFactory, monkeypatch: pytest.MonkeyPatch) -> None:
    from PySide6.QtCore import QSettings

    monkeypatch.setenv("XDG_STATE_HOME", str(tmp_path_factory.mktemp("state")))
    QSettings.setPath(
        QSettings.Format.NativeFormat, QSettings.Scope.UserScope, str(tmp_path_factory.mktemp("settings"))
    )


@pytest.fixture
def x_display(tmp_path_factory: pytest.TempPathFactory) -> Iterator[XScreen]:
    """A virtual screen of 1280 × 800 with nothing on it."""
    if not shutil.which("Xvfb") or not shutil.which("xdotool"):
        pytest.skip("Xvfb and xdotool are not installed: apt-get install xvfb xdotool")
    screen = XScreen(tmp_path_factory.mktemp("screen"))
    yield screen
    screen.close()
