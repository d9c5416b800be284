"""What is told of a round once it is over."""

from dataclasses import replace

import pytest

from welotrope.core.finder.round import Release, Round, RoundRequest
from welotrope.core.kit.setup import Setup
from welotrope.core.practice.trial import best_path, crossings
from welotrope.demo import skarnmere

SETUP = Setup(body=skarnmere.BODIES["ostrel"], lens=skarnmere.LENSES["norrvik"])


@pytest.fixture(scope="module")
def trial():
    made = Round(SETUP, RoundRequest("single", "magnified", "shed", 1.4), 3)
    return made.judge(Release(angle_deg=made.start_deg, lean_mm=0.0, seconds=4.0))


@pytest.mark.parametrize("start", [20.0, 160.0])
def test_the_best_path_passes_sharp_once_and_comes_back_to_its_middle_in_the_same_time(trial, start):
    path = best_path(replace(trial, path=((0.0, start), (1.0, 95.0), (4.0, 92.0)), target_deg=90.0, window_deg=8.0))
    assert path[0] == (0.0, start)
    assert path[-1] == (4.0, 90.0)
    assert [seconds for seconds, _ in path] == sorted(seconds for seconds, _ in path)
    farthest = max((angle for _, angle in path), key=lambda angle: abs(angle - start))
    assert (farthest - 90.0) * (90.0 - start) > 0, "it goes past on the side away from the start"
    assert 4.0 < abs(farthest - 90.0) < 6.0, "out of the window, and within the room a round leaves"
    assert crossings(path, 90.0) >= 1


def test_a_ring_that_was_not_turned_has_no_best_path(trial):
    assert best_path(replace(trial, path=((0.0, 20.0),))) == ()
    assert best_path(replace(trial, path=())) == ()
