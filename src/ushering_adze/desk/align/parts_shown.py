"""Which list is under the steps: the masks of a projector's output, or the batches of an LED wall."""

from __future__ import annotations

from ushering_adze.desk.align.batch_actions import BatchActions
from ushering_adze.desk.align.mask_actions import MaskActions
from ushering_adze.desk.align.parts import PartsList


class MasksOrBatches(PartsList):
    """The list of masks, or of batches, with what is done to them."""

    def __init__(self, masks: MaskActions, batches: BatchActions) -> None:
        super().__init__()
        self._masks, self._batches, self._wall = masks, batches, False
        self._raster = masks.raster
        self.picked.connect(self._pick)
        self.ticked.connect(self._tick)
        self.opened.connect(self._open)

    def refill(self, wall: bool) -> None:
        """Show what is there now; ``wall`` for batches."""
        self._wall = wall
        m, b = self._masks, self._batches
        if wall:
            self.offer(
                {
                    "New…": lambda: b.tried(b.make),
                    "Light…": lambda: b.tried(b.ask),
                    "By meter…": lambda: b.tried(b.match),
                    "Remove": lambda: b.tried(b.remove),
                }
            )
            self.fill(
                "Batches of cabinets", b.parts(), "none: select cabinets that look alike and make a batch of them", b.at
            )
            return
        output = self._raster.output
        self.offer(
            {
                "Draw": self._raster.begin_mask,
                "Edit…": lambda: m.tried(m.ask),
                "Remove": lambda: m.tried(lambda: m.change(None)),
            }
        )
        self.fill(
            f"Masks on {output.name}" if output is not None else "Masks",
            m.parts(),
            "none: a mask keeps light off people and drapes",
            self._raster.mask_chosen,
        )

    def _pick(self, n: int) -> None:
        if not self._wall:
            self._raster.choose_mask(n)
            return
        self._batches.choose(n)
        batches = self._batches.wall().batches
        if 0 <= n < len(batches):
            self._raster.choose_cells(frozenset((c.column, c.row) for c in batches[n].cells))

    def _tick(self, n: int, on: bool) -> None:
        if self._wall:
            self._batches.tried(lambda: self._batches.switch(n, on))
        else:
            self._masks.change(lambda m: m.model_copy(update={"on": on}), n)

    def _open(self, n: int) -> None:
        self._pick(n)
        asked = self._batches if self._wall else self._masks
        asked.tried(asked.ask)
