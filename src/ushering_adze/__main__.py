"""The program's entry.  What it makes of itself while it starts is no garbage, and is not looked through for any."""

import gc
import sys

gc.disable()

if sys.argv[1:2] in (["open"], ["demo"]):
    from ushering_adze.cli.early import begin

    begin(sys.argv[2:])
    from ushering_adze.cli.opening import main as command
else:
    from ushering_adze.cli.main import main as command
from ushering_adze.engine.memory import set_aside  # noqa: E402


def main() -> None:
    """Run the command line."""
    set_aside()
    gc.enable()
    command()


if __name__ == "__main__":
    main()
