"""Motion: settled layers plus the tracks that are still under way.

Each kind of setting of each layer has at most one track.  A recall starts new tracks for what it touches, from wherever
those settings are at that moment; what it does not touch goes on undisturbed.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any, NamedTuple

from ushering_adze.core.kinds import BY_NAME, KINDS
from ushering_adze.core.kinds.kind import DISSOLVE, Way
from ushering_adze.core.kinds.on_its_way import Shown, by_share
from ushering_adze.core.onair.easing import ease
from ushering_adze.core.picture.layers import Key, LayerState, State, between, opening_state, sources_of_layer, the_one
from ushering_adze.core.show import Canvas, Part, Preset, Show, with_held

TrackKey = tuple[str, str, str]
"""Canvas, layer, and name of the kind of setting."""


class Track(NamedTuple):
    """One setting on its way: from, to, start and length in seconds, curve; led by hand if ``by_hand``; ``way`` is of
    pictures.
    """

    start_value: Any
    end_value: Any
    start: float
    seconds: float
    easing: str
    by_hand: bool = False
    way: Way = DISSOLVE

    def progress(self, now: float, hand: float, span: float) -> float:
        """Progress of the value, 0 to 1, at time ``now`` or hand position ``hand`` of a fade ``span`` seconds long."""
        passed = hand * span if self.by_hand else now - self.start
        if self.seconds <= 0:
            return 1.0 if passed > 0 or (passed >= 0 and not self.by_hand) else 0.0
        x = passed / self.seconds
        if self.by_hand:
            return min(1.0, max(0.0, x))
        return ease(self.easing, x) if 0 < x < 1 else float(x >= 1)


@dataclass(frozen=True)
class Motion:
    """Where every layer is heading, and the tracks by which it gets there."""

    target: Mapping[Key, LayerState]
    tracks: Mapping[TrackKey, Track]
    hand: float = 0.0
    span: float = 0.0

    def at(self, now: float) -> dict[Key, LayerState]:
        """The state at a moment, in seconds of the same clock as the recalls."""
        state = dict(self.target)
        for (canvas, layer, kind), track in self.tracks.items():
            t = track.progress(now, self.hand, self.span)
            if t < 1:
                key = (canvas, layer)
                state[key] = state[key]._replace(
                    **{kind: between(kind, track.start_value, track.end_value, t, track.way)}
                )
        return state

    def moving(self, now: float) -> bool:
        """Whether anything is still under way."""
        return any(track.progress(now, self.hand, self.span) < 1 for track in self.tracks.values())

    def progress(self, now: float) -> float:
        """Share of the time of the longest track that has passed, 0 to 1; 1 when all is settled."""
        if any(track.by_hand for track in self.tracks.values()):
            return self.hand
        left = [t for t in self.tracks.values() if t.seconds > 0 and now - t.start < t.seconds]
        return min((max(0.0, now - t.start) / t.seconds for t in left), default=1.0)

    def settled(self, now: float) -> Motion:
        """The same motion without the tracks that have arrived."""
        tracks = {k: t for k, t in self.tracks.items() if t.progress(now, self.hand, self.span) < 1}
        return self if len(tracks) == len(self.tracks) else replace(self, tracks=tracks)

    @property
    def led_by_hand(self) -> bool:
        """Whether a hand fade is in progress."""
        return any(track.by_hand for track in self.tracks.values())

    def with_hand(self, position: float) -> Motion:
        """The same motion with the hand fade at ``position``, 0 to 1."""
        return replace(self, hand=min(1.0, max(0.0, position)))


def at_rest(state: State) -> Motion:
    """A motion that stays where it is."""
    return Motion(dict(state), {})


TRAVELLING = frozenset({"place", "crop", "turn", "border", "shape"})
"""What of a layer travels where its transition is *move*, whether it snaps or not."""


def opening_motion(show: Show) -> Motion:
    """The motion a show starts with: its layers as declared, then its opening preset, all settled."""
    motion = at_rest(opening_state(show))
    preset = show.preset(show.opening) if show.opening is not None else None
    return at_rest(recall(show, motion, preset, 0.0, cut=True).target) if preset else motion


class Touching(NamedTuple):
    """One kind of setting that a part touches: its place in a `LayerState`, the key of its track, whether it fades, its
    own seconds and curve if it has any, how long it waits, and its way if it is a picture with one of its own.
    """

    n: int
    key: TrackKey
    fades: bool
    seconds: float | None
    delay: float
    easing: str | None
    way: Way | None


class Wish(NamedTuple):
    """A preset's part in numbers, for a canvas of one size: the layer it touches, and the values of what it touches
    when all has arrived.

    ``touched`` has each kind of setting, ``fading`` those that take time; ``whole`` says that every kind is touched;
    ``way`` is that of its picture, if it has one of its own.
    """

    key: Key
    ends: LayerState
    touched: tuple[Touching, ...]
    fading: tuple[Touching, ...]
    whole: bool
    way: Way | None

    def over(self, state: LayerState) -> LayerState:
        """A state with what is touched in place of its own."""
        values = list(state)
        for touching in self.touched:
            values[touching.n] = self.ends[touching.n]
        return LayerState._make(values)  # its fields stand in the order of KINDS


@lru_cache(65536)
def _touched(touched: tuple[Touching, ...]) -> tuple[tuple[Touching, ...], tuple[Touching, ...], bool, Way | None]:
    """What a wish holds beside its layer and values; one for all parts of a layer that touch it alike."""
    return (
        touched,
        tuple(entry for entry in touched if entry.fades or entry.delay > 0),
        len(touched) == len(KINDS),
        next((entry.way for entry in touched if entry.way is not None), None),
    )


def wish_of(part: Part, canvas: Canvas) -> Wish:
    """A part in numbers; worked out once for each size of its canvas.

    Parameters
    ----------
    part : Part
        Which part.
    canvas : Canvas
        Which canvas.

    Returns
    -------
    Wish
    """
    size = canvas.width, canvas.height
    found: Wish | None = part.known.get(size)
    if found is None:
        touched = tuple(
            Touching(
                n,
                (part.canvas, part.layer, kind),
                held.how == "faded",
                held.seconds,
                held.delay,
                held.easing,
                None if held.way is None or kind != "picture" else held.way.on_air,
            )
            for n, kind, held in part.held
        )
        held = {kind: held.to for _, kind, held in part.held}
        ends = LayerState._make(
            the_one(n, k.value(held[k.name], *size)) if k.name in held else None for n, k in enumerate(KINDS)
        )
        found = part.known[size] = Wish((part.canvas, part.layer), the_one(-1, ends), *_touched(touched))
    return found


def prepare(show: Show) -> None:
    """Work out every preset of a show ahead, so that no recall has to in a frame's time."""
    for preset in show.presets:
        wishes_of(show, preset)


@lru_cache(65536)
def _clearing(canvas: str, layer: str) -> Part:
    return with_held(Part(canvas=canvas, layer=layer), "opacity", 0.0, "faded")


def parts_of(show: Show, preset: Preset) -> tuple[Part, ...]:
    """The parts a preset stores, and one that fades to nothing for every other layer of the canvases it clears.

    Parameters
    ----------
    show : Show
    preset : Preset
        Which preset.

    Returns
    -------
    tuple[Part, ...]
    """
    if not preset.clears:
        return preset.parts
    named = {(part.canvas, part.layer) for part in preset.parts}
    return (
        *preset.parts,
        *(
            _clearing(canvas.id, layer.id)
            for canvas in show.canvases
            if canvas.id in preset.clears
            for layer in canvas.layers
            if (canvas.id, layer.id) not in named
        ),
    )


def wishes_of(show: Show, preset: Preset) -> tuple[Wish, ...]:
    """The parts of a preset in numbers; worked out once for the canvases and layers of a show.

    Parameters
    ----------
    show : Show
    preset : Preset
        Which preset.

    Returns
    -------
    tuple[Wish, ...]
    """
    found: tuple[Wish, ...] | None = preset.known.get(show.ground)
    if found is None:
        found = tuple(wish_of(part, show.canvas(part.canvas)) for part in parts_of(show, preset))
        preset.known.clear()  # a preset lives through many edits of its show
        preset.known[show.ground] = found
    return found


def recall(
    show: Show,
    motion: Motion,
    preset: Preset,
    now: float,
    *,
    cut: bool = False,
    seconds: float | None = None,
    by_hand: bool = False,
) -> Motion:
    """Send a motion towards a preset.

    Parameters
    ----------
    show : Show
        The show the preset belongs to.
    motion : Motion
        Whatever is under way.
    preset : Preset
        What is wanted.
    now : float
        Time in seconds.
    cut : bool
        All touched settings arrive at once.
    seconds : float, optional
        Length of the fade; the preset's own times, where it has several, keep their proportion to it.
    by_hand : bool
        The faded settings follow `Motion.with_hand` instead of the clock.

    Returns
    -------
    Motion
        Touched settings start from where they are at ``now``.  A hand fade still in progress lets go: what it was
        leading and this recall does not touch goes on to its end over the time of this recall.
    """
    stretch = 1.0 if seconds is None or preset.seconds == 0 else seconds / preset.seconds
    usual = preset.seconds if seconds is None else seconds
    usual_way = DISSOLVE if preset.way is None else preset.way.on_air
    current = motion.at(now)
    target: dict[Key, LayerState] = dict(motion.target)
    tracks: dict[TrackKey, Track] = {}
    for track_key, track in motion.tracks.items():
        if track.progress(now, motion.hand, motion.span) >= 1:
            continue
        if track.by_hand:
            canvas_id, layer_id, kind = track_key
            begin = BY_NAME[kind].rest(getattr(current[canvas_id, layer_id], kind), now)
            track = Track(begin, track.end_value, now, 0.0 if cut else usual, preset.easing, way=track.way)
        tracks[track_key] = track
    span = 0.0
    moving = {(canvas, layer) for canvas, layer, _ in tracks}
    coming_and_going = show.coming_and_going
    for wish in wishes_of(show, preset):
        starts, ends = current[wish.key], wish.ends
        target[wish.key] = ends if wish.whole else wish.over(target[wish.key])
        if wish.key in moving:
            for touching in wish.touched:
                tracks.pop(touching.key, None)
        if starts is ends or starts == ends:
            continue
        moving.add(wish.key)
        travels = not cut and (wish.way or usual_way)[0] == "move"
        for touching in wish.touched if by_hand or travels else () if cut else wish.fading:
            n = touching[0]
            if starts[n] is ends[n]:
                continue
            _, track_key, fades, own, delay, easing, way = touching
            fades = fades or (travels and KINDS[n].name in TRAVELLING)
            length = 0.0 if not fades or cut else usual if own is None else own * stretch
            wait = 0.0 if by_hand else delay * stretch
            if starts.opacity <= 0 and not KINDS[n].fades_unseen:
                continue
            if (length > 0 or wait > 0 or by_hand) and starts[n] != ends[n]:
                tracks[track_key] = Track(
                    KINDS[n].rest(starts[n], now),
                    ends[n],
                    now + wait,
                    length,
                    easing or preset.easing,
                    by_hand,
                    way or usual_way,
                )
                span = max(span, length)
        own_ways = coming_and_going.get(wish.key)
        if own_ways is not None:
            if by_hand or cut:
                own_ways = (None, None)
            seconds = 0.0 if cut else usual
            _by_own_ways(wish.key, own_ways, starts, target[wish.key], tracks, now, seconds, preset.easing)
    return Motion(target, tracks, 0.0, span or (1.0 if by_hand else 0.0))


def _by_own_ways(
    key: Key,
    ways: tuple[Way | None, Way | None],
    starts: LayerState,
    ends: LayerState,
    tracks: dict[TrackKey, Track],
    now: float,
    seconds: float,
    easing: str,
) -> None:
    """Have a layer that appears, or disappears, do so in its own way: its picture comes from nothing, or goes to
    nothing, and its opacity is whole meanwhile.
    """
    was, will = (s.opacity > 0 and s.picture != Shown(None, by_share(s.picture)[0].fit) for s in (starts, ends))
    way = ways[0] if will and not was else ways[1] if was and not will else None
    opacity, picture = (*key, "opacity"), (*key, "picture")
    before = tracks.get(picture)
    if before is not None and before.end_value != ends.picture:  # it was going, and is wanted again, or not at all
        tracks.pop(picture)
        if will and seconds > 0:
            tracks[picture] = before._replace(
                start_value=BY_NAME["picture"].rest(starts.picture, now),
                end_value=ends.picture,
                start=now,
                seconds=seconds,
            )
    if way is None:
        return
    new = [t for t in (tracks.get(opacity), tracks.get(picture)) if t is not None and t.start >= now]
    led = new[0] if new else None
    start, length = (led.start, led.seconds) if led is not None and led.seconds > 0 else (now, seconds)
    if length <= 0:
        return
    shown = ends.picture if will else starts.picture
    nothing = Shown(None, by_share(shown)[0].fit)
    begin, end = (nothing, shown) if will else (BY_NAME["picture"].rest(shown, now), nothing)
    # What goes is gone a moment before its picture is what the layer holds from then on.
    lasts = length if will else length + 1e-6
    tracks[picture] = Track(begin, end, start, lasts, led.easing if led is not None else easing, way=way)
    tracks.pop(opacity, None)
    if starts.opacity != ends.opacity and (start > now or not will):
        tracks[opacity] = Track(starts.opacity, ends.opacity, start if will else start + length, 0.0, easing)


def carried_over(show: Show, motion: Motion, now: float) -> Motion:
    """The motion fitted to an edited show: known layers keep what they show, new ones start as declared, lost ones go.

    Parameters
    ----------
    show : Show
    motion : Motion
        Whatever is under way.
    now : float
        Seconds of the clock that is meant.

    Returns
    -------
    Motion
    """
    fresh = opening_state(show)
    known = {source.id for source in show.sources}

    def keep(state: LayerState) -> bool:
        return known.issuperset(sources_of_layer(state))

    current = motion.at(now)
    target = {
        key: motion.target[key] if key in motion.target and keep(motion.target[key]) else value
        for key, value in fresh.items()
    }
    tracks = {
        k: t
        for k, t in motion.tracks.items()
        if (k[0], k[1]) in fresh and keep(target[k[0], k[1]]) and keep(current[k[0], k[1]])
    }
    return Motion(target, tracks, motion.hand, motion.span)
