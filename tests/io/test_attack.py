"""A little of the attack that ``tools/torture.py`` can go on with for hours: the same seed, the same files
and kills.
"""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

TOOL = Path(__file__).parents[2] / "tools" / "torture.py"


@pytest.mark.parametrize(
    ("part", "rounds", "tried"),
    [
        ("loader", 150, "150 show files mutated"),
        ("imports", 60, "damaged"),
        ("kills", 4, "4 kills while saving"),
        ("files", 6, "6 files taken away or replaced"),
        ("storms", 3, "commands"),
    ],
)
def test_an_attack_finds_nothing(part: str, rounds: int, tried: str) -> None:
    done = subprocess.run(
        [sys.executable, str(TOOL), "--only", part, "--rounds", str(rounds), "--seed", "3"],
        capture_output=True,
        text=True,
        timeout=600,
    )
    assert done.returncode == 0 and done.stdout.endswith("clean\n") and tried in done.stdout, done.stdout + done.stderr


def test_an_attack_tells_what_it_found() -> None:
    """It can fail: a reader that raises what it should not is a finding, told, and exit code 1."""
    code = (
        "import sys; sys.path.insert(0, sys.argv[1]); from attacks.findings import Findings; "
        "f = Findings(); f.sentence('1 validation error for Show', 'x'); f.sentence('fine; do that', 'y'); "
        "print(f.wrong)"
    )
    done = subprocess.run([sys.executable, "-c", code, str(TOOL.parent)], capture_output=True, text=True, timeout=300)
    assert done.stdout == "[\"x: '1 validation error for Show'\"]\n", done.stderr
