"""What comes at the camera at a walk, a burst through the plane of focus, and exercises for short lenses."""

import math
from dataclasses import replace

import cv2
import numpy as np
import pytest

from welotrope.core.errors import ConflictError
from welotrope.core.finder.finder import FrameRequest, photograph
from welotrope.core.finder.round import Release, Round, RoundRequest
from welotrope.core.kit.setup import Setup
from welotrope.demo import skarnmere
from welotrope.interchange.scene_files import rendering_called

SETUP = Setup(body=skarnmere.BODIES["ostrel"], lens=skarnmere.LENSES["norrvik"])
WIDE = Setup(body=skarnmere.BODIES["ostrel"], lens=skarnmere.LENSES["velloise"])
WALK_MM_S = 1200.0


def walked(setup=SETUP, *, seed=5, aid="magnified"):
    return Round(setup, RoundRequest("walker", aid, "", 2.0), seed, renderings=rendering_called)


def meets_s(made):
    """When the subject walks through the plane of focus, by its distance at the start and the pace alone."""
    x = float(made.ring.extension_at_angle(made.start_deg))
    plane = SETUP.lens.focal_mm * (1 + SETUP.lens.focal_mm / x)  # the thin lens, from the front principal plane
    start = made.composed.scene.target_mm
    x_start = SETUP.lens.focal_mm**2 / (start - SETUP.lens.focal_mm)
    return (start - (x - x_start) - plane) / WALK_MM_S


@pytest.mark.parametrize("seed", range(4))
def test_a_burst_that_goes_through_the_plane_holds_a_sharp_frame_and_it_counts(seed):
    made = walked(seed=seed)
    trial = made.judge(Release(angle_deg=0.0, lean_mm=0.0, seconds=max(meets_s(made) - 0.5, 0.0)))
    assert len(trial.burst_mm) == round(SETUP.body.traits.burst_fps or 6)
    assert trial.blur_mm == min(trial.burst_mm)
    # At 1.2 m/s and six frames a second one of them is within 0.1 m of the plane.
    assert abs(trial.error_mm) <= WALK_MM_S / 6 / 2 * 1.1
    assert trial.burst_mm.index(min(trial.burst_mm)) not in (0, len(trial.burst_mm) - 1)


def test_blur_of_a_burst_falls_towards_the_plane_and_rises_behind_it():
    made = walked()
    burst = made.judge(Release(angle_deg=0.0, lean_mm=0.0, seconds=meets_s(made) - 0.5)).burst_mm
    best = burst.index(min(burst))
    assert list(burst[: best + 1]) == sorted(burst[: best + 1], reverse=True)
    assert list(burst[best:]) == sorted(burst[best:])


def test_too_early_and_too_late_are_told_apart():
    made = walked()
    early = made.judge(Release(angle_deg=0.0, lean_mm=0.0, seconds=0.0))
    late = made.judge(Release(angle_deg=0.0, lean_mm=0.0, seconds=meets_s(made) + 0.6))
    assert early.side == "front"
    assert late.side == "behind"
    says = made.exercise.says
    assert "later" in says(early.hit, early.error_deg)
    assert "earlier" in says(late.hit, late.error_deg)


def test_the_one_who_walks_grows_and_the_wall_behind_stays():
    made = walked(aid="matte")
    at = meets_s(made)
    first, then = (
        made.frame(FrameRequest(aid="matte", angle_deg=0.0, step=1.0, seconds=s)).astype(int) for s in (0.0, at)
    )
    scale = made.composed.scale(
        made.composed.scene.target, made.finder.focus(FrameRequest(aid="matte", angle_deg=0.0, seconds=at))
    )
    assert scale > 1.5
    assert np.abs(first - then)[150:450, 250:650].mean() > 10
    layers = made.composed.scene.layers
    assert not layers[0].moving
    assert layers[made.composed.scene.target].moving


def test_its_picture_is_the_sharpest_frame_of_the_burst():
    made = walked()
    begun = meets_s(made) - 0.5
    trial = made.judge(Release(angle_deg=0.0, lean_mm=0.0, seconds=begun))
    rate, lag = SETUP.body.traits.burst_fps or 6, (SETUP.body.traits.shutter_lag_ms or 0) / 1000
    best = trial.burst_mm.index(min(trial.burst_mm))
    assert trial.photo.seconds == pytest.approx(begun + lag + best / rate)
    early = replace(trial, photo=replace(trial.photo, seconds=0.0))
    assert not np.array_equal(photograph(trial, rendering_called), photograph(early, rendering_called))


def test_its_picture_at_full_size_shows_what_the_whole_frame_shows_there():
    """However far the one who walks has come: the part of the whole frame about the eye, enlarged, looks like it."""
    made = walked()
    trial = made.judge(Release(angle_deg=0.0, lean_mm=0.0, seconds=meets_s(made) - 0.5))
    close, whole = (photograph(trial, rendering_called, whole=one).astype(np.float32) for one in (False, True))
    scene, focus = made.composed.scene, trial.photo
    scale = scene.target_mm / (scene.target_mm - WALK_MM_S * focus.seconds)
    px = 36 / 720  # units of the whole frame to a pixel; it is centred half way to the target
    at = [
        round(side / 2 + (scale - 0.5) * place / px) for side, place in ((720, scene.target_x), (480, scene.target_y))
    ]
    half = [round(side * focus.pitch_mm / focus.unit_mm / px / 2) for side in (720, 480)]
    part = whole[at[1] - half[1] : at[1] + half[1], at[0] - half[0] : at[0] + half[0]]
    small = cv2.resize(close, (part.shape[1], part.shape[0]), interpolation=cv2.INTER_AREA)
    assert np.corrcoef(part.ravel(), small.ravel())[0, 1] > 0.95


@pytest.mark.parametrize("closer", [1.3, 2.0])
def test_a_magnified_area_off_the_middle_is_filled_however_near_the_boat_has_come(closer):
    """What stood nearer to the middle when it was small stands here now, and not the lake behind it."""
    made = Round(SETUP, RoundRequest("trap", "magnified", "boat", 5.6), 7)
    scene = made.composed.scene
    seconds = scene.target_mm * (1 - 1 / closer) / scene.speed_mm_s
    look = FrameRequest(aid="magnified", angle_deg=0.0, step=6.0, x=scene.target_x + 5.0, y=0.1, seconds=seconds)
    scale = made.composed.scale(scene.target, made.finder.focus(look))
    seen = made.frame(look)
    before = replace(look, x=look.x / scale, y=look.y / scale, seconds=0.0)  # what stood there before it grew
    small = cv2.resize(seen, (90, 60), interpolation=cv2.INTER_AREA).astype(float)
    was = cv2.resize(made.frame(before), (90, 60), interpolation=cv2.INTER_AREA).astype(float)
    cut = [round(side / 2 * (1 - 1 / scale)) for side in (60, 90)]
    part = cv2.resize(was[cut[0] : 60 - cut[0], cut[1] : 90 - cut[1]], (90, 60))
    assert np.abs(small - part).mean() < 12


def test_only_one_frame_is_taken_where_no_burst_is_asked_for():
    made = Round(SETUP, RoundRequest("trap", "matte", "boat", 5.6), 7)
    assert made.judge(Release(angle_deg=0.0, lean_mm=0.0, seconds=2.0)).burst_mm == ()


def test_a_split_image_on_a_short_lens_is_refused_on_a_long_one_with_what_would_work():
    with pytest.raises(ConflictError, match=r"this one has 50 mm.*Select a lens of 35 mm or shorter"):
        Round(SETUP, RoundRequest("wide-split", "split_image", "shed", 2.0), 3, renderings=rendering_called)
    made = Round(
        WIDE, RoundRequest("wide-split", "split_image", "shed", WIDE.lens.widest), 3, renderings=rendering_called
    )
    assert math.isfinite(made.start_deg)
