"""The session: owns the show value, undo, selection and the engine, and tells the widgets what changed."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterable
from pathlib import Path

from PySide6.QtCore import QObject, Signal

from ushering_adze.core.mapping.align_data import locked_fault
from ushering_adze.core.picture.cost import memory_faults, memory_note
from ushering_adze.core.proof import Finding
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.core.show.edits import find_region
from ushering_adze.core.show.rigging import Shelf
from ushering_adze.core.show.rigging import told as sentence_for
from ushering_adze.core.show.show import faults_of
from ushering_adze.core.show.weight import grown_bytes
from ushering_adze.demo.show import DEMO_ROOT, demo_show
from ushering_adze.desk.filing import Filing, brought_back
from ushering_adze.desk.waiting import answered
from ushering_adze.io.keeping import Kept, forget
from ushering_adze.io.logs import log
from ushering_adze.io.machine import memory_bytes
from ushering_adze.io.showfile import absolute, media_faults, read_show
from ushering_adze.playout import Playout, Report, Running

UNDO_STEPS = 200
UNDO_BYTES = 256 << 20


Begin = Callable[[Show, Callable[[Report], None], Callable[[Show, str], None], Callable[[str], None]], Running]
"""Begins a running show; is given who takes reports, edits that cannot be run, and what the user should read."""


def within(
    show: Show,
    on_report: Callable[[Report], None],
    on_refused: Callable[[Show, str], None],
    on_trouble: Callable[[str], None],
) -> Running:
    """A running show in this process."""
    return Playout(show, on_report, on_refused)


class Session(QObject):
    """One open show.

    Parameters
    ----------
    show : Show
    path : Path or None
        Its file.
    root : Path
        The folder that its media are in.
    begin : callable
        How it is run: in this process, or beside it.

    Signals
    -------
    show_changed : the show value is another one
    selection_changed : another surface or region is selected
    reported : a `Report` of the running show arrived
    pointed_changed : the pointer is on another pixel of a canvas, or on none
    checked : the pixel check has new findings, or another one is looked at
    named : file name, or whether all is saved, changed
    trouble : a sentence the user should read
    refused : a sentence saying why a file was not opened or saved
    conflicted : a sentence saying whom saving would harm; `save` can insist
    """

    show_changed = Signal()
    selection_changed = Signal()
    reported = Signal(object)
    _arrived = Signal(object)
    _not_run = Signal(object, str)
    pointed_changed = Signal()
    checked = Signal()
    named = Signal()
    trouble = Signal(str)
    refused = Signal(str)
    conflicted = Signal(str)

    def __init__(self, show: Show, path: Path | None, root: Path, begin: Begin = within) -> None:
        super().__init__()
        self.show, self.path, self.root = show, path, root
        self._undo: list[tuple[str, Show]] = []
        self._costs: list[int] = []
        self._redo: list[tuple[str, Show]] = []
        self._saved: Show | None = show
        self.saved_at = time.time() if path else None
        self.surface: str | None = None
        self.surfaces: tuple[str, ...] = ()
        """All that are selected, in the order in which they were; `surface` is the last of them."""
        self.region: str | None = None
        self.regions: tuple[str, ...] = ()
        self.pointed: tuple[str, int, int] | None = None
        self.findings: list[Finding] = []
        self.proved = False
        """Whether the pixel check has looked at any show yet: before that no findings do not mean that all is well."""
        self.finding: Finding | None = None
        self._gesture: object = None
        self.edits = 0
        """Edits that led to the show as it is; one less after each that is undone."""
        self.output: str | None = None
        self.source: str | None = None
        self.feed: str | None = None
        self.report: Report | None = None
        self.filing = Filing(path, show.name)
        self.playout: Running = begin(show, self._arrived.emit, self._not_run.emit, self.trouble.emit)
        self._arrived.connect(self.tell)
        self._not_run.connect(self._take_back)

    def tell(self, report: Report) -> None:
        """Take over a report from the engine's thread, and tell every widget of it in the same turn of the
        event loop.
        """
        self.report = report
        self.reported.emit(report)

    # -- the document --------------------------------------------------------------------------------------------

    @property
    def edited(self) -> bool:
        """Whether there are edits that no file holds."""
        return self.show is not self._saved

    def edit(self, label: str, show: Show, gesture: object = None) -> None:
        """Make ``show`` the present value; ``label`` names the step for undo.  A show that is not whole is refused.

        Edits of one ``gesture``, such as the steps of a drag, are one step for undo.
        """
        show = absolute(show, self.root)
        if show is self.show or show == self.show:
            return
        faults = faults_of(show, self.show) or memory_faults(show, self.show, memory_bytes())
        locked = locked_fault(self.show, show)
        if faults or locked is not None:
            raise ShowError(faults or [locked])  # type: ignore[list-item]
        self.playout.edit(show)  # first: what it cannot take is no step for undo
        if gesture is None or gesture is not self._gesture:
            self._remember(label, show)
        self._gesture = gesture
        self._redo.clear()
        before = self.show
        self._hold(show)
        grown = memory_note(show, before)
        if grown is not None:
            self.trouble.emit(grown)

    def _remember(self, label: str, next: Show) -> None:
        """Keep the present show for undo, as many steps as their number and their memory allow."""
        self.edits += 1
        self._undo.append((label, self.show))
        self._costs.append(grown_bytes(self.show, next))
        while len(self._undo) > UNDO_STEPS or (len(self._undo) > 1 and sum(self._costs) > UNDO_BYTES):
            del self._undo[0], self._costs[0]

    def _hold(self, show: Show) -> None:
        """Hold what the engine runs by now."""
        self.show = show
        if self.edited:
            self.filing.autosave.note(show, self.root)
        else:
            self.filing.autosave.clear()
        self._check_selection()
        self.show_changed.emit()
        self.named.emit()

    @property
    def undo_label(self) -> str | None:
        """What undo would undo."""
        return self._undo[-1][0] if self._undo else None

    @property
    def redo_label(self) -> str | None:
        """What redo would redo."""
        return self._redo[-1][0] if self._redo else None

    def _take_back(self, show: Show, why: str) -> None:
        """An edit that the engine could not run: the desk holds again what runs."""
        if show is not self.show or not self._undo:
            return
        label = self._undo[-1][0]
        self.undo()
        self._redo.clear()
        self.trouble.emit(f"{label}: {why}; it is taken back, and what was on air is untouched.")

    def undo(self) -> None:
        """Take back the last edit."""
        self._gesture = None
        if self._undo:
            label, show = self._undo[-1]
            self.playout.edit(show)
            del self._undo[-1], self._costs[-1]
            self.edits -= 1
            self._redo.append((label, self.show))
            self._hold(show)

    def redo(self) -> None:
        """Make the last undone edit again."""
        if self._redo:
            label, show = self._redo[-1]
            self.playout.edit(show)
            del self._redo[-1]
            self._remember(label, show)
            self._hold(show)

    # -- files ---------------------------------------------------------------------------------------------------

    def open(self, path: Path) -> bool:
        """Open a show file; a bad one is told, and the open show stays as it is."""

        def work() -> tuple[Show, Path, list[Fault]]:
            show, at = read_show(path), path.resolve()
            return show, at, media_faults(show)

        try:
            show, at, faults = answered(work, path.name)
        except ShowError as error:
            self.refused.emit(str(error))
            return False
        if not self._start(show, at, at.parent):
            return False
        if self.bring_back() or self.tell_of_others():
            return True
        if faults:
            more = f" (and {len(faults) - 1} more)" if len(faults) > 1 else ""
            self.trouble.emit(f"{path.name}: {faults[0]}{more}")
        return True

    def new_from_demo(self) -> None:
        """A fresh, unsaved copy of the demo show."""
        if self._start(demo_show(), None, DEMO_ROOT):
            self.bring_back()

    def begin(self, show: Show) -> bool:
        """A show that is new, and in no file; says whether it could be run."""
        return self._start(show, None, Path.home())

    def bring_back(self) -> bool:
        """Edits of this show that were in no file when the program ended, as an edit that can be undone; says whether
        there were any.
        """
        edits = self.filing.left()
        if edits is None:
            return False
        try:
            show, told = brought_back(edits)
            if show == self.show:
                forget(edits)
                return False
            self.edit("Edits brought back", show)
        except ValueError as error:
            self.trouble.emit(
                f"Edits that were in no file when the program ended cannot be brought back ({sentence_for(error)}). "
                f"They are in {edits.file}."
            )
            return True
        if self.filing.autosave.flush() and self.filing.autosave.fault is None:
            forget(edits)  # they are on the disk again, as this program's own
        self.trouble.emit(told)
        return True

    def tell_of_others(self) -> bool:
        """Tell who else has the show open; says whether anybody has."""
        told = self.filing.told
        if told is not None:
            self.trouble.emit(told)
        return told is not None

    def open_version(self, kept: Kept) -> bool:
        """Put an earlier version in place of the show as it is, as an edit that can be undone."""
        try:
            show = read_show(kept.file)
        except ShowError as error:
            self.refused.emit(str(error))
            return False
        return self.try_edit(f"Version {kept.what} {time.strftime('%H:%M', time.localtime(kept.at))}", lambda now: show)

    def _start(self, show: Show, path: Path | None, root: Path) -> bool:
        """Run another show; one that cannot be run changes nothing, and is told."""
        too_large = memory_faults(show, None, memory_bytes())
        if too_large:
            self.refused.emit(f"{path.name if path else show.name}: {too_large[0]}")
            return False
        try:
            self.playout.open(show)
        except Exception as error:
            log.exception("a show could not be run")
            why = (
                "there is not enough memory for it"
                if isinstance(error, MemoryError)
                else f"it cannot be run ({type(error).__name__})"
            )
            self.refused.emit(f"{path.name if path else show.name}: {why}; {self.show.name} stays open and on air.")
            return False
        self.filing.close(wanted=False)
        self.filing = Filing(path, show.name)
        self.show, self.path, self.root = show, path, root
        self._undo.clear()
        self._costs.clear()
        self._redo.clear()
        self._saved = show
        self.saved_at = time.time() if path else None
        self.surface = self.region = self.output = self.source = self.feed = None
        self.regions, self.surfaces = (), ()
        self.pointed, self.findings, self.finding, self._gesture = None, [], None, None
        self.show_changed.emit()
        self.selection_changed.emit()
        self.named.emit()
        return True

    def save(self, path: Path | None = None, insist: bool = False) -> bool:
        """Save, under another name if ``path`` is given; says whether it worked.

        What others did to the file meanwhile is not written over unless one insists.
        """
        target = path or self.path
        if target is None:
            return False
        show = self.show
        try:
            saved = answered(lambda: self.filing.save(show, target, insist), target.name)
        except ShowError as error:
            self.refused.emit(str(error))
            return False
        if saved.show is None:
            (self.conflicted if saved.may_insist else self.refused).emit(saved.why)
            return False
        self.path, self.root = saved.path, saved.path.parent
        self._saved = saved.show
        self.saved_at = time.time()
        self.named.emit()
        return True

    # -- selection -----------------------------------------------------------------------------------------------

    def select_surface(self, id: str | None) -> None:
        """Select a surface, and with it the first region that feeds it."""
        region = next((r.id for r in self.show.feeds_of(id)), None) if id else None
        self._select(id, region)

    def choose_surface(self, id: str | None, more: bool) -> None:
        """Select a surface, or none; with ``more`` it comes to those that are selected, or leaves them."""
        if not more:
            self.select_surface(id)
        elif id is not None:
            others = tuple(s for s in self.surfaces if s != id)
            self.select_surfaces(others if id in self.surfaces else (*others, id))

    def select_surfaces(self, ids: Iterable[str]) -> None:
        """Select several surfaces; the last one is that whose numbers are shown."""
        known = {s.id for s in self.show.surfaces}
        chosen = tuple(dict.fromkeys(id for id in ids if id in known))
        last = chosen[-1] if chosen else None
        region = next((r.id for r in self.show.feeds_of(last)), None) if last is not None else None
        self._select(last, region, surfaces=chosen)

    def select_region(self, id: str | None) -> None:
        """Select a region, and with it its surface."""
        found = find_region(self.show, id) if id else None
        self._select(found[1].surface if found else None, id if found else None)

    def select_regions(self, ids: Iterable[str]) -> None:
        """Select several regions; the last one is that whose numbers are shown first."""
        known = self.show.homes
        chosen = tuple(dict.fromkeys(id for id in ids if id in known))
        last = chosen[-1] if chosen else None
        self._select(known[last][1].surface if last else None, last, regions=chosen)

    def point_at(self, canvas: str | None, x: int = 0, y: int = 0) -> None:
        """Say which pixel of a canvas the pointer is on, so that every view can mark it."""
        pointed = None if canvas is None else (canvas, x, y)
        if pointed != self.pointed:
            self.pointed = pointed
            self.pointed_changed.emit()

    def look_at(self, finding: Finding | None) -> None:
        """Mark the place of a finding in every view, and select the regions concerned."""
        self.finding = finding
        if finding is not None and finding.where.regions:
            self.select_regions(finding.where.regions)
        elif finding is not None and finding.where.on == "surface":
            self.select_surface(finding.where.id)
        self.checked.emit()

    def found(self, findings: list[Finding]) -> None:
        """Take over what the pixel check found in the present show."""
        self.findings, self.proved = findings, True
        if self.finding is not None:
            key = (self.finding.rule, self.finding.where)
            self.finding = next((f for f in findings if (f.rule, f.where) == key), None)
        self.checked.emit()

    def select_output(self, id: str | None) -> None:
        """Select an output."""
        self._select(None, None, output=id)

    def select_source(self, id: str | None) -> None:
        """Select a source."""
        self._select(None, None, source=id)

    def select_feed(self, id: str | None) -> None:
        """Select a feed."""
        self._select(None, None, feed=id)

    def select(self, shelf: Shelf, id: str | None) -> None:
        """Select an item of one of the lists of the rig."""
        {
            "sources": self.select_source,
            "outputs": self.select_output,
            "surfaces": self.select_surface,
            "feeds": self.select_feed,
        }[shelf](id)

    @property
    def selected(self) -> tuple[Shelf, str] | None:
        """What is selected of the rig."""
        if self.source is not None:
            return "sources", self.source
        if self.output is not None:
            return "outputs", self.output
        if self.feed is not None:
            return "feeds", self.feed
        return ("surfaces", self.surface) if self.surface is not None else None

    def _select(
        self,
        surface: str | None,
        region: str | None,
        output: str | None = None,
        source: str | None = None,
        regions: tuple[str, ...] | None = None,
        feed: str | None = None,
        surfaces: tuple[str, ...] | None = None,
    ) -> None:
        chosen = regions if regions is not None else (region,) if region is not None else ()
        several = surfaces if surfaces is not None else (surface,) if surface is not None else ()
        now = (surface, region, output, source, chosen, feed, several)
        if now != (self.surface, self.region, self.output, self.source, self.regions, self.feed, self.surfaces):
            self.surface, self.region, self.output, self.source, self.regions, self.feed, self.surfaces = now
            self.selection_changed.emit()

    def _check_selection(self) -> None:
        show = self.show
        surface = self.surface if any(s.id == self.surface for s in show.surfaces) else None
        region = self.region if self.region and find_region(show, self.region) else None
        if surface and region is None:
            region = next((r.id for r in show.feeds_of(surface)), None)
        output = self.output if any(o.id == self.output for o in show.outputs) else None
        source = self.source if any(s.id == self.source for s in show.sources) else None
        feed = self.feed if any(f.id == self.feed for f in show.feeds) else None
        chosen = tuple(id for id in self.regions if id in show.homes)
        several = tuple(id for id in self.surfaces if any(s.id == id for s in show.surfaces))
        regions = chosen if region in chosen else None
        self._select(surface, region, output, source, regions, feed, several if surface in several else None)

    def try_edit(self, label: str, make: Callable[[Show], Show], gesture: object = None) -> bool:
        """An edit that may be refused: the reason is told as trouble, and nothing changes."""
        try:
            self.edit(label, make(self.show), gesture)
        except (ValueError, MemoryError) as error:
            self.trouble.emit(sentence_for(error))
            return False
        return True
