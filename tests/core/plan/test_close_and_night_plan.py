import itertools
import math
from dataclasses import replace

import numpy as np
import pytest

from tests.core.plan.kit import setup
from tests.core.plan.ray_trace import blur_on_film, through_two
from welotrope.core.errors import ConflictError, OutOfRangeError
from welotrope.core.kit.attachment import Attachment, AttachmentKind
from welotrope.core.plan.close_plan import close_up, extension_for, rail_stack, reach_of, search
from welotrope.core.plan.close_stack import close_stack
from welotrope.core.plan.night_plan import night_steps, plan_night
from welotrope.demo.skarnmere import ATTACHMENTS

PLUS2 = Attachment(name="+2", kind=AttachmentKind.CLOSEUP, labelled=2)
TUBE = Attachment(name="tube", kind=AttachmentKind.TUBE, least_mm=16)
BELLOWS = Attachment(name="bellows", kind=AttachmentKind.BELLOWS, least_mm=40, most_mm=140)
REVERSED = Attachment(name="ring", kind=AttachmentKind.REVERSED, least_mm=4)


def gap_of(made):
    """From the rim, where a close-up lens is screwed in, back to the principal plane, by laying the parts in a row."""
    rim_from_flange, flange_to_film = made.lens.fit.length_mm, made.lens.mount.register_mm
    return rim_from_flange + flange_to_film - made.lens.focal_mm - made.ring().h_mm


def patch(one, made, stop, off_mm):
    """Blur on the film of a point ``off_mm`` behind the plane: rays through close-up lens and main lens, apart."""
    f, gap = made.lens.focal_mm, gap_of(made)
    w, power, v = one.setting.working_mm + off_mm, one.reach.power, f + one.setting.extension_mm
    if power == 0:
        return blur_on_film(w, v, f, stop)
    ends = []
    for edge in (-0.5, 0.5):
        height = edge * f / stop  # at the main lens, whose opening is the stop
        # A ray from the point on the axis: h1 at the close-up lens, bent there, h2 = height at the main lens.
        h1 = height / (1 + gap * (1 / w - power / 1000))
        slope = h1 / w - h1 * power / 1000
        ends.append(height + (slope - height / f) * v)
    return abs(ends[1] - ends[0])


@pytest.mark.parametrize(
    "parts", [(), (PLUS2,), (TUBE,), (PLUS2, TUBE)], ids=lambda parts: "+".join(p.name for p in parts) or "alone"
)
def test_limits_of_depth_are_where_the_traced_patch_is_the_blur(parts):
    made = setup(0)
    reach = reach_of(made, parts)
    x = (reach.range.near.extension_mm + reach.range.far.extension_mm) / 2
    one = close_up(made, reach, x, 8)
    f = made.lens.focal_mm
    for depth in one.depths:
        assert patch(one, made, depth.stop, -depth.before_mm) == pytest.approx(made.blur_mm, rel=1e-6)
        if math.isfinite(depth.behind_mm):
            assert patch(one, made, depth.stop, depth.behind_mm) == pytest.approx(made.blur_mm, rel=1e-6)
    if reach.power:
        behind, height = through_two(one.setting.working_mm, 1000 / reach.power, gap_of(made), f)
        assert (behind, -height) == (pytest.approx(f + x), pytest.approx(one.setting.magnification))
    assert one.width_mm * one.setting.magnification == pytest.approx(36)


def test_room_before_the_rim_by_laying_the_parts_in_a_row():
    """Film, register of the lens's mount, tube, barrel, and what the helicoid has moved it out."""
    made = setup(0)
    one = close_up(made, reach_of(made, (TUBE,)), 16 + 3.0, 8)
    subject = one.setting.working_mm + 50 + 19.0
    barrel = made.lens.mount.register_mm + 16 + made.lens.fit.length_mm + 3.0
    assert one.clearance_mm == pytest.approx(subject - barrel)
    assert one.ring.angle_deg == pytest.approx(float(made.ring().angle_at_extension(3.0)))
    unknown = replace(made, lens=replace(made.lens, fit=replace(made.lens.fit, length_mm=None)))
    assert close_up(unknown, reach_of(unknown, (TUBE,)), 19.0, 8).clearance_mm is None


@pytest.mark.parametrize(("subject", "room"), [(60.0, 100.0), (110.0, 150.0), (36.0, 0.0), (25.0, 0.0), (300.0, 0.0)])
def test_the_search_finds_what_trying_everything_finds(subject, room):
    made = setup(0)
    wanted, able = 36 / subject, set()
    for count in range(3):
        for parts in itertools.combinations(ATTACHMENTS, count):
            reach = reach_of(made, parts)
            ends = sorted((reach.range.far.extension_mm, reach.range.near.extension_mm))
            steps = [close_up(made, reach, float(x), 8) for x in np.linspace(*ends, 24)]
            sizes = [one.setting.magnification for one in steps]
            if min(sizes) <= wanted <= max(sizes):
                nearest = min(steps, key=lambda one: abs(one.setting.magnification - wanted))
                if (nearest.clearance_mm or 0) > room + 5:
                    able.add(reach.name)
    found = search(made, ATTACHMENTS, subject, room, 8, most=100)
    names = {one.reach.name for one in found.found}
    assert able <= names
    for one in found.found:
        assert max(one.width_mm, one.height_mm) == pytest.approx(subject, rel=1e-6)
        assert one.clearance_mm is None or one.clearance_mm >= room
    assert bool(found.found) == (not found.why_not)
    strong = [one.reach.strong for one in found.found]
    assert strong == sorted(strong)


def test_a_close_up_lens_on_the_rim_takes_room_and_adds_none():
    """Bellows at their longest: the thing stands before the rim, a close-up lens there can only bring it nearer."""
    made = setup(0)
    alone, with_lens = (reach_of(made, parts) for parts in ((BELLOWS,), (PLUS2, BELLOWS)))
    bare, lensed = (close_up(made, reach, reach.range.near.extension_mm, 8) for reach in (alone, with_lens))
    assert lensed.clearance_mm < bare.clearance_mm
    behind, height = through_two(lensed.setting.working_mm, 500, gap_of(made), 50)
    assert behind == pytest.approx(50 + lensed.setting.extension_mm)
    assert -height == pytest.approx(lensed.setting.magnification)


def test_nothing_that_does_it_says_what_comes_nearest():
    made = setup(1)
    found = search(made, [], 5.0, 0.0, 8)
    assert not found.found
    assert "the lens alone comes closest" in found.why_not
    found = search(setup(0), [TUBE], 100.0, 900.0, 8)
    assert "working distance is only" in found.why_not


def test_a_reversed_lens_without_room_behind_focuses_nowhere():
    with pytest.raises(ConflictError, match="nothing is known"):
        reach_of(replace(setup(0), body=replace(setup(0).body, mount=None)), (REVERSED,))
    long = setup(4)
    with pytest.raises(ConflictError, match=r"focuses nowhere.*mm of tube"):
        reach_of(long, (REVERSED,))
    assert reach_of(setup(3), (REVERSED, BELLOWS)).reversed


@pytest.mark.parametrize("parts", [(PLUS2,), (TUBE,)], ids=lambda parts: parts[0].name)
def test_a_stack_covers_its_depth_on_ring_and_rail(parts):
    made = setup(0)
    reach = reach_of(made, parts)
    wanted = reach.range.near.magnification * 0.9
    one = close_up(made, reach, extension_for(made, reach, wanted), 8)
    stack = close_stack(made, one, 8, 9.0, 0.2)
    planes = [at + next(d.before_mm for d in one.depths if d.stop == 8) for at in stack.rail.positions_mm]
    for mm in np.linspace(0, 9.0, 300):
        assert min(patch(one, made, 8, mm - plane) for plane in planes) <= made.blur_mm * 1.001
    angles = [frame.angle_deg for frame in stack.ring]
    assert angles == sorted(angles, reverse=True)
    for mm in np.linspace(0, 9.0, 120):
        assert min(ring_patch(made, one, frame.angle_deg, mm) for frame in stack.ring) <= made.blur_mm * 1.002
    assert stack.mm_per_degree > 0


def ring_patch(made, one, angle_deg, off_mm):
    """Blur of a point so far behind the near end with the ring turned to a mark: film and point stay where they are.

    The lens, and the close-up lens on its rim, draw back from the point as the ring is turned to farther marks.
    """
    f, moved_x = made.lens.focal_mm, one.added_mm + float(made.ring().extension_at_angle(angle_deg))
    back = one.setting.extension_mm - moved_x
    moved = replace(one, setting=replace(one.setting, extension_mm=moved_x))
    return patch(moved, made, 8, off_mm + back) if one.reach.power else blur_on_film(
        one.setting.working_mm + off_mm + back, f + moved_x, f, 8
    )  # fmt: skip


def test_a_stack_past_what_the_ring_reaches_is_left_to_the_rail():
    made = setup(0)
    reach = reach_of(made, (PLUS2,))
    far = close_up(made, reach, reach.range.far.extension_mm + 0.2, 8)
    stack = close_stack(made, far, 8, 200.0, 0.2)
    assert stack.ring == ()
    assert "Use a rail" in stack.ring_problem
    assert stack.rail.frames > 1


def test_one_frame_is_enough_for_less_than_its_depth():
    assert rail_stack(2.0, 1.0, 0.2).frames == 1
    with pytest.raises(OutOfRangeError):
        close_stack(setup(0), close_up(setup(0), reach_of(setup(0), ()), 3.0, 8), 8, 0.0, 0.2)


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"kind": AttachmentKind.CLOSEUP}, "nothing without power"),
        ({"kind": AttachmentKind.TUBE}, "adds nothing"),
        ({"kind": AttachmentKind.BELLOWS, "least_mm": 50, "most_mm": 20}, "Swap the two"),
        ({"kind": AttachmentKind.CLOSEUP, "labelled": 90}, "0.1 to 40"),
    ],
)
def test_no_such_attachment(values, words):
    with pytest.raises((ConflictError, OutOfRangeError), match=words):
        Attachment(name="x", **values)


def test_measured_power_counts_before_the_label():
    assert Attachment(name="x", kind=AttachmentKind.CLOSEUP, labelled=2, measured=1.8).power == 1.8


@pytest.mark.parametrize("index", [0, 1, 4])
def test_a_star_a_tenth_of_a_degree_off_traced(index):
    made = setup(index)
    stop = made.lens.widest
    plan = plan_night(made, stop)
    ring = made.ring(stop)
    x = float(ring.extension_at_angle(ring.clamp(ring.infinity_deg) + 0.1))
    off = x - float(ring.extension_at_angle(ring.clamp(ring.infinity_deg)))
    blur = blur_on_film(math.inf, made.lens.focal_mm + off, made.lens.focal_mm, stop)
    assert plan.tenth_mm == pytest.approx(math.hypot(plan.star_mm, blur), rel=1e-3)


def test_a_near_foreground_needs_a_frame_of_its_own_and_the_pole_no_hurry():
    near, far = (plan_night(setup(1), 3.5, foreground_mm=mm).foreground for mm in (1_500.0, 9_000.0))
    assert near.zone.contains(1_500.0)
    assert far is None
    assert math.isinf(plan_night(setup(1), 3.5, declination_deg=90.0).longest_s)


def test_film_at_night_is_metered_shorter_than_it_is_exposed():
    plan = plan_night(setup(2), 2.8, exponent=1.3)
    assert plan.metered_s < plan.longest_s < plan.exposed_s
    assert plan.metered_s**1.3 == pytest.approx(plan.longest_s)
    assert plan.magnify == ""


@pytest.mark.parametrize(
    ("off", "told"),
    [
        (0.0, "Set the ring to the infinity stop."),
        (0.04, "Set the ring to the infinity stop."),
        (3.26, "Set the ring near 3.3° from the infinity stop."),
    ],
)
def test_the_first_step_says_where_on_the_ring_the_stars_are(off, told):
    plan = replace(plan_night(setup(1), 3.5), infinity_deg=off, known=True)
    assert night_steps(plan, 0.029)[0].do == told
