"""Where the program keeps what is its own and not the show's: the log, edits that no file holds yet, earlier
versions.
"""

from __future__ import annotations

from pathlib import Path

from platformdirs import PlatformDirs


def state_folder() -> Path:
    """The program's folder of state, in ``XDG_STATE_HOME`` where that is set; it may not be there yet."""
    return PlatformDirs("ushering-adze").user_state_path


def log_file() -> Path:
    """The log; older ones lie beside it with a number behind their name."""
    return state_folder() / "adze.log"
