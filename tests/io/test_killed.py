"""The promise of the show file, tested by breaking in."""

from __future__ import annotations

import random
import signal
import subprocess
import sys
import time
from pathlib import Path

from ushering_adze.io.showfile import read_show

SAVER = """
import sys
from pathlib import Path
from ushering_adze.demo.show import demo_show
from ushering_adze.io.showfile import save_show
path, show, n = Path(sys.argv[1]), demo_show(), 0
save_show(show, path)
print("ready", flush=True)
while True:
    n += 1
    save_show(show.model_copy(update={"name": f"Save {n}"}), path)
"""


def test_killed_while_saving_the_file_is_one_show_or_the_next(tmp_path: Path) -> None:
    path = tmp_path / "show.adze"
    chance = random.Random(4)
    names = set()
    for _ in range(8):
        saver = subprocess.Popen([sys.executable, "-c", SAVER, str(path)], stdout=subprocess.PIPE, text=True)
        assert saver.stdout is not None and saver.stdout.readline() == "ready\n"
        time.sleep(chance.random() * 0.25)
        saver.send_signal(signal.SIGKILL)
        saver.wait(300)
        names.add(read_show(path).name)
    assert any(name.startswith("Save ") for name in names)
