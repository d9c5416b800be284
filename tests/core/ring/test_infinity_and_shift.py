import math
import statistics

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.strategies import rings
from welotrope.core.errors import WelotropeError
from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial
from welotrope.core.ring.helicoid import Helicoid
from welotrope.core.ring.true_infinity import (
    InfinityRecord,
    Sighting,
    Warmth,
    corrected_scale,
    find_infinity,
    thickness_error,
)

RING = Helicoid.from_closest_focus(50, 450, 230)


@given(rings(), st.floats(-0.5, 0.5))
def test_thickness_error_is_the_inverse_of_moving_the_ring(ring, error):
    assert thickness_error(ring.moved(error).infinity_deg, ring) == pytest.approx(error, abs=1e-9)


def test_too_thick_an_adapter_reaches_as_far_as_published():
    """f + f²/ε from the principal plane: 25 050 mm for f 50 and ε 0.10; the film plane lies f + ε behind it."""
    assert RING.moved(0.10).farthest_mm == pytest.approx(25_050 + 50.1, abs=0.5)
    found = find_infinity(InfinityRecord(farthest_mm=25_100.1), RING)
    assert found.extension_mm == pytest.approx(0.10, abs=1e-5)
    assert found.angle_deg < 0


def test_sightings_are_averaged_and_their_scatter_told():
    angles = (4.0, 4.4, 3.2, 3.5)
    warmth = (Warmth.WARM, Warmth.WARM, Warmth.COLD, Warmth.COLD)
    found = find_infinity(InfinityRecord(tuple(map(Sighting, angles, warmth))), RING)
    assert found.angle_deg == pytest.approx(statistics.mean(angles))
    # Student's t for six degrees of freedom, printed in every table: 2.447; the half degree known beforehand counts
    # as three readings.
    pooled = math.sqrt((3 * 0.25 + 3 * statistics.variance(angles)) / 6)
    assert found.half_deg == pytest.approx(2.447 * pooled / 2, rel=1e-3)
    assert found.warm_cold_deg == pytest.approx(0.85)


def test_few_sightings_never_look_surer_than_they_are():
    one, two, same = (
        find_infinity(InfinityRecord(tuple(map(Sighting, angles))), RING).half_deg
        for angles in ((3.0,), (3.0, 3.4), (3.0, 3.0))
    )
    assert one > two > same > 0.5


@pytest.mark.parametrize("count", [1, 2, 3, 6])
@pytest.mark.parametrize("error", [0.4, 0.5, 0.6])
def test_the_interval_of_sightings_covers(count, error):
    """2000 simulated photographers whose error is about what is taken beforehand."""
    rng = np.random.default_rng(count)
    hits = 0
    for angles in rng.normal(3.0, error, (2000, count)):
        found = find_infinity(InfinityRecord(tuple(Sighting(float(a)) for a in angles)), RING)
        hits += abs(found.angle_deg - 3.0) <= found.half_deg
    assert hits / 2000 >= 0.93


def test_what_the_engraving_really_means():
    rows = corrected_scale(RING, RING.moved(0.1), [math.inf, 2000.0])
    assert rows[0].true_mm == pytest.approx(25_100.1, abs=0.5)
    # By hand: 2 m engraved is x = 1.3168 mm; with 0.1 more, s = 50 + 2500/1.4168 = 1814.5, D = s + 50 + 1.417.
    assert rows[1].true_mm == pytest.approx(1814.5 + 51.42, abs=0.2)


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: InfinityRecord(tuple(Sighting(1.0) for _ in range(41))), "at most 40"),
        (lambda: InfinityRecord((Sighting(-90.0),)), "no ring has infinity there"),
        (lambda: InfinityRecord((Sighting(1.0),), 25_000), "seen and missed at once"),
        (lambda: InfinityRecord(farthest_mm=math.inf), "then infinity is reached"),
        (lambda: find_infinity(InfinityRecord(), RING), "there is none"),
        (lambda: FocusShift((ShiftTrial(2, 40), ShiftTrial(2, 41))), "needs two stops"),
        (lambda: FocusShift((ShiftTrial(2, 40), ShiftTrial(4, 140))), "no lens shifts that far"),
        (lambda: FocusShift(tuple(ShiftTrial(2 + i % 2, 40) for i in range(61))), "at most 60"),
    ],
)
def test_bad_records_say_why(make, words):
    with pytest.raises(WelotropeError) as caught:
        make()
    assert words in caught.value.sentence


def test_shift_is_read_in_exposure_steps_and_held_beyond_the_tried_stops():
    shift = FocusShift((ShiftTrial(2, 40.0), ShiftTrial(2, 40.4), ShiftTrial(8, 42.2)))
    assert shift.at(1.4) == shift.at(2) == 0
    assert shift.at(4) == pytest.approx(1.0)  # two of four stops of the way to 2.0
    assert shift.at(8) == shift.at(22) == pytest.approx(2.0)
    assert [row.trials for row in shift.per_stop] == [2, 1]


@given(st.floats(2, 8), st.floats(2, 8))
def test_shift_never_turns_back_between_two_trials(a, b):
    shift = FocusShift((ShiftTrial(2, 40.0), ShiftTrial(8, 42.2)))
    assert (shift.at(a) - shift.at(b)) * (a - b) >= 0
