import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.strategies import rings
from welotrope.core.errors import WelotropeError
from welotrope.core.ring.helicoid import Helicoid
from welotrope.core.ring.strip import (
    MarkKind,
    Wrap,
    check_strip_diameter,
    depth_marks,
    distance_marks,
    no_room,
    protractor_marks,
)
from welotrope.core.ring.window import sharp_window
from welotrope.core.units.distance import MM_PER_FOOT, Unit

BOTH = (Unit.METRIC, Unit.FEET)
RING = Helicoid.from_closest_focus(50, 450, 230)


@given(rings(), st.floats(20, 120), st.floats(0, 0.5), st.sampled_from([1, -1]), st.floats(0.05, 1))
def test_distance_to_paper_and_back(ring, diameter, paper, direction, share):
    """Within half a percent of the focus budget: the window of the finest usual demand, f/2 and 0.01 mm."""
    wrap = Wrap(diameter, paper, direction)
    distance = float(ring.distance_at_angle(ring.throw_deg * share))
    on_paper = round(wrap.place(float(ring.angle_at_distance(distance))), 5)  # as a sheet writes it
    angle = wrap.angle(on_paper)
    assert abs(angle - ring.throw_deg * share) < 0.005 * sharp_window(ring, angle, 2.0, 0.01).width_deg


def test_paper_bends_about_its_middle():
    assert Wrap(60).circumference_mm == pytest.approx(math.pi * 60)
    assert Wrap(60, 0.1).circumference_mm == pytest.approx(math.pi * 60.1)


@pytest.mark.parametrize("direction", [1, -1])
def test_marks_follow_the_true_ring_in_the_rings_direction(direction):
    true = RING.moved(-0.05)
    marks = distance_marks(true, Wrap(61, 0, direction), BOTH)
    leading = [mark for mark in marks if mark.kind is MarkKind.LEADING and mark.text not in ("", "∞")]
    for mark in leading:
        angle = float(true.angle_at_distance(float(mark.text) * 1000))
        assert mark.at_mm == pytest.approx(direction * angle * math.pi * 61 / 360)
    infinity = next(mark for mark in marks if mark.text == "∞")
    assert infinity.at_mm * direction == pytest.approx(true.infinity_deg * math.pi * 61 / 360)
    assert any(mark.kind is MarkKind.OTHER and mark.text == "3" for mark in marks)
    three_feet = next(mark for mark in marks if mark.kind is MarkKind.OTHER and mark.text == "3")
    assert true.distance_at_angle(direction * three_feet.at_mm * 360 / (math.pi * 61)) == pytest.approx(3 * MM_PER_FOOT)


def test_chosen_distances_all_get_a_tick_and_the_crowded_lose_only_their_numeral():
    chosen = (math.inf, 10_000.0, 9_900.0, 1000.0)
    marks = distance_marks(RING, Wrap(61), (Unit.METRIC,), distances_mm=chosen)
    assert sum(mark.kind is MarkKind.LEADING for mark in marks) == 4
    assert no_room(marks) == ["9.9"]


def test_presets_stand_where_they_are_set():
    marks = distance_marks(RING, Wrap(61), BOTH, presets=[("quay", 20.0), ("winch", 120.0)])
    quay = next(mark for mark in marks if mark.text == "quay")
    assert (quay.kind, quay.at_mm) == (MarkKind.PRESET, pytest.approx(-20 * math.pi * 61 / 360))


def test_depth_marks_are_the_windows_ends():
    marks = depth_marks(RING, Wrap(61, 0, 1), (8.0, 16.0), 0.03)
    window = sharp_window(RING, 0.0, 16.0, 0.03)
    places = sorted(mark.at_mm for mark in marks if mark.kind is MarkKind.STOP and mark.text == "16")
    assert places == pytest.approx([window.far_deg * math.pi * 61 / 360, window.near_deg * math.pi * 61 / 360])
    assert sum(mark.kind is MarkKind.INDEX for mark in marks) == 1


def test_collar_reads_degrees():
    marks = protractor_marks(Wrap(60, 0, 1))
    ninety = next(mark for mark in marks if mark.text == "90")
    assert ninety.at_mm == pytest.approx(math.pi * 60 / 4)
    assert all(mark.text == str(mark.degree) for mark in marks if mark.text)


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: Wrap(0), "no focus ring is that size"),
        (lambda: Wrap(60, 3), "no strip is that thick"),
        (lambda: check_strip_diameter(None), "a strip at true size needs it"),
        (lambda: distance_marks(Helicoid.from_closest_focus(50, 450, 400), Wrap(60), BOTH), "marks of two turns"),
        (lambda: distance_marks(RING, Wrap(60), BOTH, distances_mm=(300.0,)), "this lens does not focus so near"),
        (lambda: distance_marks(RING.moved(0.1), Wrap(60), BOTH, distances_mm=(math.inf,)), "does not reach so far"),
    ],
)
def test_a_wrong_strip_is_never_made(make, words):
    with pytest.raises(WelotropeError) as caught:
        make()
    assert words in caught.value.sentence
