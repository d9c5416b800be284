"""What a fault amounts to, how to turn the ring for it, and a test that can be made."""

import datetime as dt

import numpy as np
import pytest

from tests.core.plan.kit import setup
from welotrope.core.hand.causes import Cause
from welotrope.core.kit.setup import Setup
from welotrope.core.review.evidence import EvidenceFrame, assumed_aid, evidence_of
from welotrope.core.review.frame import TEST_TAG, frame_at, marked
from welotrope.core.review.misses import MOST_TEST_FRAMES, checks_for, correction, frames_to_take, why_missed
from welotrope.core.review.outcomes import Outcome
from welotrope.demo.hand_history import ALDERMOOR, SKELMAR

NOW = dt.datetime(2026, 3, 14, 18, 0)
RANGEFINDER = Setup(body=SKELMAR, lens=ALDERMOOR)
FIFTY = setup(0)


def frame(distance_mm, miss_mm, outcome=Outcome.FRONT, aid="rangefinder", stop=2.0, id=0):
    return EvidenceFrame(id, aid, "", "", stop, distance_mm, None, outcome, miss_mm, NOW)


def off_by_the_rangefinder(off, count, rng, aid="rangefinder"):
    """Frames of a rangefinder whose pictures meet with 1/s off by a constant, as its mirror makes it."""
    found = []
    for id in range(count):
        distance = float(rng.choice([1000.0, 1500.0, 2000.0, 3000.0]))
        plane = 1 / (1 / distance + off) + float(rng.normal(0, 0.002)) * distance
        side = Outcome.FRONT if plane < distance else Outcome.BEHIND
        found.append(frame(distance, abs(plane - distance), side, aid, id=id))
    return found


@pytest.mark.parametrize("off", [4e-5, -4e-5])
def test_the_correction_brings_the_plane_back(off):
    """Turned by it from where the faulty rangefinder leaves the ring, the ring focuses the subject."""
    rng = np.random.default_rng(3)
    misses = why_missed(RANGEFINDER, off_by_the_rangefinder(off, 12, rng))
    assert next(iter(misses.diagnosis.odds)) is Cause.RANGEFINDER
    rows = correction(RANGEFINDER, misses)
    assert [row.distance_mm for row in rows] == [1000.0, 2000.0, 5000.0]
    ring = RANGEFINDER.ring(2.0)
    for row in rows:
        left_at = 1 / (1 / row.distance_mm + off)
        put_right = float(ring.distance_at_angle(float(ring.angle_at_distance(left_at)) + row.turn_deg))
        assert abs(put_right - row.distance_mm) < 0.15 * abs(left_at - row.distance_mm)
        assert row.error_mm == pytest.approx(left_at - row.distance_mm, rel=0.15)
        assert row.left_mm < abs(row.error_mm)


def test_amounts_nearer_than_the_ring_goes_count():
    """Focus 2 cm before a subject at closest focus: the ring never stood there, yet the picture says so."""
    closest = RANGEFINDER.ring(2.0).closest_mm
    (one,) = evidence_of(RANGEFINDER, [frame(closest, 20.0)])
    f = RANGEFINDER.lens.focal_mm
    # Two thin lens equations apart: where the subject is imaged with the lens standing for the plane.
    plane = closest - 20.0
    x = min(np.roots([1, 2 * f - plane, f * f]).real)  # x + 2f + f²/x = plane
    v = f + x
    s = closest - v
    assert one.error_mm == pytest.approx(1 / (1 / f - 1 / s) - v, rel=1e-6)


def test_without_an_aid_noted_the_only_one_of_the_body_is_meant():
    assert assumed_aid(RANGEFINDER) == "rangefinder"
    assert assumed_aid(FIFTY) == "scale"
    rng = np.random.default_rng(5)
    bare = off_by_the_rangefinder(4e-5, 12, rng, aid="")
    assert next(iter(why_missed(RANGEFINDER, bare).diagnosis.odds)) is Cause.RANGEFINDER


def test_the_test_can_be_made():
    """A few frames at a table: a ruler shows the depth there, and it takes six at most."""
    few = [frame(2000.0, 60.0, Outcome.FRONT, id=1), frame(3000.0, 90.0, Outcome.BEHIND, id=2)]
    misses = why_missed(RANGEFINDER, few)
    wanted = frames_to_take(RANGEFINDER, misses)
    assert wanted
    assert sum(one.frames for one in wanted) <= MOST_TEST_FRAMES
    for one in wanted:
        assert 1000.0 <= one.distance_mm <= 3000.0
        at = RANGEFINDER.ring(one.stop)
        assert at.closest_mm <= one.distance_mm
    for _cause, check in checks_for(misses):
        assert check.do.endswith(".")
        assert check.tells.endswith(".")
        assert bool(check.link) == bool(check.link_words)


def test_a_frame_of_a_test_is_taken_when_it_is_marked():
    from dataclasses import fields, replace

    from welotrope.core.review.frame import Frame

    new = replace(frame_at(1, FIFTY, 40.0, 2.0, NOW), tags=(TEST_TAG,))
    held = {one.name: getattr(new, one.name) for one in fields(new)}
    laid_out = Frame(**held, id=1, outing_id=1, outcome=None)
    later = NOW + dt.timedelta(hours=2)
    assert marked(laid_out, Outcome.FRONT, later).taken_at == later
    again = marked(marked(laid_out, Outcome.FRONT, later), Outcome.HIT, later + dt.timedelta(hours=1))
    assert again.taken_at == later
    plain = replace(laid_out, tags=(), taken_at=later)
    assert marked(plain, Outcome.HIT, NOW).taken_at == NOW
