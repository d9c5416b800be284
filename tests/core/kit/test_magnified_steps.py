"""Which step of the magnified view is named: the first that shows the subject, and the largest as the finer one."""

from dataclasses import replace

from tests.core.plan.kit import setup
from welotrope.core.kit.aids.kind import Sensor, Target
from welotrope.core.kit.aids.magnified import MAGNIFIED, MagnifiedView
from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.setup import sight_of

AID = MagnifiedView(display_px=1280, steps=(3.0, 6.0, 12.0))


def test_the_largest_step_is_the_finer_one():
    made = setup(0)
    sight = sight_of(made, 20.0, 1.4, 1.4)
    sight = replace(sight, blur_mm=10 * sight.blur_mm)  # so coarse that the first step is enough
    found = MAGNIFIED.judges(AID, sight, Target(), Sensor(0.004, 9000), Eye.of({}))
    assert found.chosen["step"] == 3.0
    assert found.chosen["finer_step"] == 12.0
