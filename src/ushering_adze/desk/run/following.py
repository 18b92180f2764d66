"""How a cue list follows timecode: its part of the list's menu."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QMenu

from ushering_adze.core.document.entry import EntryError, number_from
from ushering_adze.core.document.model import Fault, ShowError
from ushering_adze.core.onair.actions import Action, RunCode
from ushering_adze.core.show.cue import CueList
from ushering_adze.core.show.timecode import Chase
from ushering_adze.core.signal.timecode import RATES

SOURCES = (("internal", "the program's own"), ("artnet", "Art-Net"))
JUMPS = (
    ("pass", "A jump forwards fires nothing it passes"),
    ("last", "It fires the last cue it passes"),
    ("fire", "It fires all cues it passes"),
)


def offset_by(chase: Chase | None, text: str) -> Chase:
    """How a list follows timecode, with another offset that was typed.

    Raises
    ------
    ShowError
        If it is no number of seconds.
    """
    chase = Chase() if chase is None else chase
    try:
        return Chase.model_validate({**chase.model_dump(), "offset": number_from(text, now=chase.offset)})
    except (EntryError, ValueError):
        raise ShowError([Fault("", f"{text[:20]} is no offset; type seconds from −86400 to 86400")]) from None


def chase_menu(
    menu: QMenu,
    cues: CueList,
    change: Callable[..., object],
    act: Callable[[Action], None],
    ask_offset: Callable[[], object],
) -> None:
    """Add what there is to say of a list's timecode."""
    chase = cues.code
    under = menu.addMenu("Follows timecode")

    def choice(words: str, made: Chase | None, on: bool) -> None:
        entry = under.addAction(words)
        entry.setCheckable(True)
        entry.setChecked(on)
        entry.triggered.connect(lambda checked=False: change(code=made))

    known = Chase() if chase is None else chase
    choice("None", None, chase is None)
    for source, words in SOURCES:
        made = known.model_copy(update={"source": source})
        choice(f"From {words}", made, chase is not None and chase.source == source)
    if chase is None:
        return
    under.addSeparator()
    for rate in RATES:
        choice(f"{rate} frames a second", chase.model_copy(update={"rate": rate}), chase.rate == rate)
    under.addSeparator()
    for jumps, words in JUMPS:
        choice(words, chase.model_copy(update={"jumps": jumps}), chase.jumps == jumps)
    under.addSeparator()
    under.addAction("Offset…").triggered.connect(lambda checked=False: ask_offset())
    if chase.source == "internal":
        for words, action in (
            ("Its own timecode: go on", RunCode()),
            ("Its own timecode: stand", RunCode(on=False)),
            ("Its own timecode: from 00:00:00:00", RunCode(seconds=0.0)),
        ):
            under.addAction(words).triggered.connect(lambda checked=False, action=action: act(action))
