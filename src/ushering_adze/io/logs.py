"""Log lines on standard error that can never stop the show: a terminal that has gone away is no reason for a frame to fail."""

from __future__ import annotations

import logging
import sys
from contextlib import suppress

import structlog


class Lines:
    """Writes each line to what standard error is by then; what cannot be written is left out."""

    def msg(self, message: str) -> None:
        """Write one line."""
        with suppress(OSError, ValueError):  # the terminal is gone
            print(message, file=sys.stderr, flush=True)

    log = debug = info = warning = warn = error = err = critical = exception = fatal = failure = msg


def log_to_stderr() -> None:
    """Log warnings and worse as lines on standard error."""
    structlog.configure(logger_factory=lambda *names: Lines(), wrapper_class=structlog.make_filtering_bound_logger(logging.WARNING))
