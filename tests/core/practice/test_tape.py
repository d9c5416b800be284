"""What is read off a tape: by any of the three ways the same ring was left the same way off."""

import math

import pytest

from tests.core.plan.kit import setup
from welotrope.core.errors import OutOfRangeError
from welotrope.core.practice.drill_readings import ReadIn, Stands, error_of_reading, error_of_turning
from welotrope.core.practice.drills import DrillId, DrillTrial, Throw


@pytest.fixture
def at():
    return DrillTrial(drill=DrillId.TAPE, aid="matte", stop=2.0, distance_mm=2000.0)


@pytest.mark.parametrize("stands", list(Stands))
def test_mm_degrees_and_scale_tell_the_same(at, stands):
    mine = setup(0)
    by_degrees = error_of_turning(mine, at, 2.0, ReadIn.DEGREES, stands)
    around = math.pi * mine.lens.ring_diameter_mm
    by_mm = error_of_turning(mine, at, 2.0 / 360 * around, ReadIn.MM, stands)
    assert by_mm.error_deg == pytest.approx(by_degrees.error_deg)
    read = float(mine.ring(2.0).distance_at_angle(by_degrees.at_deg))
    by_scale = error_of_reading(mine, at, read)
    assert by_scale.error_deg == pytest.approx(by_degrees.error_deg, abs=1e-6)
    # Behind is where the ring stands farther than it should.
    assert (read > 2000.0) == (by_degrees.error_deg > 0) == (stands is Stands.FARTHER)
    assert (by_degrees.error_deg == 0) == (stands is Stands.ON)


@pytest.mark.parametrize(("size", "words"), [(-1.0, "without a sign"), (900.0, "does not turn so far")])
def test_what_no_ring_does_is_refused(at, size, words):
    with pytest.raises(OutOfRangeError, match=words):
        error_of_turning(setup(0), at, size, ReadIn.DEGREES, Stands.NEARER)


def test_a_throw_is_as_far_either_way():
    assert (
        Throw(True, 8.0).thrown_deg(0.5) == -Throw(False, 8.0).thrown_deg(0.5) == Throw(False, 8.0).size_deg(0.5) == 4.0
    )
