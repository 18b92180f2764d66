"""The pictures of feeds: what is sent of a surface, an output, a canvas or a source."""

from __future__ import annotations

from collections.abc import Callable

import cv2
import numpy as np

from ushering_adze.core.mapping.faces import surface_rects
from ushering_adze.core.onair.delta import seen_through_by_kind, visible
from ushering_adze.core.onair.stage import sources_of
from ushering_adze.core.picture.cards import lost_picture
from ushering_adze.core.picture.dealing import deal_of
from ushering_adze.core.picture.layers import sources_of_layer
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.plane.rect import Rect
from ushering_adze.core.show import Canvas, Feed, Input, Show
from ushering_adze.engine.canvas import CanvasPainter
from ushering_adze.engine.engine import Engine
from ushering_adze.engine.pictures import Sent, surface_picture
from ushering_adze.engine.renderer import layers_of


def key_of(pixels: Pixels) -> Pixels:
    """The alpha of a picture as grey."""
    alpha = cv2.extractChannel(pixels, 3)
    return np.asarray(cv2.merge([alpha, alpha, alpha, np.full_like(alpha, 255)]), np.uint8)


class FeedPicture:
    """The picture of one feed; asked for by the thread that sends it."""

    def __init__(self, engine: Engine, feed: Feed, wall: Callable[[str], Pixels | None] | None = None) -> None:
        self._engine, self._feed, self._wall = engine, feed, wall
        self._painter: CanvasPainter | None = None
        self._canvas: Canvas | None = None
        self._card: tuple[str, Pixels] | None = None
        self.withheld: str | None = None
        """Why a card is sent in place of the picture."""

    def __call__(self) -> Pixels | None:
        show = self._engine.stage.show
        self.withheld = self._protected(show)
        if self.withheld is not None:
            if self._card is None or self._card[0] != self.withheld:
                self._card = self.withheld, lost_picture(self._feed.name, self.withheld)
            return self._card[1]
        made = self._made(show)
        if made is None or self._feed.part != "key":
            return made
        return key_of(made)

    def _made(self, show: Show) -> Pixels | None:
        of = self._feed.of
        match self._feed.shows:
            case "output":
                found = self._engine.raster(of)
                return None if found is None else found.copy()
            case "surface":
                sent = {id: Sent(pixels, 0) for id, pixels in self._engine.rasters.items()}
                needed = {r.output for r in show.feeds_of(of)}
                return surface_picture(show, of, sent, 1 << 16) if needed <= sent.keys() else None
            case "source":
                frame = self._engine.picture_of(of)
                return None if frame is None else frame.pixels
            case "canvas":
                return self._of_canvas(show)
            case "wall":
                return None if self._wall is None else self._wall(of)

    def _of_canvas(self, show: Show) -> Pixels:
        canvas = show.canvas(self._feed.of)
        if self._painter is None or canvas is not self._canvas:
            clear = self._feed.alpha or self._feed.part != "picture"
            self._painter, self._canvas = CanvasPainter(canvas, clear=clear), canvas
        state = self._engine.state_now()
        here = layers_of(canvas, state)
        frames = self._engine.pictures_of(sources_of({(canvas.id, id): s for id, s in here}))
        self._painter.draw(here, frames, deal=deal_of(show, canvas.id))
        return self._painter.pixels

    def _protected(self, show: Show) -> str | None:
        """Why it may not be sent: a source in it is copy-protected."""
        protected = {s.id: s.name for s in show.sources if isinstance(s, Input) and s.protected}
        if not protected:
            return None
        for id in show.made_of(self._sources(show)):
            if id in protected:
                return f"{protected[id]} is copy-protected and does not go out; show another source"
        return None

    def _sources(self, show: Show) -> list[str]:
        """The sources that can be seen in it, and what truly stands in for each."""
        feed = self._feed
        if feed.shows == "wall":
            cells = next((w.cells for w in show.walls if w.id == feed.of), ())
            found = [c.of for c in cells if c.shows == "source" and c.of is not None]
            if any(c.shows in ("surface", "output", "preview", "feed") for c in cells):
                found += sources_of(self._engine.state_now())
            return found
        if feed.shows == "source":
            frame = self._engine.picture_of(feed.of)
            return [feed.of] if frame is None else [feed.of, frame.origin or feed.of]
        painted = self._engine.painted
        by_kind = seen_through_by_kind(show)
        seen: list[str] = []
        if feed.shows == "canvas":
            canvas = show.canvas(feed.of)
            spots = [(canvas, Rect(0, 0, canvas.width, canvas.height), "")]
        elif feed.shows == "surface":
            regions = show.feeds_of(feed.of)
            pairs = zip(regions, surface_rects(show, feed.of), strict=True)
            spots = [(canvas, rect, region.output) for region, (canvas, rect) in pairs]
        else:
            spots = [(c, Rect(r.x, r.y, r.w, r.h), feed.of) for c, r in show.landing_on.get(feed.of, [])]
        for canvas, rect, output in spots:
            of = painted.get(output)
            state = self._engine.state_now() if of is None else of.state
            for layer in visible(show, canvas, state, rect, by_kind):
                for id in sources_of_layer(layer):
                    seen += [id, *([of.origin[id]] if of is not None and id in of.origin else [])]
        return seen
