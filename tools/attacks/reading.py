"""Damaged files: shows, and those of others."""

from __future__ import annotations

import copy
import json
import random
import shutil
from collections.abc import Callable
from pathlib import Path
from typing import Any

from attacks.findings import Findings

ODD: list[Any] = [
    None,
    True,
    False,
    0,
    -1,
    1,
    7,
    1e400,
    -1e308,
    5e-324,
    32768,
    32769,
    10**18,
    10**400,
    "",
    "x",
    "\x00",
    "\ud800",
    "é" * 90,
    "x" * 5000,
    [],
    {},
    [[]],
    {"kind": "quad"},
    "#E3A857",
    "~nobody/x",
    "/dev/zero",
    "..",
    "a-b",
    float("nan"),
    float("-inf"),
]


# -- show files --------------------------------------------------------------------------------------------------------


def _places(value: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    found = [path] if path else []
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for key, inner in items:
        found += _places(inner, (*path, key))
    return found


def mutated(document: Any, chance: random.Random) -> Any:
    """The document with one to four values replaced, removed, repeated, or put elsewhere."""
    made = copy.deepcopy(document)
    places = _places(document)
    for _ in range(chance.choice([1, 1, 1, 2, 4])):
        path = chance.choice(places)
        try:
            here = made
            for step in path[:-1]:
                here = here[step]
            match chance.randrange(6):
                case 0:
                    del here[path[-1]]
                case 1:
                    here[path[-1]] = copy.deepcopy(_at(document, chance.choice(places)))
                case 2 if isinstance(here, list):
                    here.append(copy.deepcopy(here[path[-1]]))
                case 3 if isinstance(here, dict):
                    here[str(path[-1]) + chance.choice(["x", "_", ""])] = chance.choice(ODD)
                case 4 if isinstance(here[path[-1]], (int, float)) and not isinstance(here[path[-1]], bool):
                    here[path[-1]] = here[path[-1]] * chance.choice([0, -1, 0.001, 1.5, 10, 1000]) + chance.choice(
                        [0, 0, 0.5, 1]
                    )
                case _:
                    here[path[-1]] = chance.choice(ODD)
        except (KeyError, IndexError, TypeError):
            continue
    return made


def _at(document: Any, path: tuple[Any, ...]) -> Any:
    for step in path:
        document = document[step]
    return document


def loader(found: Findings, chance: random.Random, more: Callable[[], bool], folder: Path) -> None:
    """Mutated show files: refused in a sentence, or loaded, compiled, drawn, and saved again."""
    from ushering_adze.core.onair.motion import opening_motion, recall
    from ushering_adze.core.picture.cost import memory_faults
    from ushering_adze.core.proof.check import pixel_check
    from ushering_adze.core.show import ShowError, document_of
    from ushering_adze.demo.show import demo_show
    from ushering_adze.engine.renderer import Renderer
    from ushering_adze.io.showfile import media_faults, read_show, save_show

    document, path = document_of(demo_show()), folder / "show.adze"
    while more():
        made = mutated(document, chance)
        data = json.dumps(made, indent=chance.choice([None, 1])).encode()
        if chance.random() < 0.2:
            damaged = bytearray(data)
            for _ in range(chance.randint(1, 5)):
                damaged[chance.randrange(len(damaged))] = chance.randrange(256)
            data = bytes(damaged)[: chance.choice([None, len(damaged) // 2, 17])]
        path.write_bytes(data)
        found.count("show files mutated")
        try:
            show = read_show(path)
            found.count("of them loaded")
        except ShowError as error:
            found.sentence(str(error), "read_show")
            continue
        except BaseException as error:
            found.blame(f"read_show raised {type(error).__name__}: {error}"[:300])
            path.rename(folder / f"bad-{len(found.wrong)}.adze")
            continue
        try:
            media_faults(show)
            pixel_check(show)
            if not memory_faults(show, None, 4 << 30) and chance.random() < 0.2:
                renderer, motion = Renderer(show), opening_motion(show)
                for preset in show.presets[:3]:
                    motion = recall(show, motion, preset, 0.0, cut=True)
                renderer.draw(motion.at(1.0), {})
                for id, why in renderer.faults().items():
                    found.blame(f"drawing {id}: {why}")
                found.count("of them drawn")
            again = folder / "again.adze"
            save_show(show, again)
            if read_show(again) != show:
                found.blame("saved and read again it is another show")
        except BaseException as error:
            found.blame(f"a loaded show raised {type(error).__name__}: {error}"[:300])
            shutil.copy(path, folder / f"bad-{len(found.wrong)}.adze")


# -- files of others ---------------------------------------------------------------------------------------------------


def _samples(folder: Path) -> dict[str, bytes]:
    import cv2
    import ezdxf
    import numpy as np

    from ushering_adze.core.displays.table import as_tsv
    from ushering_adze.core.exchange.region_table import as_table
    from ushering_adze.core.signal.cvt import cvt
    from ushering_adze.core.signal.edid import EdidWish, made_edid
    from ushering_adze.demo.show import demo_show
    from ushering_adze.desk.map.exchange_actions import canvas_map
    from ushering_adze.io.exchange.sheets import write_sheet

    show = demo_show()
    drawing = ezdxf.new()
    for n in range(3):
        drawing.modelspace().add_lwpolyline([(n, 0), (n + 1, 0), (n + 1, 1), (n, 1)], close=True)
    drawing.saveas(folder / "s.dxf")
    for suffix in ("svg", "pdf"):
        write_sheet(canvas_map(show, "relay"), folder / f"s.{suffix}")
    picture = np.random.default_rng(1).integers(0, 256, (40, 60, 3), np.uint8)
    for suffix in ("png", "jpg", "tiff", "webp", "bmp"):
        cv2.imwrite(str(folder / f"s.{suffix}"), picture)
    found = {p.suffix[1:]: p.read_bytes() for p in folder.glob("s.*")}
    found["regions.csv"] = as_table(show).encode()
    found["outputs.tsv"] = as_tsv(show, "outputs").encode()
    found["edid"] = made_edid(EdidWish(cvt(1920, 1080, 60), "Relay", True, True, (24, 60)))
    return found


def imports(found: Findings, chance: random.Random, more: Callable[[], bool], folder: Path) -> None:
    """Damaged drawings, documents, pictures, tables and EDIDs."""
    from ushering_adze.core.displays.table import pasted
    from ushering_adze.core.exchange.region_table import read_rows, with_rows
    from ushering_adze.core.show import ShowError, Still
    from ushering_adze.core.signal.edid import BLOCK, checksum
    from ushering_adze.core.signal.edid_read import read_edid
    from ushering_adze.core.signal.timing import SignalError
    from ushering_adze.demo.show import demo_show
    from ushering_adze.io.exchange.dxf import read_outlines
    from ushering_adze.io.exchange.guide import read_guide
    from ushering_adze.io.media import open_player

    show, samples = demo_show(), _samples(folder)

    def read(kind: str, path: Path, data: bytes) -> None:
        if kind == "dxf":
            read_outlines(path)
        elif kind == "edid":
            block = bytearray(data)
            for n in range(len(block) // BLOCK):
                block[n * BLOCK + BLOCK - 1] = checksum(bytes(block[n * BLOCK : (n + 1) * BLOCK]))
            edid = read_edid(bytes(block))
            edid.words, edid.as_dict()
        elif kind == "regions.csv":
            with_rows(show, read_rows(data.decode("utf-8", "replace"))[0])
        elif kind == "outputs.tsv":
            pasted(show, "outputs", data.decode("utf-8", "replace"))
        else:
            read_guide(path)
            if kind not in ("svg", "pdf"):
                open_player(Still(id="s", name="S", path=str(path))).exact(0.0)

    quick = [k for k in samples if k not in ("dxf", "svg", "pdf")]
    while more():
        kind = chance.choice(["dxf", "svg", "pdf", *quick * 6])
        data = bytearray(samples[kind])
        for _ in range(chance.randint(1, 12)):
            at = chance.randrange(len(data))
            match chance.randrange(4):
                case 0:
                    data[at] = chance.randrange(256)
                case 1:
                    del data[at : at + chance.randint(1, 40)]
                case 2:
                    data[at:at] = chance.choice(
                        [
                            b",",
                            b"\t",
                            b"9" * 400,
                            b"\xff\xfe",
                            b"nan",
                            b"inf",
                            b"-1",
                            b"\x00" * 8,
                            b"<g>" * 50,
                            b"1e999",
                        ]
                    )
                case _:
                    data[at : at + 4] = chance.randbytes(4)
            if not data:
                data = bytearray(b"\x00")
        if chance.random() < 0.1:
            del data[chance.randrange(len(data)) :]
        path = folder / f"foreign.{kind.split('.')[-1]}"
        path.write_bytes(data)
        found.count(f"damaged {kind}")
        try:
            read(kind, path, bytes(data))
        except (ShowError, SignalError) as error:
            found.sentence(str(error), kind)
        except BaseException as error:
            found.blame(f"{kind} raised {type(error).__name__}: {error}"[:300])
            shutil.copy(path, folder / f"bad-{len(found.wrong)}.{kind.split('.')[-1]}")
