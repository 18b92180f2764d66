"""Reading foreign files in a process of its own: what brings that down costs one sentence, not the show.

Readers of drawings and documents are large, and written for files that mean well.  Each of them runs beside the
program, with limits on time and memory, and sends back plain values.
"""

from __future__ import annotations

import json
import signal
import subprocess
import sys
from pathlib import Path
from typing import Any

from ushering_adze.core.show import Fault, ShowError
from ushering_adze.io.machine import free_bytes

SECONDS = 60.0
"""How long a reader may take."""
MOST_BYTES, LEAST_BYTES = 6 << 30, 512 << 20
"""Memory that a reader may take: half of what the machine has left, within these."""


def read_apart(job: str, path: Path, seconds: float = SECONDS) -> tuple[dict[str, Any], bytes]:
    """Have a file read by one of the jobs of `ushering_adze.io.reader`.

    Parameters
    ----------
    job : str
        Which reader.
    path : Path
    seconds : float
        After which it is stopped.

    Returns
    -------
    told : dict
        What the reader says of it.
    data : bytes
        What comes with that, such as pixels.

    Raises
    ------
    ShowError
        The reader's own sentence; or one that it crashed, took too long, or wanted too much memory.
    """
    memory = min(MOST_BYTES, max(LEAST_BYTES, free_bytes() // 2))
    command = [sys.executable, "-m", "ushering_adze.io.reader", job, str(path), str(memory), str(int(seconds) + 1)]
    try:
        with subprocess.Popen(
            command, stdin=subprocess.DEVNULL, stdout=subprocess.PIPE, stderr=subprocess.DEVNULL
        ) as reader:
            try:
                out, _ = reader.communicate(timeout=seconds)
            except subprocess.TimeoutExpired:
                reader.kill()
                what = f"reading it took over {seconds:.0f} s and was stopped; simplify it, or save it as PNG"
                raise ShowError([Fault(path.name, what)]) from None
            code = reader.returncode
    except OSError as error:
        raise ShowError(
            [Fault(path.name, f"its reader cannot be started ({error.strerror}); close other programs and try again")]
        ) from None
    head, _, data = out.partition(b"\n")
    try:
        told = json.loads(head)
    except ValueError:
        raise ShowError(
            [Fault(path.name, f"its reader {_end_of(code)}; export it again, simpler, or save it as PNG")]
        ) from None
    if "faults" in told and told.get("refused"):
        raise ShowError([Fault(*fault) for fault in told["faults"]])
    return told, data


def _end_of(code: int) -> str:
    if code == -signal.SIGXCPU:
        return "took too long"
    if code < 0:
        return f"crashed on it ({signal.Signals(-code).name})"
    return "gave up on it"
