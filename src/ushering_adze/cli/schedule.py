"""The command `schedule`: what the calendar makes happen within days, tried in seconds; calendars in and out."""

from __future__ import annotations

import json
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import Annotated, Any

import typer

from ushering_adze.core.exchange.cue_words import action_words
from ushering_adze.core.exchange.ical import as_ical, events_from
from ushering_adze.core.onair.calendar import (
    RuleError,
    agenda,
    epoch_of,
    local_of,
    names_of,
    zone_of,
)
from ushering_adze.core.onair.simulating import Then, simulated
from ushering_adze.core.show import Fault, Show, ShowError
from ushering_adze.io.showfile import read_show, save_show
from ushering_adze.io.today import zone_here
from ushering_adze.io.writing import write_whole

LONGEST = 400
"""Days that are tried at once."""


def schedule_command(
    show: Annotated[Path, typer.Argument(metavar="SHOW", help="A show file.")],
    since: Annotated[
        str | None, typer.Option("--from", metavar="DAY", help="Like 2026-12-01; today if not given.")
    ] = None,
    until: Annotated[str | None, typer.Option("--to", metavar="DAY", help="The day after the last; a week on.")] = None,
    zone: Annotated[str | None, typer.Option("--zone", help="Time zone of a show that names none.")] = None,
    as_json: Annotated[bool, typer.Option("--json", help="Print JSON.")] = False,
    take_in: Annotated[Path | None, typer.Option("--import", help="Take in the events of an .ics file.")] = None,
    save: Annotated[Path | None, typer.Option("--save", help="Where the show with them is written.")] = None,
    out: Annotated[Path | None, typer.Option("--export", help="Write the calendar to an .ics file.")] = None,
) -> None:
    """Work out what a show's calendar makes happen from one day to another, its cue lists running."""
    value = read_show(show)
    here = zone or value.time_zone or zone_here()
    try:
        place = zone_of(here)
    except RuleError as error:
        raise ShowError([Fault("--zone", str(error))]) from None
    if take_in is not None:
        value = _with_calendar(value, take_in)
        if save is not None:
            save_show(value, save)
    if out is not None:
        made = as_ical(value.schedule, value.name, here, datetime.now(UTC))
        write_whole(out, made.encode())
        print(f"{out}: {len(value.schedule)} events")
        return
    if take_in is not None and since is None:
        return
    today = datetime.now(place).strftime("%Y-%m-%d")
    first = _day(since or today, "--from")
    last = _day(until, "--to") if until is not None else first + timedelta(days=7)
    if not first < last <= first + timedelta(days=LONGEST):
        raise ShowError([Fault("--to", f"give a day after {first:%Y-%m-%d}, at most {LONGEST} days on")])
    of = agenda(value, here, epoch_of(first, place), epoch_of(last, place))
    found = list(simulated(value, of, here))
    if as_json:
        document = {
            "time_zone": here,
            "from": first.isoformat(),
            "to": last.isoformat(),
            "faults": of.faults,
            "happens": [_document(value, then, here) for then in found],
        }
        print(json.dumps(document, indent=1, ensure_ascii=False))
        return
    for why in of.faults.values():
        print(f"left out: {why}")
    for then in found:
        print(_line(value, then, here))


def _with_calendar(show: Show, path: Path) -> Show:
    try:
        text = path.read_text(encoding="utf-8", errors="replace")
    except OSError as error:
        raise ShowError([Fault(str(path), f"it cannot be read ({error.strerror}); name an .ics file")]) from None
    taken = events_from(text, show)
    for why in taken.faults:
        print(why)
    print(f"{len(taken.events)} events taken in")
    return show.model_copy(update={"schedule": (*show.schedule, *taken.events)})


def _day(text: str, where: str) -> datetime:
    try:
        return datetime.strptime(text, "%Y-%m-%d")
    except ValueError:
        raise ShowError([Fault(where, f"{text[:40]} is no day; write one like 2026-12-01")]) from None


def _names(then: Then) -> dict[str, str]:
    return {y.id: y.name for y in then.stage.show.lists}


def _line(show: Show, then: Then, zone: str) -> str:
    turn, words = then.turn, []
    for verb, which in (("ends", turn.ended), ("happens", turn.happened), ("begins", turn.begun)):
        words += [f"{verb}: {names_of(show, which)}"] if which else []
    does = "; ".join(action_words(a, show) for _, a in turn.does)
    words += [f"does {does}"] if does else []
    words += [f"{_names(then)[id]} fired {n} cues" for id, n in then.fired.items()]
    local = local_of(turn.at, zone_of(zone))
    return f"{local:%a %Y-%m-%d %H:%M:%S}  {' · '.join(words) or 'nothing is on'}"


def _document(show: Show, then: Then, zone: str) -> dict[str, Any]:
    turn = then.turn
    return {
        "at": local_of(turn.at, zone_of(zone)).isoformat(),
        "epoch": turn.at,
        "on": [o.event for o in turn.on],
        "ended": [o.event for o in turn.ended],
        "begun": [o.event for o in turn.begun],
        "happened": [o.event for o in turn.happened],
        "does": [{"event": event, "action": action.model_dump(mode="json")} for event, action in turn.does],
        "fired_before": then.fired,
        "on_program": then.stage.on_program,
    }
