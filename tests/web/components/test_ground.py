"""The ground axis: every place has its distance and every distance its place, and the table says the same."""

import math

from hypothesis import given
from hypothesis import strategies as st

from welotrope.web.components.ground import FIRST, INFINITY, RIGHT, STEP, GroundAxis

AXES = st.builds(
    lambda start, decades: GroundAxis(start_mm=start, end_mm=start * 10**decades), st.floats(15, 5e3), st.floats(1, 5)
)


@given(AXES, st.floats(9, 96.9))
def test_a_place_comes_back_from_its_distance(axis, percent):
    distance = axis.distance(percent)
    if math.isfinite(distance):
        assert math.isclose(axis.percent(distance), percent, abs_tol=1e-6)


@given(AXES, st.floats(0.9, 1e3))
def test_a_place_looked_up_in_the_table_is_the_place_reckoned(axis, share):
    """To a hundredth of a percent of the width: a tenth of a pixel."""
    table = [float(text) for text in axis.table]
    mm = axis.start_mm * share
    if not table[0] < mm < table[-1] or axis.percent(mm) > RIGHT:
        return
    low = max(index for index, value in enumerate(table) if value <= mm)
    found = FIRST + STEP * (low + (mm - table[low]) / (table[low + 1] - table[low]))
    assert math.isclose(found, axis.percent(mm), abs_tol=0.01)


@given(AXES)
def test_the_table_runs_on_towards_infinity(axis):
    table = [float(text) for text in axis.table]
    assert table == sorted(table)
    assert len(table) == round((INFINITY - FIRST) / STEP)
    assert axis.percent(math.inf) == INFINITY
