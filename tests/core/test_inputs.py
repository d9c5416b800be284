"""What an input says of a value beyond its limits, in the unit in which it is written."""

import pytest

from welotrope.core.errors import Field, OutOfRangeError
from welotrope.core.inputs import number_input

FAR = number_input("far", Field("far", "far limit"), "Far limit", unit="m", low=0.5, high=100.0, per=1000.0)


def test_a_value_is_checked_and_named_in_the_unit_it_is_written_in():
    FAR.check(None)
    FAR.check(500.0)
    FAR.check(100_000.0)
    for mm, read in ((499.0, "0.499"), (250_000.0, "250")):
        with pytest.raises(OutOfRangeError) as caught:
            FAR.check(mm)
        assert caught.value.sentence == f"Far limit: read “{read} m”; out of range. Write 0.5 to 100 m."
