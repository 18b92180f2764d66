"""Every action of Map, and how it is called, by menu: the one list that menus, finder and keys are made from."""

from __future__ import annotations

from ushering_adze.desk.map.canvas_actions import CanvasActions
from ushering_adze.desk.map.exchange_actions import ExchangeActions
from ushering_adze.desk.map.guide_actions import GuideActions
from ushering_adze.desk.map.region_actions import RegionActions
from ushering_adze.desk.tools import Named


class MapActions(RegionActions, CanvasActions, GuideActions, ExchangeActions):
    """The actions of Map, on the selected regions and the canvas on view."""


def named_actions(a: MapActions) -> list[Named]:
    """Every action by name, in the order of its menus."""
    return [
        Named("region-type", "Regions", "Add regions by numbers…", a.type_region, "N"),
        Named("region-duplicate-grid", "Regions", "Duplicate in rows and columns…", a.duplicate_grid, "Ctrl+Shift+D"),
        Named(
            "region-reflect-copies-across",
            "Regions",
            "Reflect copies left to right",
            lambda: a.reflect_copies("across"),
            "Ctrl+R",
        ),
        Named(
            "region-reflect-copies-down",
            "Regions",
            "Reflect copies top to bottom",
            lambda: a.reflect_copies("down"),
            "Ctrl+Shift+R",
        ),
        Named(
            "region-reflect-canvas-across",
            "Regions",
            "Reflect left–right about the canvas",
            lambda: a.reflect("across", "canvas"),
        ),
        Named(
            "region-reflect-canvas-down",
            "Regions",
            "Reflect top–bottom about the canvas",
            lambda: a.reflect("down", "canvas"),
        ),
        Named(
            "region-reflect-own-across",
            "Regions",
            "Reflect left–right within the selection",
            lambda: a.reflect("across", "selection"),
        ),
        Named(
            "region-reflect-own-down",
            "Regions",
            "Reflect top–bottom within the selection",
            lambda: a.reflect("down", "selection"),
        ),
        Named("region-swap", "Regions", "Swap places", a.swap),
        Named("region-group", "Regions", "Group", a.group, "Ctrl+G"),
        Named("region-ungroup", "Regions", "Ungroup", a.ungroup, "Ctrl+Shift+G"),
        Named("region-all", "Regions", "Select all of this canvas", a.select_all, "Ctrl+A"),
        *(
            Named(f"align-{edge}", "Arrange", f"Align {words}", lambda edge=edge: a.align(edge))
            for edge, words in (  # type: ignore[misc]
                ("left", "left edges"),
                ("centre", "centres across"),
                ("right", "right edges"),
                ("top", "top edges"),
                ("middle", "middles down"),
                ("foot", "lower edges"),
            )
        ),
        Named("even-across", "Arrange", "Even gaps across", lambda: a.even("across"), "Ctrl+E"),
        Named("even-down", "Arrange", "Even gaps down", lambda: a.even("down"), "Ctrl+Shift+E"),
        Named("even-canvas-across", "Arrange", "Even gaps across the whole canvas", lambda: a.even("across", True)),
        Named("even-canvas-down", "Arrange", "Even gaps down the whole canvas", lambda: a.even("down", True)),
        Named("gap-across", "Arrange", "Set the gap across…", lambda: a.set_gap("across")),
        Named("gap-down", "Arrange", "Set the gap down…", lambda: a.set_gap("down")),
        Named("open-across", "Arrange", "Open a gap in the middle, left–right…", lambda: a.open_gap("across"), "O"),
        Named("open-down", "Arrange", "Open a gap in the middle, top–bottom…", lambda: a.open_gap("down")),
        Named("as-hung", "Arrange", "Place surfaces as they hang: the picture goes on behind gaps", a.as_hung),
        Named("side-by-side", "Arrange", "Place surfaces side by side: the picture closes up", a.side_by_side),
        Named("land-pack", "Land", "Pack on the raster", a.pack, "P"),
        Named("land-drawn", "Land", "As drawn on the canvas", a.as_drawn),
        Named("land-centre", "Land", "Centre on the raster", a.centre, "C"),
        Named("land-one", "Land", "1 pixel to 1 pixel", a.one_to_one),
        Named("land-turn", "Land", "Turn by 90° clockwise", lambda: a.turn(90), "T"),
        Named("land-turn-back", "Land", "Turn by 90° back", lambda: a.turn(270), "Shift+T"),
        Named("land-flip", "Land", "Flip left–right, or back", a.flip, "F"),
        Named("land-mirror", "Land", "Mirror on another output…", a.mirror_on),
        Named("from-surface", "Make", "Regions of a rigged surface…", a.from_surface, "Ctrl+M"),
        Named("divide-quarters", "Make", "Four quarters on outputs", lambda: a.divide(2, 2), "Ctrl+4"),
        Named("divide-halves", "Make", "Two halves side by side", lambda: a.divide(2, 1), "Ctrl+2"),
        Named("divide-thirds", "Make", "Three thirds side by side", lambda: a.divide(3, 1), "Ctrl+3"),
        Named("divide-shares", "Make", "Parts by per cent…", a.divide_by),
        Named("canvas-add", "Make", "Add a canvas…", a.add_canvas),
        Named("canvas-edit", "Make", "Name, size, rate of this canvas…", a.edit_canvas),
        Named("canvas-remove", "Make", "Remove this canvas", a.remove_canvas),
        Named("guide-load", "Guide", "Load one under the canvas…", lambda: a.ask_guide(False), "G"),
        Named("guide-output", "Guide", "Load one under the output's raster…", lambda: a.ask_guide(True)),
        Named("guide-find", "Guide", "Find rectangles in it", a.find, "Shift+G"),
        Named("guide-divide", "Guide", "Divide what was found into its parts", a.divide_guide, "Ctrl+Alt+G"),
        Named("guide-accept", "Guide", "Accept all that were found", a.accept, "Shift+A"),
        Named("guide-lock", "Guide", "Lock it, or unlock", a.lock_guide),
        *(
            Named(f"guide-{words}", "Guide", f"Nudge it {words} by 1 px", lambda d=d: a.nudge_guide(*d))
            for words, d in (  # type: ignore[misc]
                ("left", (-1, 0)),
                ("right", (1, 0)),
                ("up", (0, -1)),
                ("down", (0, 1)),
            )
        ),
        Named("guide-remove", "Guide", "Remove it", a.remove_guide),
        Named("import-regions", "Exchange", "Import regions: table, show or drawing…", a.import_regions),
        Named("export-table", "Exchange", "Regions as a table…", a.export_table),
        *(
            Named(f"export-{of}", "Exchange", f"Pixel map of this {of}…", lambda of=of: a.export_map(of))  # type: ignore[misc]
            for of in ("canvas", "output", "surface")
        ),
        Named("export-templates", "Exchange", "Templates for the makers of content…", a.export_templates),
    ]
