"""Batches of an LED wall: cabinets that look alike are put together, and matched to the others by eye or by a meter."""

from __future__ import annotations

from ushering_adze.core.light.batch_levels import Reading, matched
from ushering_adze.core.mapping.wall_batches import with_batch, with_batches, with_changed_batch, with_others
from ushering_adze.core.show import Batch, Fault, LedWall, ShowError
from ushering_adze.desk.align.asking import Asking, number, numbers, white_of
from ushering_adze.desk.align.parts import Part
from ushering_adze.desk.tools import Named
from ushering_adze.io.standins.wall import StandinWall


class BatchActions(Asking):
    """Acts on the batch that is selected in the list, and on the cabinets that are selected on the raster."""

    at = -1

    def choose(self, n: int) -> None:
        """Choose one of the batches."""
        self.at = n

    def wall(self) -> LedWall:
        """The wall being aligned.  Raises ShowError if it is none."""
        id = self._surface()
        surface = self._session.show.surface(id) if id is not None else None
        if not isinstance(surface, LedWall):
            raise ShowError([Fault("", "only LED walls have batches of cabinets; choose one above")])
        return surface

    def parts(self) -> list[Part]:
        """The batches as lines of a list."""
        return [Part(b.name, self._told(b), b.on) for b in self.wall().batches]

    @staticmethod
    def _told(batch: Batch) -> str:
        gain = " ".join(f"{100 * g:.3g}" for g in batch.gain)
        words = [f"{len(batch.cells)} cabinets", "full light" if batch.gain == (1.0, 1.0, 1.0) else f"light {gain} %"]
        if batch.gamma is not None:
            words.append(f"gamma {batch.gamma:.2f}")
        if any(batch.offset):
            words.append("offset")
        return " · ".join([*words, *(["white"] if batch.white is not None else [])])

    def chosen(self) -> Batch:
        """The batch acted on: that selected in the list, or else the newest.  Raises ShowError if there is none."""
        batches = self.wall().batches
        if not batches:
            raise ShowError(
                [Fault(self.wall().name, "it has no batches yet; select cabinets on the raster and make one of them")]
            )
        return batches[self.at] if 0 <= self.at < len(batches) else batches[-1]

    def make(self) -> None:
        """Put the selected cabinets together as a batch."""
        wall = self.wall()
        if not self.raster.cells:
            raise ShowError(
                [Fault(wall.name, "no cabinet is selected; click cabinets on the raster, or draw a frame around them")]
            )
        taken = {b.name for b in wall.batches}
        n = 1
        while f"Batch {n}" in taken:
            n += 1

        def act(name: object) -> None:
            given = str(name).strip() or f"Batch {n}"
            self._session.edit(
                f"Batch {given} of {wall.name}", with_batch(self._session.show, self.wall(), self.raster.cells, given)
            )
            self.raster.choose_cells(frozenset())
            self.at = len(self.wall().batches) - 1

        count = len(self.raster.cells)
        self._ask(
            "New batch",
            [("Name", f"Batch {n}")],
            "Make it",
            act,
            f"{count} cabinet{'s' if count > 1 else ''} of {wall.name} that look alike; they leave the batch they "
            "were in.",
        )

    def ask(self) -> None:
        """Gains, offsets, gamma and white of one batch."""
        batch = self.chosen()
        w = batch.white

        def act(name: object, gain: object, offset: object, gamma: object, white: object) -> None:
            light = tuple(v / 100 for v in numbers(gain, 3, "the light of red, green and blue", 0, 200))
            added = tuple(v / 100 for v in numbers(offset, 3, "the offset", -25, 25))
            bent = number(gamma, "gamma", 0.5, 5) if str(gamma).strip() else None
            self._edit(
                batch.name,
                f"Light of {batch.name}",
                name=str(name).strip() or batch.name,
                gain=light,
                offset=added,
                gamma=bent,
                white=white_of(white),
            )

        self._ask(
            "Batch",
            [
                ("Name", batch.name),
                ("Light of red, green, blue, %", " ".join(f"{100 * g:.4g}" for g in batch.gain)),
                ("Offset of each, % of white", " ".join(f"{100 * o:.4g}" for o in batch.offset)),
                ("Gamma of these panels", f"{batch.gamma:g}" if batch.gamma else ""),
                ("White, kelvin or x y", f"{w.x:g} {w.y:g}" if w else ""),
            ],
            "Set it",
            act,
            "What makes these cabinets look like the others. An empty gamma is the output's; an empty white leaves it.",
        )

    def _edit(self, batch: str, label: str, **fields: object) -> None:
        self._session.edit(label, with_changed_batch(self._session.show, self.wall(), batch, **fields))

    def switch(self, n: int, on: bool) -> None:
        """A batch's correction on, or off."""
        batch = self.wall().batches[n]
        self._edit(batch.name, f"{batch.name} {'on' if on else 'off'}", on=on)

    def remove(self) -> None:
        """Take a batch away; its cabinets stay."""
        wall, batch = self.wall(), self.chosen()
        self._session.edit(
            f"Remove {batch.name}", with_batches(self._session.show, wall, [b for b in wall.batches if b is not batch])
        )

    def match(self) -> None:
        """Match all batches by what a meter reads on each."""
        wall = self.wall()
        if not wall.batches:
            raise ShowError(
                [Fault(wall.name, "it has no batches yet; select cabinets that look alike and make one of them")]
            )
        whole = with_others(self._session.show, wall).surface(wall.id)
        assert isinstance(whole, LedWall)
        eye, fields = StandinWall(self._session.show, wall.id), []
        for batch in whole.batches:
            cells = [(c.column, c.row) for c in batch.cells]
            white, grey = eye.read(cells), eye.read(cells, 128)
            fields.append((batch.name, f"{white.luminance:.1f} {white.x:.4f} {white.y:.4f} {grey.luminance:.2f}"))

        def act(wanted: object, *typed: object) -> None:
            readings, greys = [], []
            for batch, text in zip(whole.batches, typed, strict=True):
                parts = numbers(text, 4 if len(str(text).split()) > 3 else 3, f"the reading of {batch.name}", 0, 1e6)
                readings.append(Reading(*parts[:3]))
                greys.append(parts[3] if len(parts) > 3 else None)
            white = white_of(wanted)
            batches = matched(whole.batches, readings, greys, (white.x, white.y) if white is not None else None)
            self._session.edit(
                f"Match the batches of {wall.name}", with_batches(self._session.show, self.wall(), batches)
            )

        self._ask(
            "Match batches by a meter",
            [("White wanted, kelvin or x y", ""), *fields],
            "Match them",
            act,
            "For each batch, with the matching off: cd/m², x and y on white, and cd/m² on a grey of code 128 if "
            "gammas differ. "
            "The numbers here are what the stand-in wall gives. An empty white is that of most cabinets. All become as "
            "bright as all of them can.",
        )


def batch_actions(a: BatchActions) -> list[Named]:
    """Every action on batches by name."""
    return [
        Named("batch-new", "Batches", "Batch of the selected cabinets…", lambda: a.tried(a.make), "G"),
        Named("batch-edit", "Batches", "Light, gamma and white…", lambda: a.tried(a.ask)),
        Named("batch-match", "Batches", "Match by a meter…", lambda: a.tried(a.match)),
        Named(
            "batch-off",
            "Batches",
            "Off, or on",
            lambda: a.tried(lambda: a.switch(a.wall().batches.index(a.chosen()), not a.chosen().on)),
        ),
        Named("batch-remove", "Batches", "Remove the batch", lambda: a.tried(a.remove)),
    ]
