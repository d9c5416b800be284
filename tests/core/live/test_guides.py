"""The guided uses: which frame leads on, which does not, and what a stack asks for."""

import pytest

from welotrope.core.errors import OutOfRangeError, UnreadableError
from welotrope.core.live.guides import GUIDES, guide_called, has_drifted, next_step, stack_guide
from welotrope.core.live.passing import State
from welotrope.core.live.sweep import Change, LiveReading


def reading(state, share=1.0, **more):
    values = {"frame": 9, "best_frame": 4, "share": share, "low": share - 0.05, "high": min(share + 0.05, 1.0)} | more
    return LiveReading(state=state, **values)


def led(guide, states):
    step, steps = 0, []
    for state in states:
        step = next_step(guide, step, reading(state))
        steps.append(step)
    return steps


def test_the_plane_is_placed_by_two_passes_and_a_return():
    plane = guide_called("plane")
    assert led(plane, [State.SEARCHING, State.RISING, State.PAST, State.PAST]) == [0, 0, 1, 1]
    assert plane.steps[1].by_hand and plane.steps[1].fresh
    step = 2
    for state, then in [(State.RISING, 2), (State.PAST, 3), (State.RISING, 3), (State.AT_BEST, 4), (State.PAST, 5),
                        (State.AT_BEST, 6), (State.PAST, 6)]:  # fmt: skip
        step = next_step(plane, step, reading(state))
        assert step == then
    assert "Placed" in plane.steps[6].says


@pytest.mark.parametrize("guide", GUIDES, ids=lambda guide: guide.key)
def test_every_guide_can_be_gone_through(guide):
    step = 0
    for _ in range(3 * len(guide.steps)):
        here = guide.steps[step]
        wanted = next(iter(here.until), State.RISING)
        step = min(step + 1, len(guide.steps) - 1) if here.by_hand else next_step(guide, step, reading(wanted))
    assert step == len(guide.steps) - 1


def test_a_stack_goes_on_once_the_needle_has_fallen_to_the_mark():
    guide = stack_guide(4, 4.0, 4.0)
    taking = next(index for index, step in enumerate(guide.steps) if step.below)
    assert guide.steps[taking].below == pytest.approx(0.5)  # blurred by as much as the standard allows
    assert next_step(guide, taking, reading(State.RISING, 0.6)) == taking
    assert next_step(guide, taking, reading(State.RISING, 0.48)) == taking + 1
    assert next_step(guide, taking, reading(State.RISING, 0.0, change=Change.BLACK)) == taking
    assert sum("picture" in step.says and step.below > 0 for step in guide.steps) == 3
    assert guide.steps[-1].says == "Take picture 4. The stack is complete."


@pytest.mark.parametrize(("frames", "step", "field"), [(1, 4, "guided use"), (99, 4, "guided use"), (5, 0.5, "blur of one"),
                                                 (5, 40, "blur of one")])  # fmt: skip
def test_stacks_that_cannot_be_stepped_through_are_refused(frames, step, field):
    with pytest.raises(OutOfRangeError, match=f"(?i){field}"):
        stack_guide(frames, step, 4.0)


def test_a_guide_of_no_name_is_refused():
    with pytest.raises(UnreadableError, match="Choose from free, plane"):
        guide_called("nonsense")


@pytest.mark.parametrize(("share", "high", "drifted"), [(0.9, 0.95, False), (0.8, 0.9, False), (0.7, 0.8, True)])
def test_drift_is_said_only_when_it_is_sure(share, high, drifted):
    assert has_drifted(reading(State.PAST, share, high=high)) is drifted
    assert not has_drifted(reading(State.PAST, share, high=high, change=Change.LIGHT))
