"""A stand-in for the process that makes the pictures: no source of it ever opens."""

import os
import threading
from pathlib import Path
from typing import Any

from ushering_adze.engine import slot
from ushering_adze.playout import serving


def _opened(*given: Any) -> Any:
    Path(os.environ["HANGS"]).touch()
    threading.Event().wait()


def main() -> None:
    """Serve, without any source."""
    slot.open_player = _opened
    serving.main()
