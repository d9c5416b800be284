"""A made-up camera on the computer: a scene of the finder as its live view shows it, for each place of the ring."""

from __future__ import annotations

import math

import numpy as np

from welotrope.core.errors import OutOfRangeError
from welotrope.core.fields import FRAME
from welotrope.core.finder.canvas import View
from welotrope.core.finder.light import Picture
from welotrope.core.finder.rendered import Renderings
from welotrope.core.finder.scene import FocusRange, PointLight, Scene
from welotrope.core.finder.scenes import make_scene
from welotrope.core.finder.stage import Focus, Stage
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.thin_lens import extension_at_object_distance, object_distance_at_extension
from welotrope.core.practice.scene_list import BY_NAME

WIDTH_PX, HEIGHT_PX = 960, 640
FRAMES, PER_WINDOW = 41, 5  # places of the ring, and how many of them lie in the window of sharpness
_SEED, _OWN_BLUR_MM, _STAR_STEP = 11, 0.008, 6.0
_APART = 2.2  # picture units about a star in which there is no other as bright by half


class MadeUpView:
    """The live view of a set-up before a scene.

    Parameters
    ----------
    setup
        The set-up in hand.
    stop
        The stop that is looked through.
    scene
        One of those it may stand before, :data:`scene_list.FOR_LIVE`.
    renderings
        Gives rendered scenes by name.
    """

    def __init__(self, setup: Setup, stop: float, scene: str, renderings: Renderings) -> None:
        ring, focal = setup.ring(stop), setup.lens.focal_mm
        nearest = object_distance_at_extension(ring.travel_x[1], focal)
        made = make_scene(scene, _SEED, FocusRange(focal, float(nearest), math.inf), renderings)
        self._stage = Stage(made, focal, setup.body.image.width_mm / 36)
        self._stop = stop
        self._focused = float(extension_at_object_distance(made.target_mm, focal))
        self._step = 2 * setup.blur_mm * stop / PER_WINDOW
        # The best lies somewhere about the middle of the ring, so that it has to be found.
        self.best = FRAMES // 2 + int(np.random.default_rng([_SEED, *scene.encode()]).integers(-6, 7))
        self.title, self.target_name = BY_NAME[scene].title, made.target_name
        self.step, self._middle = 1.0, (0.0, 0.0)
        self.target = 0.5 + made.target_x / 36, 0.5 + made.target_y / 24
        if made.is_night:  # nobody focuses on a star without magnifying it
            star = _lone_star(made)
            self.step, self._middle, self.target_name = _STAR_STEP, (star.x, star.y), "a bright star by itself"
            self.target = 0.5, 0.5

    def frame(self, index: int) -> Picture:
        """Return what the camera sends with the ring at a place, BGR, 640 × 960, 8 bit.

        Raises
        ------
        OutOfRangeError
            When there is no such place.
        """
        if not 0 <= index < FRAMES:
            raise OutOfRangeError(FRAME, index, "the ring has no such place", f"Ask for 0 to {FRAMES - 1}")
        focus = Focus(
            extension_mm=self._focused + (index - self.best) * self._step,
            stop=self._stop,
            own_blur_mm=_OWN_BLUR_MM,
            breathing=True,
        )
        return self._stage.render(View(WIDTH_PX, HEIGHT_PX, 36 / WIDTH_PX / self.step, *self._middle), focus)


def _lone_star(scene: Scene) -> PointLight:
    """Return the brightest light of the target's layer, well inside the frame, that no other stands near to."""
    stars = sorted(scene.layers[scene.target].lights, key=lambda one: -one.strength)

    def alone(star: PointLight) -> bool:
        near = (one for one in stars if one is not star and math.hypot(one.x - star.x, one.y - star.y) < _APART)
        return abs(star.x) < 12 and abs(star.y) < 8 and all(one.strength < star.strength / 2 for one in near)

    return next(star for star in stars if alone(star))
