"""The alignment of a surface as a value of its own: what belongs to it, how it is locked, kept apart, and laid on
again.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

from pydantic import ValidationError

from ushering_adze.core.mapping.bend import checked_bend
from ushering_adze.core.mapping.wall_batches import with_batches
from ushering_adze.core.show import (
    Blend,
    Edges,
    Fault,
    LedWall,
    Model,
    Output,
    Projection,
    RectLanding,
    Show,
    ShowError,
)
from ushering_adze.core.show.alignment import STEPS, Alignment, Step
from ushering_adze.core.show.canvas import Landing
from ushering_adze.core.show.edits import with_output, with_region
from ushering_adze.core.show.led import Batch
from ushering_adze.core.show.light import White
from ushering_adze.core.show.output import BlackMatch, LightGrid, Mask
from ushering_adze.core.show.rigging import sentence_of

FORMAT = "ushering-adze alignment"


class RegionBend(Model):
    """How one region lands."""

    region: str
    landing: Landing
    edges: Edges | None = None


class OutputLight(Model):
    """What of an output's light belongs to its alignment."""

    output: str
    gamma: float
    response: tuple[float, ...] | None = None
    white: White | None = None
    uniformity: LightGrid | None = None
    masks: tuple[Mask, ...] = ()
    black: BlackMatch | None = None


class AlignData(Model):
    """The whole alignment of one surface."""

    format: str = FORMAT
    version: int = 1
    surface: str
    blend: Blend | None = None
    batches: tuple[Batch, ...] = ()
    regions: tuple[RegionBend, ...] = ()
    outputs: tuple[OutputLight, ...] = ()


def align_data(show: Show, surface: str) -> AlignData:
    """The alignment of a surface.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.

    Returns
    -------
    AlignData
    """
    regions = show.lit_by(surface)
    screen = show.surface(surface)

    def light(output: Output) -> OutputLight:
        p = output.picture
        return OutputLight(
            output=output.id,
            gamma=p.gamma,
            response=p.response,
            white=p.white,
            uniformity=p.uniformity,
            masks=output.masks,
            black=output.black,
        )

    return AlignData(
        surface=surface,
        blend=screen.blend if isinstance(screen, Projection) else None,
        batches=screen.batches if isinstance(screen, LedWall) else (),
        regions=tuple(RegionBend(region=r.id, landing=r.landing, edges=r.edges) for r in regions),
        outputs=tuple(light(show.output(id)) for id in dict.fromkeys(r.output for r in regions)),
    )


def with_align_data(show: Show, data: AlignData, surface: str | None = None) -> Show:
    """The show with an alignment laid on; regions and outputs that the show has not are refused.

    Parameters
    ----------
    show : Show
    data : AlignData
        The data.
    surface : str | None, optional
        Which surface, by its id.

    Returns
    -------
    Show
        With the edit.

    Raises
    ------
    ShowError
        With what does not fit.
    """
    id = surface or data.surface
    known = {r.id for r in show.lit_by(id)} if any(s.id == id for s in show.surfaces) else set()
    for bend in data.regions:
        if bend.region not in known:
            raise ShowError(
                [
                    Fault(
                        f"region {bend.region}",
                        f'it does not feed "{id}" in this show; load the alignment of this surface',
                    )
                ]
            )
        region = show.homes[bend.region][1].model_copy(update={"landing": bend.landing, "edges": bend.edges})
        show = with_region(show, checked_bend(region, show.output(region.output)))
    for light in data.outputs:
        if light.output not in {o.id for o in show.outputs}:
            raise ShowError(
                [Fault(f"output {light.output}", "this show has no such output; load the alignment of this surface")]
            )
        output = show.output(light.output)
        picture = output.picture.model_copy(
            update={
                "gamma": light.gamma,
                "response": light.response,
                "white": light.white,
                "uniformity": light.uniformity,
            }
        )
        show = with_output(
            show, output.model_copy(update={"picture": picture, "masks": light.masks, "black": light.black})
        )
    wall = next((s for s in show.surfaces if s.id == id), None)
    if isinstance(wall, LedWall):
        show = with_batches(show, wall, data.batches)
    return with_blend(show, id, data.blend) if data.blend is not None else show


def read_align_data(document: object) -> AlignData:
    """A decoded JSON document as an alignment.

    Raises
    ------
    ShowError
        If it is none.
    """
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise ShowError([Fault("", "this is not a saved alignment; choose a file that Align has written")])
    try:
        return AlignData.model_validate(document)
    except ValidationError as error:
        raise ShowError([Fault("alignment", sentence_of(error))]) from None


def align_document(show: Show, surface: str) -> dict[str, Any]:
    """The alignment of a surface as a JSON document.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.

    Returns
    -------
    dict[str, Any]
    """
    return align_data(show, surface).model_dump(mode="json")


def with_blend(show: Show, surface: str, blend: Blend) -> Show:
    """The show with another blend on a screen.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.
    blend : Blend
        How light is shared.

    Returns
    -------
    Show
        With the edit.
    """
    return show.model_copy(
        update={
            "surfaces": tuple(
                s.model_copy(update={"blend": blend}) if s.id == surface and isinstance(s, Projection) else s
                for s in show.surfaces
            )
        }
    )


def with_alignment(show: Show, alignment: Alignment) -> Show:
    """The show with what is remembered of aligning a surface.

    Parameters
    ----------
    show : Show
    alignment : Alignment
        What is remembered of aligning.

    Returns
    -------
    Show
        With the edit.
    """
    others = tuple(a for a in show.alignments if a.surface != alignment.surface)
    return show.model_copy(update={"alignments": (*others, alignment)})


def with_step(show: Show, surface: str, step: Step, done: bool) -> Show:
    """The show with a step of aligning marked as done, or not.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.
    step : Step
        One step of aligning.
    done : bool
        Which steps are done.

    Returns
    -------
    Show
        With the edit.
    """
    now = show.alignment(surface)
    steps = set(now.done) | {step} if done else set(now.done) - {step}
    return with_alignment(show, now.model_copy(update={"done": tuple(s for s in STEPS if s in steps)}))


def with_lock(show: Show, surface: str, locked: bool) -> Show:
    """The show with the alignment of a surface locked, or free.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.
    locked : bool
        Whether nothing may change it.

    Returns
    -------
    Show
        With the edit.
    """
    return with_alignment(show, show.alignment(surface).model_copy(update={"locked": locked}))


def locked_fault(before: Show, after: Show) -> Fault | None:
    """What an edit would change of a locked alignment, in a sentence; None if nothing.

    Parameters
    ----------
    before : Show
        As it was.
    after : Show
        As it is then.

    Returns
    -------
    Fault | None
    """
    for alignment in before.alignments:
        if not alignment.locked or not after.alignment(alignment.surface).locked:
            continue
        if not any(s.id == alignment.surface for s in after.surfaces):
            continue
        if align_data(before, alignment.surface) != align_data(after, alignment.surface):
            name = before.surface(alignment.surface).name
            return Fault(name, "its alignment is locked, and this would change it; unlock it in Align first")
    return None


def straightened(show: Show, surface: str) -> Show:
    """The show with a surface's landings as plain rectangles again, each filling its raster or as large as its region.

    Parameters
    ----------
    show : Show
    surface : str
        Which surface, by its id.

    Returns
    -------
    Show
        With the edit.
    """
    for region in show.lit_by(surface):
        output = show.output(region.output)
        w, h = min(region.w, output.timing.width), min(region.h, output.timing.height)
        show = with_region(show, region.model_copy(update={"landing": RectLanding(x=0, y=0, w=w, h=h), "edges": None}))
    return show


def outputs_of(show: Show, surfaces: Iterable[str]) -> list[str]:
    """The outputs that light these surfaces, once each.

    Parameters
    ----------
    show : Show
    surfaces : Iterable[str]
        Which surfaces, by their ids.

    Returns
    -------
    list[str]
    """
    return list(dict.fromkeys(r.output for s in surfaces for r in show.lit_by(s)))
