import statistics

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from welotrope.core.review.outcomes import Outcome, tally
from welotrope.core.stats import Mixture, wilson


@pytest.mark.parametrize(
    ("hits", "trials", "low", "high"),
    [(14, 20, 0.481, 0.855), (0, 10, 0.0, 0.278), (10, 10, 0.722, 1.0), (1, 2, 0.095, 0.905)],
)
def test_wilson_against_published_tables(hits, trials, low, high):
    interval = wilson(hits, trials)
    assert interval.low == pytest.approx(low, abs=5e-4)
    assert interval.high == pytest.approx(high, abs=5e-4)


@given(st.integers(1, 500), st.data())
def test_wilson_contains_the_share_and_stays_within_one(trials, data):
    hits = data.draw(st.integers(0, trials))
    interval = wilson(hits, trials)
    assert 0 <= interval.low <= interval.share <= interval.high <= 1


def test_no_trials_no_share_and_nonsense_is_refused():
    assert wilson(0, 0) is None
    with pytest.raises(ValueError, match="between 0 and 3"):
        wilson(4, 3)


def test_tally_leaves_moved_and_unsure_out_of_the_share():
    result = tally({Outcome.HIT: 3, Outcome.FRONT: 1, Outcome.MOVED: 5, Outcome.UNSURE: 2, None: 4})
    assert (result.frames, result.marked) == (15, 11)
    assert result.hits.share == 0.75


def test_the_quantiles_of_a_mixture_are_those_of_its_parts_where_they_lie_apart():
    parts = [np.array(one) for one in ([1.0, 1.0, 2.0], [0.0, 1000.0, -1e5], [1.0, 1e-6, 100.0])]
    mixture = Mixture.of(parts[0], parts[1], parts[2] ** 2)
    # Half of all lies in the farthest, a quarter in either other: 1.959964 is the published point of 97.5 %.
    found = [mixture.quantile(share) for share in (0.25, 0.5 + 0.25 * 0.025, 0.625, 0.875, 0.5 + 0.25 * 0.975)]
    expected = [-1e5, -1.959964, 0.0, 1000.0, 1.959964]
    assert found == pytest.approx(expected, abs=1e-5)
    assert Mixture.of(*(one[:1] for one in parts)).interval() == pytest.approx((-1.959964, 1.959964), abs=1e-6)


def test_a_narrow_part_within_a_wide_one_is_found():
    """Newton's method alone goes back and forth across it without end."""
    weights, means, sds = np.array([1, 0.1, 0.01]), np.array([-6.8, 1.4, 12.3]), np.array([91.0626, 0.0379, 135.3242])
    at = Mixture.of(weights, means, sds**2).quantile(0.5)
    below = sum(w * statistics.NormalDist(m, s).cdf(at) for w, m, s in zip(weights, means, sds, strict=True))
    assert below / weights.sum() == pytest.approx(0.5, abs=1e-7)


@given(st.lists(st.tuples(st.floats(0.01, 1), st.floats(-50, 50), st.floats(0.01, 30)), min_size=1, max_size=9))
def test_as_much_of_a_mixture_lies_below_a_quantile_as_was_asked(parts):
    weights, means, sds = (np.array(one) for one in zip(*parts, strict=True))
    mixture = Mixture.of(weights, means, sds**2)
    for share in (0.025, 0.5, 0.975):
        at = mixture.quantile(share)
        below = sum(w * statistics.NormalDist(m, s).cdf(at) for w, m, s in zip(weights, means, sds, strict=True))
        assert below / weights.sum() == pytest.approx(share, abs=1e-7)
