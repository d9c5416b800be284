import math
import statistics

import numpy as np
import pytest

from welotrope.core.errors import OutOfRangeError
from welotrope.core.hand.skill_estimate import DrawnSkill
from welotrope.core.plan.trap import Trap, TrapHand, closing_speed, trap_chances

TRAP = Trap(focus_mm=6000, near_mm=5463.3, far_mm=6653.7, speed=3)


@pytest.mark.parametrize("angle", [0, 30, 60])
@pytest.mark.parametrize("receding", [False, True])
def test_walking_it_through_frame_by_frame(angle, receding):
    """A subject stepped along its path at a kilohertz: time in the zone, and what a press on time catches."""
    trap = Trap(focus_mm=6000, near_mm=5500, far_mm=6700, speed=3, angle_deg=angle, receding=receding, rate=10)
    step, seen, place = 1e-4, [], 20_000.0 if not receding else 2_000.0
    velocity = 3000 * math.cos(math.radians(angle)) * (-1 if not receding else 1)
    clock, decided = 0.0, None
    while 1_000 < place < 25_000:
        if 5500 <= place <= 6700:
            seen.append(clock)
        if decided is None and (place - trap.press_at_mm) * (1 if not receding else -1) <= 0:
            decided = clock
        if decided is not None and abs(clock - decided - 0.31) < step / 2:
            assert place == pytest.approx(6000, abs=2)
        place, clock = place + velocity * step, clock + step
    assert trap.time_in_zone_s == pytest.approx(seen[-1] - seen[0], abs=3 * step)
    assert trap.frames == pytest.approx(10 * trap.time_in_zone_s)
    assert trap.seconds_to(trap.press_at_mm) == pytest.approx(-0.31)


def test_a_subject_that_stays_at_one_distance_is_no_trap():
    for speed, angle in ((0, 0), (3, 90)):
        with pytest.raises(OutOfRangeError, match="no nearer"):
            closing_speed(speed, angle)
    with pytest.raises(OutOfRangeError):
        closing_speed(3, 120)
    with pytest.raises(OutOfRangeError):
        Trap(focus_mm=1, near_mm=1, far_mm=2, speed=1, rate=0)


def test_chances_of_a_known_hand_are_those_of_the_normal_law():
    """Ten thousand presses behind it: the hand is known, and one press has a closed form."""
    found = trap_chances(TRAP, TrapHand(reaction_s=0.25, spread_s=0.1, presses=10_000, speed_share=0.0)).single
    law = statistics.NormalDist(0, 300)
    expected = law.cdf(6000 - 5463.3) - law.cdf(6000 - 6653.7)
    assert found.share == pytest.approx(expected, abs=0.01)
    assert found.low <= expected <= found.high


def test_the_interval_covers_the_truth_of_a_hand_known_by_ten_presses():
    """Two hundred people press ten times; each one's own chance must lie in what their presses promise."""
    rng = np.random.default_rng(7)
    covered = 0
    for _ in range(200):
        reaction, spread = 0.25 + 0.03 * rng.standard_normal(), 0.08 * math.exp(0.25 * rng.standard_normal())
        presses = reaction + spread * rng.standard_normal(10)
        median, own = float(np.mean(presses)), float(np.std(presses, ddof=1))
        planned = Trap(focus_mm=6000, near_mm=5463.3, far_mm=6653.7, speed=3, reaction_s=max(median, 0.0))
        said = trap_chances(planned, TrapHand(reaction_s=median, spread_s=own, presses=10, speed_share=0.0)).single
        law = statistics.NormalDist(planned.press_at_mm - 3000 * (reaction + 0.06), 3000 * spread)
        truth = law.cdf(6653.7) - law.cdf(5463.3)
        covered += said.low <= truth <= said.high
    assert covered >= 0.92 * 200


def test_a_burst_helps_and_a_zone_without_end_is_hardly_missed():
    hand = TrapHand(reaction_s=0.25, spread_s=0.15, presses=10)
    found = trap_chances(TRAP, hand)
    assert found.burst.share > found.single.share
    endless = Trap(focus_mm=6000, near_mm=3000, far_mm=math.inf, speed=3)
    assert trap_chances(endless, hand).burst.share > 0.99
    assert math.isinf(endless.time_in_zone_s)


@pytest.mark.parametrize(("bias", "spread"), [(0.0, 0.5), (0.6, 0.4), (0.0, 2.0)])
def test_a_plane_put_beside_the_mark_misses_as_often_as_it_lies_outside(bias, spread):
    """Pressed all but exactly, at a known speed: only where the ring was left counts, worked with the error function."""
    sure = TrapHand(reaction_s=0.25, spread_s=1e-4, presses=100_000, speed_share=0.0,
                    placed=(DrawnSkill(bias, spread, heavy=False),))  # fmt: skip
    middle = 2 / (1 / TRAP.near_mm + 1 / TRAP.far_mm)  # of the window, which moves as one in reciprocal distance
    at_middle = Trap(focus_mm=middle, near_mm=TRAP.near_mm, far_mm=TRAP.far_mm, speed=TRAP.speed)
    inside = (math.erf((1 - bias) / spread / math.sqrt(2)) + math.erf((1 + bias) / spread / math.sqrt(2))) / 2
    assert trap_chances(at_middle, sure).single.share == pytest.approx(inside, abs=0.02)


@pytest.mark.parametrize("receding", [False, True])
def test_a_burst_decided_where_it_says_begins_as_the_subject_enters_the_zone(receding):
    """Coming nearer it enters at the far limit, going away at the near one."""
    trap = Trap(
        focus_mm=6000, near_mm=5500, far_mm=6700, speed=3, receding=receding, rate=10, reaction_s=0.3, lag_s=0.1
    )
    way = 1 if receding else -1
    place = trap.burst_from_mm + way * 3000 * 0.4
    assert place == pytest.approx(5500 if receding else 6700)
