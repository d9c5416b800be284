"""What an outing tells, counted by hand, and misses that lean only when chance would not do."""

import datetime as dt
import math

import numpy as np

from welotrope.core.review.frame import Frame
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.report import divide, leaning

H, F, B = Outcome.HIT, Outcome.FRONT, Outcome.BEHIND


def frame(outcome, **more):
    return Frame(id=1, outing_id=1, taken_at=dt.datetime(2026, 3, 14), outcome=outcome, **more)


def test_frames_are_divided_by_what_was_noted():
    frames = [
        frame(H, lens_name="A", stop=2.8, distance_mm=900.0, aid="peaking"),
        frame(B, lens_name="A", stop=8, distance_mm=2000.0, aid="peaking"),
        frame(H, lens_name="B", stop=8, distance_mm=math.inf),
        frame(None, lens_name="B", stop=8, distance_mm=20_000.0),
    ]
    found = {
        one.by: {share.name: (share.tally.hit, share.tally.judged, share.tally.frames) for share in one.shares}
        for one in divide(frames)
    }
    assert found["lens"] == {"A": (1, 2, 2), "B": (1, 1, 2)}
    assert found["stop"] == {"f/2.8": (1, 1, 1), "f/8": (1, 2, 3)}
    assert list(found["distance"]) == ["under 1 m", "2 to 4 m", "16 m and more", "infinity"]
    assert "aid" not in found  # one class says nothing
    assert divide([]) == ()


def test_few_misses_lean_nowhere():
    assert leaning([frame(B)] * 4).side is None
    assert leaning([frame(H)] * 9) is None


def test_misses_on_one_side_are_called_so():
    assert leaning([frame(B)] * 9 + [frame(F)]).side is B
    assert leaning([frame(F)] * 9 + [frame(B)]).side is F


def test_chance_is_seldom_called_a_lean():
    """Coins: of many outings whose misses fall on either side alike, few are said to lean."""
    rng = np.random.default_rng(8)
    called = 0
    for _ in range(800):
        behind = int(rng.binomial(12, 0.5))
        called += leaning([frame(B)] * behind + [frame(F)] * (12 - behind)).side is not None
    assert called / 800 < 0.06
