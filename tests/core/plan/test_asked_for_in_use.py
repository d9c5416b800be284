"""What photographers looked for and did not find, held against rays, brute force and people's own measures."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.kit.test_camera_kind import camera
from welotrope.core.errors import OutOfRangeError
from welotrope.core.kit.aids.confirmation import Confirmation
from welotrope.core.kit.attachment import Attachment, AttachmentKind
from welotrope.core.kit.camera_kind import CameraKindId
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.plan.close_plan import reach_rows
from welotrope.core.plan.compare import compare_framed
from welotrope.core.plan.field_settings import KeptZone, with_gaps
from welotrope.core.plan.framing import background_blur, begin_with, focal_to_begin
from welotrope.core.plan.own_measures import ground_row
from welotrope.core.plan.scene_plan import FocusSchool, StopSchool, plan_scene
from welotrope.core.plan.setting import Subject
from welotrope.core.plan.sitter import plan_sitter

LENS = Lens(name="x", focal_mm=50, stops=(1.4, 2, 2.8, 4, 5.6, 8, 11, 16), closest_mm=450, throw_deg=180)
SETUP = Setup(body=camera(CameraKindId.MIRRORLESS), lens=LENS)


def traced_disc(f, N, s, behind):
    """Width on the film of the bundle from a point behind the plane, by two rays through the rims of a thin lens."""
    film, rim = 1 / (1 / f - 1 / s), f / N / 2
    image = f if math.isinf(behind) else 1 / (1 / f - 1 / (s + behind))
    edges = [side * rim * (1 - film / image) for side in (-1, 1)]  # a ray from the rim to the image, met at the film
    return abs(edges[1] - edges[0])


@given(
    f=st.floats(8, 600),
    N=st.floats(0.95, 32),
    far=st.floats(2.2, 400),
    behind=st.sampled_from([50.0, 900.0, 2e4, math.inf]),
)
def test_the_background_dissolves_as_rays_do(f, N, far, behind):
    s = f * far
    assert background_blur(f, N, s, behind_mm=behind) == pytest.approx(traced_disc(f, N, s, behind), rel=1e-6, abs=1e-9)


@given(distance=st.floats(300, 50_000), width=st.floats(40, 20_000))
def test_the_focal_length_to_begin_with_frames_what_was_wanted(distance, width):
    image = ImageFormat(36, 24)
    f = focal_to_begin(image, distance, width)
    # Brute force: of the two conjugates that add up to the distance, the farther object.
    s = (distance + math.sqrt(max(distance**2 - 4 * f * distance, 0))) / 2
    assert 36 * s / (distance - s) == pytest.approx(max(width, 36), rel=1e-4)


def test_a_picture_larger_than_life_is_refused_in_words():
    with pytest.raises(OutOfRangeError, match="larger than life"):
        focal_to_begin(ImageFormat(36, 24), 1000, 20)


def test_what_to_begin_with_holds_its_zone():
    image = ImageFormat(36, 24)
    found = begin_with(image, 2000, 6000, 3000, 2200, 0.0288)
    f, N, c = found.focal_mm, found.stop_exact, 0.0288
    best = min(max(_blur(f, N, v, D) for D in (2000, 6000)) for v in np.linspace(f, f * 1.1, 20_001))
    assert best == pytest.approx(c, rel=0.02)


def _blur(f, N, v, film_mm):
    """Blur disc of an object at a distance from the film with the film ``v`` behind a thin lens."""
    image = 1 / (1 / f - 1 / (film_mm - v))
    return f / N * abs(image - v) / image


def test_by_equal_framing_a_small_picture_is_taken_from_as_many_times_nearer():
    small = Setup(
        body=replace(SETUP.body, image=ImageFormat(17.3, 13.0, 4000)),
        lens=replace(LENS, focal_mm=25, closest_mm=200),
    )
    full, half = compare_framed([SETUP, small], 1000, 4)
    assert full.magnification == pytest.approx(0.036)
    assert half.magnification == pytest.approx(0.0173)
    assert 36 / full.magnification == pytest.approx(1000)
    # The same angle of view, about: from about as far, with about twice the depth and half the blur behind.
    assert half.distance_mm == pytest.approx(full.distance_mm, rel=0.06)
    assert (half.far_mm - half.near_mm) / (full.far_mm - full.near_mm) == pytest.approx(2.0, rel=0.12)
    assert half.background_share / full.background_share == pytest.approx(0.5, rel=0.06)
    assert "does not focus so near" in compare_framed([SETUP], 100, 4)[0].problem


def test_kept_zones_show_the_gap_between_them():
    zones = [
        KeptZone(name="far", stop=8, near_mm=1800, far_mm=math.inf), KeptZone(name="near", stop=8, near_mm=900, far_mm=1500),
        KeptZone(name="inside", stop=4, near_mm=2500, far_mm=4000),
    ]  # fmt: skip
    found = {one.zone.name: (one.gap_from_mm, one.gap_to_mm) for one in with_gaps(zones)}
    assert found == {"far": (None, None), "inside": (None, None), "near": (1500, 1800)}


@given(zones=st.lists(st.tuples(st.floats(300, 9000), st.floats(1.01, 3)), min_size=1, max_size=6))
def test_a_gap_holds_no_zone_and_every_gap_is_found(zones):
    kept = [KeptZone(name="z", stop=8, near_mm=near, far_mm=near * times) for near, times in zones]
    found = with_gaps(kept)
    gaps = [(one.gap_from_mm, one.gap_to_mm) for one in found if one.gap_to_mm]
    ends = min(one.near_mm for one in kept), max(one.far_mm for one in kept)
    for mm in np.linspace(*ends, 400):
        covered = any(one.near_mm <= mm <= one.far_mm for one in kept)
        assert covered != any(low < mm < high for low, high in gaps)


def test_the_ground_by_ones_own_height():
    """At 45° one height along the ground; at 30° the eye is twice its height away."""
    assert ground_row(1600, 45).from_feet_mm == pytest.approx(1600)
    assert ground_row(1600, 30).from_eye_mm == pytest.approx(3200)


def test_the_stop_i_have_and_the_farthest_on_its_mark():
    subjects = (Subject("a", 1000), Subject("b", 1828.8))
    plan = plan_scene(SETUP, subjects, focus=FocusSchool.FAR_MARK, stop_rule=StopSchool.OWN, own_stop=16)
    assert plan.setting.stop == 16
    assert plan.setting.far_mm == pytest.approx(1828.8, rel=1e-3)
    s = plan.setting
    v = 1 / (1 / 50 - 1 / ((s.focus_mm + math.sqrt(s.focus_mm**2 - 200 * s.focus_mm)) / 2))
    assert _blur(50, 16, v, s.near_mm) == pytest.approx(SETUP.blur_mm, rel=0.02)
    assert _blur(50, 16, v, 1828.8) == pytest.approx(SETUP.blur_mm, rel=0.02)


def test_the_mouth_lies_before_the_eye_and_a_tie_behind():
    plan = plan_sitter(SETUP, 1500, 2.8, 10, 1 / 6)
    rows = {row.part.name: row for row in plan.parts}
    assert rows["eyes and mouth"].fits == (plan.before_mm >= 15)
    assert rows["eyes and the knot of a tie"].fits == (plan.behind_mm >= 60)
    assert plan.background_mm == pytest.approx(traced_disc(50, 2.8, 1500 - 50 - 1.8, math.inf), rel=0.01)


def test_pairs_of_close_up_lenses_reach_as_the_sum_of_their_powers():
    glasses = [Attachment(name=f"+{power}", kind=AttachmentKind.CLOSEUP, labelled=power) for power in (1, 2, 4)]
    rows = {row.name: row for row in reach_rows(SETUP, glasses, 8)}
    assert len(rows) == 1 + 3 + 3
    pair = next(row for name, row in rows.items() if "+2" in name and "+4" in name)
    # With the ring at infinity the picture lies where six dioptres put it.
    assert pair.far.setting.working_mm == pytest.approx(1000 / 6, rel=0.02)


def test_a_measured_lamp_is_judged_by_what_was_measured():
    from welotrope.core.aids.advice import judge
    from welotrope.core.kit.setup import sight_of

    sight = sight_of(SETUP, 20.0, 2.8, 2.8)
    (verdict,) = judge([Confirmation(half_mm=0.08)], sight)
    assert verdict.defocus_mm == 0.08
    assert "set the middle" in verdict.turning
