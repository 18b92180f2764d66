"""The command line, run in this process: as a user's, but for the time that starting the program takes."""

from __future__ import annotations

import contextlib
import io
import subprocess
import sys
from unittest import mock

from ushering_adze.cli.main import main


def adze(*args: object) -> subprocess.CompletedProcess[str]:
    """Run a command; its lines and its exit code."""
    words = [str(a) for a in args]
    out, err = io.TextIOWrapper(io.BytesIO(), "utf-8"), io.StringIO()
    code = 0
    with (
        mock.patch.object(sys, "argv", ["adze", *words]),
        contextlib.redirect_stdout(out),
        contextlib.redirect_stderr(err),
    ):
        try:
            main()
        except SystemExit as end:
            code = end.code if isinstance(end.code, int) else 1
    out.flush()
    return subprocess.CompletedProcess(words, code, out.buffer.getvalue().decode(), err.getvalue())  # type: ignore[attr-defined]
