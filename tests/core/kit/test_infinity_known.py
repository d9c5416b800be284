"""Not knowing where infinity lies is never told as knowing."""

from dataclasses import replace

import pytest

from tests.core.plan.kit import setup
from welotrope.core.aids.advice import judge_aids
from welotrope.core.aids.handling import Situation
from welotrope.core.kit.lens import RingSource
from welotrope.core.plan.night_plan import night_steps, plan_night
from welotrope.core.ring.true_infinity import InfinityRecord, Sighting

ADAPTED, NATIVE = setup(0), setup(2)


def sighted(made):
    ring = made.ring()
    seen = tuple(Sighting(ring.clamp(ring.infinity_deg) + 0.1 * k) for k in range(3))
    return replace(made, records=replace(made.records, infinity=InfinityRecord(seen)))


def assumed(made):
    return replace(made, lens=replace(made.lens, throw_deg=None, ring_source=RingSource.ASSUMED))


@pytest.mark.parametrize(
    ("made", "known", "seen"),
    [(ADAPTED, False, False), (NATIVE, True, False), (sighted(ADAPTED), True, True), (sighted(NATIVE), True, True)],
)
def test_what_is_known_of_infinity(made, known, seen):
    assert (made.infinity_known, made.infinity_seen) == (known, seen)


@pytest.mark.parametrize("made", [ADAPTED, NATIVE, sighted(ADAPTED)])
def test_the_scale_ranks_first_at_infinity_only_where_it_was_seen(made):
    stop = made.lens.widest
    ring = made.ring(stop)
    situation = Situation(made, stop, made.view_stop(stop), ring.clamp(ring.infinity_deg))
    order = [verdict.kind for verdict in judge_aids(situation) if verdict.usable]
    if not made.infinity_seen:
        assert order[-1] == "scale"
        told = next(verdict for verdict in judge_aids(situation) if verdict.kind == "scale")
        assert "sight it once" in told.setting
        assert not told.resolves


def test_an_endless_ring_has_no_end_stop_to_turn_to():
    endless = replace(NATIVE, lens=replace(NATIVE.lens, fit=replace(NATIVE.lens.fit, endless=True)))
    steps = night_steps(plan_night(endless, endless.lens.widest), endless.blur_mm)
    assert not any("infinity stop" in step.do + step.why for step in steps)
    assert "infinity stop" in night_steps(plan_night(NATIVE, NATIVE.lens.widest), NATIVE.blur_mm)[0].do


def test_stars_of_an_adapted_lens_are_only_where_to_begin():
    steps = night_steps(
        plan_night(replace(ADAPTED, adapter=replace(ADAPTED.adapter, nominal_mm=None, measured_mm=None)), 1.4), 0.03
    )
    assert "Not known yet" in steps[0].why
    assert steps[0].do.startswith("Set the ring near")
