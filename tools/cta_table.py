"""Write the table of CTA-861 formats as `edid-decode --vic` prints them to standard output, for
core/signal/cta_table.py.
"""

from __future__ import annotations

import re
import subprocess

ROW = re.compile(
    r"VIC +(\d+): +(\d+)x(\d+)(i?) +([\d.]+) Hz +(\S+) +[\d.]+ kHz +([\d.]+) MHz.*?\n\s+Hfront +(\d+) Hsync +(\d+) "
    r"Hback +(\d+) "
    r"Hpol (.)\s+Vfront +(\d+) Vsync +(\d+) Vback +(\d+) Vpol (.)( Both Fields)?"
)

print(
    '"""Every format of CTA-861-I, table 1 to 4, as `edid-decode --vic` prints them; made by tools/cta_table.py."""\n'
)
print("Row = tuple[int, int, int, bool, int, tuple[int, int, int], tuple[int, int, int], str, str, bool]")
print(
    "# VIC, width, height, interlaced, clock in kHz, (front, sync, back) across, the same down, polarities of the "
    "syncs, shape,"
)
print("# whether both fields have as many lines")
print("ROWS: tuple[Row, ...] = (")
for vic in (*range(1, 128), *range(193, 220)):
    said = subprocess.run(["edid-decode", "--vic", str(vic)], capture_output=True, text=True, check=False).stdout
    found = ROW.search(said)
    if found is None:
        raise SystemExit(f"edid-decode does not know VIC {vic}:\n{said}")
    _, w, h, i, _, shape, mhz, hf, hs, hb, hp, vf, vs, vb, vp, both = found.groups()
    signs = "".join("+" if p == "P" else "-" for p in (hp, vp))
    print(
        f"    ({vic}, {w}, {h}, {i == 'i'}, {round(float(mhz) * 1000)}, ({hf}, {hs}, {hb}), ({vf}, {vs}, {vb}), "
        f'"{signs}", "{shape}", '
        f"{both is not None}),"
    )
print(")")
