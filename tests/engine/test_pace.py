"""How a loop's frames are counted, against sums done by hand."""

from __future__ import annotations

import pytest

from ushering_adze.engine.pace import KEPT, LATELY, Pace


def test_frames_are_counted_and_late_ones_told_of_for_a_while() -> None:
    pace = Pace()
    assert (pace.fps, pace.milliseconds, pace.late, pace.mark) == (0, 0, 0, (0, 0.0)) and not pace.late_lately(0.0)
    for n in range(200):
        began = n * 0.04  # 25 a second
        spent = 0.050 if n == 120 else 0.010
        assert pace.made(began, began + spent, began + 0.04) == (n != 120)
    assert pace.mark == (200, 199 * 0.04) and pace.late == 1
    assert pace.milliseconds == pytest.approx((10 * (KEPT - 1) + 50) / KEPT)
    assert pace.fps == pytest.approx(25)
    late_at = 120 * 0.04 + 0.05
    assert pace.late_lately(late_at + LATELY - 0.01) and not pace.late_lately(late_at + LATELY + 0.01)


def test_a_frame_finished_just_in_time_is_not_late() -> None:
    pace = Pace()
    assert pace.made(1.0, 1.5, 1.5) and not pace.made(2.0, 2.5, 2.4999) and pace.late == 1
