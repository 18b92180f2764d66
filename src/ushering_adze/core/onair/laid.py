"""What is laid over the show while it is lined up, as who draws it has it, and back."""

from __future__ import annotations

from ushering_adze.core.document.model import rgb_of
from ushering_adze.core.light.lining_up import Look
from ushering_adze.core.light.showing import PatternShown
from ushering_adze.core.show.laid import Pattern


def pattern_shown(pattern: Pattern) -> PatternShown:
    """A pattern for who draws it."""
    red, green, blue = rgb_of(pattern.ink)
    look = Look(pattern.spacing, pattern.line, (blue, green, red))
    return PatternShown(pattern.name, pattern.on, look, pattern.own)


def pattern_of(shown: PatternShown) -> Pattern:
    """The pattern that is drawn so."""
    blue, green, red = shown.look.ink
    return Pattern.model_validate(
        {
            "name": shown.name,
            "on": shown.on,
            "spacing": shown.look.spacing,
            "line": shown.look.width,
            "ink": f"#{red:02X}{green:02X}{blue:02X}",
            "own": shown.own,
        }
    )
