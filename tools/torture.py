"""An attack on the program: damaged files, kills, storms of commands, files that vanish.  Seeded, bounded, and it
prints what it tried.

    python tools/torture.py [--minutes 10] [--seed 1] [--only loader,imports,kills,storms,files]

Each part runs in a process of its own, so that a crash is a finding and not the end.  Exit code 1 if there was any
finding.
"""

from __future__ import annotations

import argparse
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from attacks.findings import Findings
from attacks.reading import imports, loader
from attacks.running import files, kills, storms

PARTS: dict[str, Callable[[Findings, random.Random, Callable[[], bool], Path], None]] = {
    "loader": loader,
    "imports": imports,
    "kills": kills,
    "storms": storms,
    "files": files,
}


def bound(seconds: float, rounds: int | None) -> Callable[[], bool]:
    """Says whether there is to be another round: so many, or until the time is over."""
    left, until = iter(range(rounds or 0)), time.monotonic() + seconds
    return (lambda: next(left, None) is not None) if rounds is not None else (lambda: time.monotonic() < until)


def one(part: str, more: Callable[[], bool], seed: int) -> None:
    """One part in this process; its findings as JSON on the last line."""
    found = Findings()
    with tempfile.TemporaryDirectory() as name:
        os.environ["XDG_STATE_HOME"] = str(Path(name) / "state")
        work = Path(name) / "work"
        work.mkdir()
        PARTS[part](found, random.Random(f"{part} {seed}"), more, work)
        for bad in work.glob("bad-*"):
            shutil.copy(bad, Path(tempfile.gettempdir()) / f"torture-{part}-{seed}-{bad.name}")
    print(json.dumps({"tried": found.tried, "wrong": found.wrong}), flush=True)
    os._exit(0)


def main() -> int:
    """Run the parts one after another."""
    ask = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    ask.add_argument("--minutes", type=float, default=10.0)
    ask.add_argument("--seed", type=int, default=1)
    ask.add_argument("--only", default=",".join(PARTS))
    ask.add_argument("--rounds", type=int, help="so many rounds of each part, however long they take")
    ask.add_argument("--part", help=argparse.SUPPRESS)
    given = ask.parse_args()
    parts = given.only.split(",")
    if given.part:
        one(given.part, bound(given.minutes * 60, given.rounds), given.seed)
    bad = 0
    for part in parts:
        command = [
            sys.executable,
            __file__,
            "--part",
            part,
            "--minutes",
            str(given.minutes / len(parts)),
            "--seed",
            str(given.seed),
        ]
        command += ["--rounds", str(given.rounds)] if given.rounds is not None else []
        done = subprocess.run(
            command, capture_output=True, text=True, env={**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        )
        try:
            told = json.loads(done.stdout.splitlines()[-1])
        except (IndexError, ValueError):
            told = {"tried": {}, "wrong": [f"it ended with {done.returncode}: {done.stderr[-500:]}"]}
        if done.returncode:
            told["wrong"].append(f"it ended with {done.returncode}")
        print(f"{part:8} " + ", ".join(f"{count} {what}" for what, count in sorted(told["tried"].items())))
        for wrong in told["wrong"]:
            print(f"         WRONG {wrong}")
        bad += len(told["wrong"])
    print("clean" if not bad else f"{bad} findings")
    return 1 if bad else 0


if __name__ == "__main__":
    raise SystemExit(main())
