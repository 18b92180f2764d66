"""Actions on guide pictures: that under the canvas, or that under the raster of the output on view."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog

from ushering_adze.core.mapping.regions import added
from ushering_adze.core.seeing.find_shapes import Found
from ushering_adze.core.show import Guide, RectLanding, Show
from ushering_adze.core.show.edits import changed, with_canvas, with_output
from ushering_adze.desk.map.acting import Acting
from ushering_adze.io.exchange.guide import GUIDE_SUFFIXES


class GuideActions(Acting):
    """Guide pictures.  ``under_raster`` says which of the two is meant: the one under the raster, or the one under the
    canvas.
    """

    under_raster = False

    def mean_raster(self, on: bool) -> None:
        """Mean the guide under the raster, or the one under the canvas."""
        self.under_raster = on

    def ask_guide(self, under_raster: bool) -> None:
        """Choose a guide picture for the canvas, or for the raster of the output on view."""
        path, _ = QFileDialog.getOpenFileName(
            self._owner.window(), "Guide picture", str(self._session.root), f"Pictures (*{' *'.join(GUIDE_SUFFIXES)})"
        )
        if path:
            self.set_guide(Path(path), under_raster)

    def set_guide(self, path: Path, under_raster: bool = False) -> None:
        """Lay a picture under the canvas or the raster."""
        self.under_raster = under_raster
        self._with_guide("Guide picture", Guide(path=str(path.resolve())))

    def guide(self) -> Guide | None:
        """The guide meant."""
        if self.under_raster:
            id = self._output()
            return None if id is None else self._session.show.output(id).guide
        canvas = self._canvas()
        return None if canvas is None else canvas.guide

    def _with_guide(self, label: str, guide: Guide | None, gesture: object = None) -> None:
        def make(show: Show) -> Show:
            if self.under_raster:
                return with_output(show, changed(show.output(self._lands_on()), guide=guide))
            return with_canvas(show, self._home().model_copy(update={"guide": guide}))

        self._session.try_edit(label, make, gesture)

    def change_guide(self, **fields: object) -> None:
        """Opacity, place, lock of the guide; a locked one moves only when it is unlocked."""
        guide = self.guide()
        if guide is None:
            self._session.trouble.emit("There is no guide picture here yet; load one first.")
            return
        if guide.locked and {"x", "y"} & set(fields):
            self._session.trouble.emit("The guide picture is locked; unlock it to move it.")
            return
        self._with_guide(
            "Guide picture", changed(guide, **fields), "guide opacity" if set(fields) == {"opacity"} else None
        )

    def lock_guide(self) -> None:
        """Lock the guide, or unlock it."""
        guide = self.guide()
        self.change_guide(**({} if guide is None else {"locked": not guide.locked}))

    def nudge_guide(self, dx: int, dy: int) -> None:
        """Move the guide by whole pixels."""
        guide = self.guide()
        self.change_guide(**({} if guide is None else {"x": guide.x + dx, "y": guide.y + dy}))

    def remove_guide(self) -> None:
        """Take the guide away."""
        self._with_guide("Remove the guide picture", None)

    def find(self) -> None:
        """Look for rectangles in the guide."""
        guide = self.guide()
        if guide is None:
            self._session.trouble.emit("There is no guide picture here yet; load one first.")
            return
        self._guides.search(guide)

    def divide_guide(self) -> None:
        """Take the parts in place of what can be divided: cabinets of a checkerboard, panels that a line may part."""
        guide = self.guide()
        count = 0 if guide is None else self._guides.divide(guide)
        if not count:
            self._session.trouble.emit(
                "Nothing that was found can be divided; look for rectangles in the guide picture first."
            )

    def accept(self, found: Found | None = None) -> None:
        """Make regions of what was found: of one, or of all.

        What was found under the raster lands exactly there, and is cut from the same place of the canvas.
        """
        guide = self.guide()
        if guide is None:
            return
        wanted = [found] if found is not None else self._guides.found.get(self._guides.path(guide), [])
        if not wanted:
            self._session.trouble.emit("Nothing is found yet; look for rectangles in the guide picture first.")
            return
        rects = [f.rect.moved(guide.x, guide.y) for f in wanted]
        landings = [RectLanding(x=r.x, y=r.y, w=r.w, h=r.h) for r in rects] if self.under_raster else []
        self._make(
            f"Accept {len(rects)} found",
            lambda s: added(s, self._home().id, rects, self._lands_on(), [], [f.colour for f in wanted], landings),
        )
        self._guides.forget(guide, found)
