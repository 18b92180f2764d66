"""Streams that announce themselves on the network (SAP), with what they are (SDP)."""

from __future__ import annotations

import ipaddress
import zlib
from typing import NamedTuple

PORT, GROUP = 9875, "224.2.127.254"
"""Where sessions are announced (RFC 2974, section 3)."""
EVERY = 5.0
"""Seconds from one announcement of ours to the next."""


class Announced(NamedTuple):
    """A stream: who says so, its name, and the address that it is read from; none if this program cannot read it.

    ``ended`` says that it is announced no longer.
    """

    key: str
    name: str
    address: str | None
    ended: bool = False


def announced(packet: bytes) -> Announced | None:
    """What an announcement says; None if it is none, or of no picture.

    Parameters
    ----------
    packet : bytes

    Returns
    -------
    Announced or None

    References
    ----------
    RFC 2974, section 3 (the packet: encrypted or packed ones are passed over); RFC 4566 (SDP); RFC 3551 (payload type
    33 is MPEG-2 transport).  From memory.
    """
    if len(packet) < 8 or packet[0] >> 5 != 1 or packet[0] & 0x03:
        return None
    long = bool(packet[0] & 0x10)
    at = 4 + (16 if long else 4) + 4 * packet[1]
    who = packet[4 : 20 if long else 8]
    if len(who) < (16 if long else 4):
        return None
    text = packet[at:].decode("utf-8", errors="replace")
    if not text.startswith("v=0") and "\0" in text:
        kind, _, text = text.partition("\0")
        if kind != "application/sdp":
            return None
    key = f"{ipaddress.ip_address(who)}/{packet[2:4].hex()}"
    if packet[0] & 0x04:
        return Announced(key, "", None, True)
    return _described(key, text)


def _described(key: str, text: str) -> Announced | None:
    name, whole, own, media, video = "", "", "", "", ("", "", "")
    for line in text.replace("\r", "").split("\n"):
        kind, _, value = line.partition("=")
        parts = value.split()
        if kind == "s":
            name = value.strip()
        elif kind == "m" and len(parts) >= 4:
            media = parts[0] if not video[0] or parts[0] != "video" else "another"
            video = (parts[1].split("/")[0], parts[2], parts[3]) if media == "video" else video
        elif kind == "c" and len(parts) == 3:
            host = parts[2].split("/")[0]
            whole, own = (host, own) if not media else (whole, host if media == "video" else own)
    port, transport, payload = video
    if not port.isdigit() or not name:
        return None
    try:
        where = ipaddress.ip_address(own or whole)
    except ValueError:
        return None
    if not 0 < int(port) < 65536 or payload not in ("33", "MP2T"):
        return Announced(key, name[:60], None)
    host = f"[{where}]" if where.version == 6 else str(where)
    return Announced(key, name[:60], f"{'rtp' if 'RTP' in transport else 'udp'}://{host}:{port}")


def announcement(name: str, address: str, by: str = "127.0.0.1", ended: bool = False) -> bytes:
    """The packet that announces a stream of MPEG-2 transport.

    Parameters
    ----------
    name : str
    address : str
        Like ``udp://239.1.2.3:5000``.
    by : str
        The IPv4 address of who announces it.
    ended : bool, optional
        That it is no longer there.
    """
    kind, _, where = address.partition("://")
    host, _, port = where.rpartition(":")
    transport = "RTP/AVP 33" if kind == "rtp" else "udp MP2T"
    number = zlib.crc32(f"{name}{address}".encode()) & 0xFFFF
    lines = ("v=0", f"o=- {number} 1 IN IP4 {by}", f"s={name}", f"c=IN IP4 {host}", "t=0 0")
    text = "\r\n".join((*lines, f"m=video {port} {transport}", ""))
    head = bytes([0x24 if ended else 0x20, 0]) + number.to_bytes(2, "big") + ipaddress.ip_address(by).packed
    return head + b"application/sdp\0" + text.encode()
