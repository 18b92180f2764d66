"""Log lines that can never stop the show, and cost nothing until there is one: structlog is loaded with the first of them."""

from __future__ import annotations

import logging
import sys
from contextlib import suppress
from typing import Any

_settings = {"stderr": False}


class Lines:
    """Writes each line to what standard error is by then; what cannot be written, because the terminal is gone, is left out."""

    def msg(self, message: str) -> None:
        """Write one line."""
        with suppress(OSError, ValueError):
            print(message, file=sys.stderr, flush=True)

    log = debug = info = warning = warn = error = err = critical = exception = fatal = failure = msg


class Later:
    """A logger that is made when it is first asked for a line: loading what makes lines takes a tenth of the start."""

    def __getattr__(self, name: str) -> Any:
        import structlog

        if _settings["stderr"] and not structlog.is_configured():
            structlog.configure(logger_factory=lambda *names: Lines(), wrapper_class=structlog.make_filtering_bound_logger(logging.WARNING))
        return getattr(structlog.get_logger(), name)


log = Later()


def log_to_stderr() -> None:
    """Log warnings and worse as lines on standard error, from the first line on."""
    _settings["stderr"] = True
