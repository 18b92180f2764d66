"""What the machine under the program does to it."""

from __future__ import annotations

import os
from pathlib import Path


def stolen_seconds() -> float:
    """Processor time that a virtual machine's host gave to others instead of to us, all cores, since the start; 0 if
    not known.

    The eighth figure of the first line of ``/proc/stat`` (proc(5), *steal*).
    """
    try:
        fields = Path("/proc/stat").read_text().splitlines()[0].split()
        return int(fields[8]) / os.sysconf("SC_CLK_TCK")
    except (OSError, ValueError, IndexError):
        return 0.0


def memory_bytes() -> int:
    """Memory of this machine, or of the control group the program is in, whichever is less."""
    total = os.sysconf("SC_PAGE_SIZE") * os.sysconf("SC_PHYS_PAGES")
    try:
        told = Path("/sys/fs/cgroup/memory.max").read_text().strip()
        return min(total, int(told)) if told.isdigit() else total
    except OSError:
        return total


def free_bytes() -> int:
    """Memory that could be had now without taking it from others (*MemAvailable*, proc(5)); all of it where that is not
    told.
    """
    try:
        lines = Path("/proc/meminfo").read_text().splitlines()
        return next(int(line.split()[1]) * 1024 for line in lines if line.startswith("MemAvailable:"))
    except (OSError, StopIteration, ValueError, IndexError):
        return memory_bytes()
