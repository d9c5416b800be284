"""The picture a round took."""

from __future__ import annotations

import math

from welotrope.core.finder.canvas import Picture, View
from welotrope.core.finder.finder import UNITS_PER_PX
from welotrope.core.finder.rendered import Renderings
from welotrope.core.finder.scene import FocusRange, exercised
from welotrope.core.finder.scenes import make_scene
from welotrope.core.finder.stage import Focus, Stage
from welotrope.core.practice.exercises import known_exercise
from welotrope.core.practice.trial import Trial

PHOTO_PX = (720, 480)


def photograph(trial: Trial, renderings: Renderings | None = None, *, whole: bool = False) -> Picture:
    """Return the picture a trial took: at full size round the subject, or the whole frame; BGR, 480 × 720."""
    photo = trial.photo
    reach = FocusRange(photo.focal_mm, photo.nearest_mm, math.inf if photo.farthest_mm >= 1e12 else photo.farthest_mm)
    scene = make_scene(trial.scene, trial.seed, reach, renderings)
    if (done := known_exercise(trial.exercise)) is not None:
        scene = exercised(scene, done)
    stage = Stage(scene, photo.focal_mm, photo.unit_mm, exact=True)
    blades = 0 if trial.stop <= photo.widest * 1.05 else 6
    focus = Focus(
        extension_mm=photo.extension_mm, stop=trial.stop, own_blur_mm=photo.own_blur_mm, blades=blades,
        lean_mm=photo.lean_mm, seconds=photo.seconds,
    )  # fmt: skip
    width, height = PHOTO_PX
    if whole:
        return stage.render(View(width, height, 36.0 / width, scene.target_x * 0.5, scene.target_y * 0.5), focus)
    # A moving subject stands larger, and so a little farther from the middle.
    scale = stage.scale(scene.target, focus)
    units = min(photo.pitch_mm / photo.unit_mm, UNITS_PER_PX)
    return stage.render(View(width, height, units, scene.target_x * scale, scene.target_y * scale), focus)
