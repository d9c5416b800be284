"""Matching pictures to frames: against every possible matching of small sets, and clocks that were planted wrong."""

import datetime as dt
import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from welotrope.core.errors import WelotropeError
from welotrope.core.picture.matching import (
    Moment,
    clock_offset_of,
    format_offset,
    match_by_order,
    match_by_time,
    natural_order,
    offset_between,
)

TIMES = st.lists(st.integers(0, 400), min_size=0, max_size=5, unique=True)


def moments(times):
    return [Moment(index, float(at)) for index, at in enumerate(times)]


def by_hand(pictures, frames, tolerance):
    """The most pairs in order within a tolerance, then the least time between them, of all there are."""
    best = (0, 0.0)
    for count in range(min(len(pictures), len(frames)) + 1):
        for some in itertools.combinations(sorted(pictures), count):
            for others in itertools.combinations(sorted(frames), count):
                off = [abs(a - b) for a, b in zip(some, others, strict=True)]
                if all(one <= tolerance for one in off):
                    best = max(best, (count, -sum(off)))
    return best


@given(TIMES, TIMES)
def test_no_other_matching_is_better(pictures, frames):
    # Far enough apart that no two are a burst.
    pictures, frames = [3 * one for one in pictures], [3 * one for one in frames]
    found = match_by_time(moments(pictures), moments(frames))
    off = sum(abs(pictures[a] - frames[b]) for a, b in found.items())
    count, least = by_hand(pictures, frames, 90)
    assert (len(found), -off) == (count, least)
    assert len(set(found.values())) == len(found)


def test_a_burst_goes_to_the_frame_of_its_first():
    pictures = moments([100, 101, 102.5, 106])
    assert match_by_time(pictures, [Moment(7, 100.0)]) == {0: 7, 1: 7, 2: 7}


@pytest.mark.parametrize("off", [0, 431, -3600, 370 * 24 * 3600])
def test_a_clock_that_is_off_is_found(off):
    """Frames at uneven times, some pictures without a frame, hands some seconds late."""
    rng = np.random.default_rng(4)
    frames = np.cumsum(rng.uniform(20, 400, 24))
    pictures = np.concatenate([frames[:21] + rng.uniform(-4, 4, 21), rng.uniform(0, 4000, 3)]) + off
    found = clock_offset_of(moments(pictures), moments(frames))
    assert found.believable
    assert found.seconds == pytest.approx(-off, abs=5)
    assert found.fit >= 21


def test_nothing_in_common_is_not_believed():
    rng = np.random.default_rng(5)
    found = clock_offset_of(moments(rng.uniform(0, 90_000, 20)), moments(rng.uniform(0, 90_000, 20)))
    assert not found.believable
    assert clock_offset_of([], moments([1])) is None


def test_a_year_between_two_clocks_is_taken_and_ten_are_not():
    noon = dt.datetime(2026, 3, 14, 12)
    assert offset_between(noon, noon - dt.timedelta(days=365)) == 365 * 24 * 3600
    with pytest.raises(WelotropeError, match="400 days"):
        offset_between(noon, noon.replace(year=2016))


def test_scans_go_by_their_numbers():
    names = ["scan10.tif", "scan9.tif", "Scan1.tif", "scan1a.tif"]
    assert sorted(names, key=natural_order) == ["Scan1.tif", "scan1a.tif", "scan9.tif", "scan10.tif"]
    assert match_by_order([1, 2, 3], [10, 11, 12, 13], first=2) == {1: 11, 2: 12, 3: 13}
    assert match_by_order([1, 2, 3], [10, 11, 12], backwards=True) == {3: 10, 2: 11, 1: 12}
    with pytest.raises(WelotropeError, match="First frame"):
        match_by_order([1], [10], first=4)


@pytest.mark.parametrize(("seconds", "words"), [
    (0, "right"), (-425, "7 min 5 s fast"), (3600, "1 h slow"), (86400, "1 day slow"), (-90061, "1 day 1 h 1 min fast"),
])  # fmt: skip
def test_a_clock_is_told_in_words(seconds, words):
    assert format_offset(seconds) == words
