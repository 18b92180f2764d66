"""Everything that can be done in the window, by name: for the menu, the command finder, the sheet of keys."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from ushering_adze.core.onair.actions import Back, Black, Cut, Hold, Lift
from ushering_adze.desk import text_size
from ushering_adze.desk.topbar import WORKSPACES

if TYPE_CHECKING:
    from ushering_adze.desk.window import MainWindow

WATCH_PAGES = ("Wall of pictures", "Sound: mixes and meters", "What was shown earlier", "Rules of alarms")


def name_commands(window: MainWindow) -> None:
    """Name every command of a window, with its keys and where they mean it."""
    from ushering_adze.desk.rig.workspace import NEW

    add, act, session = window.book.add, window.session.playout.act, window.session
    add("open", "Show", "Open a show…", window.ask_open, "Ctrl+O")
    add("save", "Show", "Save", window.save, "Ctrl+S")
    add("save-as", "Show", "Save as…", window.ask_save, "Ctrl+Shift+S")
    add("versions", "Show", "Earlier versions…", window.versions_sheet.open)
    add("new", "Show", "New show…", window.new_show, "Ctrl+N")
    add("recent", "Show", "Open a recent show…", window.recent.show_recent, "Ctrl+Alt+O")
    add("templates", "Show", "New show from a template…", window.recent.show_templates)
    add("keep-template", "Show", "Keep this show as a template…", window.recent.ask_keep)
    add("gather", "Show", "Copy all files beside the show", window.gathering.gather)
    add("demo", "Show", "New from the demo", window.new_from_demo)
    add("quit", "Show", "Quit", window.close, "Ctrl+Q")
    add("undo", "Edit", "Undo", window.undo, "Ctrl+Z")
    add("redo", "Edit", "Redo", session.redo, "Ctrl+Shift+Z | Ctrl+Y")
    for id, words, by, keys in (
        ("text-larger", "Larger text", 1, "Ctrl++ | Ctrl+="),
        ("text-smaller", "Smaller text", -1, "Ctrl+-"),
        ("text-usual", "Text at 100 %", 0, "Ctrl+Shift+0"),
    ):
        add(id, "Edit", words, lambda by=by: window.notice.say(text_size.step(by)), keys)
    for n, name in enumerate(WORKSPACES):
        add(
            f"go-{name.lower()}",
            "Go",
            f"{name} workspace",
            lambda name=name: window.show_workspace(name),
            f"Alt+{n + 1}",
        )
    add("take", "Run", "Take preview to program", window.run.strip.fire, "Space", by_window=True, where="Run")
    add("cues", "Run", "Cues, or presets", window.run.show_cues, "C", where="Run")
    add("crosspoints", "Run", "Crosspoints, or presets", window.run.show_crosspoints, "O", where="Run")
    add("overrides", "Run", "Overrides, or presets", window.run.show_overrides, "V", where="Run")
    add("lift-all", "Run", "Lift all overrides", lambda: act(Lift()), where="Run")
    speaker = window.run.speaker
    add("page-on", "Run", "Next page, or step, of what is on program", lambda: speaker.page(1), "PgDown", where="Run")
    add("page-back", "Run", "The page, or step, before", lambda: speaker.page(-1), "PgUp", where="Run")
    add("message", "Run", "Message to the speaker…", speaker.ask_message, "M", where="Run")
    add("speaker-view", "Build", "Speaker's view…", speaker.ask_view)
    add("rehearse", "Run", "Rehearse the cue list, or end", window.run.cues.rehearsal.toggle, "Shift+R", where="Run")
    add("plan", "Run", "Plan: what surfaces show after each cue", window.run.show_plan, "Shift+P", where="Run")
    add("calendar", "Run", "Calendar: what begins and ends by itself", window.run.show_calendar, "Shift+C", where="Run")
    add("go", "Run", "Fire the armed cue (Space while the cues are in front)", window.run.cues.go, where="Run")
    add("cue-back", "Run", "Arm the cue before", window.run.cues.back, "Shift+Backspace", where="Run")
    add("cue-wait", "Run", "Let the cue list wait, or go on", window.run.cues.wait, "Shift+W", where="Run")
    add("cue-stop", "Run", "Stop the cue list", window.run.cues.stop, where="Run")
    add("cue-new", "Run", "New cue behind the selected one", window.run.cues.insert, "Insert", where="Run")
    add("cut", "Run", "Cut preview to program", lambda: act(Cut()), "X", where="Run")
    add("back", "Run", "Program back to its former state", lambda: act(Back()), "Backspace", where="Run")
    add("take-surface", "Run", "Take the selected surface alone", window.by_surface.take, "Shift+Space", where="Run")
    add("keep", "Run", "Keep the selected surface, or release it", window.by_surface.keep, "Y", where="Run")
    add(
        "black-surface",
        "Run",
        "Black the outputs of the selected surface, or lift it",
        window.by_surface.black,
        where="Run",
    )
    add(
        "keep-still",
        "Run",
        "Keep a still of what is selected",
        window.stills.keep,
        "Shift+S",
        where="Run",
    )
    players = window.run.players
    add("players", "Run", "Players, or what the next take changes", window.run.show_players, "P", where="Run")
    add("player-go", "Run", "Selected player: go on, or stand", players.toggle, "K", where="Run")
    add(
        "player-back",
        "Run",
        "Selected player: 15 s back, or a page",
        lambda: players.jump(-15),
        "J",
        where="Run",
    )
    add("player-on", "Run", "Selected player: 15 s on, or a page", lambda: players.jump(15), "L", where="Run")
    add("player-start", "Run", "Selected player: to its start", players.to_start, "Home", where="Run")
    add("player-end", "Run", "Selected player: to its end", players.to_end, "End", where="Run")
    for id, words, count, key in (
        ("player-frame-back", "Selected player: a frame back", -1, ","),
        ("player-frame-on", "Selected player: a frame on", 1, "."),
    ):
        add(
            id,
            "Run",
            words,
            lambda count=count: players.by_frame(count, window.session.show.frame_seconds),
            key,
            where="Run",
        )
    for id, words, factor, key in (
        ("player-slower", "Selected player: slower", 1 / 1.25, "Shift+J"),
        ("player-faster", "Selected player: faster", 1.25, "Shift+L"),
        ("player-plain", "Selected player: as fast as it was made", 0.0, "Shift+K"),
    ):
        add(id, "Run", words, lambda factor=factor: players.faster(factor), key, where="Run")
    add("player-time", "Run", "Selected player: to a time…", window.run.ask_time, "Shift+T", where="Run")
    add(
        "bring-back",
        "Run",
        "Bring a source back that waits for it",
        window.bring_back,
        "Shift+B",
        where="Run",
    )
    add("unstage", "Run", "Clear the preview", window.clear_typed, "Escape", where="Run")
    add(
        "black",
        "Run",
        "Black all outputs, or lift it",
        lambda: act(Black(on=not window.sill.black.on)),
        "B",
        held=True,
        where="Run",
    )
    add(
        "hold",
        "Run",
        "Hold all outputs, or lift it",
        lambda: act(Hold(on=not window.sill.hold.on)),
        "H",
        held=True,
        where="Run",
    )
    m = window.map
    m.name_actions(window.book, add)
    window.align.name_actions(window.book, add)
    build = window.build
    build.name_actions(window.book, add)
    for kind, words in NEW:
        add(
            f"add-{kind}",
            "Rig",
            f"Add: {words}",
            lambda kind=kind: window.in_rig(lambda: window.rig.add(kind)),
            where="Rig",
        )
    add(
        "rename",
        "Edit",
        "Rename",
        lambda: window.here(window.rig.rename, m.rename, build.rename),
        "F2",
        where="Rig, Map, Build",
    )
    add(
        "duplicate",
        "Edit",
        "Duplicate",
        lambda: window.here(window.rig.duplicate, m.actions_of.duplicate, build.building.duplicate),
        "Ctrl+D",
        where="Rig, Map, Build",
    )
    add(
        "move-up",
        "Rig",
        "Move up its list",
        lambda: window.only_in_rig(lambda: window.rig.move(-1)),
        "Ctrl+Up",
        where="Rig",
    )
    add(
        "move-down",
        "Rig",
        "Move down its list",
        lambda: window.only_in_rig(lambda: window.rig.move(1)),
        "Ctrl+Down",
        where="Rig",
    )
    add(
        "remove",
        "Edit",
        "Remove from the show",
        lambda: window.here(window.rig.remove, m.actions_of.remove, build.building.remove),
        "Delete",
        where="Rig, Map, Build",
    )
    add(
        "tables",
        "Rig",
        "Tables for fast entry, or back",
        lambda: window.in_rig(lambda: window.rig.show_tables(not window.rig.table_button.isChecked())),
        "Ctrl+T",
        where="Rig",
    )
    add("rig-sheet", "Rig", "Rig sheet as PDF or PNG…", window.rig.ask_sheet, "Ctrl+P", where="Rig")
    add(
        "identify",
        "Rig",
        "Identify the selected output on its display",
        window.rig.inspector.identify,
        "Ctrl+I",
        where="Rig",
    )
    add(
        "allow-folders",
        "Rig",
        "Allow folders of PNG files outside the show's own",
        window.outputs.allow_folders,
        where="Rig",
    )
    add("wall-new", "Watch", "New wall of pictures, four by four", window.watch.make)
    for page, words in enumerate(WATCH_PAGES):
        add(f"watch-{page}", "Watch", words, partial(window.watch_page, page))
    for n in range(9):
        add(f"wall-{n + 1}", "Watch", f"Wall {n + 1}", partial(window.watch.choose, n))
    add("mute-all", "Watch", "Mute all sound, or lift it", window.watch.sound.mute)
    add("find", "Help", "Find a command", window.finder.open, "Ctrl+K")
    add("log", "Help", "Show the log", window.log_sheet.open)
    add("as-run", "Help", "What was on today, surface by surface", window.as_run_sheet.open)
    add("keys", "Help", "Keys of this workspace", lambda: window.sheet.open(window.workspace), "?")
