"""Kills, storms of commands, and files that vanish while a show runs."""

from __future__ import annotations

import contextlib
import os
import random
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

from attacks.findings import Findings
from ushering_adze.core.onair.actions import Back, Black, Hand, Hold, Recall, StagePreset, Take, Unstage

# -- kills -------------------------------------------------------------------------------------------------------------

SAVER = """
import sys
from pathlib import Path
from ushering_adze.demo.show import demo_show
from ushering_adze.io.keeping import Autosave, kept_for
from ushering_adze.desk.filing import Filing
path, show, n = Path(sys.argv[1]), demo_show(), 0
filing = Filing(path, "Kill")
print("ready", flush=True)
while True:
    n += 1
    show = show.model_copy(update={"name": f"Save {n}"})
    filing.autosave.note(show, path.parent)
    if n % 3 == 0:
        filing.save(show, path)
"""


def kills(found: Findings, chance: random.Random, more: Callable[[], bool], folder: Path) -> None:
    """A program killed while it saves and autosaves: the file is one show or the next, edits and versions can be read,
    nothing is left over.
    """
    from ushering_adze.core.show import show_from_document
    from ushering_adze.demo.show import demo_show
    from ushering_adze.desk.filing import Filing
    from ushering_adze.io.keeping import forget, left_behind, versions
    from ushering_adze.io.showfile import read_show, save_show

    path = folder / "show.adze"
    save_show(demo_show(), path)
    while more():
        saver = subprocess.Popen([sys.executable, "-c", SAVER, str(path)], stdout=subprocess.PIPE, text=True)
        assert saver.stdout is not None
        saver.stdout.readline()
        time.sleep(chance.random() * 0.5)
        saver.send_signal(signal.SIGKILL)
        saver.wait(30)
        found.count("kills while saving")
        try:
            read_show(path)
            filing = Filing(path, "Kill")
            edits = left_behind(filing.folder)
            if edits is not None:
                show_from_document(edits.document)
                found.count("edits that were brought back")
                forget(edits)
            for kept in versions(filing.folder):
                read_show(kept.file)
            if len(versions(filing.folder)) > 11:
                found.blame(f"{len(versions(filing.folder))} versions are kept")
            if filing.save(demo_show(), path).show is None:
                found.blame("after a kill the file cannot be saved")
            filing.close(wanted=False)
            left = [p.name for p in folder.iterdir() if p.name != "show.adze" and not p.name.startswith("state")]
            if left:
                found.blame(f"left over: {left}")
        except BaseException as error:
            found.blame(f"after a kill: {type(error).__name__}: {error}"[:300])


# -- storms ------------------------------------------------------------------------------------------------------------


def _rss() -> int:
    return int(Path("/proc/self/statm").read_text().split()[1]) * os.sysconf("SC_PAGE_SIZE")


def _frames_come(engine: Any, number: int) -> bool:
    """Whether an engine makes its frames, however slow the machine is."""
    end = time.monotonic() + 60
    while engine.frames < number and time.monotonic() < end:
        time.sleep(0.05)
    return bool(engine.frames >= number)


def storms(found: Findings, chance: random.Random, more: Callable[[], bool], folder: Path) -> None:
    """Recalls, hands, edits and openings from four threads: frames go on, the queue empties, memory is given back."""
    from ushering_adze.demo.show import demo_show
    from ushering_adze.engine.engine import Engine
    from ushering_adze.engine.memory import give_back

    show = demo_show()
    engine = Engine(show, lambda report: None)
    engine.start(wait=20)
    numbers, stop = [p.number for p in show.presets], threading.Event()

    def recalls(seed: int) -> None:
        own = random.Random(seed)
        while not stop.is_set():
            match own.randrange(8):
                case 0:
                    engine.act(
                        StagePreset(preset=number)
                        if (number := own.choice([*numbers, None, 999])) is not None
                        else Unstage()
                    )
                case 1:
                    engine.act(Take(seconds=own.choice([None, 0.0, 0.2])))
                case 2:
                    engine.act(Hand(position=own.choice([0.0, own.random(), 1.0])))
                case 3:
                    engine.act(Back())
                case 4:
                    engine.act(Black(on=own.random() < 0.3))
                case 5:
                    engine.act(Hold(on=own.random() < 0.3))
                case _:
                    engine.act(Recall(preset=own.choice(numbers), seconds=own.choice([None, 0.0, 0.3])))
            found.count("commands")
            time.sleep(own.choice([0, 0, 0.001, 0.01]))

    def edits(seed: int) -> None:
        own = random.Random(seed)
        while not stop.is_set():
            canvas = own.choice(show.canvases)
            background = f"#{own.randrange(1 << 24):06X}"
            canvases = tuple(
                c.model_copy(update={"background": background}) if c is canvas else c for c in show.canvases
            )
            engine.set_show(show.model_copy(update={"canvases": canvases}))
            found.count("edits")
            time.sleep(own.choice([0.001, 0.01, 0.05]))

    threads = [threading.Thread(target=recalls, args=(chance.randrange(1 << 30),)) for _ in range(3)]
    threads.append(threading.Thread(target=edits, args=(chance.randrange(1 << 30),)))
    for thread in threads:
        thread.start()
    first = None
    while more():
        frames = engine.frames
        time.sleep(2.0)
        if not _frames_come(engine, frames + 10):
            found.blame(f"only {engine.frames - frames} frames in a minute, {len(engine._commands)} commands wait")
        if chance.random() < 0.3:
            engine.open_show(demo_show())
            found.count("openings")
        first = first if first is not None else _rss()
    stop.set()
    for thread in threads:
        thread.join()
    least, since = len(engine._commands), time.monotonic()
    while len(engine._commands) and time.monotonic() < since + 60:
        time.sleep(0.05)
        if len(engine._commands) < least:
            least, since = len(engine._commands), time.monotonic()
    if len(engine._commands):
        found.blame(f"{len(engine._commands)} commands wait, and in a minute none of them was done")
    engine.act(Hold(on=False))
    engine.act(Black(on=False))
    engine.act(Recall(preset=5, seconds=0.0))
    time.sleep(4)
    give_back()  # what is freed and kept for the next frames is no leak
    grown = (_rss() - (first or 0)) / 1e6
    found.tried["megabytes grown"] = max(0, round(grown))
    if grown > 250:
        found.blame(f"memory grew by {grown:.0f} MB")
    if engine.faults():
        found.blame(f"faults afterwards: {engine.faults()}")
    engine.stop()


# -- files that vanish -------------------------------------------------------------------------------------------------


def files(found: Findings, chance: random.Random, more: Callable[[], bool], folder: Path) -> None:
    """Media that are removed, replaced by rubbish, pipes or folders, and come back, while they play; outputs whose
    folder goes away.
    """
    from ushering_adze.core.show import Folder
    from ushering_adze.demo.show import copy_demo
    from ushering_adze.engine.engine import Engine
    from ushering_adze.io.outputs.png import PngSink
    from ushering_adze.io.showfile import read_show

    path = copy_demo(folder / "demo")
    show, media, spare = read_show(path), path.parent / "media", folder / "spare"
    shutil.copytree(media, spare)
    stills = folder / "stills"
    show = show.model_copy(
        update={"sources": (*show.sources, Folder(id="stills", name="Stills", path=str(stills), hold=0.1))}
    )
    engine = Engine(show)
    engine.start(wait=20)
    sink = PngSink(folder / "out" / "relay.png", period=0.05)
    engine.add_sink("relay", "torture", sink, lambda: sink.fault)
    sources, numbers = show.sources, [p.number for p in show.presets]
    while more():
        target = chance.choice([p for p in spare.rglob("*") if p.is_file()])
        place = media / target.relative_to(spare)
        for left in (place, stills):
            if left.is_dir() and not left.is_symlink():
                shutil.rmtree(left)
            elif left.exists() or left.is_symlink():
                left.unlink()
        match chance.randrange(5):
            case 0:
                pass
            case 1:
                place.write_bytes(chance.randbytes(3000))
            case 2:
                os.mkfifo(place)
            case 3:
                place.mkdir()
            case _:
                place.write_bytes(target.read_bytes()[: chance.randrange(1, 5000)])
        stills.mkdir()
        for _ in range(chance.randrange(3)):
            name = os.fsdecode(chance.choice([b"a.png", b"\xe9\xff.png", b"b.jpg"]))
            (stills / name).write_bytes(chance.choice([b"", b"no", target.read_bytes()[:4000]]))
        shutil.rmtree(folder / "out", ignore_errors=True)
        if chance.random() < 0.3:
            with contextlib.suppress(OSError):  # it may be there again already
                (folder / "out").write_text("")
        found.count("files taken away or replaced")
        again = tuple(
            s.model_copy(update={"name": f"{s.name[:60]} {chance.randrange(99)}"}) if chance.random() < 0.4 else s
            for s in sources
        )
        engine.set_show(show.model_copy(update={"sources": again}))
        engine.act(Recall(preset=chance.choice(numbers), seconds=0.1))
        engine.look_through(chance.choice([s.id for s in sources]))
        frames = engine.frames
        time.sleep(0.5)
        if not _frames_come(engine, frames + 1):
            found.blame("no frame for a minute")
        if (folder / "out").is_file():
            (folder / "out").unlink(missing_ok=True)
        if not place.is_file():
            place.rmdir() if place.is_dir() else place.unlink(missing_ok=True)
        shutil.copy(target, place)
    engine.set_show(show.model_copy(update={"name": "Again", "sources": sources[:-1]}))
    began = time.monotonic()
    sink.close()
    sink.join(10)
    engine.stop(0.6)
    if time.monotonic() - began > 20:
        found.blame(f"stopping took {time.monotonic() - began:.1f} s")
