"""The interval of a mean against figures worked out elsewhere."""

import statistics

import numpy as np
import pytest

from welotrope.core.stats import mean_interval

# Student's t, 97.5 %, as tables print it, by degrees of freedom.
TABLE = {2: 4.303, 4: 2.776, 9: 2.262}


@pytest.mark.parametrize("values", [(9.8, 10.2, 10.4), (101.0, 99.0, 100.5, 98.0, 103.0), tuple(range(50, 60))])
def test_an_interval_is_that_of_the_tables(values):
    mean, half = mean_interval(values, 0.0)
    assert mean == pytest.approx(statistics.mean(values))
    wanted = TABLE[len(values) - 1] * statistics.stdev(values) / len(values) ** 0.5
    assert half == pytest.approx(wanted, rel=1e-3)


def test_an_interval_does_not_depend_on_where_the_values_lie():
    near, far = (mean_interval([shift + value for value in (0.1, 0.4, -0.2, 0.0)], 0.2)[1] for shift in (0.0, 1000.0))
    assert near == pytest.approx(far)


def test_an_interval_covers_nineteen_times_in_twenty():
    rng = np.random.default_rng(5)
    runs = rng.normal(7.0, 0.3, (2000, 4))
    covered = sum(abs(mean - 7.0) <= half for mean, half in (mean_interval(run.tolist(), 0.0) for run in runs))
    assert 0.935 <= covered / len(runs) <= 0.965
