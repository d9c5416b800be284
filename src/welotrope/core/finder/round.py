"""A round in the finder: made from a seed, looked at, and judged once."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np

from welotrope.core.errors import ConflictError, OutOfRangeError, TooCloseError
from welotrope.core.finder.display import PictureOnDisplay, seen_angle, shown_defocus
from welotrope.core.finder.finder import WIDTH_PX, Finder, FrameRequest, Instrument
from welotrope.core.finder.light import Picture
from welotrope.core.finder.rendered import Renderings
from welotrope.core.finder.round_limits import (
    START_HALVES,
    check_short,
    check_stars,
    half_window,
    nothing_to_find,
    room_to_pass,
)
from welotrope.core.finder.scene import FocusRange, aimed_at, exercised
from welotrope.core.finder.scenes import PAINTED, make_scene
from welotrope.core.finder.stage import Focus, Stage
from welotrope.core.kit.aids.kind import Indicator, Lit, Needle, Part, Patch, Split, Through
from welotrope.core.kit.aids.models import AVERAGE_EYE, Eye, confirmation_band, rangefinder_bias
from welotrope.core.kit.aids.registry import view_called
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.blur import airy_diameter
from welotrope.core.optics.depth import sharp_limits
from welotrope.core.optics.thin_lens import (
    extension_at_object_distance,
    film_distance_at_extension,
    film_distance_of_image,
    object_distance_at_extension,
)
from welotrope.core.practice.exercises import Begins, Exercise, exercise
from welotrope.core.practice.trial import FAR_MM, Trial, TrialPicture, check_path, crossings
from welotrope.core.ring.window import sharp_window

MAX_LEAN_MM, MAX_SECONDS = 150.0, 3600.0
SEED_LIMIT = 2**31 - 1
_BURST_S, _USUAL_FPS = 1.0, 6.0  # how long a burst goes on, and how fast where the body does not say
_BLEND_FRAMES = 5  # each less than half a pixel of blur
_BREATH_STEP_PX = 0.2  # of what the edges move as the picture grows, from one frame to the next
_FILM_PITCH_MM = 0.006


@dataclass(frozen=True)
class RoundRequest:
    """What round is wanted: exercise, aid, scene (empty for one of the exercise's) and taking stop."""

    exercise: str
    aid: str
    scene: str
    stop: float


@dataclass(frozen=True, kw_only=True)
class Release:
    """How a round was ended: ring angle (degrees), lean (mm), seconds since it was first seen, and the turning."""

    angle_deg: float
    lean_mm: float
    seconds: float
    path: tuple[tuple[float, float], ...] = ()
    step: float = 1.0
    level: str = ""
    viewing: PictureOnDisplay | None = None


class Round:
    """One round with a set-up.

    Parameters
    ----------
    setup
        The set-up in hand.
    order
        What is wanted.
    seed
        From which the scene and the start are made.
    eye
        What the eye tells apart.
    renderings
        Gives rendered scenes by name; only painted ones without it.

    Raises
    ------
    WelotropeError
        When there is no such exercise or scene, or the exercise is not done with the aid.
    """

    def __init__(
        self, setup: Setup, order: RoundRequest, seed: int, *, eye: Eye = AVERAGE_EYE,
        renderings: Renderings | None = None,
    ) -> None:  # fmt: skip
        self.setup = setup
        self.eye = eye
        self.exercise: Exercise = exercise(order.exercise)
        found = view_called(order.aid)
        if found is None or order.aid not in self.exercise.views:
            raise ConflictError(
                "aid", order.aid, f"“{self.exercise.title}” is not done with it",
                f"Choose from {', '.join(self.exercise.views)}",
            )  # fmt: skip
        self.kind, self.seen = found[0], found[1].seen(setup.body.aids_by_tag)
        self.aid, self.stop, self.seed = order.aid, order.stop, seed
        rng = np.random.default_rng(seed)
        there = [name for name in self.exercise.scenes if renderings is not None or name in PAINTED]
        self.scene_name = order.scene or str(rng.choice(there))
        if self.scene_name not in self.exercise.scenes:
            raise ConflictError(
                "scene", self.scene_name, f"“{self.exercise.title}” is not done there",
                f"Choose from {', '.join(self.exercise.scenes)}",
            )  # fmt: skip
        self.ring = setup.ring(self.stop)
        self.view_stop = max(setup.view_stop(self.stop), self.exercise.seen_at)
        check_stars(self.setup, self.ring, self.stop, self.exercise)
        check_short(self.setup, self.exercise)
        scene = exercised(make_scene(self.scene_name, seed, self._reach(), renderings), self.exercise)
        own = math.hypot(eye["lens_blur"], airy_diameter(self.view_stop))
        unit_mm = setup.body.image.width_mm / 36
        self.composed = Stage(scene, setup.lens.focal_mm, unit_mm)
        aimed = self.composed
        if self.exercise.recomposes:
            aimed = Stage(aimed_at(scene, setup.lens.focal_mm, unit_mm), setup.lens.focal_mm, unit_mm)
        self.finder = Finder(aimed, self._instrument(own), seed)
        self.start_deg = self._start(rng)

    @property
    def steps(self) -> tuple[float, ...]:
        """Magnifications one may choose, times: of the live view, or how closely the eye looks at a screen."""
        if not self.live:
            return (1.0, 3.0)
        return (1.0, *(step for step in self.seen.steps if step > 1))

    @property
    def live(self) -> bool:
        """Whether a live picture is looked at."""
        return self.seen.through is Through.DISPLAY

    def pixel_slope(self, step: float) -> float | None:
        """Return under what angle a pixel of the picture is seen in the finder, radians; None for a live picture."""
        pixel_mm = self.finder.pixel_mm(FrameRequest(aid=self.aid, angle_deg=0.0, step=step))
        return seen_angle(self.seen, pixel_mm, focal_mm=self.setup.lens.focal_mm)

    @property
    def levels(self) -> tuple[tuple[str, float], ...]:
        """Levels at which edges light, as name and threshold per pixel; none where none do."""
        return next((part.levels for part in self.seen.parts if isinstance(part, Lit)), ())

    @property
    def first_step(self) -> float:
        """Magnification to begin with: closer at a screen, whose pixel is coarser than an eye's vernier acuity."""
        judged_by_mark = any(isinstance(part, Indicator | Needle) for part in self.seen.parts)
        return 1.0 if self.live or judged_by_mark else 3.0

    @property
    def locked(self) -> bool:
        """Whether the ring is set and stays."""
        return self.exercise.locked

    def grid_deg(self, step: float) -> float:
        """Return the ring turn from one frame to the next, degrees: under half a pixel of change in blur or shift.

        Of what the picture grows by at its edges it is less, so that frames laid over one another show no double edges.
        """
        pixel_mm = self.finder.pixel_mm(FrameRequest(aid=self.aid, angle_deg=0.0, step=step))
        blur_per_mm = 1 / max(self.view_stop, self.seen.screen_stop)
        shift_per_mm = max((self._shift_per_mm(part) for part in self.seen.parts), default=0.0)
        per_degree = 1 / self.ring.degrees_per_mm(self.ring.throw_deg / 2)
        breath_mm = _BREATH_STEP_PX * self.setup.lens.focal_mm / (WIDTH_PX / 2)
        turned_mm = min(0.45 * pixel_mm / max(blur_per_mm, shift_per_mm), breath_mm)
        return min(max(turned_mm / per_degree, 0.02), 4.0)

    @property
    def blend_frames(self) -> int:
        """Return across how many frames of the ring two may be laid over one another for what lies between them.

        A blur between two that differ by some pixels looks like their mean; what moves, or lights at a threshold, does
        not.
        """
        return 1 if self.seen.parts else _BLEND_FRAMES

    def _shift_per_mm(self, part: Part) -> float:
        """How far a part moves the picture for a mm of extension."""
        if isinstance(part, Split):
            return 2 * math.tan(math.radians(part.deviation_deg))
        return part.base_mm / self.setup.lens.focal_mm if isinstance(part, Patch) else 0.0

    def lean_grid_mm(self, step: float) -> float:
        """Return the lean from one frame to the next, mm, for the plane the ring stands on; see :meth:`grid_deg`."""
        f, x = self.setup.lens.focal_mm, max(float(self.ring.extension_at_angle(self.start_deg)), 1e-3)
        extension_mm = self.grid_deg(step) / self.ring.degrees_per_mm(self.ring.throw_deg / 2)
        return min(max(extension_mm * (f / x) ** 2, 0.5), 15.0)

    def frame(self, look: FrameRequest) -> Picture:
        """Return what is seen, BGR, 600 × 900.

        Raises
        ------
        OutOfRangeError
            When the ring, the lean, the time or the magnification is out of range.
        """
        self._check(look.angle_deg, look.lean_mm, look.seconds)
        self.check_step(look.step)
        if abs(look.x) > 18 or abs(look.y) > 18:
            raise OutOfRangeError("area", f"{look.x:g}, {look.y:g}", "it lies outside the frame", "Keep within ±18")
        angle = self.start_deg if self.locked else look.angle_deg
        seconds = look.seconds if self.finder.stage.scene.moves else 0.0
        return self.finder.frame(replace(look, angle_deg=angle, seconds=seconds))

    def judge(self, release: Release) -> Trial:
        """Judge a release.

        Raises
        ------
        OutOfRangeError
            When a figure of it is out of range.
        """
        self._check(release.angle_deg, release.lean_mm, release.seconds)
        self.check_step(release.step)
        angle = self.start_deg if self.locked else release.angle_deg
        scene, stage, f = self.composed.scene, self.composed, self.setup.lens.focal_mm
        x = float(self.ring.extension_at_angle(angle))
        own = math.hypot(self.eye["lens_blur"], airy_diameter(self.stop))
        frames = [
            Focus(extension_mm=x, stop=self.stop, own_blur_mm=0.0, blades=0, lean_mm=release.lean_mm, seconds=moment)
            for moment in self._moments(release)
        ]
        taking = min(frames, key=lambda one: stage.blur_mm(scene.target, one))
        object_mm = stage.distance(scene.target, taking)
        subject_x = float(extension_at_object_distance(object_mm, f))
        plane, subject = self._film_distances(x, subject_x)
        target_deg = self._angle_of_subject(subject, subject_x)
        blur = stage.blur_mm(scene.target, taking)
        plane, subject = min(plane, FAR_MM), min(subject, FAR_MM)
        pitch = self.setup.body.image.pitch_mm
        seen_mm = self.finder.stage.distance(scene.target, taking)
        shown, z = self._score(release, x, float(extension_at_object_distance(seen_mm, f)))
        reach = self._reach()
        path = check_path(release.path)
        return Trial(
            exercise=self.exercise.id,
            aid=self._recorded_aid(),
            scene=self.scene_name,
            seed=self.seed,
            stop=self.stop,
            distance_mm=subject,
            plane_mm=plane,
            error_deg=target_deg - angle,
            error_mm=plane - subject,
            blur_px=blur / pitch if pitch else 0.0,
            blur_mm=blur,
            window_deg=sharp_window(self.ring, target_deg, self.stop, self.setup.blur_mm).width_deg,
            seconds=release.seconds,
            passed=crossings(path, target_deg) if not self.locked else 0,
            path=path,
            target_deg=target_deg,
            photo=TrialPicture(
                focal_mm=f,
                nearest_mm=reach.nearest_mm,
                farthest_mm=min(reach.farthest_mm, 1e12),
                extension_mm=x,
                lean_mm=taking.lean_mm,
                seconds=taking.seconds,
                unit_mm=stage.unit_mm,
                pitch_mm=pitch or _FILM_PITCH_MM,
                own_blur_mm=own,
                widest=self.setup.lens.widest,
            ),
            view_stop=self.view_stop,
            step=release.step,
            shown_mm=shown,
            z=z,
            burst_mm=tuple(stage.blur_mm(scene.target, one) for one in frames) if len(frames) > 1 else (),
        )

    def _moments(self, release: Release) -> list[float]:
        """Return when the picture is taken, or each of a burst, s since the scene began to move; 0 where none does."""
        if not self.composed.scene.moves:
            return [0.0]
        traits = self.setup.body.traits
        first = release.seconds + (traits.shutter_lag_ms or 0.0) / 1000
        rate = traits.burst_fps or _USUAL_FPS
        count = max(round(rate * _BURST_S), 1) if self.exercise.bursts else 1
        return [first + k / rate for k in range(count)]

    def _film_distances(self, x: float, subject_x: float) -> tuple[float, float]:
        """Distances of plane and subject from the film, the lens standing at ``x``, mm."""
        f, h = self.setup.lens.focal_mm, self.ring.h_mm
        return float(film_distance_at_extension(x, f, h=h)), float(film_distance_of_image(subject_x, x, f, h=h))

    def _angle_of_subject(self, film_mm: float, subject_x: float) -> float:
        """Ring angle, degrees, that focuses the subject where it stays; where none does, that of its image."""
        try:
            return float(self.ring.angle_at_distance(film_mm))
        except TooCloseError:  # it has come nearer than the lens can image anything
            return float(self.ring.angle_at_extension(subject_x))

    def _score(self, release: Release, x: float, subject_x: float) -> tuple[float | None, float | None]:
        """Return what the picture could show at the release, mm of extension, and the miss in units of it."""
        finishes_on = self.exercise.finishes_on
        level = None if finishes_on else dict(self.levels).get(release.level)
        look = FrameRequest(aid=finishes_on or self.aid, angle_deg=0.0, step=release.step, threshold=level)
        shown = shown_defocus(self.finder, look, subject_x, viewing=release.viewing, eye=self.eye)
        if shown is None:
            return None, None
        bias = 0.0
        patch = next((part for part in self.seen.parts if isinstance(part, Patch)), None)
        if patch is not None:
            object_mm = float(object_distance_at_extension(max(subject_x, 0.0), self.setup.lens.focal_mm))
            bias = rangefinder_bias(self.setup.lens.focal_mm, object_mm, 2000.0, patch.reads_mm)
        return shown, (subject_x - x - bias) / shown

    def _recorded_aid(self) -> str:
        """Finishing on the magnified picture is the magnifier's; every way of splitting is the split image's."""
        return self.exercise.finishes_on or self.kind.tag

    def _reach(self) -> FocusRange:
        """Return what can be focused with room to turn past it on both sides; refuses where there is none."""
        f, ring = self.setup.lens.focal_mm, self.ring
        low, high = room_to_pass(ring, self.stop, self.setup.blur_mm)
        if self.exercise.at_infinity or self.locked:
            low, high = 0.0, ring.throw_deg
        ends = (float(ring.extension_at_angle(angle)) for angle in (high, low))
        nearest, farthest = (object_distance_at_extension(max(x, 0.0), f) for x in ends)
        return FocusRange(f, float(nearest), float(farthest))

    def _instrument(self, own_blur_mm: float) -> Instrument:
        seen = self.setup.ring(self.view_stop)
        return Instrument(
            extension_at=lambda angle: float(seen.extension_at_angle(angle)), view_stop=self.view_stop,
            widest=self.setup.lens.widest, own_blur_mm=own_blur_mm,
            confirmation_band_mm=confirmation_band(self.setup.body.image.diagonal_mm, eye=self.eye),
            aids=self.setup.body.aids_by_tag, sensor_px=self.setup.body.image.width_px or 6000,
        )  # fmt: skip

    def _start(self, rng: np.random.Generator) -> float:
        """Return where the ring stands at first: three half-windows from the subject at least, or locked."""
        ring, scene = self.ring, self.finder.stage.scene
        target = self._angle_of(scene.target_mm)
        if self.exercise.begins is Begins.IN_THE_WAY:
            return self._angle_of(scene.target_mm * rng.uniform(0.3, 0.55))
        if self.exercise.begins is Begins.OFF_BY_A_LEAN:
            return self._angle_of(self._lean_start(rng))
        away = START_HALVES * half_window(ring, target, self.stop, self.setup.blur_mm)
        far, near = target - away, target + away
        if self.exercise.begins is Begins.INFINITY:
            start = ring.clamp(ring.infinity_deg)
            return start if start <= far else self._far_or_near(rng, target, far, near)
        if self.exercise.begins is Begins.NEAR:
            return ring.throw_deg if ring.throw_deg >= near else self._far_or_near(rng, target, far, near)
        more = rng.uniform(0.06, 0.2) * ring.throw_deg
        return self._far_or_near(rng, target, min(far, target - more), max(near, target + more))

    def _far_or_near(self, rng: np.random.Generator, target: float, far: float, near: float) -> float:
        """Return one of two starts that lies on the ring; the end of travel stands for one just beyond it."""
        ring = self.ring
        away = START_HALVES * half_window(ring, target, self.stop, self.setup.blur_mm)
        starts = [ring.clamp(angle) for angle in (far, near) if abs(ring.clamp(angle) - target) >= away * (1 - 1e-6)]
        if not starts:
            raise nothing_to_find(self.stop)
        return float(starts[int(rng.integers(0, len(starts)))])

    def _lean_start(self, rng: np.random.Generator) -> float:
        """Return the distance the ring is locked on: off the subject by a lean that shows, within reach of one."""
        f, scene = self.setup.lens.focal_mm, self.finder.stage.scene
        x = float(extension_at_object_distance(scene.target_mm, f))
        limits = sharp_limits(x, f, self.stop, self.setup.blur_mm)
        near, far = (float(object_distance_at_extension(at, f)) for at in (limits.near_x, limits.far_x))
        reach = self._reach()
        least_near, least_far = 1.2 * (scene.target_mm - near), 1.2 * (far - scene.target_mm)
        offers = [
            scene.target_mm + side * rng.uniform(max(least, 25.0), max(least, 90.0))
            for side, least in ((-1, least_near), (1, least_far))
            if least < 0.85 * MAX_LEAN_MM
        ]
        offers = [mm for mm in offers if reach.nearest_mm <= mm <= reach.farthest_mm]
        if not offers:
            raise nothing_to_find(self.stop)
        return float(offers[int(rng.integers(0, len(offers)))])

    def _angle_of(self, object_mm: float) -> float:
        x = float(extension_at_object_distance(object_mm, self.ring.focal_mm))
        return self.ring.clamp(float(self.ring.angle_at_extension(x)))

    def check_step(self, step: float) -> None:
        """Raise OutOfRangeError when the body has no such magnification, times."""
        if step not in self.steps:
            raise OutOfRangeError(
                "magnification", f"{step:g}×", "this body has no such step",
                f"Choose from {', '.join(f'{step:g}' for step in self.steps)}",
            )  # fmt: skip

    def _check(self, angle_deg: float, lean_mm: float, seconds: float) -> None:
        for name, value, low, high, unit in (
            ("ring", angle_deg, 0.0, self.ring.throw_deg, "°"),
            ("lean", lean_mm, -MAX_LEAN_MM, MAX_LEAN_MM, " mm"),
            ("time", seconds, 0.0, MAX_SECONDS, " s"),
        ):
            if not low - 1e-6 <= value <= high + 1e-6:
                raise OutOfRangeError(
                    name, f"{value:g}{unit}", "that is out of range", f"Give {low:g} to {high:.4g}{unit}"
                )
