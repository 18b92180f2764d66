"""Tables of colours in .cube files."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from ushering_adze.io.asking import read_small
from ushering_adze.io.media.still import MediaError

MOST = 129
"""Points along each edge of a lattice, at most."""


def read_cube(path: Path) -> NDArray[np.float32]:
    """The lattice of a .cube file of three dimensions, or of one, made a lattice.

    Parameters
    ----------
    path : Path

    Returns
    -------
    ndarray, shape (n, n, n, 3), float32
        By blue, green, red; R, G, B.

    Raises
    ------
    MediaError
        In one sentence, with the line that is wrong.

    References
    ----------
    Adobe, "Cube LUT Specification 1.0" (from memory).
    """
    try:
        text = read_small(path).decode("utf-8-sig")
    except UnicodeDecodeError:
        raise MediaError(f"{path.name} is no text; name a .cube file") from None
    except Exception as error:
        raise MediaError(f"{path.name} cannot be read ({type(error).__name__})") from None
    sizes: dict[str, int] = {}
    domain = {"DOMAIN_MIN": (0.0, 0.0, 0.0), "DOMAIN_MAX": (1.0, 1.0, 1.0)}
    rows: list[tuple[float, ...]] = []
    for n, line in enumerate(text.splitlines(), 1):
        words = line.split("#", 1)[0].split()
        if not words or words[0] == "TITLE":
            continue
        try:
            if words[0] in ("LUT_3D_SIZE", "LUT_1D_SIZE"):
                sizes[words[0]] = int(words[1])
            elif words[0] in domain:
                domain[words[0]] = (float(words[1]), float(words[2]), float(words[3]))
            elif words[0][0].isalpha():
                continue  # a word of another program's
            else:
                rows.append(tuple(float(w) for w in words))
                if len(rows[-1]) != 3:
                    raise ValueError
        except (ValueError, IndexError):
            raise MediaError(f"{path.name}, line {n}: three numbers were expected; export the table anew") from None
    size = sizes.get("LUT_3D_SIZE", 0)
    if size:
        if not 2 <= size <= MOST or len(rows) != size**3:
            raise MediaError(f"{path.name} says {size} points an edge and has {len(rows)} rows; export the table anew")
        table = np.array(rows, np.float32).reshape(size, size, size, 3)
    else:
        count = sizes.get("LUT_1D_SIZE", 0)
        if count < 2 or len(rows) != count:
            raise MediaError(f"{path.name} says how large it is nowhere, or not rightly; export the table anew")
        points = np.linspace(0, 1, 33)
        curves = [np.interp(points, np.linspace(0, 1, count), np.array(rows)[:, k]) for k in range(3)]
        blue, green, red = np.meshgrid(curves[2], curves[1], curves[0], indexing="ij")
        table = np.stack([red, green, blue], -1).astype(np.float32)
    if not np.isfinite(table).all():
        raise MediaError(f"{path.name} has numbers that are none; export the table anew")
    if domain["DOMAIN_MIN"] != (0.0, 0.0, 0.0) or domain["DOMAIN_MAX"] != (1.0, 1.0, 1.0):
        raise MediaError(f"{path.name} is not for codes of 0 to 1; export it with that domain")
    return table
