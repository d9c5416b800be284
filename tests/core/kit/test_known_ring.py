"""Which record a set-up's ring rests on, and what it is called."""

import math
from dataclasses import replace

import pytest

from welotrope.core.kit.known_ring import Basis, InfinityBasis, RingRecords, known_ring
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.setting import ring_setting
from welotrope.core.ring.focus_shift import FocusShift, ShiftTrial
from welotrope.core.ring.helicoid import Helicoid
from welotrope.core.ring.survey import Point, ReadingUnit, Survey, SurveyKind
from welotrope.core.ring.true_infinity import InfinityRecord, Sighting
from welotrope.demo import skarnmere

LENS = Lens(name="Haldis 50", focal_mm=50, stops=(2, 4, 8, 16), closest_mm=450, throw_deg=220, ring_diameter_mm=60)
BARE = replace(LENS, throw_deg=None)
TRUE = Helicoid(focal_mm=50, lead_mm=10.8, throw_deg=220, start_mm=-0.12)


def survey(ring, kind):
    metres = (0.46, 0.6, 1, 2, 5, math.inf)
    return Survey(points=tuple(Point(float(ring.angle_at_distance(m * 1000)), m * 1000) for m in metres), kind=kind)


MEASURED = survey(TRUE, SurveyKind.MEASURED)
ENGRAVED = survey(TRUE.moved(0.12), SurveyKind.ENGRAVED)
SEEN = InfinityRecord((Sighting(6.0), Sighting(6.2), Sighting(5.8)))


@pytest.mark.parametrize(
    ("lens", "error", "records", "basis", "infinity", "infinity_deg"),
    [
        (BARE, None, RingRecords(), Basis.ASSUMED, InfinityBasis.ENGRAVED, 0),
        (LENS, None, RingRecords(), Basis.ENGRAVED, InfinityBasis.ENGRAVED, 0),
        (BARE, None, RingRecords(scale=ENGRAVED), Basis.ENGRAVED, InfinityBasis.ENGRAVED, 0),
        (BARE, -0.09, RingRecords(scale=ENGRAVED), Basis.ENGRAVED, InfinityBasis.ADAPTER, 3.0),
        (BARE, -0.09, RingRecords(scale=ENGRAVED, measured=MEASURED), Basis.CALIBRATED, InfinityBasis.MEASURED, 4.0),
        (BARE, -0.09, RingRecords(measured=MEASURED, infinity=SEEN), Basis.CALIBRATED, InfinityBasis.SIGHTED, 6.0),
        (BARE, 0.06, RingRecords(elsewhere=MEASURED), Basis.CALIBRATED, InfinityBasis.ADAPTER, -2.0),
    ],
)
def test_the_best_record_wins(lens, error, records, basis, infinity, infinity_deg):
    known = known_ring(lens, error, records)
    assert (known.basis, known.infinity_basis) == (basis, infinity)
    assert known.true.infinity_deg == pytest.approx(infinity_deg, abs=0.01)
    assert known.problems == ()
    if records != RingRecords():
        assert known.calibration.lead_mm == pytest.approx(10.8, rel=1e-3)


def test_scale_stays_as_engraved_when_infinity_moves():
    known = known_ring(BARE, None, RingRecords(scale=ENGRAVED, infinity=SEEN))
    assert known.scale.infinity_deg == pytest.approx(0, abs=0.01)
    assert known.scale_is_off


def test_a_record_that_no_longer_fits_is_named_and_left_aside():
    known = known_ring(replace(LENS, closest_mm=900), None, RingRecords(measured=MEASURED))
    assert known.basis is Basis.ENGRAVED
    assert "nearer than closest focus" in known.problems[0]


def test_an_indicator_counts_in_steps():
    steps = Survey(
        points=tuple(Point(k, 1000 / (0.05 + 0.2 * k)) for k in range(0, 11, 2)),
        way=ReadingUnit.STEPS,
        kind=SurveyKind.MEASURED,
        end=10,
    )
    known = known_ring(replace(BARE, engraved_units=()), None, RingRecords(measured=steps))
    assert known.step_deg == pytest.approx(18)
    assert not known.scale_is_off


def test_focus_shift_moves_the_setting_and_not_the_window():
    setup = Setup(body=skarnmere.BODIES["ostrel"], lens=LENS)
    shift = FocusShift((ShiftTrial(2, 40.0), ShiftTrial(8, 42.0)))
    shifted = replace(setup, records=RingRecords(shift=shift))
    plain, moved = ring_setting(setup, 50.0, 8), ring_setting(shifted, 52.0, 8)
    assert moved.focus_mm == pytest.approx(plain.focus_mm)
    assert moved.window_deg == pytest.approx(plain.window_deg)
    assert ring_setting(shifted, 50.0, 2) == ring_setting(setup, 50.0, 2)
