"""Layers arranged together: to the same size or place, aligned, spread, swapped, mirrored, over a surface."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from ushering_adze.core.kinds.on_its_way import by_share
from ushering_adze.core.onair.placing import face_at
from ushering_adze.core.plane.arrange import Axis, Edge, aligned, even_gaps, swapped
from ushering_adze.core.plane.boxes import Box, about, box_of_rect, middle_of, rect_of_box, same_shape, whole
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Place
from ushering_adze.desk.build.building import Building


class Arranging:
    """What is done to the boxes of the selected layers; the one selected last is the model for the others."""

    def __init__(self, building: Building) -> None:
        self._building = building

    def _boxes(self, least: int = 1) -> dict[str, Box]:
        """The boxes of the selected layers that are not locked, in the order in which they were selected; none, with a
        sentence, if there are too few.
        """
        states = self._building.states()
        found = {
            id: states[id].place
            for id in self._building.selected
            if id in states and (y := self._building.layer(id)) is not None and not y.locked
        }
        if len(found) < least:
            many = "a layer that is" if least == 1 else f"{least} layers that are"
            self._building.session.trouble.emit(f"Select {many} not locked first.")
            return {}
        return found

    def _put(self, words: str, boxes: Mapping[str, Box]) -> None:
        self._building.put(words, {id: {"place": Place.of_box(box)} for id, box in boxes.items()})

    def _put_whole(self, words: str, boxes: Mapping[str, Box], made: Sequence[Rect]) -> None:
        self._put(words, {id: box_of_rect(rect) for id, rect in zip(boxes, made, strict=True)})

    def same_size(self) -> None:
        """All as large as the one selected last, about their middles."""
        boxes = self._boxes(2)
        if boxes:
            *_, w, h = list(boxes.values())[-1]
            self._put("Same size", {id: about(middle_of(b), w, h) for id, b in boxes.items()})

    def same_place(self) -> None:
        """All with their middle on that of the one selected last."""
        boxes = self._boxes(2)
        if boxes:
            middle = middle_of(list(boxes.values())[-1])
            self._put("Same place", {id: about(middle, b[2], b[3]) for id, b in boxes.items()})

    def _pictures(self) -> dict[str, tuple[float, float]]:
        """The size of what is left of the picture of each selected layer that has one."""
        states, found = self._building.states(), {}
        for id in self._boxes():
            source = by_share(states[id].picture)[0].source
            if source is not None:
                left, top, right, bottom = states[id].crop
                width, height = self._building.size_of(source)
                found[id] = width * (1 - left - right), height * (1 - top - bottom)
        return found

    def as_picture(self) -> None:
        """Each in the shape of its picture, within its box."""
        states, sizes = self._building.states(), self._pictures()
        self._put("Shape of its picture", {id: same_shape(states[id].place, *size) for id, size in sizes.items()})

    def one_to_one(self) -> None:
        """Each so large that a pixel of its picture is one of the canvas, about its middle."""
        states, sizes = self._building.states(), self._pictures()
        self._put("1 : 1", {id: whole(about(middle_of(states[id].place), *size)) for id, size in sizes.items()})

    def align(self, edge: Edge) -> None:
        """To one side of them all, or their middle; a single one to the canvas."""
        boxes, canvas = self._boxes(), self._building.canvas
        if boxes and canvas is not None:
            rects = [rect_of_box(b) for b in boxes.values()]
            to = Rect(0, 0, canvas.width, canvas.height) if len(rects) == 1 else None
            self._put_whole("Align", boxes, aligned(rects, edge, to))

    def even(self, axis: Axis) -> None:
        """With even gaps between them."""
        boxes = self._boxes(3)
        if boxes:
            self._put_whole("Same gaps", boxes, even_gaps([rect_of_box(b) for b in boxes.values()], axis))

    def swap(self) -> None:
        """Each in the box of the next one."""
        boxes = self._boxes(2)
        if boxes:
            self._put_whole("Swap", boxes, swapped([rect_of_box(b) for b in boxes.values()]))

    def mirror(self) -> None:
        """To the other side of the canvas."""
        boxes, canvas = self._boxes(), self._building.canvas
        if boxes and canvas is not None:
            self._put("Mirror", {id: (canvas.width - b[0] - b[2], b[1], b[2], b[3]) for id, b in boxes.items()})

    def fill_surface(self) -> None:
        """Over all of the surface in whose picture its middle lies, or of the one that is selected."""
        building, faces = self._building, self._building.faces()
        chosen = next((f for f in faces if f.surface.id == building.session.surface), None)
        boxes = self._boxes()
        found = {id: face_at(faces, middle_of(b)) or chosen for id, b in boxes.items()}
        made = {id: box_of_rect(face.rect) for id, face in found.items() if face is not None}
        if made:
            self._put("Fill the surface", made)
        elif boxes:
            building.session.trouble.emit("No surface lies there; select one in the room first.")
