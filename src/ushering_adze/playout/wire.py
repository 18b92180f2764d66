"""Values on their way between two processes of the program, over a socket.

What both sides know already is not sent again: parts of shows, which an edit leaves as they are, motions of what is on
air, and pictures of the report before.  So an edit sends the path along which it changed the show, and values that are
one on this side are one on the other, as who compares them expects.
"""

from __future__ import annotations

import contextlib
import io
import pickle
import socket
import struct
import threading
from types import MappingProxyType
from typing import Any

import numpy as np

from ushering_adze.core.document.model import Model
from ushering_adze.core.onair.motion import Motion
from ushering_adze.core.plane.pixels import Pixels

MOST_KNOWN = 20_000
"""Parts of shows that are held for being sent by their number; what has more at once may have twice as many."""
SMALL = 256
"""Bytes of a picture that is sent as other values are."""
_HEAD = struct.Struct("<BIQ")
_FORGETS, _PICTURES = 1, 2


Part = Model | Motion
"""What is known by its number once it was sent."""


def made(number: int, kind: type[Part], fields: dict[str, Any], given: set[str] | None = None) -> Part:
    """A part from what it holds; not asked again whether that is whole: it was when it was made."""
    value = kind.__new__(kind)
    if given is None:
        value.__dict__.update(fields)
        return value
    for name, held in (
        ("__dict__", fields),
        ("__pydantic_fields_set__", given),
        ("__pydantic_extra__", None),
        ("__pydantic_private__", None),
    ):
        object.__setattr__(value, name, held)
    return value


def known(number: int) -> Any:
    """A part of a show, or a picture, that was sent before."""
    raise LookupError(f"{number} is known to who reads from the wire alone")


def returned(number: int) -> Any:
    """A part of a show that the reader itself has sent."""
    raise LookupError(f"{number} is known to who reads from the wire alone")


def picture(number: int, kind: str, shape: tuple[int, ...], content: Any) -> Any:
    """A picture, held for the next report."""
    return np.frombuffer(content, kind).reshape(shape)


def proxy(content: dict[Any, Any]) -> MappingProxyType[Any, Any]:
    """A mapping that is not written to."""
    return MappingProxyType(content)


class _Taking(pickle.Pickler):
    """Takes one value apart."""

    def __init__(self, file: io.BytesIO, out: _Out, buffers: list[pickle.PickleBuffer], pictures: bool) -> None:
        super().__init__(file, pickle.HIGHEST_PROTOCOL, buffer_callback=buffers.append)
        self._out, self._pictures = out, pictures
        self.added: list[int] = []
        self.shown: dict[int, tuple[int, Pixels]] = {}

    def reducer_override(self, value: Any) -> Any:
        if isinstance(value, Part):
            before = self._out.parts.get(id(value))
            if before is not None:
                return known, (before[0],)
            theirs = self._out.theirs.get(id(value))
            if theirs is not None:
                return returned, (theirs[0],)
            self.added.append(id(value))
            held, number = value.__dict__, self._out.add(value)
            if isinstance(value, Motion):
                return made, (number, Motion, held)
            fields = type(value).model_fields
            if len(held) != len(fields):  # what was worked out from it stays where it was
                held = {name: held[name] for name in fields if name in held}
            return made, (number, type(value), held, value.__pydantic_fields_set__)
        if self._pictures and type(value) is np.ndarray and value.nbytes > SMALL:
            seen = self.shown.get(id(value)) or self._out.pictures.get(id(value))
            if seen is not None:
                self.shown[id(value)] = seen
                return known, (seen[0],)
            self.shown[id(value)] = (self._out.next(), value)
            whole = np.ascontiguousarray(value)
            return picture, (self.shown[id(value)][0], value.dtype.str, value.shape, pickle.PickleBuffer(whole.data))
        if type(value) is MappingProxyType:
            return proxy, (dict(value),)
        return NotImplemented


class _Out:
    """What the other side knows."""

    def __init__(self) -> None:
        self.parts: dict[int, tuple[int, Part]] = {}
        self.theirs: dict[int, tuple[int, Part]] = {}
        """Parts of shows that came from the other side, by its numbers."""
        self.pictures: dict[int, tuple[int, Pixels]] = {}
        self._sent: dict[int, Part] = {}
        self._sent_before: dict[int, Part] = {}
        """Parts by their numbers; also those that the other side may not have forgotten yet."""
        self._count, self._most, self._forgets = 0, MOST_KNOWN, False

    def next(self) -> int:
        """A number that was never used."""
        self._count += 1
        return self._count

    def add(self, part: Part) -> int:
        """Know a part of a show; gives its number.  It is held, so that no other is taken for it."""
        number = self.next()
        self.parts[id(part)] = number, part
        self._sent[number] = part
        return number

    def of(self, number: int) -> Part:
        """The part of this number."""
        return self._sent[number] if number in self._sent else self._sent_before[number]

    def drop(self, part: int) -> None:
        """Know a part no more."""
        number, _ = self.parts.pop(part)
        del self._sent[number]

    def taken(self, value: object, pictures: bool) -> tuple[int, bytes, list[memoryview]]:
        """A value taken apart, and what is to be done about what was known before it is put together."""
        if len(self.parts) > self._most:
            self.parts.clear()
            self._sent, self._sent_before = {}, self._sent
            self._forgets = True
        file, buffers = io.BytesIO(), list[pickle.PickleBuffer]()
        taking = _Taking(file, self, buffers, pictures)
        try:
            taking.dump(value)
        except BaseException:
            for part in taking.added:  # the other side will not hear of them
                self.drop(part)
            raise
        told = _PICTURES if pictures else 0
        if self._forgets:
            self._forgets, told = False, told | _FORGETS
            self._most = max(MOST_KNOWN, 2 * len(self.parts))
        if pictures:
            self.pictures = taking.shown
        return told, file.getvalue(), [b.raw() for b in buffers]


class _Putting(pickle.Unpickler):
    """Puts one value together."""

    def __init__(self, data: bytes, buffers: list[Any], table: _In) -> None:
        super().__init__(io.BytesIO(data), buffers=buffers)
        self._table = table

    def find_class(self, module: str, name: str) -> Any:
        if module == __name__:
            return getattr(self._table, name)
        return super().find_class(module, name)


class _In:
    """What this side knows."""

    proxy = staticmethod(proxy)

    def __init__(self, out: _Out) -> None:
        self._out = out
        self.parts: dict[int, Part] = {}
        self._pictures: dict[int, Pixels] = {}
        self._shown: dict[int, Pixels] = {}

    def made(self, number: int, kind: type[Part], fields: dict[str, Any], given: set[str] | None = None) -> Part:
        part = self.parts[number] = made(number, kind, fields, given)
        self._out.theirs[id(part)] = number, part
        return part

    def returned(self, number: int) -> Any:
        return self._out.of(number)

    def known(self, number: int) -> Any:
        if number in self.parts:
            return self.parts[number]
        found = self._shown[number] if number in self._shown else self._pictures[number]
        self._shown[number] = found
        return found

    def picture(self, number: int, kind: str, shape: tuple[int, ...], content: Any) -> Any:
        found = self._shown[number] = picture(number, kind, shape, content)
        return found

    def put(self, told: int, data: bytes, buffers: list[Any]) -> object:
        """A value put together."""
        if told & _FORGETS:
            self.parts.clear()
            self._out.theirs.clear()
        self._shown = {}
        value = _Putting(data, buffers, self).load()
        if told & _PICTURES:
            self._pictures = self._shown
        return value


class Wire:
    """One end of a socket between two processes of this program.  Any thread may send; one receives.

    Parameters
    ----------
    sock : socket
        A stream that ends when either process does.
    """

    def __init__(self, sock: socket.socket) -> None:
        self._sock = sock
        self._sending = threading.Lock()
        self._out = _Out()
        self._in = _In(self._out)

    def send(self, value: object, pictures: bool = False) -> None:
        """Send a value; with ``pictures`` those in it that were in the last such value as well are not sent again.

        Raises
        ------
        OSError
            The other end is gone.
        Exception
            Whatever taking the value apart raises; nothing has been sent then.
        """
        with self._sending:
            told, data, buffers = self._out.taken(value, pictures)
            sizes = struct.pack(f"<{len(buffers)}Q", *(b.nbytes for b in buffers))
            self._sock.sendall(_HEAD.pack(told, len(buffers), len(data)) + sizes + data)
            for buffer in buffers:
                self._sock.sendall(buffer)

    def receive(self) -> Any:
        """The next value; waits for it.

        Raises
        ------
        EOFError
            The other end is gone.
        """
        told, count, length = _HEAD.unpack(self._read(_HEAD.size))
        sizes = struct.unpack(f"<{count}Q", self._read(8 * count))
        data = self._read(length)
        buffers = [self._read(size) for size in sizes]
        return self._in.put(told, bytes(data), buffers)

    def _read(self, size: int) -> Any:
        content = np.empty(size, np.uint8)
        view, at = content.data, 0
        while at < size:
            try:
                got = self._sock.recv_into(view[at:])
            except OSError as error:
                raise EOFError(str(error)) from error
            if got == 0:
                raise EOFError("the other end is gone")
            at += got
        return content

    def close(self) -> None:
        """End; who waits for a value on either side is told."""
        with contextlib.suppress(OSError):  # it has ended already
            self._sock.shutdown(socket.SHUT_RDWR)
        self._sock.close()
