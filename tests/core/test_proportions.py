import pytest
from hypothesis import given
from hypothesis import strategies as st

from welotrope.core.review.outcomes import Outcome, tally
from welotrope.core.stats import wilson


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
