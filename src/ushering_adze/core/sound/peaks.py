"""True peaks: how high a wave goes between its samples."""

from __future__ import annotations

import numpy as np
from scipy.signal import lfilter

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
TAPS = PHASES.shape[1]
MOST = float(max(np.abs(PHASES).sum(axis=1)))
"""By how much a true peak can lie over the largest sample, at most, as a factor."""


class TruePeak:
    """Follows the true peak of channels.

    Parameters
    ----------
    channels : int
    """

    def __init__(self, channels: int = 2) -> None:
        self._before = np.zeros((TAPS - 1, channels), np.float32)

    def hear(self, sound: Sound) -> Sound:
        """The magnitudes between and at the samples of what comes next, half the filter's length late.

        Parameters
        ----------
        sound : ndarray, (samples, channels)

        Returns
        -------
        ndarray, (samples, channels)
            The largest magnitude of the four that are made of each sample.
        """
        whole = np.concatenate((self._before, sound))
        self._before = whole[len(whole) - TAPS + 1 :]
        phases = (*PHASES, PHASES[1][::-1], PHASES[0][::-1])
        found = [np.abs(lfilter(taps, 1.0, whole, axis=0)[TAPS - 1 :]) for taps in phases]
        made: Sound = np.maximum.reduce(found).astype(np.float32)
        return made

    def skip(self, sound: Sound) -> None:
        """Pass over what comes next; it is only remembered for what follows.

        Parameters
        ----------
        sound : ndarray, (samples, channels)
        """
        few = sound if len(sound) >= TAPS else np.concatenate((self._before, sound))
        self._before = few[-TAPS + 1 :].copy()
