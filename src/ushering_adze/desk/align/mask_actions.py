"""Masks of the output on view: drawn on its raster, changed in the list."""

from __future__ import annotations

from collections.abc import Callable

from ushering_adze.core.show import Mask
from ushering_adze.core.show.edits import changed, with_output
from ushering_adze.desk.align.asking import Asking, number
from ushering_adze.desk.align.parts import Part
from ushering_adze.desk.tools import Named

SIDES = (("all but its inside", False), ("only its inside", True))


class MaskActions(Asking):
    """Acts on the mask that is selected, or else on the newest."""

    def parts(self) -> list[Part]:
        """The masks as lines of a list."""
        output = self.raster.output
        return (
            []
            if output is None
            else [
                Part(
                    m.name,
                    f"{len(m.points)} corners · {'lights its inside' if m.keep else 'dark inside'}"
                    + (f" · soft {m.soft:g} px" if m.soft else ""),
                    m.on,
                )
                for m in output.masks
            ]
        )

    def chosen(self) -> int:
        """The number of the mask that is acted on; −1 if there is none."""
        output = self.raster.output
        count = len(output.masks) if output is not None else 0
        return self.raster.mask_chosen if 0 <= self.raster.mask_chosen < count else count - 1

    def change(self, make: Callable[[Mask], Mask] | None, n: int | None = None) -> None:
        """Change one mask, or remove it."""
        output, k = self._output(), self.chosen() if n is None else n
        if not 0 <= k < len(output.masks):
            self._session.trouble.emit("There is no mask on this output yet; draw one first.")
            return
        new = () if make is None else (make(output.masks[k]),)
        masks = (*output.masks[:k], *new, *output.masks[k + 1 :])
        self._session.try_edit(
            f"{'Remove' if make is None else 'Change'} {output.masks[k].name}",
            lambda s: with_output(s, output.model_copy(update={"masks": masks})),
        )

    def ask(self) -> None:
        """Name, soft edge and side of a mask."""
        output, k = self._output(), self.chosen()
        if k < 0:
            self._session.trouble.emit("There is no mask on this output yet; draw one first.")
            return
        mask = output.masks[k]

        def act(name: object, soft: object, keep: object) -> None:
            width, given = number(soft, "the soft edge", 0, 2000), str(name).strip()
            if not given:
                raise ValueError("a mask without a name cannot be told from others; type one")
            self.change(lambda m: changed(m, name=given, soft=width, keep=bool(keep)), k)

        sides = SIDES if not mask.keep else SIDES[::-1]
        self._ask(
            "Mask",
            [("Name", mask.name), ("Soft edge, px", f"{mask.soft:g}"), ("Light goes to", sides)],
            "Set it",
            act,
            "The soft edge lies inside the dark part; corners are dragged on the raster.",
        )


def mask_actions(a: MaskActions) -> list[Named]:
    """Every action on masks by name."""
    return [
        Named("mask-draw", "Mask", "Draw a mask", a.raster.begin_mask, "M"),
        Named("mask-edit", "Mask", "Name, soft edge and side…", lambda: a.tried(a.ask)),
        Named(
            "mask-off",
            "Mask",
            "Off, or on",
            lambda: a.tried(lambda: a.change(lambda m: m.model_copy(update={"on": not m.on}))),
        ),
        Named("mask-remove", "Mask", "Remove the mask", lambda: a.tried(lambda: a.change(None))),
    ]
