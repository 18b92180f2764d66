"""Line 21 captions (CEA-608): pairs of bytes become what a viewer reads."""

from __future__ import annotations

from collections.abc import Iterator

ROWS, COLUMNS = 15, 32
_OTHER = {
    0x27: "’",
    0x2A: "á",
    0x5C: "é",
    0x5E: "í",
    0x5F: "ó",
    0x60: "ú",
    0x7B: "ç",
    0x7C: "÷",
    0x7D: "Ñ",
    0x7E: "ñ",
    0x7F: "█",
}
_SPECIAL = "®°½¿™¢£♪à\u00a0èâêîôû"
_EXTENDED = {
    0x12: "ÁÉÓÚÜü‘¡*’—©℠•“”ÀÂÇÈÊËëÎÏïÔÙùÛ«»",
    0x13: "ÃãÍÌìÒòÕõ{}\\^_|~ÄäÖöß¥¤¦ÅåØø┌┐└┘",
}
_PAIRS = {0x10: (11, 11), 0x11: (1, 2), 0x12: (3, 4), 0x13: (12, 13), 0x14: (14, 15), 0x15: (5, 6), 0x16: (7, 8)}
_PAIRS[0x17] = (9, 10)
"""Rows that a preamble names."""
_POP, _PAINT, _ROLL = "pop", "paint", "roll"


class Captions608:
    """The first channel of captions of a signal.

    References
    ----------
    ANSI/CTA-608-E: commands, preambles and characters (47 CFR 15.119 has the same tables); from memory.
    """

    def __init__(self) -> None:
        self._shown: dict[int, list[str]] = {}
        self._hidden: dict[int, list[str]] = {}
        self._mode, self._deep = "", 2
        self._row, self._column = ROWS, 0
        self._last: tuple[int, int] | None = None
        self._mine = True
        self.text = ""
        """What is read now, rows from the top."""

    def take(self, first: int, second: int) -> None:
        """The next two bytes of field 1, with their parity or without."""
        a, b = first & 0x7F, second & 0x7F
        if a == 0 and b == 0:
            return
        if 0x10 <= a <= 0x1F:
            again = (a, b) == self._last
            self._last = None if again else (a, b)
            if again:  # commands are sent twice
                return
            self._mine = not a & 0x08
            if self._mine:
                self._command(a, b)
        else:
            self._last = None
            if self._mine and self._mode and a >= 0x20:
                for code in (a, b):
                    if code >= 0x20:
                        self._write(_OTHER.get(code, chr(code)))
        self.text = "\n".join(
            line for _, cells in sorted(self._shown.items()) if (line := "".join(cells).strip().replace("\u00a0", " "))
        )

    def _page(self) -> dict[int, list[str]]:
        return self._hidden if self._mode == _POP else self._shown

    def _write(self, letter: str) -> None:
        cells = self._page().setdefault(self._row, [" "] * COLUMNS)
        cells[min(self._column, COLUMNS - 1)] = letter
        self._column = min(COLUMNS, self._column + 1)

    def _command(self, a: int, b: int) -> None:
        if b >= 0x40:
            self._preamble(a, b)
        elif a == 0x11 and 0x20 <= b < 0x30:
            self._write(" ")  # a change of style takes the room of a space
        elif a == 0x11 and 0x30 <= b < 0x40:
            self._write(_SPECIAL[b - 0x30])
        elif a in _EXTENDED and 0x20 <= b < 0x40:
            self._column = max(0, self._column - 1)  # in place of the plain letter before it
            self._write(_EXTENDED[a][b - 0x20])
        elif a == 0x17 and 0x21 <= b <= 0x23:
            self._column = min(COLUMNS - 1, self._column + b - 0x20)
        elif a in (0x14, 0x15) and 0x20 <= b < 0x30:
            self._control(b)

    def _preamble(self, a: int, b: int) -> None:
        row = _PAIRS[a][b >> 5 & 1]
        if self._mode == _ROLL and row != self._row:
            rows = self._shown
            self._shown = {row - (self._row - n): cells for n, cells in rows.items() if row - (self._row - n) >= 1}
        self._row, self._column = row, (b >> 1 & 7) * 4 if b & 0x10 else 0

    def _control(self, b: int) -> None:
        match b:
            case 0x20:
                self._mode = _POP
            case 0x21:
                self._column = max(0, self._column - 1)
                self._page().setdefault(self._row, [" "] * COLUMNS)[self._column] = " "
            case 0x24:
                cells = self._page().get(self._row, [])
                cells[self._column :] = [" "] * (len(cells) - self._column) if cells else []
            case 0x25 | 0x26 | 0x27:
                if self._mode != _ROLL:
                    self._shown, self._hidden = {}, {}
                    self._row = ROWS
                self._mode, self._deep, self._column = _ROLL, b - 0x23, 0
            case 0x29:
                self._mode = _PAINT
            case 0x2A | 0x2B:
                self._mode = ""  # text that is no caption
            case 0x2C:
                self._shown = {}
            case 0x2D if self._mode == _ROLL:
                low = self._row - self._deep + 1
                self._shown = {n - 1: cells for n, cells in self._shown.items() if n - 1 >= max(1, low)}
                self._column = 0
            case 0x2E:
                self._hidden = {}
            case 0x2F:
                self._shown, self._hidden = self._hidden, self._shown
                self._mode = _POP


def pairs_of(data: bytes) -> Iterator[tuple[int, int]]:
    """The pairs of field 1 among the captions that a picture carries (ATSC A/53 part 4, ``cc_data``).

    Examples
    --------
    >>> list(pairs_of(bytes([0xFC, 0x94, 0x20, 0xFD, 0x80, 0x80, 0xFA, 0, 0])))
    [(148, 32)]
    """
    for n in range(0, len(data) - 2, 3):
        if data[n] & 0x07 == 0x04:
            yield data[n + 1], data[n + 2]
