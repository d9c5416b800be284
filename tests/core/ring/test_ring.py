import itertools
import math

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from tests.core.strategies import blurs, rings, stops
from welotrope.core.errors import OutOfRangeError, TooCloseError
from welotrope.core.ring.engraving import engraved_marks, fit_labels, numeral, place_between, scale_distances
from welotrope.core.ring.helicoid import Helicoid, ring_mm_per_degree
from welotrope.core.ring.table import ANGLE_UNIT_DEG, STEP_DEG, VERGENCE_UNIT, ring_table
from welotrope.core.ring.window import sharp_window
from welotrope.core.units.distance import Unit

NORRVIK = Helicoid.from_closest_focus(50, 450, 230)


@given(rings(), st.floats(0, 1))
def test_angle_and_distance_invert_each_other(ring, share):
    angle = ring.throw_deg * share
    distance = ring.distance_at_angle(angle)
    assert ring.angle_at_distance(distance) == pytest.approx(angle, abs=1e-6)


@given(rings())
def test_ends_of_the_travel(ring):
    assert ring.distance_at_angle(0.0) == math.inf
    assert ring.angle_at_distance(ring.closest_mm) == pytest.approx(ring.throw_deg, abs=1e-6)


@given(rings(), st.floats(0.1, 1))
def test_one_reading_recovers_the_ring(ring, share):
    angle = ring.throw_deg * share
    assume(angle > 1)
    again = Helicoid.from_reading(ring.focal_mm, ring.closest_mm, angle, ring.distance_at_angle(angle))
    assert again.lead_mm == pytest.approx(ring.lead_mm, rel=1e-6)
    assert again.throw_deg == pytest.approx(ring.throw_deg, rel=1e-6)


@given(rings(), stops, blurs, st.floats(0, 1))
def test_window_is_close_to_two_N_c(ring, N, c, share):
    """Exact window against 2·N·c·360/(L·(1−m)), which holds while it is small."""
    angle = ring.throw_deg * share
    m = ring.extension_at_angle(angle) / ring.focal_mm
    assume(N * c / ring.focal_mm < 0.02 * (1 - m) ** 2)
    window = sharp_window(ring, angle, N, c)
    assert window.width_deg == pytest.approx(2 * N * c / (1 - m) * 360 / ring.lead_mm, rel=5e-3)
    assert window.far_deg < angle < window.near_deg


def test_a_reading_at_infinity_says_nothing():
    with pytest.raises(OutOfRangeError, match="infinity"):
        Helicoid.from_reading(50, 450, 0.0, math.inf)


def test_reach_names_closest_focus():
    with pytest.raises(TooCloseError, match=r"0.45 m \(1′5½″\) or more"):
        NORRVIK.check_reach(300, field="focus distance")
    assert NORRVIK.check_reach(450) == 450


@pytest.mark.parametrize(("lead", "throw"), [(0, 90), (10, 0), (1e9, 90), (10, 4000), (math.nan, 90)])
def test_impossible_rings_are_refused(lead, throw):
    with pytest.raises(OutOfRangeError):
        Helicoid(focal_mm=50, lead_mm=lead, throw_deg=throw)


def test_ring_surface_per_degree():
    assert ring_mm_per_degree(360 / math.pi) == pytest.approx(1)
    with pytest.raises(OutOfRangeError, match="10 to 400 mm"):
        ring_mm_per_degree(0)


@given(rings(), blurs)
def test_table_holds_what_the_functions_give(ring, c):
    table = ring_table(ring, (8.0,), c)
    for index in (0, len(table.near[8.0]) // 2, len(table.near[8.0]) - 1):
        angle = index * STEP_DEG
        window = sharp_window(ring, angle, 8.0, c)
        assert table.near[8.0][index] * ANGLE_UNIT_DEG == pytest.approx(window.near_deg, abs=6e-4)
        assert table.far[8.0][index] * ANGLE_UNIT_DEG == pytest.approx(window.far_deg, abs=6e-4)
        place = index - round(table.start_deg / STEP_DEG)
        assert table.vergence[place] * VERGENCE_UNIT == pytest.approx(1 / ring.distance_at_angle(angle), abs=6e-10)
    assert len(table.near[8.0]) * STEP_DEG > ring.throw_deg
    assert len(table.vergence) * STEP_DEG > table.near[8.0][-1] * ANGLE_UNIT_DEG


def test_table_read_linearly_between_steps_gives_the_distance_to_a_thousandth():
    table = ring_table(NORRVIK, (5.6,), 0.029)
    angles = np.arange(0.125, 230, 1.25)
    places = table.start_deg + np.arange(len(table.vergence)) * STEP_DEG
    read = np.interp(angles, places, table.vergence * VERGENCE_UNIT)
    exact = NORRVIK.distance_at_angle(angles)
    assert np.max(np.abs(1 / read / exact - 1)) < 1e-3


@given(st.lists(st.tuples(st.floats(0, 100), st.floats(1, 20)), max_size=30))
def test_kept_labels_never_overlap_and_the_first_stays(labels):
    positions, widths = [p for p, _ in labels], [w for _, w in labels]
    kept = sorted(fit_labels(positions, widths), key=lambda i: positions[i])
    assert not labels or 0 in kept
    for left, right in itertools.pairwise(kept):
        assert positions[right] - positions[left] >= (widths[left] + widths[right]) / 2 - 1e-9


def test_engraving_starts_at_infinity_and_stays_within_reach():
    marks = engraved_marks(NORRVIK, Unit.METRIC, 1.2, 1.3)
    assert marks[0].text == "∞"
    assert marks[0].numeral
    assert all(mark.distance_mm >= 449.9 for mark in marks)
    assert [mark.angle_deg for mark in marks] == sorted(mark.angle_deg for mark in marks)


def test_marks_keep_their_distance():
    marks = engraved_marks(NORRVIK, Unit.METRIC, 1.2, 1.3, tick_deg=2)
    gaps = [b.angle_deg - a.angle_deg for a, b in itertools.pairwise(marks)]
    assert min(gaps) >= 2
    assert len(marks) < len(engraved_marks(NORRVIK, Unit.METRIC, 1.2, 1.3))


def test_own_engraving_is_used_alone():
    own = (450.0, 600.0, 1000.0, 2000.0, 5000.0)
    marks = engraved_marks(NORRVIK, Unit.METRIC, 1, 1, engraved=own)
    assert [mark.distance_mm for mark in marks] == [math.inf, *sorted(own, reverse=True)]


@pytest.mark.parametrize(
    ("feet", "text"), [(7.5, "7½"), (0.75, "¾"), (3, "3"), (1.25, "1¼"), (math.inf, "∞"), (7.3, "7.3")]
)
def test_numerals_in_feet(feet, text):
    assert numeral(feet * 304.8, Unit.FEET) == text


FEET_RING = Helicoid.from_closest_focus(75.0, 1067.0, 180.0)
IN_FEET = [feet * 304.8 for feet in (3.5, 5, 10, 15)]


@pytest.mark.parametrize(
    ("share", "words"),
    [
        (0.25, "a quarter of the way from 15 to 10 ft"),
        (0.5, "halfway from 15 to 10 ft"),
        (0.76, "three quarters of the way from 15 to 10 ft"),
        (0.04, "just nearer than 15 ft"),
        (0.96, "just farther than 10 ft"),
        (0.0, ""),
    ],
)
def test_an_index_is_told_by_the_numbers_it_stands_between(share, words):
    far, near = (float(FEET_RING.angle_at_distance(feet * 304.8)) for feet in (15, 10))
    assert place_between(FEET_RING, IN_FEET, far + share * (near - far), Unit.FEET, 0.1) == words


def test_beyond_the_last_number_the_index_stands_from_infinity_and_nearer_than_the_nearest_nowhere():
    last = float(FEET_RING.angle_at_distance(IN_FEET[-1]))
    assert place_between(FEET_RING, IN_FEET, last / 2, Unit.FEET, 0.1) == "halfway from ∞ to 15 ft"
    assert place_between(FEET_RING, IN_FEET[1:], FEET_RING.throw_deg - 1, Unit.FEET, 0.1) == ""


def test_a_scale_shows_its_own_distances_as_far_as_it_goes_or_a_usual_set():
    ring = NORRVIK
    assert scale_distances(ring, (2000.0, 450.0, 300.0), Unit.METRIC) == [450.0, 2000.0, math.inf]
    usual = scale_distances(ring, (), Unit.METRIC)
    assert usual == sorted(set(usual))
    assert usual[-1] == math.inf
    assert {1000.0, 2000.0, 5000.0} < set(usual)
    assert 1000.0 not in scale_distances(ring, (), Unit.FEET)
