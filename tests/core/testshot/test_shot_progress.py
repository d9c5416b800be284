"""Progress by pictures: how scatter changed, with an interval that a simulation shows to hold."""

import datetime as dt
from dataclasses import replace

import numpy as np
import pytest

from tests.core.kit.test_camera_kind import LENS, camera
from welotrope.core.kit.camera_kind import CameraKindId
from welotrope.core.kit.setup import Setup
from welotrope.core.testshot.aid_series import AidReading, AidVerdictFound, MeasuredShot
from welotrope.core.testshot.shot_progress import progress_with, scatter_change

SETUP = Setup(body=camera(CameraKindId.SLR), lens=replace(LENS, mount=None))
DAY = dt.datetime(2026, 3, 1, 10)


def reading(errors):
    return AidReading(verdict=AidVerdictFound.RIGHT, count=len(errors), scatter_windows=float(np.std(errors, ddof=1)))


@pytest.mark.parametrize(("counts", "times"), [((4, 4), 1.0), ((3, 10), 0.5), ((10, 6), 2.0)])
def test_the_interval_of_a_change_holds(counts, times):
    random, held, sure = np.random.default_rng(8), 0, 0
    for _ in range(2000):
        first, last = random.normal(0, 1, counts[0]), random.normal(0, times, counts[1])
        change = scatter_change(reading(first), reading(last))
        held += change.low <= times <= change.high
        sure += change.is_sure
    assert 0.935 < held / 2000 < 0.965
    assert times != 1.0 or sure / 2000 < 0.065


def shots(planes):
    return [
        MeasuredShot(picture=f"{k}.jpg", stop=1.8, distance_mm=1000.0, plane_mm=plane, low_mm=plane - 0.5,
                     high_mm=plane + 0.5) for k, plane in enumerate(planes)
    ]  # fmt: skip


def test_series_are_told_in_their_order_without_those_that_tell_nothing():
    series = [
        ("c", DAY + dt.timedelta(days=30), shots([2, -1, 1, -2, 1])),
        ("a", DAY, shots([20, -12, 9, -18, 14])),
        ("b", DAY + dt.timedelta(days=2), shots([3])),
    ]
    found = progress_with(SETUP, "matte", series)
    assert [one.series for one in found.series] == ["a", "c"]
    first, last = (one.reading.scatter_windows for one in found.series)
    assert found.change.times == pytest.approx(last / first)
    assert found.change.times < 0.2
    assert found.change.is_sure
    assert found.change.high < 0.5
    assert progress_with(SETUP, "matte", series[1:]).change is None


def test_without_any_scatter_there_is_nothing_to_compare():
    assert scatter_change(reading([1, 1, 1]), reading([1, 2, 3])) is None
