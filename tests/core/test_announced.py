"""Streams that announce themselves: packets by RFC 2974 with descriptions by RFC 4566, written out by hand."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from ushering_adze.core.signal.announced import Announced, announced, announcement

# The example of RFC 4566, section 5 (from memory), with its picture carried by payload type 33.
EXAMPLE = """v=0
o=jdoe 2890844526 2890842807 IN IP4 10.47.16.5
s=SDP Seminar
i=A Seminar on the session description protocol
c=IN IP4 224.2.17.12/127
t=2873397496 2873404696
a=recvonly
m=audio 49170 RTP/AVP 0
m=video 51372 RTP/AVP {payload}
"""
HEAD = bytes([0x20, 0, 0x12, 0x34, 10, 47, 16, 5])


def test_an_announcement_is_read() -> None:
    sdp = EXAMPLE.format(payload=33)
    wanted = Announced("10.47.16.5/1234", "SDP Seminar", "rtp://224.2.17.12:51372")
    for text in (sdp, sdp.replace("\n", "\r\n")):
        assert announced(HEAD + b"application/sdp\0" + text.encode()) == wanted
        assert announced(HEAD + text.encode()) == wanted, "the type may be left out"
    assert announced(bytes([0x20, 2]) + HEAD[2:] + bytes(8) + sdp.encode()) == wanted, "with authentication data"
    own = sdp + "c=IN IP4 239.9.9.9/3\n"
    found = announced(HEAD + own.encode())
    assert found is not None and found.address == "rtp://239.9.9.9:51372", "a picture may have a place of its own"
    six = bytes([0x30, 0, 0, 1]) + bytes(15) + b"\x01"
    found = announced(six + sdp.replace("IN IP4 224.2.17.12/127", "IN IP6 ff15::101/3").encode())
    assert found == Announced("::1/0001", "SDP Seminar", "rtp://[ff15::101]:51372")
    found = announced(HEAD + EXAMPLE.format(payload=96).encode())
    assert found is not None and found.name == "SDP Seminar" and found.address is None, "known, and not to be read"


@pytest.mark.parametrize(
    "packet",
    [
        b"",
        HEAD,
        b"\x40" + HEAD[1:] + EXAMPLE.format(payload=33).encode(),
        b"\x22" + HEAD[1:] + EXAMPLE.format(payload=33).encode(),
        HEAD + b"text/plain\0" + EXAMPLE.format(payload=33).encode(),
        HEAD + EXAMPLE.format(payload=33).replace("m=video", "m=audio").encode(),
        HEAD + EXAMPLE.format(payload=33).replace("224.2.17.12", "no place").encode(),
        bytes([0x30, 0, 0, 1]) + bytes(8),
    ],
)
def test_what_is_no_announcement_of_a_picture_is_passed_over(packet: bytes) -> None:
    assert announced(packet) is None


@given(st.binary(max_size=200))
def test_nothing_that_comes_does_harm(packet: bytes) -> None:
    announced(packet)
    announced(HEAD + packet)


def test_what_is_announced_is_read_back_and_ends() -> None:
    for address in ("udp://239.1.2.3:5000", "rtp://239.1.2.3:5004"):
        found = announced(announcement("Roof camera", address))
        assert found is not None and (found.name, found.address) == ("Roof camera", address)
        over = announced(announcement("Roof camera", address, ended=True))
        assert over is not None and over.ended and over.key == found.key
