"""Rendered scenes cut into layers: held against what a picture must look like whatever it shows."""

import math
from dataclasses import replace

import cv2
import numpy as np
import pytest

from welotrope.core.finder.canvas import View
from welotrope.core.finder.light import light_of
from welotrope.core.finder.plates import Plate, Rendering, cropped, layers_of, settled, shared_of, without_lamps
from welotrope.core.finder.rendered import laid_out, slices_of
from welotrope.core.finder.scene import FocusRange, PointLight
from welotrope.core.finder.stage import Focus, Stage
from welotrope.core.optics.blur import defocus_blur
from welotrope.core.optics.thin_lens import extension_at_object_distance

SIZE = (360, 240)
WHOLE = View(360, 240, 0.1)
REACH = FocusRange(50.0, 400.0, math.inf)


def rendering(colour, nearness, *finer, lights=()):
    whole = Plate(colour=colour, coded=nearness.astype(np.float32), left=-18.0, top=-12.0, unit_px=SIZE[0] / 36)
    return Rendering(
        name="made", plates=(whole, *finer), target_name="it", target_x=0.0, target_y=0.0, brightness=1.0, focal_lengths=(20.0, 40.0),
        lights=lights,
    )  # fmt: skip


def stage_of(made, unit_mm=1.0):
    return Stage(laid_out("made", lambda _: made, np.random.default_rng(1), REACH), 50.0, unit_mm)


def focused(stage, nearness, stop):
    at = stage.scene.target_mm / nearness
    return Focus(extension_mm=float(extension_at_object_distance(at, 50.0)), stop=stop)


def before_a_sky(nearness, cover, *, layers=()):
    """A dark post of four columns, of which the first and last share their pixels with a bright sky."""
    colour, coded = np.full((240, 360, 3), 200, np.uint8), np.full((240, 360), 0.1, np.float32)
    colour[:, 178:182], coded[:, 178:182] = 0, nearness
    shares = np.full((240, 360), 255, np.uint8)
    shares[:, [178, 181]] = cover
    made = rendering(colour, coded)
    return replace(made, plates=(replace(made.plates[0], shared=shared_of(shares)),), layers=layers)


def missing(seen):
    """Of how many columns the light of the sky is missing in the middle row of a picture."""
    light = light_of(seen)[1, 120]
    return float((1 - light / light[0]).sum())


@pytest.mark.parametrize("focus", [1.0, 0.6, 0.1])
@pytest.mark.parametrize("cover", [64, 128, 191])
def test_of_a_shared_pixel_each_surface_has_its_share_however_it_blurs(cover, focus):
    """A post takes the light of the columns that it covers, sharp or spread: light is neither made nor lost."""
    stage = stage_of(before_a_sky(1.0, cover))
    assert missing(stage.render(WHOLE, focused(stage, focus, 2.0))) == pytest.approx(2 + 2 * cover / 255, abs=0.12)


def test_a_shared_pixel_shows_both_when_all_is_sharp():
    stage = stage_of(before_a_sky(1.0, 128))
    light = light_of(stage.render(WHOLE, focused(stage, 1.0, 1e9)))[1, 120]
    assert light[176:184] / light[0] == pytest.approx([1, 1, 0.5, 0, 0, 0.5, 1, 1], abs=0.02)


def test_behind_a_shared_pixel_is_what_is_seen_beside_it_and_nothing_nearer():
    """A wall close by, between post and sky: it does not go on behind the post's edge, where the sky is seen."""
    made = before_a_sky(1.0, 128)
    plate = made.plates[0]
    plate.colour[:, 186:200], plate.coded[:, 186:200] = 90, 0.6
    stage = stage_of(made)
    light = light_of(stage.render(WHOLE, focused(stage, 1.0, 1e9)))[1, 120]
    assert light[[178, 181]] / light[0] == pytest.approx(0.5, abs=0.02)


def test_what_stands_free_between_two_layers_takes_no_more_light_than_it_covers():
    """Half as near as the target, before a sky: its own layer has none of it, so it goes to the one it is nearer to."""
    layers = (0.1, 0.4, 1.0)
    meanings = np.linspace(0, 1.275, 256).astype(np.float32)
    made = before_a_sky(0.3, 255, layers=layers)
    plate = replace(made.plates[0], coded=np.rint(made.plates[0].coded * 200).astype(np.uint8), meanings=meanings)

    def taken(free):
        stage = stage_of(replace(made, plates=(settled(plate, free, layers),)))
        return missing(stage.render(WHOLE, focused(stage, 1.0, 2.0)))

    nothing = np.zeros((240, 360), np.uint8)
    free = nothing.copy()
    free[:, 178:182] = 255
    assert taken(free) == pytest.approx(4, abs=0.15)
    assert taken(nothing) > 4.5  # as a slant is, it is in two layers


def slanting():
    """Ground that comes nearer from top to bottom, with posts of many distances before it."""
    rng = np.random.default_rng(5)
    nearness = np.linspace(0.3, 2.0, 240)[:, None] + np.zeros(360)
    for _ in range(14):
        x, wide, near = int(rng.integers(0, 340)), int(rng.integers(2, 30)), float(rng.uniform(0.5, 2.4))
        nearness[:, x : x + wide] = np.maximum(nearness[:, x : x + wide], near)
    return nearness


def test_stopped_down_the_layers_make_the_picture_they_were_cut_from():
    colour = np.random.default_rng(2).integers(0, 256, (240, 360, 3)).astype(np.uint8)
    stage = stage_of(rendering(colour, slanting()))
    seen = stage.render(WHOLE, focused(stage, 1.0, 1e9))
    assert np.abs(seen.astype(int) - colour).max() <= 2


@pytest.mark.parametrize("nearness", [0.4, 1.0, 1.7])
def test_no_edge_shows_a_halo_however_it_blurs(nearness):
    """What is of one colour all over stays so, wherever the plane of focus lies."""
    colour = np.full((240, 360, 3), (90, 160, 220), np.uint8)
    stage = stage_of(rendering(colour, slanting()))
    seen = stage.render(WHOLE, focused(stage, nearness, 1.4)).astype(int)
    assert np.abs(seen - colour).max() <= 4
    assert np.abs(seen - colour).mean() < 1.0


def ssim(one, other):
    """Structural similarity (Wang 2004) of two grey pictures, mean over windows of 11 pixels."""
    a, b = one.astype(np.float64), other.astype(np.float64)

    def mean(values):
        return cv2.GaussianBlur(values, (11, 11), 1.5)

    ma, mb = mean(a), mean(b)
    va, vb, both = mean(a * a) - ma**2, mean(b * b) - mb**2, mean(a * b) - ma * mb
    c1, c2 = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    return float((((2 * ma * mb + c1) * (2 * both + c2)) / ((ma**2 + mb**2 + c1) * (va + vb + c2))).mean())


@pytest.mark.parametrize("nearness", [0.6, 1.0, 1.4])
def test_a_slant_blurs_as_every_point_of_it_does_by_itself(nearness):
    """Held against each row of the picture spread over the disc of its own distance, one after another."""
    rng = np.random.default_rng(8)
    grain = cv2.GaussianBlur(rng.normal(128, 90, (240, 360)), (0, 0), 0.8).clip(0, 255).astype(np.uint8)
    away = np.linspace(0.5, 1.6, 240)[:, None] + np.zeros(360)
    stage = stage_of(rendering(np.dstack((grain, grain, grain)), away))
    focus = focused(stage, nearness, 1.4)
    seen = stage.render(WHOLE, focus)[:, :, 1]
    light, weight = np.zeros((300, 420)), np.zeros((300, 420))
    for row in range(240):
        x = extension_at_object_distance(
            stage.scene.target_mm / away[row, 0] - focus.extension_mm + stage._focused_x, 50.0
        )
        radius = float(defocus_blur(x, focus.extension_mm, 50.0, 1.4)) / WHOLE.units_per_px / 2
        reach = int(np.ceil(radius)) + 1
        at = (np.arange((2 * reach + 1) * 8) + 0.5) / 8 - reach - 0.5
        disc = (
            (np.hypot(at[:, None], at) <= max(radius, 0.4))
            .reshape(2 * reach + 1, 8, 2 * reach + 1, 8)
            .mean(axis=(1, 3))
        )
        line = np.zeros((2 * reach + 1, 360 + 2 * reach))
        for down in range(2 * reach + 1):
            line[down] = np.convolve(grain[row].astype(float), disc[down] / disc.sum())
        ones = np.stack([np.convolve(np.ones(360), disc[down] / disc.sum()) for down in range(2 * reach + 1)])
        light[30 + row - reach : 31 + row + reach, 30 - reach : 390 + reach] += line
        weight[30 + row - reach : 31 + row + reach, 30 - reach : 390 + reach] += ones
    true = (light / np.maximum(weight, 1e-9))[30:270, 30:390]
    assert ssim(seen[20:-20, 20:-20], true[20:-20, 20:-20]) >= 0.97


def test_something_near_blurs_over_what_is_far_and_not_the_other_way():
    colour = np.full((240, 360, 3), 40, np.uint8)
    nearness = np.full((240, 360), 1.0)
    colour[:, 180:], nearness[:, 180:] = 200, 0.5
    stage = stage_of(rendering(colour, nearness))
    far = stage.render(WHOLE, focused(stage, 1.0, 1.4))[120, :, 1].astype(int)
    assert far[179] == pytest.approx(40, abs=3)
    assert far[182] == pytest.approx(200, abs=3)  # the far part goes on behind the near one
    near = stage.render(WHOLE, focused(stage, 0.5, 1.4))[120, :, 1].astype(int)
    spread = np.flatnonzero((near > 44) & (near < 196))
    blur = float(defocus_blur(
        extension_at_object_distance(stage.scene.target_mm, 50.0),
        extension_at_object_distance(2 * stage.scene.target_mm, 50.0), 50.0, 1.4,
    ))  # fmt: skip
    assert len(spread) == pytest.approx(blur / WHOLE.units_per_px, abs=3)


def test_each_layer_stands_as_far_off_as_what_it_holds():
    nearness = np.full((240, 360), 0.05)
    nearness[60:180, 100:200], nearness[60:180, 220:300] = 1.0, 1.8
    stage = stage_of(rendering(np.zeros((240, 360, 3), np.uint8), nearness))
    scene = stage.scene
    assert scene.layers[scene.target].distance_mm == scene.target_mm
    distances = [layer.distance_mm for layer in scene.layers]
    assert distances == sorted(distances, reverse=True)
    assert scene.layers[0].backdrop
    assert distances[0] == pytest.approx(scene.target_mm / 0.05, rel=1e-3)


def test_the_finer_picture_is_what_a_closer_look_shows():
    coarse, fine = np.zeros((240, 360, 3), np.uint8), np.zeros((200, 300, 3), np.uint8)
    coarse[:], fine[:] = 60, 60
    fine[:, ::2] = 180
    plate = Plate(colour=fine, coded=np.ones((200, 300), np.float32), left=-3.0, top=-2.0, unit_px=50.0)
    stage = stage_of(rendering(coarse, np.ones((240, 360)), plate))
    close = stage.render(View(200, 100, 0.02), focused(stage, 1.0, 1e9))[50, :, 1]
    assert np.array_equal(close, fine[100, 50:250, 1])
    outside = stage.render(View(100, 60, 0.02, 8.0, 5.0), focused(stage, 1.0, 1e9))
    assert (outside == 60).all()


def test_no_seam_shows_where_the_finer_picture_ends():
    """A finer picture that is lighter all over: it comes in and goes out by a few levels from pixel to pixel."""
    coarse, fine = np.full((240, 360, 3), 60, np.uint8), np.full((200, 300, 3), 120, np.uint8)
    plate = Plate(colour=fine, coded=np.ones((200, 300), np.float32), left=-3.0, top=-2.0, unit_px=50.0)
    stage = stage_of(rendering(coarse, np.ones((240, 360)), plate))
    seen = stage.render(View(400, 300, 0.02), focused(stage, 1.0, 1e9))[:, :, 1].astype(int)
    assert seen[150, 200] == 120
    assert seen[5, 5] == seen[150, 5] == 60
    assert np.abs(np.diff(seen, axis=0)).max() <= 3
    assert np.abs(np.diff(seen, axis=1)).max() <= 3


def test_beyond_the_frame_the_farthest_layer_goes_on():
    colour = np.full((240, 360, 3), 120, np.uint8)
    stage = stage_of(rendering(colour, np.full((240, 360), 1.0)))
    assert (stage.render(View(300, 200, 0.2, 10.0, 0.0), focused(stage, 1.0, 2.0)) == 120).all()


def test_lights_stand_at_their_own_distance():
    nearness = np.full((240, 360), 0.1)
    nearness[:, :200] = 1.0
    made = rendering(
        np.zeros((240, 360, 3), np.uint8),
        nearness,
        lights=((0.1, PointLight(8.0, 0.0, 13.0)), (1.0, PointLight(-8.0, 0.0, 13.0))),
    )
    stage = stage_of(made)
    with_lights = [[light.x for light in layer.lights] for layer in stage.scene.layers]
    assert with_lights[slices_of(made).index_of(0.1)] == [8.0]
    assert with_lights[stage.scene.target] == [-8.0]
    seen = stage.render(WHOLE, focused(stage, 1.0, 2.0))[:, :, 1]
    assert np.count_nonzero(seen[:, 200:]) > 5 * np.count_nonzero(seen[:, :180])


def test_layers_blurred_as_one_are_laid_farther_ones_first():
    """Two that stand so close that they blur alike: the nearer hides the farther, whole and at its soft edge."""
    nearness = np.full((240, 360), 0.2)
    nearness[:, 100:260], nearness[:, 160:220] = 0.9, 1.0
    colour = np.zeros((240, 360, 3), np.uint8)
    colour[:, 100:260], colour[:, 160:220] = (0, 0, 200), (0, 200, 0)
    stage = stage_of(rendering(colour, nearness))
    seen = stage.render(WHOLE, focused(stage, 1.0, 8.0))[120]
    assert [pixel.argmax() for pixel in seen[[110, 150, 163, 250]]] == [2, 2, 1, 2]


def test_a_lamp_is_taken_out_of_the_picture_and_its_bright_sky_is_not():
    colour = np.full((60, 90, 3), 90, np.uint8)
    colour[10:14, 20:26] = (250, 255, 240)  # a lamp
    colour[40:, :] = 245
    found = without_lamps(colour, [(22, 11), (400, 11)])
    assert light_of(found[10:14, 20:26]).max() == pytest.approx(1, abs=0.02)
    found[10:14, 20:26] = colour[10:14, 20:26]
    assert (found == colour).all()


def with_a_boat(nearness, *, colour=(20, 40, 60), behind=0.2):
    """A lake, and before it what comes: as near as said, shape (240, 360), and nothing where that is 0."""
    lake = rendering(
        np.random.default_rng(3).integers(60, 200, (240, 360, 3)).astype(np.uint8), np.full((240, 360), behind)
    )
    seen = np.full((240, 360, 3), 255, np.uint8)  # where there is nothing of it, its colours do not matter
    seen[nearness > 0] = colour
    boat = replace(rendering(seen, nearness), is_cut_out=True)
    return lake, replace(lake, moving=boat, comes_in_s=(8.0, 8.0), focal_lengths=(300.0, 300.0))


def test_what_comes_hides_what_is_behind_it_whole_and_nothing_beside_it():
    """Though it slants away from the target, so that its parts lie between layers; nothing lies behind it to help."""
    nearness = np.zeros((240, 360))
    nearness[80:160, 100:260] = np.linspace(0.05, 1.3, 160)
    lake, made = with_a_boat(nearness)
    seen = stage_of(made).render(WHOLE, focused(stage_of(made), 1.0, 1e9)).astype(int)
    alone = stage_of(lake).render(WHOLE, focused(stage_of(lake), 1.0, 1e9)).astype(int)
    there = nearness > 0
    assert np.abs(seen[there] - (20, 40, 60)).max() <= 3
    apart = cv2.dilate(there.astype(np.uint8), np.ones((5, 5), np.uint8)) == 0
    assert np.abs(seen - alone)[apart].max() <= 1


def test_what_is_cut_out_is_seen_where_it_was_when_only_its_part_is_kept():
    nearness = np.zeros((240, 360))
    nearness[80:160, 90:140] = np.linspace(0.9, 1.1, 50)
    made = with_a_boat(nearness)[1]
    plate = cropped(made.moving.plates[0])
    assert plate.coded.size < nearness.size / 6
    less = replace(
        made, moving=replace(made.moving, plates=(plate,), layers=layers_of(made.moving.plates, cut_out=True))
    )
    whole = replace(made, moving=replace(made.moving, layers=less.moving.layers))
    for view in (WHOLE, View(200, 160, 0.05, -3.0, 1.0), View(300, 200, 0.2, 10.0, 0.0)):
        seen = [stage_of(one).render(view, focused(stage_of(one), 1.0, 4.0)).astype(int) for one in (whole, less)]
        assert np.abs(seen[0] - seen[1]).max() <= 1


def test_what_comes_moves_at_its_pace_before_what_stays():
    nearness = np.zeros((240, 360))
    nearness[110:130, 170:190] = 1.0
    stage = stage_of(with_a_boat(nearness)[1])
    scene = stage.scene
    assert scene.target_mm == 300 * 50
    assert scene.speed_mm_s == scene.target_mm / 8.0
    assert scene.layers[scene.target].moving
    assert not any(layer.moving for layer in scene.layers if layer.distance_mm > 2 * scene.target_mm)
    still = focused(stage, 1.0, 1e9)
    widths = []
    for seconds in (0.0, 4.0):  # half way it is twice as large
        seen = stage.render(WHOLE, replace(still, seconds=seconds)).astype(int)
        dark = np.abs(seen[120] - (20, 40, 60)).max(axis=1) <= 4
        widths.append(np.count_nonzero(dark))
    assert widths[0] == pytest.approx(20, abs=1)
    assert widths[1] == pytest.approx(40, abs=2)


def test_what_comes_is_laid_over_water_that_was_nearer_than_it_at_the_start():
    """It has come past that water, and hides it."""
    nearness = np.zeros((240, 360))
    nearness[110:130, 170:190] = 1.0
    made = with_a_boat(nearness, behind=1.4)[1]
    stage = stage_of(made)
    seen = stage.render(WHOLE, replace(focused(stage, 1.0, 1e9), seconds=4.0)).astype(int)
    assert np.abs(seen[120, 165:195] - (20, 40, 60)).max() <= 4


def test_what_comes_grows_as_one_body():
    """Its stern lies behind its bow from afar, and goes on doing so: no second edge of it comes out from behind."""
    nearness = np.zeros((240, 360))
    nearness[100:140, 140:220], nearness[110:130, 170:190] = 0.7, 1.0
    made = with_a_boat(nearness)[1]
    made.moving.plates[0].colour[110:130, 170:190] = 250, 250, 250
    stage = stage_of(made)
    rows = [stage.render(WHOLE, replace(focused(stage, 1.0, 1e9), seconds=at))[120].astype(int) for at in (0.0, 4.0)]
    bow, stern = (
        [np.count_nonzero(np.abs(row - tone).max(axis=1) <= 4) for row in rows] for tone in (250, (20, 40, 60))
    )
    assert bow[1] / bow[0] == pytest.approx(2, abs=0.15)
    assert stern[1] / stern[0] == pytest.approx(2, abs=0.15)


def test_what_was_kept_of_what_stays_is_not_shown_for_another_focus_view_or_moment():
    """Frames one after another are those of a lens that has shown nothing before."""
    nearness = np.zeros((240, 360))
    nearness[110:130, 170:190] = 1.0
    made = with_a_boat(nearness, behind=0.9)[1]  # so near that at first it is blurred with the boat
    used = stage_of(made, 0.02)
    looks = [
        (view, replace(focused(used, near, 4.0), seconds=at))
        for view in (WHOLE, View(180, 120, 0.1))
        for near, at in ((1.0, 0.0), (1.0, 2.0), (1.0, 4.0), (1.0, 3.0), (0.6, 3.0), (1.0, 0.0))
    ]
    for view, focus in looks:
        assert (used.render(view, focus) == stage_of(made, 0.02).render(view, focus)).all()
