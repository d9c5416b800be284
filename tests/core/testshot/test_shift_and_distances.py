"""Focus shift over stops, and an aid that is off near and far."""

import dataclasses
import math

import numpy as np
import pytest

from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.kit.setup import Setup
from welotrope.core.ring.focus_shift import FocusShift
from welotrope.core.testshot.aid_series import AidFault, DistantReading, MeasuredShot, fault_sentence, told_apart
from welotrope.core.testshot.shift_series import read_shift
from welotrope.demo import skarnmere


def shot(stop, plane, *, wide=1.0, distance=1500.0, **more):
    return MeasuredShot(
        picture=f"{stop}.jpg", stop=stop, distance_mm=distance, plane_mm=plane, low_mm=plane - wide,
        high_mm=plane + wide, **more,
    )  # fmt: skip


def test_shift_is_told_against_the_widest_stop():
    found = read_shift([shot(2.8, 9.0), shot(1.4, 3.0), shot(4.0, 11.0), shot(1.4, 5.0)], ring=None)
    assert [(one.stop, one.shift_mm, one.pictures) for one in found.stops] == [
        (1.4, 0.0, 2),
        (2.8, 5.0, 1),
        (4.0, 7.0, 1),
    ]
    # Half intervals of 1 mm and, of two pictures, 1/√2 mm: their root of squares.
    assert found.stops[1].high_mm - found.stops[1].shift_mm == pytest.approx(math.sqrt(1.5))
    assert (found.stops[0].low_mm, found.stops[0].high_mm) == (0.0, 0.0)
    assert found.trials == ()


def test_a_picture_in_doubt_is_left_out_and_said():
    doubtful = dataclasses.replace(shot(4.0, 20.0), warnings=("Shaken.",))
    found = read_shift([shot(1.4, 0.0), shot(2.8, 0.4), doubtful], ring=None)
    assert [one.stop for one in found.stops] == [1.4, 2.8]
    assert "4.0.jpg (f/4) was left out. Shaken." in found.warnings


def test_one_stop_or_none_is_refused():
    with pytest.raises(ConflictError, match="all were taken at one stop"):
        read_shift([shot(2.0, 1.0), shot(2.0, 2.0)], ring=None)
    with pytest.raises(OutOfRangeError, match="too few"):
        read_shift([shot(2.0, 1.0)], ring=None)


def test_the_record_brings_focus_back():
    """On the demo's lens: turned by what the record says, the ring focuses where it did wide open."""
    ring = Setup(body=skarnmere.BODIES["ostrel"], lens=skarnmere.LENSES["norrvik"]).known.true
    found = read_shift([shot(2.0, 0.0), shot(5.6, 30.0)], ring=ring)
    fell = ring.angle_at_distance(1530.0)
    turned = float(ring.distance_at_angle(fell + found.stops[1].turn_deg))
    assert turned == pytest.approx(1500.0, abs=0.5)
    assert found.stops[1].turn_deg > 0  # towards closest focus, since it fell behind
    assert FocusShift(found.trials).at(5.6) == pytest.approx(found.stops[1].turn_deg, abs=0.02)


def reading(distance, film, error=0.004):
    return DistantReading(distance_mm=distance, film_mm=film, error_mm=error)


def test_a_setting_is_alike_on_the_film_and_a_cam_is_not():
    assert told_apart([reading(1000, 0.05)]) is None
    assert told_apart([reading(1000, 0.05), reading(1200, 0.05)]) is None
    alike = told_apart([reading(4000, 0.052), reading(1000, 0.05)])
    assert (alike.fault, alike.near_mm, alike.far_mm) == (AidFault.SETTING, 1000, 4000)
    assert alike.low_mm < 0.05 < alike.high_mm
    assert told_apart([reading(1000, 0.05), reading(4000, 0.0125)]).fault is AidFault.CAM
    assert told_apart([reading(1000, 0.05, 0.03), reading(4000, 0.03, 0.03)]).fault is None


@pytest.mark.parametrize("fault", [AidFault.SETTING, AidFault.CAM])
def test_causes_are_told_apart_as_often_as_the_intervals_say(fault):
    random = np.random.default_rng(3)
    told, held = [], 0
    for _ in range(400):
        errors = random.uniform(0.002, 0.006, 2)
        true = np.array([0.06, 0.06 if fault is AidFault.SETTING else 0.06 / 5])
        seen = true + errors * random.standard_normal(2)
        found = told_apart([reading(d, v, e) for d, v, e in zip((800, 4000), seen, errors, strict=True)])
        told.append(found.fault)
        held += found.low_mm < 0.06 < found.high_mm
    assert told.count(fault) / 400 > 0.92
    assert sum(one not in (fault, None) for one in told) <= 2
    if fault is AidFault.SETTING:
        assert 0.92 < held / 400 < 0.98


def test_words_say_what_to_do():
    behind = told_apart([reading(1000, 0.05), reading(4000, 0.05)])
    before = told_apart([reading(1000, -0.05), reading(4000, -0.05)])
    # Focus falls behind: the film's path is shorter than the screen's, which has to come nearer.
    assert "too far from the lens" in fault_sentence(behind, "matte")
    assert "by 0.05 mm, nearer to the lens" in fault_sentence(behind, "matte")
    assert "too near to the lens" in fault_sentence(before, "matte")
    assert "by 0.05 mm, away from the lens" in fault_sentence(before, "matte")
    assert "rangefinder itself is out of line" in fault_sentence(behind, "rangefinder")
    cam = told_apart([reading(1000, 0.05), reading(4000, 0.0125)])
    assert "cam and this lens do not agree" in fault_sentence(cam, "rangefinder")
    assert "how you focus" in fault_sentence(cam, "matte")
