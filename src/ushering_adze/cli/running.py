"""How every command ends: well, or with one line on standard error and exit code 2."""

from __future__ import annotations

import sys
from typing import NoReturn

import typer

from ushering_adze.core.document.model import LONGEST
from ushering_adze.core.show.rigging import told
from ushering_adze.io.logs import log, log_to_stderr
from ushering_adze.io.places import log_file

UsageProblem = typer.BadParameter.__bases__[0].__bases__[0]  # what the parser raises; its own name for it is private


def new_app() -> typer.Typer:
    """A command line without commands."""
    return typer.Typer(
        name="adze",
        help="Ushering Adze: every screen of an event, exactly.",
        no_args_is_help=True,
        add_completion=False,
        pretty_exceptions_enable=False,
    )


def run(app: typer.Typer) -> NoReturn:
    """Run a command line: every error is one line on stderr and exit code 2."""
    log_to_stderr()
    try:
        code = app(standalone_mode=False)
        raise SystemExit(code if isinstance(code, int) else 0)
    except (typer.Abort, KeyboardInterrupt):
        raise SystemExit(130) from None
    except UsageProblem as error:
        sentence = error.format_message()
    except OSError as error:
        sentence = (
            f"{error.filename or 'a file'}: it cannot be used ({error.strerror}); check the path and its permissions"
        )
    except (ValueError, MemoryError) as error:
        sentence = told(error)
    except Exception as error:
        log.exception("a command failed")
        log.flush()
        sentence = f"this failed in the program itself ({type(error).__name__}); {log_file()} says where"
    print(f"adze: {' '.join(sentence.split())}"[:LONGEST], file=sys.stderr)
    raise SystemExit(2)
