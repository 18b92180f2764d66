"""What the machine under the program does to it."""

from __future__ import annotations

import os
from pathlib import Path


def stolen_seconds() -> float:
    """Processor time that a virtual machine's host gave to others instead of to us, all cores, since the start; 0 if not known.

    The eighth figure of the first line of ``/proc/stat`` (proc(5), *steal*).
    """
    try:
        fields = Path("/proc/stat").read_text().splitlines()[0].split()
        return int(fields[8]) / os.sysconf("SC_CLK_TCK")
    except (OSError, ValueError, IndexError):
        return 0.0
