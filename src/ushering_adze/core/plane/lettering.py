"""Words drawn by OpenCV, one after another: all threads share its built-in faces, and who measures may meet the size
that another draws in.
"""

from __future__ import annotations

import threading
from typing import Any

import cv2

_ONE = threading.Lock()


def text_size(*given: Any) -> Any:
    """What ``cv2.getTextSize`` says of words.

    Examples
    --------
    >>> text_size((100, 20), "", (0, 0), cv2.FontFace("sans"), 12, 400)[2]
    0
    """
    with _ONE:
        return cv2.getTextSize(*given)


def put_text(*given: Any) -> None:
    """Draw words as ``cv2.putText`` does."""
    with _ONE:
        cv2.putText(*given)
