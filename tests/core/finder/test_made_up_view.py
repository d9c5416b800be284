"""The made-up camera: what it shows is sharpest where it says, for stars too."""

import cv2
import numpy as np
import pytest

from welotrope.core.finder.made_up_view import FRAMES, MadeUpView
from welotrope.core.kit.setup import Setup
from welotrope.core.live.gauges import star_of
from welotrope.core.practice.scene_list import FOR_LIVE
from welotrope.demo import skarnmere
from welotrope.interchange.scene_files import rendering_called

SETUP = Setup(body=skarnmere.BODIES["ostrel"], lens=skarnmere.LENSES["norrvik"])
SIDE = 80


def spot(view, index):
    x, y = (round(share * size) for share, size in zip(view.target, (960, 640), strict=True))
    grey = cv2.cvtColor(view.frame(index), cv2.COLOR_BGR2GRAY)
    return grey[y - SIDE // 2 : y + SIDE // 2, x - SIDE // 2 : x + SIDE // 2]


@pytest.mark.parametrize("scene", FOR_LIVE)
def test_its_spot_is_steepest_at_its_best(scene):
    view = MadeUpView(SETUP, 2.0, scene, rendering_called)
    steep = [float(np.abs(cv2.Laplacian(spot(view, index), cv2.CV_64F)).max()) for index in range(FRAMES)]
    assert abs(int(np.argmax(steep)) - view.best) <= 2


def test_its_star_stands_alone_and_grows_to_a_disc_on_either_side():
    view = MadeUpView(SETUP, 2.0, "stars", rendering_called)
    sizes = {index: star_of(spot(view, index)) for index in (view.best - 12, view.best, view.best + 12)}
    assert all(sizes.values())
    best = sizes.pop(view.best).half_flux_px
    assert all(one.half_flux_px > 2 * best for one in sizes.values())


def test_its_picture_grows_as_its_lens_moves_out():
    """As rays through the middle of the lens say, from 1.2 m away to a film 16 steps farther from the lens."""
    focal, far, view = 50.0, 1200.0, MadeUpView(SETUP, 8.0, "figurehead", rendering_called)
    # A step is a fifth of the window, and a window twice the blur times the stop.
    moved = 8 * 2 * SETUP.blur_mm * 8.0 / 5
    film = focal * far / (far - focal)
    grown = (film + moved) / (far - moved) * (far + moved) / (film - moved)
    nearer, farther = (
        cv2.cvtColor(view.frame(view.best + index), cv2.COLOR_BGR2GRAY).astype(np.float32) for index in (8, -8)
    )
    once = cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, 200, 1e-7
    warp = cv2.findTransformECC(farther, nearer, np.eye(2, 3, dtype=np.float32), cv2.MOTION_AFFINE, once, None, 5)[1]
    assert np.sqrt(np.linalg.det(warp[:, :2])) - 1 == pytest.approx(grown - 1, rel=0.03)
