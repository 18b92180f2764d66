"""The engine: a render loop at the show's rate, in a thread of its own, that takes commands and hands over pictures."""

from __future__ import annotations

import sys
import threading
import time
from collections import deque
from collections.abc import Callable, Iterable, Mapping, Set
from dataclasses import replace

from ushering_adze.core.kinds.on_its_way import shares_in
from ushering_adze.core.onair.actions import (
    Action,
    Black,
    Hand,
    Hold,
    LayOver,
    StagePreset,
    Unstage,
    apply,
    begun,
    fault_of,
    run_lists,
)
from ushering_adze.core.onair.chasing import Code
from ushering_adze.core.onair.cues import Seen
from ushering_adze.core.onair.delta import SeenThrough
from ushering_adze.core.onair.motion import prepare
from ushering_adze.core.onair.stage import ALL, Stage, sources_of
from ushering_adze.core.onair.view import View
from ushering_adze.core.picture.frame import Frame
from ushering_adze.core.picture.layers import State
from ushering_adze.core.plane.pixels import Pixels, dark
from ushering_adze.core.show import Show
from ushering_adze.core.signal.timecode import CodeRate
from ushering_adze.engine.commands import Commands
from ushering_adze.engine.compiling import Compiling
from ushering_adze.engine.memory import give_back, give_back_later, keep_freed_memory
from ushering_adze.engine.overlay import Overlay
from ushering_adze.engine.overlaying import Overlaying
from ushering_adze.engine.overriding import Overriding, sources_apart
from ushering_adze.engine.pace import Pace
from ushering_adze.engine.pictures import PreviewPictures, Sent
from ushering_adze.engine.pool import SourcePool
from ushering_adze.engine.renderer import Painted, Prepared, Renderer
from ushering_adze.engine.report import Report
from ushering_adze.engine.reporting import Reporting, Told
from ushering_adze.engine.sinks import Fault, Sink, Sinks
from ushering_adze.engine.sounding import SoundAt
from ushering_adze.engine.telling import InTurn, Telling
from ushering_adze.io.logs import log
from ushering_adze.io.media.still import serials
from ushering_adze.io.today import seconds_today

READY_WAIT = 0.5
"""Seconds for which a new window's show waits for what is on the air: frames without it would only take its cores' time
from it.
"""
FORESIGHT = 4
"""Frames from one look at what is staged to the next."""
MARGIN = 0.001
"""Seconds before a frame is due by which work that could wait should be done."""
ACTING = 0.15
"""Share of a frame's time that commands may take; what is not done by then waits for the next."""
SETTLED = 10
"""Frames after which what is off the air is opened, when a window is new."""


def merged_kind(action: Action) -> str | None:
    """A name for actions of which, in a row, only the newest counts: it says all that they say."""
    if isinstance(action, Hand):
        return "hand" if 0 < action.position < 1 else None
    if isinstance(action, (StagePreset, Unstage)):
        return "stage"
    if isinstance(action, LayOver):
        return "overlay"
    if isinstance(action, (Black, Hold)) and action.outputs is None:
        return action.do
    return None


def noticed(state: State) -> set[str]:
    """Sources of which there is enough to see on air that they are brought to their size for it by those who
    show them.
    """
    return {
        shown.source
        for layer in state.values()
        if layer.opacity > 0
        for shown, share in shares_in(layer.picture).items()
        if shown.source is not None and share * 255 >= 0.5
    }


class Engine:
    """Runs a show, by a clock that is handed in.  All methods may be called from any thread and return at once."""

    def __init__(
        self,
        show: Show,
        on_report: Callable[[Report], None] | None = None,
        on_refused: Callable[[Show, str], None] = lambda show, why: None,
        clock: Callable[[], float] = time.perf_counter,
        day: Callable[[], float] = seconds_today,
        stage: Stage | None = None,
    ) -> None:
        keep_freed_memory()
        self._clock, self._day = clock, day
        self._begins = stage is None
        """Whether cue lists that run by themselves are still to be begun."""
        self._codes: Mapping[str, Code] = {}
        self._commands = Commands()
        self._closing = False
        self._stage = Stage.opened(show) if stage is None else stage.with_show(show, clock())
        self._again: Stage | None = None if stage is None else self._stage
        """What was on air before, until it is again."""
        prepare(show)
        self._going, self._settled = threading.Event(), threading.Event()
        self._pool = SourcePool(self._settled)
        self._pool.set_show(show, sources_of(self._stage.program.target))
        self._renderer = self._newest_renderer = Renderer(show)
        self._sinks = Sinks()
        self._newest: Show = show
        self._on_refused = on_refused
        self._compiling, self._overlaying = Compiling(self._compiled, on_refused), Overlaying()
        self._overlay = Overlay()
        self._puts, self._puts_lock = 0, threading.Lock()
        self.put = 0
        """The number of the rasters of `put_out` that are out; 0 if none are."""
        self._looking: str | None = None
        self._kept_running: frozenset[str] = frozenset()
        self._watched: frozenset[str] = frozenset()
        self._heard: frozenset[str] = frozenset()
        self._black_rasters: dict[str, Pixels] = {}
        self._threads: list[threading.Thread] = []
        self._edited = threading.Event()
        self._edit_seconds = 0.010
        self._on_air: set[str] = set()
        self._apart_sources: set[str] = set()
        """Sources that overrides and a rehearsal show."""
        self._overriding = Overriding()
        self._coming: set[str] = set()
        self._acted = False
        self._failing: str | None = None
        self._listless: str | None = None
        self._pace = Pace()
        self.frame_made = threading.Event()
        """Set with every frame, for who works in the time between two; they clear it."""
        self._after_frame: deque[Callable[[], object]] = deque()
        self._on_frame: Callable[[], object] = lambda: None
        self._in_turn = InTurn()
        self._reporting = Reporting(show, self._pool, self._pace, self._commands)
        self._telling = Telling(self._report, on_report, self._pace, clock) if on_report is not None else None

    # -- commands ------------------------------------------------------------------------------------------------

    def start(self, wait: float = 0.0, ahead: int = 1, rest: bool = False) -> None:
        """Start the loop, after waiting up to ``wait`` seconds until every source has ``ahead`` frames ready.

        With ``rest`` it makes one frame, and no more until `go`: the cores are left to whoever builds a window
        meanwhile.
        """
        # A drawing desk may not keep the interpreter from a frame that is due: the usual 5 ms turn is a sixth of its
        # time.
        sys.setswitchinterval(0.0005)
        if not rest:
            self._going.set()
            self._settled.set()
        if wait:
            self._pool.wait(wait, ahead)
        self._threads = [threading.Thread(target=self._run, name="render", daemon=True)]
        if self._telling is not None:
            self._threads.append(self._telling.thread)
        self._compiling.start()
        for thread in self._threads:
            thread.start()

    def go(self) -> None:
        """Make frames at the show's rate from now on."""
        self._going.set()

    def stop(self, seconds: float = 10.0) -> None:
        """Stop the loop and close the sources; who hangs is waited for so many seconds at most."""
        self._closing = True
        self._going.set()
        self._settled.set()
        self._compiling.close()
        self._overlaying.close()
        if self._telling is not None:
            self._telling.close()
        for thread in self._threads:
            thread.join(1)
        self._pool.close(seconds)
        give_back()

    def act(self, action: Action) -> None:
        """Have something happen on air, at the next frame, or, if it is laid over outputs, when that is drawn; one that
        names what the show has not changes nothing.
        """
        puts, over = self._puts, action.over if isinstance(action, LayOver) else None

        def give(overlay: Overlay | None = None) -> None:
            def act(now: float) -> None:
                before, self._stage = self._stage, apply(self._stage.show, self._stage, action, now, players=False)
                self._settle()
                if overlay is not None:
                    if puts == self._puts and self._stage.laid == over:  # else something was put out meanwhile
                        self._lay_over(overlay)
                    before = replace(before, laid=self._stage.laid)
                self._after(before)

            self._commands.give(act, merged_kind(action))

        if isinstance(action, LayOver) and fault_of(self._newest, action) is None:
            self._overlaying.want(self._newest, action.over, give)
        else:
            give()

    def _after(self, before: Stage) -> None:
        """What is black and laid over follows the stage, as it has become from what it was."""

        laid, puts = self._stage.laid, self._puts

        def drawn(overlay: Overlay) -> Callable[[float], None]:
            return lambda now: self._lay_over(overlay) if (self._stage.laid, self._puts) == (laid, puts) else None

        if laid is None and before.laid is not None:
            self._lay_over(Overlay())
        elif laid != before.laid:
            self._overlaying.want(self._stage.show, laid, lambda overlay: self._commands.give(drawn(overlay)))
        if self._stage.black != before.black:
            self._hand_over([id for id in self._renderer.outputs if self._stage.is_black(id) != before.is_black(id)])

    def _run_lists(self, now: float) -> None:
        """Cue lists do what they do by themselves."""
        before = self._stage
        try:
            if self._begins:
                self._begins, self._stage = False, begun(self._stage, now)
            if self._stage.show.lists:
                seen = Seen(self._day(), self._pool.lengths(), self._codes)
                self._stage = run_lists(self._stage, now, seen)
                self._after(before)
            self._listless = None
        except Exception as error:
            log.exception("cue lists failed")
            self._listless = (
                f"cue lists cannot go on ({type(error).__name__}), and what is on air stays; "
                "undo the last edit of one, or recall by hand"
            )

    def _settle(self) -> None:
        """What is turned by hand stands within its pages."""
        settled = self._pool.settled(self._stage.players)
        if settled:
            self._stage = replace(self._stage, players={**self._stage.players, **settled})

    def _still_black(self) -> None:
        """Black stays, on rasters that are new as well."""
        self._hand_over([id for id in self._renderer.outputs if self._stage.is_black(id)])

    @property
    def covered(self) -> str | None:
        """What keeps new pictures from all outputs: held, black, or nothing."""
        return "black" if ALL in self._stage.black else "held" if ALL in self._stage.held else None

    def set_show(self, show: Show) -> None:
        """Run an edited show; what is on air stays, but for what the edit changed.

        Recalls know it from the next frame on; its pictures follow as soon as they are compiled, which begins at once,
        beside the frames.
        """

        prepare(show)
        previews = PreviewPictures(show)
        self._newest = show

        def act(now: float) -> None:
            if self._newest is not show:
                return  # a newer edit waits already: only that one is worth the time
            try:
                stage = self._stage.with_show(show, now)
            except Exception as error:
                log.exception("an edited show could not go on air")
                self._on_refused(show, f"it cannot go on air ({type(error).__name__})")
                return
            if self._stage.laid is not None and stage.laid is None:
                self._lay_over(Overlay())  # what it was laid over is gone
            self._stage = stage
            self._pool.set_show(show)
            self._reporting.run(previews)

        self._commands.give(act, "show")
        self._compiling.want(self._newest_renderer, show)

    def _compiled(self, renderer: Renderer, show: Show, prepared: Prepared) -> None:
        def act(now: float) -> None:
            if renderer is self._renderer:
                renderer.adopt(show, prepared)
                self._black_rasters.clear()
                self._still_black()

        self._commands.give(act, "compiled")
        self._edited.set()

    def put_out(self, rasters: Mapping[str, Pixels]) -> int:
        """Show these rasters on outputs, in place of the show and of whatever is laid over it, until something else is
        laid over.
        """
        with self._puts_lock:
            self._puts += 1
            number = self._puts
        self._commands.give(lambda now: self._lay_over(Overlay(rasters=rasters), number))
        return number

    def _lay_over(self, overlay: Overlay, number: int = 0) -> None:
        self._overlay, self.put = overlay, number
        self._renderer.lay_over(overlay)

    def look_through(self, source: str | None) -> None:
        """Keep a source running though no canvas shows it, so that its pictures can be asked for; None lets it rest
        again.
        """
        self._looking = source

    def look_at(self, view: View | None) -> None:
        """Have every report show a canvas as it is on program, on preview, or in a preset; None ends it."""
        self._reporting.view.view = view

    def glimpse(self, by: str, presets: tuple[int, ...]) -> None:
        """Have reports bring small pictures of what these presets would show; ``by`` is who wants them."""
        self._reporting.glimpses.ask(by, presets)

    def hear_code(self, source: str, seconds: float, rate: CodeRate) -> None:
        """A timecode has come just now, from where, of so many real seconds."""
        self._codes = {**self._codes, source: Code(seconds, self._clock(), rate=rate)}

    @property
    def codes(self) -> Mapping[str, Code]:
        """Timecodes as they came last."""
        return self._codes

    def forecast(self) -> None:
        """Have reports bring what presets will want of a frame's time, once this machine is measured."""
        self._reporting.forecasting.begin()

    def plan(self, list: str | None) -> None:
        """Have reports bring small pictures of what surfaces will show after each cue of a list; None ends it."""
        self._reporting.plans.ask(list)

    @property
    def _looked_at(self) -> frozenset[str]:
        """Sources that somebody wants though no canvas may show them."""
        wanted = self._kept_running | self._watched | self._heard
        return wanted if self._looking is None else wanted | {self._looking}

    def lengths(self) -> dict[str, float]:
        """Seconds of one pass of sources that are open and say so."""
        return self._pool.lengths()

    def give_wall(self, wall: str, pixels: Pixels) -> None:
        """A wall as it is painted now, for sources that show it; nobody writes to its pixels while they are held."""
        self._pool.walls[wall] = Frame(pixels, next(serials), True, born=time.monotonic())

    def watch(self, sources: frozenset[str]) -> None:
        """Keep these sources running though no canvas shows them: somebody watches them."""
        self._watched = sources

    def hear(self, sources: frozenset[str]) -> None:
        """Keep these sources running though no canvas shows them: they are heard."""
        self._heard = sources

    def keep_running(self, sources: frozenset[str]) -> None:
        """Keep these sources running though no canvas shows them: feeds send them."""
        self._kept_running = sources

    def state_now(self) -> State:
        """What every layer shows now."""
        return self._stage.program.at(self._clock())

    def after_frame(self, call: Callable[[], object]) -> None:
        """Call once when the next frame has been made, in the frames' thread; while frames are late, after the next one
        in whose time no report goes on.
        """
        self._after_frame.append(call)

    def on_frame(self, call: Callable[[], object]) -> None:
        """Call with every frame that has been made, in the frames' thread: it returns at once, and raises nothing."""
        self._on_frame = call

    def pictures_of(self, sources: Iterable[str]) -> dict[str, Frame]:
        """The present pictures of sources; one that is not there yet is left out."""
        return self._pool.frames(sources)

    def sounds(self, ids: Set[str]) -> dict[str, SoundAt]:
        """Where the sound of these sources is, as of the last frame."""
        return self._pool.sounds(self._stage.players, ids)

    @property
    def clock(self) -> Callable[[], float]:
        """The clock that frames go by."""
        return self._clock

    def seen_through(self, show: Show) -> SeenThrough:
        """Whether sources can be seen through, by the pictures there are."""
        return self._reporting.seen_through(show)

    @property
    def painted(self) -> Mapping[str, Painted]:
        """What the raster of each output was painted from."""
        return self._renderer.painted

    def unadjusted(self, source: str) -> Frame | None:
        """The present picture of a source as it comes."""
        return self._pool.unadjusted(source)

    def picture_of(self, source: str) -> Frame | None:
        """The present picture of a source."""
        return self._pool.frames([source]).get(source)

    @property
    def serials(self) -> dict[str, int]:
        """A number for each output's picture: the same number means the same picture."""
        return {id: raster.serial for id, raster in list(self._renderer.outputs.items())}

    @property
    def overlay(self) -> Overlay:
        """What is laid over outputs as of the last frame."""
        return self._overlay

    def open_show(self, show: Show) -> None:
        """Run another show from its opening.  Black stays until it is lifted.

        Raises
        ------
        MemoryError
            And whatever else making its pictures may raise; the show that runs goes on untouched.
        """
        prepare(show)
        stage, renderer, previews = (
            Stage.opened(show),
            Renderer(show),
            PreviewPictures(show),
        )  # made here, not in a frame's time
        renderer.fill()
        self._newest, self._newest_renderer = show, renderer

        def act(now: float) -> None:
            self._pool.set_show(show, sources_of(stage.program.target))
            self._renderer = renderer
            self._reporting.run(previews, other=True)
            self._black_rasters.clear()
            self._lay_over(Overlay())
            self._stage, self._begins = replace(stage, black=self._stage.black & {ALL}).played(now), True
            self._still_black()

        self._commands.give(act)
        give_back_later()

    def add_sink(self, output: str, key: object, sink: Sink, fault: Fault = lambda: None) -> None:
        """Hand every new picture of an output to ``sink``, called in the render thread; it must not wait.

        ``fault`` is asked for why the pictures do not arrive where they should, and says None if they do.
        """
        self._sinks.add(output, key, sink, fault)

        def act(now: float) -> None:
            self._hand_over([output])

        self._commands.give(act)

    def remove_sink(self, output: str, key: object) -> None:
        """Stop handing pictures to a sink."""
        self._sinks.remove(output, key)

    @property
    def stage(self) -> Stage:
        """The stage as of the last frame."""
        return self._stage

    @property
    def rasters(self) -> dict[str, Pixels]:
        """The newest picture of every output; do not write to it."""
        return {id: self._sent(id) for id in list(self._renderer.outputs)}

    def raster(self, output: str) -> Pixels | None:
        """The newest picture of one output; None if there is no such output yet."""
        return self._sent(output) if output in self._renderer.outputs else None

    @property
    def sent(self) -> dict[str, Sent]:
        """The newest picture of every output with its number; do not write to it."""
        return {id: self._numbered(id) for id in list(self._renderer.outputs)}

    def _numbered(self, output: str) -> Sent:
        """What an output sends, with the number of no later picture: who took one for the other would keep it."""
        while True:
            before, pixels = self._serial(output), self._sent(output)
            if self._serial(output) == before:
                return Sent(pixels, before)

    def _serial(self, output: str) -> int:
        serial = self._renderer.outputs[output].serial
        return -serial if self._stage.is_black(output) else serial

    @property
    def frames(self) -> int:
        """Frames made since the start; `mark` has with it the moment at which the last one was begun."""
        return self.mark[0]

    @property
    def mark(self) -> tuple[int, float]:
        """Frames made, and when the last one was begun by the clock."""
        return self._pace.mark

    @property
    def late(self) -> int:
        """Frames that were not finished by the end of the period they were for."""
        return self._pace.late

    @property
    def mean_milliseconds(self) -> float:
        """Time spent on a frame, mean of the last few seconds."""
        return self._pace.milliseconds

    def faults(self) -> dict[str, str]:
        """What is wrong now with sources and outputs, by id."""
        blocked = self._sinks.faults(self._renderer.outputs)
        sentences = {"frames": self._failing, "cue lists": self._listless, "patterns": self._overlaying.fault}
        failing = {what: why for what, why in sentences.items() if why is not None}
        return {**self._pool.warnings(), **self._pool.faults(), **blocked, **self._renderer.faults(), **failing}

    # -- the loop ------------------------------------------------------------------------------------------------

    def _run(self) -> None:
        self._come_back()
        self._renderer.fill()
        self._frame(self._clock())  # draws everything, outside any frame's time
        if not self._going.is_set():
            self._going.wait()
            self._pool.wait(READY_WAIT, only=sources_of(self._stage.program.target))
        start = self._clock()
        tick = 0
        while not self._closing:
            period = self._stage.show.frame_seconds
            due = start + tick * period
            ahead = due - self._clock()
            while ahead > 0:
                if self._edited.wait(ahead) and not self._between(due):
                    break  # no time for the edit alone: the frame comes a little early, with the edit in it
                ahead = due - self._clock()
            began = self._clock()
            self._frame(began)
            done = self._clock()
            if tick >= SETTLED:
                self._settled.set()
            tick += 1
            in_time = self._pace.made(began, done, due + period)
            if not in_time:  # drop what is past, never queue
                tick = max(tick, int((done - start) / period) + 1)
            self._give_turns(start + tick * period)

    def _come_back(self) -> None:
        """Have what was on air before on air again: what was held shows once what there is, and is held again then."""
        again, self._again = self._again, None
        if again is None:
            return
        self._stage = replace(again, held=frozenset())

        def act(now: float) -> None:
            self._stage = replace(self._stage, held=again.held)
            self._after(replace(self._stage, laid=None))

        self.after_frame(lambda: self._commands.give(act))
        self._pool.wait(READY_WAIT, only=sources_of(again.program.target))

    def _give_turns(self, due: float) -> None:
        """Who reads ahead, walls and the desk have their turn until the next frame is due."""
        self.frame_made.set()
        self._on_frame()
        asked = len(self._after_frame)
        steps, reports = self._in_turn.of(asked > 0, self._pace.late_lately(self._clock()))
        for _ in range(asked if steps else 0):
            try:
                self._after_frame.popleft()()
            except Exception:
                log.exception("nobody told of a frame")
        for tell in (self._foresee, lambda: self._pool.go_on(due - MARGIN)):
            try:
                tell()
            except Exception:
                log.exception("sources not told to go on")
        if reports and self._telling is not None:
            self._telling.frame_made()

    def _foresee(self) -> None:
        """Let sources that are staged, or on their way to the air, have their pictures ready at the sizes they will be
        shown at.
        """
        if not self._acted and self.frames % FORESIGHT:
            return
        self._acted = False
        states = [self._stage.program.target, *([self._stage.preview()] if self._stage.previewing else [])]
        now = self._stage.program.at(self._clock())
        seen, wanted = noticed(now), set().union(*map(sources_of, states))
        viewed = self._reporting.view.sources(self._stage, self._clock())
        shown = wanted | sources_of(now) | self._looked_at | viewed | self._apart_sources
        self._pool.be_near(self._stage.show.leading_to(shown))
        coming = wanted - seen
        self._renderer.foresee(states, self._pool.frames(coming | self._coming - seen), self._pool.requests)
        self._coming = coming

    def _act(self, now: float) -> None:
        if self._commands.run(now, ACTING * self._stage.show.frame_seconds):
            self._acted = True
            if self._telling is not None:
                self._telling.acted()

    def _between(self, due: float) -> bool:
        """Show an edit at once, on the outputs it touched; False if that would not be done by the time the next frame
        is due.
        """
        self._edited.clear()
        now = self._clock()
        if due - now < self._edit_seconds * 1.25 + 0.001:
            self._edit_seconds *= 0.9  # what was slow once may be tried again
            return False
        self._act(now)
        try:
            changed = self._renderer.draw_edited(self._stage.is_held)
        except Exception:
            log.exception("edit not shown")
            return True
        if changed:
            self._hand_over_lit(changed)
            self._edit_seconds = self._clock() - now
        return True

    def _frame(self, now: float) -> None:
        self._act(now)
        try:
            self._run_lists(now)
            state = self._stage.program.at(now)
            self._apart_sources = sources_apart(self._stage, now)
            on_air = self._on_air = sources_of(state) | self._apart_sources
            stands_in = {s for id, s in self._pool.substitutes().items() if id in on_air and s != id}
            self._stage = self._stage.played(now, self._looked_at | self._apart_sources, stands_in)
            self._settle()
            self._pool.follow(
                self._stage.players, now, self._stage.brought, self._stage.messages, self._stage.worn(state)
            )
            if ALL in self._stage.held:
                return
            frames, requests = self._pool.frames(on_air), self._pool.requests
            apart = self._overriding.apart(self._stage, frames, now, requests)
            changed = self._renderer.draw(state, frames, now, self._stage.is_held, requests, apart)
            if self._stage.program.tracks and not self._stage.program.moving(now):
                self._stage = replace(self._stage, program=self._stage.program.settled(now))
        except Exception as error:
            log.exception("frame failed")
            self._failing = (
                f"frames cannot be made ({type(error).__name__}), and what was sent last stands; undo the last edit, "
                "or recall another preset"
            )
            return
        self._failing = None
        self._hand_over_lit(changed)

    def _hand_over_lit(self, outputs: list[str]) -> None:
        """Hand new pictures over; who is black has had theirs."""
        self._hand_over([id for id in outputs if not self._stage.is_black(id)])

    def _sent(self, output: str) -> Pixels:
        pixels = self._renderer.outputs[output].pixels
        if not self._stage.is_black(output):
            return pixels
        if output not in self._black_rasters or self._black_rasters[output].shape != pixels.shape:
            self._black_rasters[output] = dark(pixels)
        return self._black_rasters[output]

    def _hand_over(self, outputs: list[str]) -> None:
        self._sinks.hand(outputs, self._renderer.outputs, self._sent)

    def _report(self, now: float) -> Report:
        return self._reporting.report(
            Told(
                self._stage,
                self._renderer,
                self._overlay,
                self.faults(),
                self._sinks.bound(),
                self._codes,
                self.sent,
            ),
            now,
        )
