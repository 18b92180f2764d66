"""What a check has against a value, in our words: what it is, what it should be, and the cure, in one short
sentence.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping
from difflib import get_close_matches
from typing import Any

LONGEST = 60
"""Letters of a value that are repeated in a sentence."""
MOST_NAMES = 8


def shortened(value: object, longest: int = LONGEST) -> str:
    """A value as it is written in a document, cut where it is long.

    Parameters
    ----------
    value : object
        The value.
    longest : int, optional
        Pixels of the longer side, at most.

    Returns
    -------
    str
        In words.

    Examples
    --------
    >>> shortened("x" * 1000, 4), shortened(1.5), shortened(True), shortened(None)
    ('"xxxx…"', '1.5', 'true', 'null')
    """
    if isinstance(value, str):
        shown = "".join(c if c.isprintable() else "�" for c in value[:longest])
        return f'"{shown}…"' if len(value) > longest else f'"{shown}"'
    if isinstance(value, Mapping):
        return "an object"
    if isinstance(value, (list, tuple)):
        return "a list"
    if isinstance(value, bool) or value is None:
        return {True: "true", False: "false", None: "null"}[value]
    text = str(value) if not isinstance(value, int) or abs(value) < 10**longest else "a number of too many digits"
    return f"{text[:longest]}…" if len(text) > longest else text


def nearest(name: object, known: Iterable[str]) -> str | None:
    """The known name that is most like another, if any is.

    Parameters
    ----------
    name : object
        What it is called.
    known : Iterable[str]
        What is known already, to be used again.

    Returns
    -------
    str | None
        In a sentence; None if nothing is.
    """
    if not isinstance(name, str) or len(name) > 200:
        return None
    found = get_close_matches(name.casefold(), [k for k in known if len(k) <= 200], 1, 0.6)
    return found[0] if found else None


def choice(name: object, known: Iterable[str]) -> str:
    """What to write instead of a name that is not known: the nearest, or some of those there are.

    Parameters
    ----------
    name : object
        What it is called.
    known : Iterable[str]
        What is known already, to be used again.

    Returns
    -------
    str
        In words.

    Examples
    --------
    >>> choice("faed", ["left", "snapped", "faded"]), choice("7", ["b", "a"]), choice("x", [])
    ('write "faded"', 'there are: a, b', 'there are none yet')
    """
    names = sorted(set(known))
    near = nearest(name, names)
    if near is not None:
        return f'write "{near}"'
    if not names:
        return "there are none yet"
    more = f" and {len(names) - MOST_NAMES} more" if len(names) > MOST_NAMES else ""
    return f"there are: {', '.join(n[:LONGEST] for n in names[:MOST_NAMES])}{more}"


_LIMITS = (("ge", "at least"), ("gt", "above"), ("le", "at most"), ("lt", "below"))
_KINDS = {
    "string": "text in quotation marks",
    "int": "a whole number",
    "float": "a number",
    "bool": "true or false",
    "tuple": "a list in [ ]",
    "list": "a list in [ ]",
    "model": "an object in { }",
    "dict": "an object in { }",
    "none": "null",
}


def sentence(error: Mapping[str, Any], fields: Iterable[str] = ()) -> str:
    """One of a model's errors in our words.

    Parameters
    ----------
    error : mapping
        As pydantic gives it: ``type``, ``loc``, ``input``, ``ctx``, ``msg``.
    fields : iterable of str
        Names that a field may have, for the nearest of them.

    Returns
    -------
    str
        Begins with what is wrong, without the place, and ends with the cure.
    """
    kind, ctx, given = str(error["type"]), error.get("ctx", {}), error.get("input")
    field = next((s for s in reversed(error["loc"]) if isinstance(s, str)), "")
    is_ = f"(it is {shortened(given)})"
    if kind == "missing":
        return "is missing; add it"
    if kind == "extra_forbidden":
        near = nearest(field, fields)
        return f'is not a field of the show format; {f"""write "{near}", or """ if near else ""}remove it'
    if kind == "union_tag_not_found":
        return f"has no {str(ctx.get('discriminator', 'kind')).strip(chr(39))}; add it, to say what it is"
    if kind in ("union_tag_invalid", "literal_error", "enum"):
        known = re.findall(r"'([^']*)'", str(ctx.get("expected_tags", ctx.get("expected", ""))))
        if known:
            return f"{shortened(ctx.get('tag', given))} is not known here; {choice(ctx.get('tag', given), known)}"
        return f"must be {ctx.get('expected', 'another value')} {is_}; correct it"
    for key, verb in _LIMITS:
        if key in ctx:
            return f"must be {verb} {ctx[key]:g} {is_}; type another number"
    if kind == "finite_number":
        return f"must be a number with an end {is_}; type another"
    if kind == "string_pattern_mismatch":
        how = (
            "a colour such as #E3A857"
            if "0-9A-Fa-f" in str(ctx.get("pattern"))
            else "small letters, digits and hyphens, such as east-mast"
        )
        return f"must be {how} {is_}; write it so"
    if kind == "string_unicode":
        return f"is no text {is_}: half of a letter stands in it; write it again"
    if kind == "string_too_short":
        return "is empty; give it at least one letter"
    if kind == "string_too_long":
        return (
            f"has {len(given) if isinstance(given, str) else 'too many'} letters, and may have "
            f"{ctx.get('max_length')}; shorten it"
        )
    if kind in ("too_short", "too_long"):
        least = ctx.get("min_length", ctx.get("max_length"))
        verb = "at least" if kind == "too_short" else "at most"
        return f"has {ctx.get('actual_length', 'too many or too few')} items, and must have {verb} {least}"
    if kind == "value_error":
        return str(error["msg"]).removeprefix("Value error, ")
    if kind == "int_from_float":
        return f"must be a whole number {is_}; round it"
    stem = kind.split("_")[0]
    return f"must be {_KINDS.get(stem, 'another value')} {is_}; correct it"
