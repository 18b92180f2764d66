"""The commands about signals and the rig: timing, link, edid, rig."""

from __future__ import annotations

import json
import os
from pathlib import Path
from typing import Annotated, Any, cast, get_args

import typer

from ushering_adze.core.displays.rig import rig_of
from ushering_adze.core.show import Fault, ShowError
from ushering_adze.core.signal.advice import suggestions, timing_for
from ushering_adze.core.signal.edid import EdidWish, made_edid
from ushering_adze.core.signal.edid_read import read_edid
from ushering_adze.core.signal.link import Encoding, link_named, load
from ushering_adze.core.signal.timing import SignalError, SignalTiming, Standard, plain, wanted
from ushering_adze.io.asking import read_small
from ushering_adze.io.showfile import read_show
from ushering_adze.io.writing import write_whole

SizeArgument = Annotated[
    str, typer.Argument(metavar="SIZE@RATE", help="Like 1920x1080@60, 1920x1080i@59.94 or 2688x864@50.")
]
StandardOption = Annotated[
    str | None,
    typer.Option(
        "--standard", help="cvt, cvt-rb, cvt-rb2 or cta; by default cta where it has the format, else reduced blanking."
    ),
]
JsonOption = Annotated[bool, typer.Option("--json", help="Print JSON.")]


def _timing(size: str, standard: str | None) -> SignalTiming:
    width, height, rate, interlaced = wanted(size)
    if standard is not None and (standard not in get_args(Standard) or standard == "custom"):
        raise SignalError(f'no standard "{standard}"; there are: cvt, cvt-rb, cvt-rb2, cta')
    made = timing_for(width, height, rate, cast(Standard | None, standard), interlaced)
    if made.h_active != width:
        typer.echo(
            f"adze: {made.standard} counts in cells of 8 px, so {width} px become {made.h_active}; cvt-rb2 keeps "
            f"{width}",
            err=True,
        )
    return made


def timing_command(size: SizeArgument, standard: StandardOption = None, as_json: JsonOption = False) -> None:
    """Compute the video timing of a size and rate."""
    made = _timing(size, standard)
    if as_json:
        print(json.dumps(made.as_dict()))
        return
    t = made.as_dict()
    print(
        f"{made.h_active}×{made.v_active}{'i' if made.interlaced else ''} at {plain(made.refresh_hz, 3)} Hz, "
        f"{made.standard}" + (f", format {made.vic}" if made.vic else "")
    )
    print(f"clock   {plain(made.clock_khz / 1000, 6)} MHz, lines {plain(made.line_khz, 3)} kHz")
    for name, axis, positive in (("across", "h", made.h_positive), ("down", "v", made.v_positive)):
        print(
            f"{name:<8}{t[axis + '_active']} + front {t[axis + '_front']} + sync {t[axis + '_sync']} + back "
            f"{t[axis + '_back']} = {t[axis + '_total']}, sync {'positive' if positive else 'negative'}"
        )


def link_command(
    size: SizeArgument,
    link: Annotated[
        str,
        typer.Option(
            "--link",
            help="dvi, dvi-dual, hdmi1.4, hdmi2.0, hdmi2.1, dp1.2, dp1.4, sdi1.5, sdi3, sdi6, sdi12 or stream.",
        ),
    ],
    bits: Annotated[int, typer.Option("--bits", help="8, 10 or 12.")] = 8,
    encoding: Annotated[str, typer.Option("--encoding", help="rgb, 444, 422 or 420.")] = "rgb",
    standard: StandardOption = None,
    mbps: Annotated[
        float | None, typer.Option("--mbps", min=0.001, help="Bit rate of a stream, if it is known.")
    ] = None,
    as_json: JsonOption = False,
) -> None:
    """Say whether a link carries a size and rate, and what would fit if not; exit code 1 when it does not fit."""
    made = _timing(size, standard)
    kind = link_named(link)
    budget = load(made, kind, bits, cast(Encoding, encoding), mbps)
    width, height, rate, interlaced = wanted(size)
    found = []
    if not budget.fits and not interlaced:
        found = suggestions(width, height, rate, kind, bits, cast(Encoding, encoding), cast(Standard | None, standard))
    if as_json:
        report: dict[str, Any] = {
            "fits": budget.fits,
            "used": plain(budget.used),
            "capacity": plain(budget.capacity),
            "unit": budget.unit,
            "words": budget.words,
            "link": kind.name,
            "timing": made.as_dict(),
            "suggestions": [{"kind": s.kind, "words": s.words} for s in found],
        }
        print(json.dumps(report, ensure_ascii=False))
    else:
        print(f"{kind.words}: {budget.words}")
        for s in found:
            print(f"  would fit: {s.words}")
    if not budget.fits:
        raise typer.Exit(1)


edid_app = typer.Typer(help="Make and read EDIDs.", no_args_is_help=True, add_completion=False)


@edid_app.command("make")
def edid_make(
    size: SizeArgument,
    name: Annotated[str, typer.Option("--name", help="1 to 13 characters.")],
    out: Annotated[Path, typer.Option("--out", help="The .bin file to write.")],
    standard: StandardOption = None,
    rates: Annotated[str, typer.Option("--rates", help="Lowest and highest picture rate taken, like 24-60.")] = "24-60",
    audio: Annotated[bool, typer.Option("--audio", help="Take sound too.")] = False,
    ycbcr: Annotated[bool, typer.Option("--ycbcr", help="Take YCbCr 4:4:4 and 4:2:2 too.")] = False,
) -> None:
    """Make an EDID that asks a source for a size and rate."""
    low, mark, high = rates.partition("-")
    if not mark or not low.strip().isdigit() or not high.strip().isdigit() or not 1 <= int(low) <= int(high) <= 255:
        raise SignalError(f'the rates "{rates}" are no range; write two whole numbers from 1 to 255, like 24-60')
    write_whole(out, made_edid(EdidWish(_timing(size, standard), name, audio, ycbcr, (int(low), int(high)))))
    print(out)


@edid_app.command("read")
def edid_read(
    path: Annotated[Path, typer.Argument(metavar="FILE", help="An EDID in binary.")], as_json: JsonOption = False
) -> None:
    """Say in words what an EDID asks for."""
    try:
        found = read_edid(read_small(path, "EDID"))
    except SignalError as error:
        raise ShowError([Fault(path.name, str(error))]) from None
    print(json.dumps(found.as_dict(), ensure_ascii=False) if as_json else "\n".join(found.words))


def rig_command(
    show: Annotated[Path, typer.Argument(metavar="SHOW", help="A show file.")],
    out: Annotated[Path | None, typer.Option("--out", help="The rig sheet to write: .pdf or .png.")] = None,
    as_json: JsonOption = False,
) -> None:
    """Write the rig sheet of a show, or print the rig as JSON."""
    value = read_show(show)
    if out is not None:
        if out.suffix.lower() not in (".pdf", ".png"):
            raise ShowError([Fault(out.name, "a rig sheet is a .pdf or a .png; give the file one of these endings")])
        os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        from ushering_adze.desk.rig.sheet import save_sheet

        save_sheet(value, out)
        print(out)
    if as_json or out is None:
        print(json.dumps(rig_of(value), ensure_ascii=False, indent=1))
