"""Live signals by the ways of streams: each from a server that speaks the protocol itself."""

from __future__ import annotations

import contextlib
import http.server
import shutil
import socket
import struct
import subprocess
import threading
from collections.abc import Callable, Iterator

import cv2
import numpy as np
import pytest

from ushering_adze.core.picture.numbered import number_in
from ushering_adze.core.show import Input, Watch
from ushering_adze.io.media.live import LivePlayer
from ushering_adze.io.srt import free_port
from ushering_adze.io.standins.feed import StandinFeed
from waiting import wait_for

W, H = 320, 180


@pytest.fixture
def seen() -> Iterator[Callable[..., LivePlayer]]:
    """Open an input and wait for its pictures."""
    players: list[LivePlayer] = []

    def begin(address: str) -> LivePlayer:
        player = LivePlayer(Input(id="i", name="In", address=address, width=W, height=H, watch=Watch(missing=30)))
        players.append(player)
        return player

    yield begin
    for player in players:
        player.close()
    for player in players:
        player.join(20)


@pytest.fixture
def feed() -> Iterator[StandinFeed]:
    made = StandinFeed(f"udp://127.0.0.1:{free_port()}", W, H)
    made.start()
    yield made
    made.tell("quit")
    made.join(20)


def counts(player: LivePlayer) -> bool:
    """Its picture carries a number, and the number goes on."""
    numbers = set()

    def more() -> bool:
        frame = player.frame(0.0)
        if frame is not None and player.fault is None and frame.pixels.shape == (H, W, 4):
            number = number_in(frame.pixels)
            if number is not None:
                numbers.add(number)
        return len(numbers) > 5

    return wait_for(more)


class Rtsp(threading.Thread):
    """A camera by RTSP (RFC 2326): its transport stream in RTP (RFC 2250), interleaved with the talk (10.12)."""

    def __init__(self, packets: int) -> None:
        super().__init__(daemon=True)
        self.asked: list[str] = []
        self._listening = socket.create_server(("127.0.0.1", 0))
        self.port = self._listening.getsockname()[1]
        self._packets = socket.socket(socket.AF_INET, socket.SOCK_DGRAM)
        self._packets.bind(("127.0.0.1", packets))

    def run(self) -> None:
        with contextlib.suppress(OSError):
            while True:
                talk, _ = self._listening.accept()
                with talk, contextlib.suppress(OSError, ValueError):
                    self._talk(talk)

    def _talk(self, talk: socket.socket) -> None:
        lines = talk.makefile("rb")
        while head := lines.readline().decode():
            method = head.split()[0]
            headers = {}
            while line := lines.readline().decode().strip():
                name, _, value = line.partition(":")
                headers[name.lower()] = value.strip()
            self.asked.append(method)
            body, more, status = b"", "", "200 OK"
            if method == "DESCRIBE":
                body = b"v=0\r\no=- 0 0 IN IP4 127.0.0.1\r\ns=Aisle\r\nt=0 0\r\nm=video 0 RTP/AVP 33\r\na=control:v\r\n"
                more = f"Content-Type: application/sdp\r\nContent-Length: {len(body)}\r\n"
            elif method == "SETUP" and "TCP" not in headers["transport"]:
                status = "461 Unsupported Transport"
            elif method == "SETUP":
                more = "Session: 7\r\nTransport: RTP/AVP/TCP;unicast;interleaved=0-1\r\n"
            answer = f"RTSP/1.0 {status}\r\nCSeq: {headers['cseq']}\r\n{more}\r\n"
            talk.sendall(answer.encode() + body)
            if method == "PLAY":
                self._play(talk)
                return

    def _play(self, talk: socket.socket) -> None:
        number = 0
        while True:
            data = self._packets.recv(65536)
            packet = struct.pack(">BBHII", 0x80, 33, number & 0xFFFF, number * 900, 7) + data
            talk.sendall(struct.pack(">BBH", 0x24, 0, len(packet)) + packet)
            number += 1

    def close(self) -> None:
        self._listening.close()


def test_a_camera_by_rtsp(feed: StandinFeed, seen: Callable[..., LivePlayer]) -> None:
    server = Rtsp(int(feed.address.rsplit(":", 1)[1]))
    server.start()
    player = seen(f"rtsp://127.0.0.1:{server.port}/aisle")
    try:
        assert counts(player), player.fault
        assert server.asked[-1] == "PLAY" and player.signal.real.codec == "h264"
    finally:
        server.close()


def test_a_stream_by_rtmp(feed: StandinFeed, seen: Callable[..., LivePlayer]) -> None:
    """From Debian's ffmpeg as the server; where that is not, nobody sends, and that is said."""
    to, program = f"rtmp://127.0.0.1:{free_port()}/live/a", shutil.which("ffmpeg")
    if program is None:
        player = seen(to)
        assert wait_for(lambda: player.fault is not None) and player.fault == f"{to}: nobody sends there"
        return
    command = [program, "-v", "error", "-i", feed.address, "-c", "copy", "-f", "flv", "-listen", "1", to]
    server = subprocess.Popen(command, stdin=subprocess.DEVNULL)
    try:
        player = seen(to)
        assert counts(player), (player.fault, server.poll())
        assert player.signal.real.codec == "h264"
    finally:
        server.kill()
        server.wait()


def test_a_signal_by_srt(feed: StandinFeed, seen: Callable[..., LivePlayer]) -> None:
    program = shutil.which("srt-live-transmit")
    if program is None:
        player = seen("srt://127.0.0.1:9")
        assert wait_for(lambda: player.fault is not None)
        assert "SRT needs the program srt-live-transmit; install the package srt-tools" in player.fault
        return
    port = free_port()
    sender = subprocess.Popen([program, "-q", feed.address, f"srt://127.0.0.1:{port}?mode=listener"])
    try:
        player = seen(f"srt://127.0.0.1:{port}?mode=caller")
        assert counts(player), player.fault
    finally:
        sender.kill()
        sender.wait()


def test_pictures_by_http(seen: Callable[..., LivePlayer]) -> None:
    """Motion JPEG as cameras serve it: multipart/x-mixed-replace (RFC 2046, 5.1)."""

    class Camera(http.server.BaseHTTPRequestHandler):
        def log_message(self, *args: object) -> None:
            pass

        def do_GET(self) -> None:
            self.send_response(200)
            self.send_header("Content-Type", "multipart/x-mixed-replace; boundary=next")
            self.end_headers()
            picture = np.full((H, W, 3), (40, 90, 200), np.uint8)
            with contextlib.suppress(OSError):
                while True:
                    data = cv2.imencode(".jpg", picture)[1].tobytes()
                    self.wfile.write(
                        b"--next\r\nContent-Type: image/jpeg\r\nContent-Length: %d\r\n\r\n" % len(data) + data + b"\r\n"
                    )

    server = http.server.ThreadingHTTPServer(("127.0.0.1", 0), Camera)
    server.daemon_threads = True
    threading.Thread(target=server.serve_forever, daemon=True).start()
    try:
        player = seen(f"http://127.0.0.1:{server.server_port}/aisle")
        assert wait_for(lambda: player.frame(0.0) is not None and player.fault is None), player.fault
        assert np.abs(player.frame(0.0).pixels[90, 160, :3].astype(int) - (40, 90, 200)).max() < 6
        assert player.signal.real.codec == "mjpeg"
    finally:
        server.shutdown()
        server.server_close()
