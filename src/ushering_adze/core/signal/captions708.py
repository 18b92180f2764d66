"""Digital captions (CEA-708): packets of the caption channel become what a viewer reads of the first service."""

from __future__ import annotations

from collections.abc import Iterator

_G2 = {0x20: " ", 0x21: "\u00a0", 0x25: "…", 0x2A: "Š", 0x2C: "Œ", 0x30: "█", 0x31: "‘", 0x32: "’", 0x33: "“"}
_G2 |= {0x34: "”", 0x35: "•", 0x39: "™", 0x3A: "š", 0x3C: "œ", 0x3D: "℠", 0x3F: "Ÿ", 0x76: "⅛", 0x77: "⅜"}
_G2 |= {0x78: "⅝", 0x79: "⅞", 0x7A: "│", 0x7B: "┐", 0x7C: "└", 0x7D: "─", 0x7E: "┘", 0x7F: "┌"}
_ARGUMENTS = {0x90: 2, 0x91: 3, 0x92: 2, 0x97: 4}
"""Bytes behind those commands that only say how letters look, but for the one that sets the pen."""
_WINDOWS, _ROWS, _COLUMNS = 8, 15, 42
FIRST_SERVICE = 1


class _Window:
    """Rows of letters, where they stand, and whether they are seen."""

    def __init__(self) -> None:
        self.seen, self.down, self.rows = False, 0, 1
        self.letters: dict[int, dict[int, str]] = {}
        self.row = self.column = 0

    def clear(self) -> None:
        self.letters, self.row, self.column = {}, 0, 0

    def write(self, letter: str) -> None:
        self.letters.setdefault(self.row, {})[self.column] = letter
        self.column = min(_COLUMNS - 1, self.column + 1)

    def next_row(self) -> None:
        """The pen to the next row; the last one pushes all up."""
        self.column = 0
        if self.row + 1 < self.rows:
            self.row += 1
            return
        self.letters = {n - 1: cells for n, cells in self.letters.items() if n > 0}

    @property
    def lines(self) -> list[str]:
        """Its rows from the top."""
        found = []
        for _, cells in sorted(self.letters.items()):
            line = "".join(cells.get(n, " ") for n in range(max(cells) + 1)) if cells else ""
            if line.strip():
                found.append(line.strip().replace("\u00a0", " "))
        return found


class Captions708:
    """The first service of the caption channel of a signal.

    References
    ----------
    ANSI/CTA-708-E: packets, service blocks, commands, code sets G0 to G2; from memory.
    """

    def __init__(self) -> None:
        self._packet = bytearray()
        self._windows: dict[int, _Window] = {}
        self._pen: int | None = None
        self._waits = bytearray()
        """A command of which more is to come."""
        self.text = ""
        """What is read now, rows from the top."""

    def take(self, starts: bool, first: int, second: int) -> None:
        """The next two bytes of the caption channel; ``starts`` is said of those that begin a packet."""
        if starts:
            self._packet = bytearray()
        elif not self._packet:
            return
        self._packet += bytes((first, second))
        size = self._packet[0] & 0x3F
        wanted = 128 if size == 0 else size * 2
        if len(self._packet) >= wanted:
            self._blocks(bytes(self._packet[1:wanted]))
            self._packet = bytearray()

    def _blocks(self, data: bytes) -> None:
        """The service blocks of a packet."""
        n = 0
        while n < len(data):
            service, size = data[n] >> 5, data[n] & 0x1F
            n += 1
            if service == 0 and size == 0:
                break  # padding
            if service == 7 and size and n < len(data):
                service = data[n] & 0x3F
                n += 1
            if service == FIRST_SERVICE:
                self._waits += data[n : n + size]
                self._read()
            n += size
        seen = sorted((w for w in self._windows.values() if w.seen), key=lambda w: w.down)
        self.text = "\n".join(line for window in seen for line in window.lines)

    def _read(self) -> None:
        """Codes as far as they are whole."""
        data = self._waits
        while data:
            size = _size(data)
            if size is None or size > len(data):
                return
            self._code(bytes(data[:size]))
            del data[:size]

    def _code(self, code: bytes) -> None:
        one = code[0]
        window = None if self._pen is None else self._windows.get(self._pen)
        if 0x80 <= one <= 0x87:
            self._pen = one - 0x80
        elif 0x88 <= one <= 0x8C:
            self._on_windows(one, code[1])
        elif one == 0x8F:
            self._windows, self._pen = {}, None
        elif 0x98 <= one <= 0x9F:
            self._define(one - 0x98, code[1:])
        elif window is None:
            return
        elif one == 0x92:
            window.row, window.column = min(code[1] & 0x0F, _ROWS - 1), min(code[2] & 0x3F, _COLUMNS - 1)
        elif one == 0x08:
            window.column = max(0, window.column - 1)
            window.letters.get(window.row, {}).pop(window.column, None)
        elif one == 0x0C:
            window.clear()
        elif one == 0x0D:
            window.next_row()
        elif one == 0x0E:
            window.letters.pop(window.row, None)
            window.column = 0
        elif one == 0x10:
            if 0x20 <= code[1] < 0x80:
                window.write(_G2.get(code[1], "_"))
        elif one == 0x18:
            letter = code[1] << 8 | code[2]
            window.write("_" if 0xD800 <= letter < 0xE000 else chr(letter))
        elif one == 0x7F:
            window.write("♪")
        elif 0x20 <= one < 0x7F or one >= 0xA0:
            window.write(chr(one))

    def _on_windows(self, command: int, which: int) -> None:
        """Clear, show, hide, turn over or take away those windows whose bits are set."""
        for n in range(_WINDOWS):
            window = self._windows.get(n) if which >> n & 1 else None
            if window is None:
                continue
            match command:
                case 0x88:
                    window.clear()
                case 0x89:
                    window.seen = True
                case 0x8A:
                    window.seen = False
                case 0x8B:
                    window.seen = not window.seen
                case 0x8C:
                    del self._windows[n]

    def _define(self, n: int, said: bytes) -> None:
        """Make a window, or say anew where it is; its letters stay."""
        window = self._windows.setdefault(n, _Window())
        window.seen = bool(said[0] & 0x20)
        window.down = said[1] & 0x7F
        window.rows = (said[3] & 0x0F) + 1
        self._pen = n


def _size(data: bytearray) -> int | None:
    """Bytes of the code that data begins with; None if that is not known yet."""
    one = data[0]
    if one == 0x10:  # the extended sets: what there is of them that is not known has a size all the same
        if len(data) < 2:
            return None
        other = data[1]
        if other < 0x20:
            return 2 + (other >> 3)
        return 2 + (4 if 0x80 <= other < 0x88 else 5 if 0x88 <= other < 0x90 else 0)
    if one < 0x20:
        return 1 if one < 0x10 else 2 if one < 0x18 else 3
    if 0x88 <= one <= 0x8D:
        return 2
    return 7 if 0x98 <= one <= 0x9F else 1 + _ARGUMENTS.get(one, 0)


def parts_of(data: bytes) -> Iterator[tuple[bool, int, int]]:
    """The bytes of the caption channel among the captions that a picture carries (ATSC A/53 part 4, ``cc_data``), and
    whether they begin a packet.

    Examples
    --------
    >>> list(parts_of(bytes([0xFC, 0x94, 0x20, 0xFF, 0x02, 0x21, 0xFE, 0x41, 0x42, 0xFA, 0, 0])))
    [(True, 2, 33), (False, 65, 66)]
    """
    for n in range(0, len(data) - 2, 3):
        marker = data[n]
        if marker & 0x04 and marker & 0x03 >= 2:
            yield marker & 0x03 == 3, data[n + 1], data[n + 2]
