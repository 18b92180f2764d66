"""Pages, texts, clocks: turned by actions, the same for everyone in the same frame."""

from __future__ import annotations

import os
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest
from reportlab.pdfgen.canvas import Canvas as Sheet

from ushering_adze.core.onair.actions import Next, Page, Previous, Recall
from ushering_adze.core.show import (
    Canvas,
    Clock,
    ColourSource,
    Dress,
    Folder,
    Layer,
    LayerSettings,
    Output,
    Pages,
    Picture,
    RectLanding,
    Region,
    Show,
    ShowError,
    Text,
    Timing,
    show_from_document,
)
from ushering_adze.core.show.following import with_pages_in_turn
from ushering_adze.core.show.rigging import without_item
from ushering_adze.core.show.show import document_of
from ushering_adze.core.text.clocks import clock_words
from ushering_adze.core.text.lines import broken
from ushering_adze.core.text.pages import Shown, pages_of_table, pages_of_text, stops_of
from ushering_adze.engine.engine import Engine
from ushering_adze.io.media import open_player
from ushering_adze.io.media.fonts import OWN, file_of, font_files, letters_of
from ushering_adze.io.media.lettering import from_right, set_text
from ushering_adze.io.media.paged import PagesPlayer, TextPlayer, read_pages
from ushering_adze.io.media.still import MediaError
from waiting import wait_for

NAMES = "Ida Quill\n-- Photographic plates\n\nBram Okoro\n+\nand the night assistants\n\nClosing words\n"
SMALL = Dress(width=320, height=180, size=24, smallest=8)
STRIP = SMALL.model_copy(update={"layout": "strip", "density": 0.8, "size": 14, "align": "left"})


def pdf(path: Path, pages: int = 3, width: float = 640, height: float = 360) -> Path:
    """A page of flat grey each, 60 darker from page to page."""
    sheet = Sheet(str(path), pagesize=(width, height))
    for n in range(pages):
        sheet.setFillGray((240 - 60 * n) / 255)
        sheet.rect(0, 0, width, height, stroke=0, fill=1)
        sheet.showPage()
    sheet.save()
    return path


def show_of(*sources: object) -> Show:
    """Each source whole on a canvas and an output of its own."""
    canvases, outputs = [], []
    for n, source in enumerate(sources):
        layer = Layer(id=f"l{n}", name="L", settings=LayerSettings(picture=Picture(source=source.id, fit="stretch")))
        land = RectLanding(x=0, y=0, w=320, h=180)
        region = Region(id=f"r{n}", name="R", x=0, y=0, w=320, h=180, output=f"o{n}", landing=land)
        canvases.append(Canvas(id=f"c{n}", name="C", width=320, height=180, layers=(layer,), regions=(region,)))
        outputs.append(Output(id=f"o{n}", number=n + 1, name="O", timing=Timing(width=320, height=180)))
    return Show(name="S", rate=25, sources=sources, canvases=tuple(canvases), outputs=tuple(outputs))


@pytest.fixture
def run() -> Iterator[object]:
    engines: list[Engine] = []

    def begin(show: Show) -> Engine:
        engines.append(Engine(show))
        engines[-1].start(wait=30)
        return engines[-1]

    yield begin
    for engine in engines:
        engine.stop()


# -- reading -----------------------------------------------------------------------------------------------------------


def test_pages_steps_and_second_fields_of_every_kind_of_file(tmp_path: Path) -> None:
    pages = pages_of_text("\ufeff" + NAMES)
    assert [p.steps for p in pages] == [
        ("Ida Quill",),
        ("Bram Okoro", "and the night assistants"),
        ("Closing words",),
    ]
    assert [p.second for p in pages] == ["Photographic plates", "", ""]
    assert [s.seen for s in stops_of(pages)][1:3] == ["Bram Okoro", "Bram Okoro\nand the night assistants"]
    table = 'role;text\nHost;Ida Quill\n;\nGuest;"Bram Okoro\n+\nlate"\n'
    found = pages_of_table(table)
    assert [(p.steps, p.second) for p in found] == [(("Ida Quill",), "Host"), (("Bram Okoro", "late"), "Guest")]
    assert [p.steps for p in pages_of_table("a,b\nc,d\n")] == [("a",), ("c",)], "without heads every row is a page"
    first = "1\n00:00:01,000 --> 00:00:02,000\nStars turn\nabout the pole\n\n"
    (tmp_path / "s.srt").write_text(first + "2\n00:00:03,000 --> 00:00:04,000\n<i>Dawn</i>\n")
    assert [p.steps[0] for p in read_pages(tmp_path / "s.srt")] == ["Stars turn\nabout the pole", "Dawn"]
    (tmp_path / "e.txt").write_text("\n\n")
    with pytest.raises(MediaError, match="has no text in it"):
        read_pages(tmp_path / "e.txt")


def test_a_text_has_one_origin_and_is_not_made_of_itself() -> None:
    with pytest.raises(ValueError, match="give one of path, words, follows"):
        Text(id="t", name="T", words="a", path="b.txt")
    show = show_of(Text(id="t", name="T", words="a"), Text(id="u", name="U", follows="t"))
    assert show_from_document(document_of(show)) == show
    for wrong, words in (("u", "cannot be made of itself"), ("nobody", "no source")):
        document = document_of(show)
        document["sources"][1]["follows"] = wrong
        with pytest.raises(ShowError, match=words):
            show_from_document(document)
    bare = show.model_copy(update={"canvases": ()})
    with pytest.raises(ShowError, match="source U"):
        without_item(bare, "sources", "t")


# -- setting -----------------------------------------------------------------------------------------------------------


def ink(pixels: np.ndarray, over: int = 100) -> tuple[int, int, int, int]:
    """Left, top, right and foot of what is bright."""
    y, x = np.nonzero(pixels[..., :3].max(-1) > over)
    return int(x.min()), int(y.min()), int(x.max()) + 1, int(y.max()) + 1


def test_text_fits_its_safe_area_and_says_when_it_cannot() -> None:
    long = " ".join(["Lanternfell"] * 30)
    made = set_text(Shown(long, long, "", 1, 1), SMALL)
    x0, y0, x1, y1 = ink(made.pixels)
    assert made.fault is None and x0 >= 16 - 1 and x1 <= 304 + 1 and y0 >= 9 - 1 and y1 <= 171 + 1, "5 % on each side"
    much = " ".join(["Lanternfell"] * 400)
    told = set_text(Shown(much, much, "", 4, 9), SMALL).fault
    assert told is not None and "page 4 does not fit its box in letters of 8 px; shorten it" in told
    short = set_text(Shown("Ida", "Ida", "", 1, 1), SMALL)
    assert short.pixels[0, 0, 3] == 0 and not short.opaque, "a transparent ground"
    one = ink(short.pixels)
    assert one[3] - one[1] <= 24, "never larger than its letters"


def test_steps_do_not_move_what_stands_there_already() -> None:
    first, whole = stops_of(pages_of_text("Bram Okoro\n+\nand others"))
    a, b = set_text(first, SMALL).pixels, set_text(whole, SMALL).pixels
    rows = slice(0, ink(a, 0)[3])
    assert np.array_equal(a[rows], b[rows]) and (b[rows.stop :] > 0).any() and not (a[rows.stop :] > 0).any()


def test_a_strip_lies_at_the_foot_and_its_second_field_beneath() -> None:
    made = set_text(stops_of(pages_of_text(NAMES))[0], STRIP)
    top = round(180 * (1 - STRIP.strip))
    assert not made.pixels[: top - 1].any() and (made.pixels[top + 1 :, :, 3] >= 203).all(), "its box, 80 % dense"
    amber = np.abs(made.pixels[..., :3].astype(int) - (87, 168, 227)).sum(-1) < 60
    white = made.pixels[..., :3].min(-1) > 200
    assert np.nonzero(amber)[0].min() >= np.nonzero(white)[0].max(), "beneath"
    bare = set_text(stops_of(pages_of_text(NAMES))[0], STRIP.model_copy(update={"second": False}))
    assert not (np.abs(bare.pixels[..., :3].astype(int) - (87, 168, 227)).sum(-1) < 60).any()


def test_arabic_runs_from_the_right_and_joins_its_letters() -> None:
    """Joined by HarfBuzz: the width of a word is not that of its letters apart (Unicode 15, section 9.2)."""
    if not any(0x0633 in letters_of(path) for path in font_files()):
        pytest.skip("no font with Arabic letters: apt-get install fonts-noto-core")
    assert from_right("سالم 120") and not from_right("120 Ida")
    left = SMALL.model_copy(update={"align": "left", "second": False})
    word = "سالم"
    made = set_text(Shown(word, word, "", 1, 1), left)
    assert made.fault is None and ink(made.pixels)[2] > 290, "beginning at the right"
    apart = set_text(Shown("\u200c".join(word), "\u200c".join(word), "", 1, 1), left)
    joined, loose = (ink(p.pixels)[2] - ink(p.pixels)[0] for p in (made, apart))
    assert joined < loose


def test_japanese_breaks_between_letters_but_not_before_a_full_stop() -> None:
    assert broken("星を見上げて百年。", 4, len) == ["星を見上", "げて百", "年。"]
    assert broken("turn about\nthe pole", 30, len) == ["turn about", "the pole"]
    if any(0x661F in letters_of(path) for path in font_files()):
        assert set_text(Shown("星の夜", "星の夜", "", 1, 1), SMALL).fault is None


def test_letters_that_no_font_has_are_said() -> None:
    told = set_text(Shown("Ida \U0010fffd", "Ida \U0010fffd", "", 1, 1), SMALL).fault
    assert told is not None and "no font here has" in told and "install fonts-noto-core" in told
    assert file_of("B612").parent == OWN == file_of("No Such Font 99").parent


# -- turning -----------------------------------------------------------------------------------------------------------


def test_the_hall_and_the_stream_turn_in_the_same_frame_each_in_its_dress(run: object) -> None:
    hall = Text(id="names", name="Names", words=NAMES, dress=SMALL)
    stream = Text(id="strip", name="Names, strip", follows="names", dress=STRIP)
    engine = run(show_of(hall, stream))
    stops = stops_of(pages_of_text(NAMES))
    want = [(set_text(s, SMALL).pixels, set_text(s, STRIP).pixels) for s in stops]
    seen: list[tuple[int, int]] = []
    frame = engine._frame

    def look(now: float) -> None:
        frame(now)
        at = [
            next((n for n, w in enumerate(want) if np.array_equal(engine.rasters[o][..., :3], w[k][..., :3])), -1)
            for k, o in enumerate(("o0", "o1"))
        ]
        if not seen or seen[-1] != tuple(at):
            seen.append((at[0], at[1]))

    engine._frame = look
    for action, stop in (
        (Next(source="names"), 1),
        (Next(source="strip"), 2),
        (Next(source="names"), 3),
        (Next(source="names"), 3),
        (Previous(source="names"), 2),
        (Page(source="names", to=1), 0),
        (Previous(source="names"), 0),
        (Page(source="strip", to=3), 3),
        (Page(source="names", to=99), 3),
        (Previous(source="names"), 2),
    ):
        engine.act(action)
        assert wait_for(lambda stop=stop: bool(seen) and seen[-1] == (stop, stop)), (action, seen[-1])
    assert all(a == b for a, b in seen if -1 not in (a, b)), "never two pages at once"


def test_new_words_are_on_air_at_once(run: object) -> None:
    show = show_of(Text(id="note", name="To the speaker", words="Two minutes", dress=SMALL))
    engine = run(show)
    before = set_text(stops_of(pages_of_text("Two minutes"))[0], SMALL).pixels[..., :3]
    assert wait_for(lambda: np.array_equal(engine.rasters["o0"][..., :3], before))
    said = show.source("note").model_copy(update={"words": "Stop now"})
    engine.set_show(show.model_copy(update={"sources": (said,)}))
    after = set_text(stops_of(pages_of_text("Stop now"))[0], SMALL).pixels[..., :3]
    assert wait_for(lambda: np.array_equal(engine.rasters["o0"][..., :3], after))


def test_pages_of_a_document_are_turned_on_air(run: object, tmp_path: Path) -> None:
    source = Pages(id="p", name="Programme", path=str(pdf(tmp_path / "p.pdf")), width=320, height=180)
    engine = run(show_of(source))

    def grey() -> int:
        return int(np.median(engine.rasters["o0"][..., 0]))

    assert wait_for(lambda: abs(grey() - 240) <= 1)
    for action, level in ((Next, 180), (Next, 120), (Next, 120), (Previous, 180)):
        engine.act(action(source="p"))
        assert wait_for(lambda level=level: abs(grey() - level) <= 1)
    engine.act(Page(source="p", to=3))
    assert wait_for(lambda: abs(grey() - 120) <= 1)
    engine.act(Recall(preset=1))
    assert engine.faults() == {}


def test_pages_side_by_side_turn_together(run: object, tmp_path: Path) -> None:
    source = Pages(id="p", name="Programme", path=str(pdf(tmp_path / "p.pdf", pages=4)), width=320, height=180)
    show, ids = with_pages_in_turn(show_of(source), "p", 2)
    assert ids == ("p", "programme-1-on") and with_pages_in_turn(show, ids[1], 2) == (show, ids), "none twice"
    with pytest.raises(ValueError, match="has no pages that are turned"):
        with_pages_in_turn(show_of(ColourSource(id="c", name="C", fill="#000000")), "c", 2)
    engine = run(show_of(*show.sources))

    def greys() -> list[int]:
        return [round(float(np.median(engine.rasters[o][..., 0]))) for o in ("o0", "o1")]

    for action, levels in (
        (None, (240, 180)),
        (Next(source="p"), (180, 120)),
        (Next(source=ids[1]), (120, 60)),
        (Next(source="p"), (60, 60)),
        (Page(source="p", to=1), (240, 180)),
    ):
        if action is not None:
            engine.act(action)
        assert wait_for(lambda levels=levels: np.abs(np.subtract(greys(), levels)).max() <= 1), (action, greys())
    assert engine.faults() == {}


def test_documents_that_cannot_be_read_are_a_sentence(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    from reportlab.lib.pdfencrypt import StandardEncryption

    locked = Sheet(str(tmp_path / "l.pdf"), encrypt=StandardEncryption("hush", ownerPassword="more"))
    locked.showPage()
    locked.save()
    (tmp_path / "d.pdf").write_bytes(pdf(tmp_path / "ok.pdf").read_bytes()[:200])
    (tmp_path / "s.pptx").write_bytes(b"PK")
    monkeypatch.setenv("PATH", str(tmp_path))
    for name, words in (
        ("l.pdf", "locked with a password; save it without one"),
        ("d.pdf", "no PDF that can be read, or it is damaged"),
        ("none.pdf", "no file none.pdf"),
        ("s.pptx", "slides need LibreOffice; install libreoffice-impress, or export a PDF"),
    ):
        player = open_player(Pages(id="p", name="P", path=str(tmp_path / name)))
        assert player.fault is not None and words in player.fault, player.fault


def test_office_slides_go_through_libreoffice(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """A stand-in for the program: called as it documents (soffice --convert-to, from memory), it writes a PDF."""
    made = pdf(tmp_path / "made.pdf", pages=2)
    office = tmp_path / "bin" / "soffice"
    office.parent.mkdir()
    office.write_text(
        '#!/bin/sh\nwhile [ $# -gt 1 ]; do [ "$1" = --outdir ] && out=$2; shift; done\n'
        f'[ -n "$out" ] && cp {made} "$out/$(basename "$1" .pptx).pdf"\n'
    )
    office.chmod(0o755)
    monkeypatch.setenv("PATH", f"{office.parent}:{os.environ['PATH']}")
    (tmp_path / "talk.pptx").write_bytes(b"PK")
    player = open_player(Pages(id="p", name="P", path=str(tmp_path / "talk.pptx"), width=320, height=180))
    assert isinstance(player, PagesPlayer) and player.pages == 2
    assert player.exact(1.0).pixels.shape == (180, 320, 4)
    player.close()


def test_a_folder_may_be_turned_by_hand_alone(run: object, tmp_path: Path) -> None:
    for n in range(3):
        cv2.imwrite(str(tmp_path / f"{n}.png"), np.full((18, 32, 3), 60 + 60 * n, np.uint8))
    engine = run(show_of(Folder(id="f", name="Slides", path=str(tmp_path), hold=0.1, by_hand=True)))
    assert wait_for(lambda: engine.rasters["o0"][..., 0].max() == 60)
    frames = engine.frames
    assert wait_for(lambda: engine.frames > frames + 10) and engine.rasters["o0"][..., 0].max() == 60, "it stands"
    engine.act(Next(source="f"))
    assert wait_for(lambda: engine.rasters["o0"][..., 0].max() == 120)
    engine.act(Previous(source="f"))
    assert wait_for(lambda: engine.rasters["o0"][..., 0].max() == 60)


# -- clocks ------------------------------------------------------------------------------------------------------------


def test_clocks_say_what_they_are_for() -> None:
    args = ("20:00", 600, 60.0, 15.0)
    assert clock_words("time", 72005.9, 0, *args) == ("20:00:05", "plain")
    assert clock_words("until", 71999.2, 0, *args) == ("0:01", "plain")
    assert clock_words("until", 72001, 0, *args)[0] == "23:59:59", "what is past is tomorrow's"
    assert clock_words("up", 0, 3661.9, *args) == ("1:01:01", "plain")
    speaker = [clock_words("speaker", 0, t, *args) for t in (0, 539.5, 540, 585, 600, 601)]
    assert speaker == [
        ("10:00", "green"),
        ("1:01", "green"),
        ("1:00", "amber"),
        ("0:15", "red"),
        ("0:00", "red"),
        ("−0:01", "red"),
    ]


def test_a_speakers_time_runs_on_air_and_changes_its_colour(run: object) -> None:
    dress = SMALL.model_copy(update={"size": 90, "density": 1.0})
    clock = Clock(id="c", name="Speaker", shows="speaker", seconds=2, dress=dress)
    clock = clock.model_copy(update={"mark": clock.mark.model_copy(update={"amber": 1.5, "red": 0.5})})
    engine = run(show_of(clock))

    def has(red: int, green: int, blue: int) -> bool:
        away = np.abs(engine.rasters["o0"][..., :3].astype(int) - (blue, green, red)).sum(-1)
        return bool((away < 30).sum() > 20)

    assert wait_for(lambda: has(0xE8, 0x68, 0x5A)), "red, and over"
    for where, hours in (("time", True), ("until", False)):
        player = open_player(Clock(id="x", name="X", shows=where, dress=SMALL))
        assert player.exact(0.0).pixels.shape == (180, 320, 4) and hours in (True, False)


def test_texts_are_opened_ahead(tmp_path: Path) -> None:
    (tmp_path / "n.txt").write_text(NAMES)
    player = open_player(Text(id="t", name="T", path=str(tmp_path / "n.txt"), dress=SMALL))
    assert isinstance(player, TextPlayer) and (player.pages, player.stops) == (3, 4)
    player.frame(0.0)
    assert wait_for(lambda: player._drawn.ready(1) is not None), "the next stop is set before it is asked for"
