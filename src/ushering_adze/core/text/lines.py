"""Breaking text into lines of a width, by whoever measures it."""

from __future__ import annotations

from collections.abc import Callable

_WIDE = ((0x2E80, 0xA4CF), (0xAC00, 0xD7AF), (0xF900, 0xFAFF), (0xFE30, 0xFE4F), (0xFF00, 0xFFEF), (0x20000, 0x3FFFF))


def _wide(letter: str) -> bool:
    """Whether a line may be broken beside a letter: Chinese, Japanese and Korean have no spaces between words.

    Ranges: Unicode blocks CJK symbols to Hangul, compatibility forms, and planes 2 and 3 (Unicode 15, Blocks.txt; from
    memory).
    """
    code = ord(letter)
    return any(low <= code <= high for low, high in _WIDE)


_NEVER_FIRST = "、。，．・：；？！）」』】〕〉》ーっゃゅょァィゥェォッャュョ々’”%,.:;?!)]}"
"""What does not begin a line (JIS X 4051, the common part; from memory)."""


def pieces_of(text: str) -> list[str]:
    """The pieces a line may be broken between; spaces stay at the end of theirs.

    Examples
    --------
    >>> pieces_of("to the pole"), pieces_of("星の夜、")
    (['to ', 'the ', 'pole'], ['星', 'の', '夜、'])
    """
    found: list[str] = []
    for letter in text:
        before = found[-1][-1] if found else " "
        new = not found or before == " " or ((_wide(letter) or _wide(before)) and letter not in _NEVER_FIRST)
        if letter == " " and found:
            found[-1] += letter
        elif new:
            found.append(letter)
        else:
            found[-1] += letter
    return found


def broken(text: str, width: float, measure: Callable[[str], float]) -> list[str]:
    """Text in lines that are no wider than a width, where that is possible.

    Parameters
    ----------
    text : str
        Its own line breaks are kept.
    width : float
    measure : callable
        The width of a line.

    Returns
    -------
    list of str

    Examples
    --------
    >>> broken("turn about the pole", 10, len)
    ['turn about', 'the pole']
    """
    lines = []
    for paragraph in text.split("\n"):
        line = ""
        for piece in pieces_of(paragraph):
            if line and measure((line + piece).rstrip()) > width:
                lines.append(line.rstrip())
                line = piece
            else:
                line += piece
        lines.append(line.rstrip())
    return lines
