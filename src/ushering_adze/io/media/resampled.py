"""Decoded sound at the one rate that is used inside."""

from __future__ import annotations

from typing import Any

import av
import numpy as np

from ushering_adze.core.sound.levels import RATE, Sound, silence

MOST = 16
"""Channels, at most."""


class Resampled:
    """Brings decoded frames to 48 kHz and floats (libswresample), and says where each belongs."""

    def __init__(self, channels: int) -> None:
        self.channels = min(MOST, max(1, channels))
        self._resampler: av.AudioResampler | None = None
        self._form: object = None

    def sound(self, frame: Any) -> Sound:
        """The samples of a frame; a stream that changes in mid-air is followed."""
        form = (frame.format.name, frame.layout.name, frame.sample_rate)
        if self._resampler is None or form != self._form:
            self._form, self._resampler = form, av.AudioResampler("flt", None, RATE)
        # Packed: more than eight planes are not reached by the library, and take the program down.
        made = [f.to_ndarray().reshape(-1, f.layout.nb_channels) for f in self._resampler.resample(frame)]
        if not made:
            return silence(0, self.channels)
        whole = np.concatenate(made).astype(np.float32, copy=False)
        if whole.shape[1] == self.channels:
            return whole
        if whole.shape[1] > self.channels:
            return np.ascontiguousarray(whole[:, : self.channels])
        return np.ascontiguousarray(np.pad(whole, ((0, 0), (0, self.channels - whole.shape[1]))))
