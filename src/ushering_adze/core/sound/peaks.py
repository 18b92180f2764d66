"""True peaks: how high a wave goes between its samples."""

from __future__ import annotations

import numpy as np
from numpy.lib.stride_tricks import sliding_window_view
from numpy.typing import NDArray

from ushering_adze.core.sound.levels import Sound

PHASES = np.array(
    [
        [
            *(0.0017089843750, 0.0109863281250, -0.0196533203125, 0.0332031250000, -0.0594482421875, 0.1373291015625),
            *(0.9721679687500, -0.1022949218750, 0.0476074218750, -0.0266113281250, 0.0148925781250, -0.0083007812500),
        ],
        [
            *(-0.0291748046875, 0.0292968750000, -0.0517578125000, 0.0891113281250, -0.1665039062500, 0.4650878906250),
            *(0.7797851562500, -0.2003173828125, 0.1015625000000, -0.0582275390625, 0.0330810546875, -0.0189208984375),
        ],
    ]
)
"""Two of the four phases of the filter that makes four samples of each; the others are these backwards (ITU-R BS.1770,
annex 2, from memory).
"""
STANDARD = np.stack([p[::-1] for p in (*PHASES, PHASES[1][::-1], PHASES[0][::-1])], axis=1).astype(np.float32)
"""What makes four samples of each, taps × phases, for the newest sample last."""


def _finer(taps: int = 24, phases: int = 8) -> NDArray[np.float32]:
    at = np.arange(taps)[:, None] - taps / 2 + 1 - np.arange(phases)[None, :] / phases
    made = np.sinc(at) * np.where(np.abs(at) < taps / 2, np.cos(np.pi * at / taps) ** 2, 0.0)
    return np.asarray(made / made.sum(axis=0), np.float32)


FINER = _finer()
"""The same, of twice as many that are closer to the wave, for who must let nothing through (windowed sinc, Hann)."""


class TruePeak:
    """Follows the true peak of channels.

    Parameters
    ----------
    channels : int
    between : ndarray, (taps, phases)
        By what samples between samples are made.
    """

    def __init__(self, channels: int = 2, between: NDArray[np.float32] = STANDARD) -> None:
        self._between, self.taps = between, len(between)
        self.most = float(np.abs(between).sum(axis=0).max())
        """By how much a true peak can lie over the largest sample, at most, as a factor."""
        self._before = np.zeros((self.taps - 1, channels), np.float32)

    def hear(self, sound: Sound) -> Sound:
        """The magnitudes between and at the samples of what comes next, half the filter's length late.

        Parameters
        ----------
        sound : ndarray, (samples, channels)

        Returns
        -------
        ndarray, (samples, channels)
            The largest magnitude of those that are made of each sample.
        """
        return np.ascontiguousarray(np.abs(self._made(sound)).max(axis=0).T)

    def highest(self, sound: Sound) -> NDArray[np.float32]:
        """The largest magnitude of each channel in what comes next.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        made = self._made(sound)
        found: NDArray[np.float32] = np.maximum(made.max(axis=(0, 2)), -made.min(axis=(0, 2)))
        return found

    def _made(self, sound: Sound) -> NDArray[np.float32]:
        """Samples between samples, phases × channels × samples."""
        whole = np.concatenate((self._before, sound))
        self._before = whole[len(whole) - self.taps + 1 :]
        around = sliding_window_view(np.ascontiguousarray(whole.T), self.taps, axis=1)  # the newest sample last
        made: NDArray[np.float32] = np.stack([around @ taps for taps in self._between.T])
        return made

    def skip(self, sound: Sound) -> None:
        """Pass over what comes next; it is only remembered for what follows.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        few = sound if len(sound) >= self.taps else np.concatenate((self._before, sound))
        self._before = few[-self.taps + 1 :].copy()
