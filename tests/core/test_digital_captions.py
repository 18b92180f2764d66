"""Digital captions: packets put together as CEA-708 says (from memory), read as a viewer would; what carries them."""

from __future__ import annotations

from hypothesis import given, settings
from hypothesis import strategies as st

from ushering_adze.core.signal.captioned import CaptionsOfPictures, carried_by
from ushering_adze.core.signal.captions708 import Captions708

SHOW, HIDE, TURN, DELETE, CLEAR = 0x89, 0x8A, 0x8B, 0x8C, 0x88


def window(n: int, down: int, rows: int, seen: bool = False) -> bytes:
    """A window at a height, of so many rows of 32 letters."""
    return bytes((0x98 + n, 0x20 if seen else 0, down, 0, rows - 1, 31, 0))


def words(text: str, row: int | None = None) -> bytes:
    return (b"" if row is None else bytes((0x92, row, 0))) + text.encode("latin-1")


def packets(data: bytes, service: int = 1, number: int = 0) -> list[tuple[bool, int, int]]:
    """Blocks of at most 31 bytes, each in a packet of its own, as pairs of bytes and whether they begin one."""
    made = []
    for at in range(0, len(data), 30):
        block = data[at : at + 30]
        head = bytes((service << 5 | len(block),)) if service < 7 else bytes((0xE0 | len(block), service))
        body = head + block
        body += b"\x00" * (1 - len(body) % 2)  # the head of the packet and this make whole pairs
        whole = bytes((number % 4 << 6 | (len(body) + 1) // 2,)) + body
        number += 1
        pairs = zip(whole[::2], whole[1::2], strict=True)
        made += [(n == 0, a, b) for n, (a, b) in enumerate(pairs)]
    return made


def triples(parts: list[tuple[bool, int, int]]) -> list[bytes]:
    return [bytes((0xFF if begins else 0xFE, a, b)) for begins, a, b in parts]


def read(*data: bytes, service: int = 1) -> str:
    made = Captions708()
    for part in packets(b"".join(data), service):
        made.take(*part)
    return made.text


def test_a_window_is_read_while_it_is_shown() -> None:
    page = (window(0, 60, 2), words("GOOD EVENING,", 0), words("night assistants.", 1))
    assert read(*page) == ""
    assert read(*page, bytes((SHOW, 1))) == "GOOD EVENING,\nnight assistants."
    assert read(*page, bytes((SHOW, 1, HIDE, 1))) == "" == read(*page, bytes((SHOW, 1, DELETE, 1)))
    assert read(*page, bytes((TURN, 1))) == "GOOD EVENING,\nnight assistants."
    assert read(*page, bytes((SHOW, 1, CLEAR, 1))) == ""
    assert read(*page, bytes((SHOW, 1)), b"\x8f") == "", "all is set back"
    assert read(*page, bytes((SHOW, 1)), service=2) == "", "another service"
    assert read(*page, bytes((SHOW, 1)), service=9) == ""


def test_windows_stand_in_their_order_from_the_top() -> None:
    low, high = (window(1, 70, 1, True), words("BELOW", 0)), (window(2, 5, 1, True), words("ABOVE", 0))
    assert read(*low, *high) == "ABOVE\nBELOW"
    assert read(*low, *high, b"\x81", words(" ALL")) == "ABOVE\nBELOW ALL", "the pen goes back"


def test_rows_roll_and_letters_are_mended() -> None:
    roll = window(0, 60, 2, True)
    assert read(roll, b"ONE\rTWO") == "ONE\nTWO"
    assert read(roll, b"ONE\rTWO\rTHREE") == "TWO\nTHREE"
    assert (
        read(roll, b"ABC\x08D") == "ABD" and read(roll, b"GONE\x0cNEW") == "NEW" and read(roll, b"GONE\x0eNEW") == "NEW"
    )
    assert read(roll, b"\x7f caf\xe9 \x10\x32\x10\x76") == "♪ café ’⅛"
    assert read(roll, b"\x18\x26\x3aA") == "\u263aA" and read(roll, b"\x18\xd8\x00A") == "_A"
    looks = b"\x90\x05\x00\x91\x3f\x00\x00\x97\x00\x00\x00\x00\x8d\x05\x8e\x10\x08\x01\x10\x80\x01\x02\x03\x04"
    assert read(roll, b"A", looks, b"B") == "AB", "how letters look is passed over, with all its bytes"


def test_captions_go_on_from_packet_to_packet_and_after_a_lost_one() -> None:
    long = "A SENTENCE THAT IS LONGER THAN ONE"
    parts = packets(window(0, 60, 1, True) + words(long, 0) + bytes((SHOW, 1)))
    made = Captions708()
    for part in parts[3:]:  # it was joined in the middle of a packet
        made.take(*part)
    assert made.text == ""
    for part in [*parts, (True, 0x3F, 0x3F), *parts]:
        made.take(*part)
    assert made.text == long


def test_line_21_is_read_where_there_is_any_and_digital_ones_else() -> None:
    page = triples(packets(window(0, 60, 1, True) + words("DIGITAL", 0)))
    alone, both = CaptionsOfPictures(), CaptionsOfPictures()
    for one in page:
        alone.take(b"\xfc\x80\x80" + one)
    assert alone.text == "DIGITAL"
    line = [(0x94, 0x29), (0x94, 0x29), (0x94, 0xD0), (0x94, 0xD0), (0xCC, 0xC9), (0xCE, 0xC5)]
    for (a, b), one in zip(line, [*page, *[b""] * len(line)], strict=False):
        both.take(bytes((0xFC, a, b)) + one)
    assert both.text == "LINE"


@given(st.lists(st.tuples(st.booleans(), st.integers(0, 255), st.integers(0, 255)), max_size=200))
@settings(deadline=None, max_examples=200)
def test_damaged_captions_are_no_fault(parts: list[tuple[bool, int, int]]) -> None:
    made = Captions708()
    for part in parts:
        made.take(*part)
    made.text.encode()


@given(st.lists(st.binary(min_size=3, max_size=3), max_size=31), st.binary(max_size=40), st.binary(max_size=40))
@settings(deadline=None, max_examples=200)
def test_what_a_packet_carries_is_found_without_decoding_it(items: list[bytes], before: bytes, behind: bytes) -> None:
    """Also where an encoder has put a 3 behind two zeros (ITU-T H.264, 7.4.1, from memory)."""
    data = bytes((0x40 | len(items), 0xFF)) + b"".join(items) + b"\xff"
    coded = bytearray()
    for byte in data:
        if byte <= 3 and coded[-2:] == b"\x00\x00":
            coded.append(3)
        coded.append(byte)
    mark = b"\xb5\x00\x31GA94\x03"
    assert list(carried_by(before + mark + bytes(coded) + behind))[:1] == [b"".join(items)]
