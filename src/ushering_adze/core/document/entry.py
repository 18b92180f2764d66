"""Typed geometry: numbers as technicians type them into a field, worked out against what stands there."""

from __future__ import annotations

import ast
import math
import re
from collections.abc import Mapping, Sequence

from ushering_adze.core.document.wording import shortened

_TOKEN = re.compile(r"^\s*(?P<w>\d{1,9})\s*[x×]\s*(?P<h>\d{1,9})\s*(?P<x>[+-]\s*\d{1,9})\s*(?P<y>[+-]\s*\d{1,9})\s*$")
_PERCENT = re.compile(r"(?<![\w.])(\d+(?:\.\d+)?)\s*%")
_UNIT = re.compile(r"(?<![\w.])(\d+(?:\.\d+)?)\s*(px|mm)\b")


LONGEST = 400
"""Letters of what is typed into a field."""


class EntryError(ValueError):
    """What was typed cannot be read; the text says why and gives an example."""


def _evaluate(node: ast.expr, names: Mapping[str, float]) -> float:
    match node:
        case ast.Constant(value=int() | float() as value) if not isinstance(value, bool):
            return float(value)
        case ast.Name(id=name):
            if name not in names:
                raise EntryError(f"{shortened(name)} is not known here; use {', '.join(sorted(names)) or 'numbers'}")
            return float(names[name])
        case ast.UnaryOp(op=ast.USub(), operand=inner):
            return -_evaluate(inner, names)
        case ast.UnaryOp(op=ast.UAdd(), operand=inner):
            return _evaluate(inner, names)
        case ast.BinOp(left=left, op=op, right=right):
            a, b = _evaluate(left, names), _evaluate(right, names)
            match op:
                case ast.Add():
                    return a + b
                case ast.Sub():
                    return a - b
                case ast.Mult():
                    return a * b
                case ast.Div():
                    if b == 0:
                        raise EntryError("this divides by zero; type another divisor")
                    return a / b
    raise EntryError("only numbers and + − * / ( ) are worked out here, for example 1920/2 or +50")


def number_from(
    text: str,
    *,
    now: float,
    whole: float | None = None,
    names: Mapping[str, float] | None = None,
    pitch_mm: float | None = None,
) -> float:
    """Work out one typed number.

    Parameters
    ----------
    text : str
        A number; ``+50`` or ``-50`` (from ``now``, where ``=-50`` is minus fifty); ``*2`` or ``/2``; ``50%`` (of
        ``whole``); an expression in ``names`` such as ``w/2``; a number with ``px``, or with ``mm`` where ``pitch_mm``
        is known.
    now : float
        What the field holds.
    whole : float, optional
        What 100 % is.
    names : mapping, optional
        Values that may be named.
    pitch_mm : float, optional
        Millimetres per pixel.

    Raises
    ------
    EntryError
        With one sentence to show under the field.

    Examples
    --------
    >>> number_from("+50", now=1096), number_from("*2", now=12), number_from("50%", now=0, whole=4112)
    (1146.0, 24.0, 2056.0)
    >>> number_from("w/2", now=0, names={"w": 1920}), number_from("500 mm", now=0, pitch_mm=500 / 192)
    (960.0, 192.0)
    """
    if len(text) > LONGEST:
        raise EntryError(f"this has {len(text)} letters, too many for a number; type a shorter one")
    body = text.strip().replace("−", "-").replace("×", "*").replace("÷", "/").replace(",", ".").lower()
    if not body:
        raise EntryError("the field is empty; type a number, for example 1920")
    relative = body[0] in "+-*/"
    if body.startswith("="):
        body, relative = body[1:], False

    def percent(m: re.Match[str]) -> str:
        if whole is None:
            raise EntryError("per cent has no meaning in this field; type a number")
        return f"({float(m[1]) * whole / 100!r})"

    def unit(m: re.Match[str]) -> str:
        if m[2] == "px":
            return m[1]
        if pitch_mm is None:
            raise EntryError("millimetres need a surface of known pixel pitch; type pixels here")
        return f"({float(m[1]) / pitch_mm!r})"

    body = _UNIT.sub(unit, _PERCENT.sub(percent, body))
    if relative:
        body = f"({now!r}){body}"
    try:
        tree = ast.parse(body, mode="eval")
    except (SyntaxError, ValueError, RecursionError, MemoryError):
        raise EntryError(
            f"{shortened(text.strip())} is not a number; type for example 1920, +50, *2, 50% or w/2"
        ) from None
    try:
        value = _evaluate(tree.body, names or {})
    except RecursionError:
        raise EntryError("this is too long to work out; type a shorter sum") from None
    if not math.isfinite(value) or abs(value) > 1e9:
        raise EntryError("this number is too large; check the digits")
    return value


def rect_from(text: str, now: Sequence[int], whole: Sequence[int]) -> tuple[int, int, int, int]:
    """Work out a typed rectangle: ``x y w h``, or ``WxH+X+Y``.

    Parameters
    ----------
    text : str
        Four entries parted by spaces, each as in `number_from`, or the ``WxH+X+Y`` form; ``WxH`` alone keeps the place.
    now : sequence of int, length 4
        The rectangle as it stands.
    whole : sequence of int, length 2
        Width and height that per cent refer to.

    Returns
    -------
    tuple of int
        ``(x, y, w, h)``.

    Examples
    --------
    >>> rect_from("1096 1080 1920 960", (0, 0, 1, 1), (4112, 2040))
    (1096, 1080, 1920, 960)
    >>> rect_from("1920x960+1096+1080", (0, 0, 1, 1), (4112, 2040))
    (1096, 1080, 1920, 960)
    >>> rect_from("+8 +0 50% h*2", (100, 0, 10, 10), (4000, 2000))
    (108, 0, 2000, 20)
    """
    shaped = _TOKEN.match(text)
    if shaped:
        got = {k: float(v.replace(" ", "")) for k, v in shaped.groupdict().items()}
        values = [got["x"], got["y"], got["w"], got["h"]]
    else:
        alone = re.match(r"^\s*(\d{1,9})\s*[x×]\s*(\d{1,9})\s*$", text)
        if alone:
            return int(now[0]), int(now[1]), int(alone[1]), int(alone[2])
        words = text.replace(";", " ").split()
        if len(words) != 4:
            raise EntryError(
                f"four numbers are needed, x y w h, and there are {len(words)}; for example 1096 1080 1920 960"
            )
        names = dict(zip("xywh", map(float, now), strict=True))
        values = [number_from(word, now=now[k], whole=whole[k % 2], names=names) for k, word in enumerate(words)]
    for value, label in zip(values, "xywh", strict=True):
        if abs(value - round(value)) > 1e-6:
            raise EntryError(f"{label} would be {value:.3f}, and a region starts and ends on whole pixels; round it")
    x, y, w, h = (round(v) for v in values)
    if w < 1 or h < 1:
        raise EntryError(f"the size would be {w} × {h} px; width and height must be at least 1")
    if max(w, h, abs(x), abs(y)) > 32768:
        raise EntryError("no side may pass 32 768 px; check the digits")
    return x, y, w, h


_PLAIN = re.compile(r"^[+-]?([0-9]+([.,][0-9]*)?|[.,][0-9]+)(e[+-]?[0-9]{1,3})?$")
_GROUPED = re.compile(r"^[+-]?[1-9][0-9]{0,2}([.,][0-9]{3})+$")
_SPACED = re.compile(r"(?<=\d)[\u0020\u00a0\u2009\u202f](?=\d{3}(\D|$))")


def table_number(text: str, unit: str = "px", most: float = 1e6) -> float:
    """A number from the cell of a table, in which nothing is guessed.

    Parameters
    ----------
    text : str
        Digits, with a point or a comma before decimals and spaces between thousands; ``unit`` may follow.
    unit : str
    most : float
        The largest number that makes sense here.

    Raises
    ------
    EntryError
        Saying what it could mean and how to write it, if a point or a comma could part thousands as well as decimals;
        or if it is no number.

    Examples
    --------
    >>> table_number("1 920 px"), table_number("59,94"), table_number("23.976", most=240)
    (1920.0, 59.94, 23.976)
    >>> table_number("1.000")
    Traceback (most recent call last):
    ...
    ushering_adze.core.document.entry.EntryError: "1.000" could be 1000 or 1; write it as 1000 or 1
    """
    shown = text.strip()[:40]
    body = _SPACED.sub("", text.strip().lower().removesuffix(unit).strip().replace("−", "-"))
    if len(body) > 40 or not (_PLAIN.match(body) or _GROUPED.match(body)):
        raise EntryError(f'"{shown}" is not a number; write it with digits, such as 1920 or 59.94')
    decimal = body.replace(",", ".")
    if _GROUPED.match(body):
        whole = float(re.sub(r"[.,]", "", body))
        if decimal.count(".") > 1 or abs(whole) <= most:
            other = f" or {float(decimal):g}" if decimal.count(".") == 1 else ""
            raise EntryError(
                f'"{shown}" could be {whole:.0f}{other}; write it as {whole:.0f}{other}'
                if other
                else f'"{shown}" has marks between its digits; write it as {whole:.0f}'
            )
    value = float(decimal)
    if not math.isfinite(value):
        raise EntryError(f'"{shown}" is past all reason; correct it')
    return value


def told_number(value: float) -> str:
    """A number as `table_number` reads it back, exactly and without a doubt.

    Examples
    --------
    >>> told_number(500.0), told_number(2.604), told_number(0.1)
    ('500', '2.6040', '0.1')
    """
    text = repr(float(value)).removesuffix(".0")
    return f"{text}0" if _GROUPED.match(text) else text


def points_words(points: Sequence[tuple[float, float]]) -> str:
    """Points of a polygon in the words that `points_from` reads.

    Examples
    --------
    >>> points_words([(0, 0), (1, 0), (0.5, 1)])
    '0 0, 100 0, 50 100'
    """
    return ", ".join(f"{100 * x:.4g} {100 * y:.4g}" for x, y in points)


def points_from(text: str) -> tuple[tuple[float, float], ...]:
    """Points of a polygon from words: right and down in per cent of the box, such as ``0 0, 100 0, 50 100``.

    Raises
    ------
    EntryError
        If they are not pairs of numbers.

    Examples
    --------
    >>> points_from("0 0, 100 0, 50 100")
    ((0.0, 0.0), (1.0, 0.0), (0.5, 1.0))
    """
    found = []
    for part in (p.split() for p in re.split("[,;]", text) if p.strip()):
        try:
            x, y = (float(word.rstrip("%")) / 100 for word in part)
        except ValueError:
            words = shortened(" ".join(part))
            raise EntryError(f"{words} is no point; write how far right and down, in per cent: 0 0, 100 0") from None
        found.append((x, y))
    return tuple(found)


def signed_from(text: str, now: float) -> float:
    """A typed number that is often below zero, as a level is: ``-6`` is minus six, and no step down.  Raises
    EntryError.

    Examples
    --------
    >>> signed_from("-6", 2.0), signed_from("+3", 2.0), signed_from(" 4 ", 2.0)
    (-6.0, 5.0, 4.0)
    """
    text = text.strip()
    return number_from(f"={text}" if text.startswith(("-", "−")) else text, now=now)
