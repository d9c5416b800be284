"""A series with one aid: bias, interval, and when to stop, against a simulation of people and aids."""

import datetime as dt
import math

import numpy as np
import pytest

from welotrope.core.hand.evidence import ShownBy
from welotrope.core.kit.aids.registry import every_kind, shown_by
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.review.outcomes import Outcome
from welotrope.core.testshot.aid_series import (
    LEAST_SHOTS,
    MOST_SHOTS,
    AidVerdictFound,
    MeasuredShot,
    as_frame,
    likely_causes,
    read_aid,
)

SETUP = Setup(
    body=Body("made-up body", ImageFormat(36, 24)),
    lens=Lens(name="made-up", focal_mm=50, stops=(2, 4, 8, 16), closest_mm=450),
)
DISTANCE, STOP = 1200.0, 2.0


def shot(plane, *, warnings=()):
    return MeasuredShot(
        picture="a.jpg", stop=STOP, distance_mm=DISTANCE, plane_mm=plane, low_mm=plane - 0.5, high_mm=plane + 0.5,
        warnings=warnings,
    )  # fmt: skip


def half_window_mm():
    """Half the depth of field before a thin lens, by brute force over planes: where the subject's blur is the criterion."""
    f = 50.0
    away = DISTANCE - 52.3  # from the lens: its image lies as far behind it
    for plane in np.arange(0.0, 200.0, 0.1):
        focus = away + plane
        image = f * focus / (focus - f)
        blur = f / STOP * image * abs(1 / focus - 1 / away)
        if blur > SETUP.blur_mm:
            return plane
    raise AssertionError


def test_half_a_window_of_bias_is_told_as_half_a_window():
    half = half_window_mm()
    reading = read_aid(SETUP, "scale", [shot(half + off) for off in (-1.0, 0.5, 0.2, 0.3)])
    assert reading.verdict is AidVerdictFound.OFF
    assert reading.bias_windows == pytest.approx(1.0, rel=0.06)
    assert reading.bias_mm == pytest.approx(half, rel=0.05)
    assert reading.low_mm < half < reading.high_mm
    assert reading.bias_deg > 0  # behind is too far towards infinity


def test_degrees_of_ring_are_those_the_ring_turns_between_the_two_distances():
    planes = (18.0, 18.2, 17.8)
    reading = read_aid(SETUP, "scale", [shot(plane) for plane in planes])
    ring = SETUP.ring(STOP)
    turned = abs(float(ring.angle_at_distance(DISTANCE + 18.0)) - float(ring.angle_at_distance(DISTANCE)))
    assert reading.bias_deg == pytest.approx(turned, rel=0.05)


@pytest.mark.parametrize("sign", [1, -1])
def test_in_front_is_not_behind(sign):
    half = half_window_mm()
    reading = read_aid(SETUP, "scale", [shot(sign * (half + off)) for off in (-1.0, 0.5, 0.2)])
    assert np.sign([reading.bias_mm, reading.bias_deg, reading.bias_windows]).tolist() == [sign] * 3


def test_a_picture_with_a_doubt_does_not_count():
    shots = [shot(20.0), shot(21.0), shot(400.0, warnings=("The sheet is bent.",)), shot(19.0)]
    reading = read_aid(SETUP, "scale", shots)
    assert reading.count == 3
    assert reading.bias_mm == pytest.approx(20.0, abs=0.5)
    assert [as_frame(one, "scale", dt.datetime.min).outcome for one in (shots[0], shot(-3.0))] == [
        Outcome.BEHIND,
        Outcome.FRONT,
    ]


def test_one_and_two_pictures_ask_for_more():
    assert [read_aid(SETUP, "scale", [shot(9.0)] * count).more for count in range(LEAST_SHOTS)] == [3, 2, 1]


def test_the_interval_of_the_mean_holds_as_often_as_it_says():
    """People who scatter by 0.2 to 0.8 half windows about a bias, three to ten pictures each."""
    rng = np.random.default_rng(11)
    half = half_window_mm()
    held, called, wrong = [], 0, 0
    for _ in range(250):
        bias, scatter, count = rng.uniform(-1.5, 1.5), rng.uniform(0.2, 0.8), int(rng.integers(3, 11))
        planes = half * rng.normal(bias, scatter, count)
        reading = read_aid(SETUP, "scale", [shot(float(plane)) for plane in planes])
        held.append(reading.low_windows < bias < reading.high_windows)
        if reading.verdict is AidVerdictFound.OFF:
            called += 1
            wrong += np.sign(reading.bias_windows) != np.sign(bias)
    assert 0.91 <= np.mean(held) <= 0.985
    assert called > 100
    assert wrong <= 3


def test_an_aid_that_is_out_by_half_a_window_is_told_in_three_to_six_pictures():
    """The steadiness of a rangefinder in practised hands: a quarter of the half window."""
    rng = np.random.default_rng(5)
    half, needed = half_window_mm(), []
    for _ in range(60):
        planes: list[float] = []
        while len(planes) < MOST_SHOTS:
            planes.append(float(half * rng.normal(1.0, 0.25)))
            if read_aid(SETUP, "scale", [shot(plane) for plane in planes]).verdict is AidVerdictFound.OFF:
                break
        needed.append(len(planes))
    assert min(needed) >= 3
    assert np.quantile(needed, 0.9) <= 6


def test_every_kind_of_aid_that_is_off_has_something_said_of_it():
    off = read_aid(SETUP, "scale", [shot(60.0), shot(61.0), shot(62.0)])
    right = read_aid(SETUP, "scale", [shot(0.1), shot(-0.2), shot(0.0)])
    for tag in (*(kind.tag for kind in every_kind()), "scale"):
        assert likely_causes(right, tag) == ()
        if shown_by(tag) is not ShownBy.OTHER:
            assert all(sentence.endswith(".") for sentence in likely_causes(off, tag))
            assert likely_causes(off, tag)
    assert "qualified repairer" in " ".join(likely_causes(off, "rangefinder"))


def test_more_pictures_are_asked_for_until_the_mean_would_be_known_to_half_a_half_window():
    half = half_window_mm()
    reading = read_aid(SETUP, "scale", [shot(half * off) for off in (0.9, -1.1, 1.5, -0.7)])
    assert reading.verdict is AidVerdictFound.OPEN
    wide = (reading.high_windows - reading.low_windows) / 2
    enough = reading.count + reading.more
    assert enough == MOST_SHOTS or wide * math.sqrt(reading.count / enough) <= 0.5
    assert reading.more > 1
