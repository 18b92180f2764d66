"""What an attack tried, and what it found."""

from __future__ import annotations

import re
from collections import Counter

LIBRARY = re.compile(
    r"Input should|validation error|pydantic|Traceback|Exceeds the limit|discriminator|for further", re.I
)
SENTENCE = 1300


class Findings:
    """What was tried, and what went wrong."""

    def __init__(self) -> None:
        self.tried: Counter[str] = Counter()
        self.wrong: list[str] = []

    def count(self, what: str) -> None:
        self.tried[what] += 1

    def blame(self, what: str) -> None:
        if len(self.wrong) < 40:
            self.wrong.append(what)

    def sentence(self, text: str, where: str) -> None:
        """A message for the user must be one of ours."""
        if LIBRARY.search(text) or len(text) > SENTENCE or text.count("\n") > 1:
            self.blame(f"{where}: {text[:200]!r}")
