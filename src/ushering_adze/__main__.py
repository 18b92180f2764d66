"""The program's entry.  What it makes of itself while it starts is no garbage, and is not looked through for any."""

import gc

gc.disable()

from ushering_adze.cli import main as cli  # noqa: E402
from ushering_adze.engine.memory import set_aside  # noqa: E402


def main() -> None:
    """Run the command line."""
    set_aside()
    gc.enable()
    cli.main()


if __name__ == "__main__":
    main()
