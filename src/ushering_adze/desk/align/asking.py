"""What the questions of Align have in common: whom they are about, and what was typed into them."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from pydantic import ValidationError
from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from ushering_adze.core.document.wording import shortened
from ushering_adze.core.light.white import kelvin_to_xy
from ushering_adze.core.show import Fault, Output, Region, ShowError, White
from ushering_adze.core.show.edits import M, changed
from ushering_adze.core.show.rigging import sentence_of, told
from ushering_adze.desk.align.raster import AlignRaster
from ushering_adze.desk.drafting.prompt import Prompt, ask
from ushering_adze.desk.session import Session


def number(text: object, what: str, low: float, high: float) -> float:
    """A number typed into a field.  Raises ValueError with a sentence."""
    try:
        value = float(str(text).replace(",", ".").strip())
    except ValueError:
        raise ValueError(f"{what} is {shortened(str(text))}; type a number") from None
    if not low <= value <= high:
        raise ValueError(f"{what} is {value:g}; it goes from {low:g} to {high:g}")
    return value


def numbers(text: object, count: int, what: str, low: float, high: float) -> tuple[float, ...]:
    """Numbers typed into one field with spaces between.  Raises ValueError with a sentence."""
    parts = str(text).replace(";", " ").split()
    if len(parts) != count:
        raise ValueError(f"{what} is {shortened(str(text))}; type {count} numbers with spaces between")
    return tuple(number(p, what, low, high) for p in parts)


def checked(value: M, **fields: object) -> M:
    """The same value with other fields.  Raises ValueError with the first complaint in one sentence."""
    try:
        return changed(value, **fields)
    except ValidationError as error:
        raise ValueError(sentence_of(error)) from None


def white_of(text: object) -> White | None:
    """A white typed as kelvin or as x and y; None for nothing.  Raises ValueError with a sentence."""
    parts = str(text).split()
    if not parts:
        return None
    x, y = (
        kelvin_to_xy(number(parts[0], "the white", 1667, 25000))
        if len(parts) == 1
        else numbers(text, 2, "the white", 0.06, 0.74)
    )
    return White(x=round(x, 5), y=round(y, 5))


class Asking(QObject):
    """Actions that are about the surface being aligned and the region whose raster is on view, and may ask
    for numbers.
    """

    def __init__(
        self, session: Session, raster: AlignRaster, surface: Callable[[], str | None], owner: QWidget
    ) -> None:
        super().__init__(owner)
        self._session, self.raster, self._surface, self._owner = session, raster, surface, owner
        self.prompt: Prompt | None = None

    def _ask(self, title: str, fields: list[Any], verb: str, act: Callable[..., object], hint: str = "") -> None:
        self.prompt = ask(self._owner.window(), title, fields, verb, act, hint)

    def _region(self) -> Region:
        region = self.raster.region
        if region is None:
            raise ShowError([Fault("", "nothing feeds this surface yet; make its regions in Map first")])
        return region

    def _output(self) -> Output:
        return self._session.show.output(self._region().output)

    def tried(self, act: Callable[[], object]) -> None:
        """Do something; say why if it cannot be done."""
        try:
            act()
        except ValueError as error:
            self._session.trouble.emit(told(error))
