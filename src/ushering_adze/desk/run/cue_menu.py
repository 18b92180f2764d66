"""What is done to cues and lists, as a menu."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtWidgets import QFileDialog, QInputDialog, QMenu

from ushering_adze.core.exchange.cue_table import renumbered, switched, with_copies, with_list, without_list
from ushering_adze.core.exchange.run_sheet import room_picture, run_rows
from ushering_adze.core.plane.pixels import Pixels
from ushering_adze.core.show import ShowError
from ushering_adze.desk.run.following import chase_menu, offset_by
from ushering_adze.desk.session import Session
from ushering_adze.io.exchange.run_sheets import write_run_sheet

if TYPE_CHECKING:
    from ushering_adze.desk.run.cues import CuePanel


class CueMenu(QMenu):
    """The menu of a panel of cues, filled whenever it is opened."""

    def __init__(self, panel: CuePanel, session: Session) -> None:
        super().__init__(panel)
        self._panel, self._session = panel, session
        self.aboutToShow.connect(self.fill)

    def fill(self) -> None:
        """What can be done now."""
        panel = self._panel
        self.clear()
        cues, ids = panel.cues, panel.selected()
        acts: list[tuple[str, Callable[[], object], bool]] = [("New cue behind it", panel.insert, cues is not None)]
        if cues is not None:
            acts.append(("A cue for each preset", panel.insert_presets, True))
            off = all(c.off for c in cues.cues if c.id in ids)
            acts += [
                ("Copy cues", lambda: panel.edit("Copy cues", lambda s: with_copies(s, cues.id, ids)), bool(ids)),
                (
                    "Use again" if ids and off else "Pass over",
                    lambda: panel.edit("Pass over", lambda s: switched(s, cues.id, ids, not off)),
                    bool(ids),
                ),
                ("Remove cues", panel.remove, bool(ids)),
                ("Renumber 1, 2, 3 …", lambda: panel.edit("Renumber", lambda s: renumbered(s, cues.id)), True),
                ("Copy the list as a table", panel.copy, True),
                ("Paste a table", panel.paste, True),
            ]
        for words, act, enabled in acts:
            entry = self.addAction(words)
            entry.setEnabled(enabled)
            entry.triggered.connect(lambda checked=False, act=act: act())
        self.addSeparator()
        self.addAction("New list").triggered.connect(lambda checked=False: panel.make_list())
        if cues is None:
            return
        self.addAction("Run sheet as PDF or CSV…").triggered.connect(lambda checked=False: self._ask_sheet())
        self.addAction("Rehearse it, or end").triggered.connect(lambda checked=False: panel.rehearsal.toggle())
        self.addAction("Rename the list…").triggered.connect(lambda checked=False: self._ask_name())
        remove = self.addAction("Remove the list")
        remove.triggered.connect(
            lambda checked=False: panel.edit(f"Remove {cues.name}", lambda s: without_list(s, cues.id))
        )
        for words, field in (
            ("Begins again at its end", "loop"),
            ("In any order, shuffled", "shuffle"),
            ("Begins when the show opens", "runs"),
            ("Arming shows it on preview", "previews"),
            ("Cues fire whatever is armed", "any_order"),
        ):
            entry = self.addAction(words)
            entry.setCheckable(True)
            entry.setChecked(bool(getattr(cues, field)))
            entry.triggered.connect(lambda on, field=field: panel.change(**{field: on}))
        chase_menu(self, cues, panel.change, self._session.playout.act, self._ask_offset)
        claims = self.addMenu("Touches only")
        show = self._session.show
        for id, name in [(z.id, z.name) for z in show.zones] + [(s.id, s.name) for s in show.surfaces]:
            entry = claims.addAction(name)
            entry.setCheckable(True)
            entry.setChecked(id in cues.claims)
            entry.triggered.connect(partial(self.claim, id))

    def _ask_name(self) -> None:
        panel = self._panel
        cues = panel.cues
        if cues is not None:
            name, right = QInputDialog.getText(panel, "Cue list", "Name", text=cues.name)
            if right and name.strip():
                panel.change(name=name.strip()[:80])

    def _ask_sheet(self) -> None:
        panel = self._panel
        cues = panel.cues
        if cues is not None:
            start = str(self._session.root / f"{cues.id}.pdf")
            path, _ = QFileDialog.getSaveFileName(panel, "Run sheet", start, "PDF (*.pdf);;Table (*.csv)")
            if path:
                self.write_sheet(Path(path))

    def write_sheet(self, path: Path) -> None:
        """Write the run sheet; pictures are those that the plan has by now, if it was looked at."""
        panel = self._panel
        cues, show, report = panel.cues, self._session.show, self._session.report
        if cues is None:
            return
        pictures = {} if report is None else report.plan

        def picture(id: str) -> Pixels | None:
            return room_picture(show, pictures[id], 396, 150) if id in pictures else None

        try:
            write_run_sheet(path, f"{show.name}: {cues.name}", run_rows(show, cues, panel.real_times()), picture)
        except ShowError as error:
            panel.told.emit(str(error))
            return
        missing = sum(1 for c in cues.ordered if c.id not in pictures)
        beside = (
            f"; {missing} without a picture yet: look at the plan first" if missing and path.suffix == ".pdf" else ""
        )
        panel.told.emit(f"The run sheet is in {path.name}{beside}.")

    def _ask_offset(self) -> None:
        panel = self._panel
        cues = panel.cues
        if cues is not None and cues.code is not None:
            now = f"{cues.code.offset:g}"
            text, right = QInputDialog.getText(panel, "Timecode", "Seconds added to what comes", text=now)
            if right:
                panel.edit(
                    f"Timecode of {cues.name}",
                    lambda show: with_list(show, cues.model_copy(update={"code": offset_by(cues.code, text)})),
                )

    def claim(self, id: str, on: bool) -> None:
        """Have the list touch a surface or zone, or not."""
        panel = self._panel
        cues = panel.cues
        if cues is not None:
            others = tuple(c for c in cues.claims if c != id)
            panel.change(claims=(*others, id) if on else others)
