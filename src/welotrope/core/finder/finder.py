"""The finder: what a photographer sees of a scene through a set-up and an aid with the ring at an angle."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, field, replace

import cv2
import numpy as np

from welotrope.core.finder import peaking, prisms
from welotrope.core.finder.canvas import View
from welotrope.core.finder.light import Picture
from welotrope.core.finder.rendered import Renderings
from welotrope.core.finder.scene import FocusRange, exercised
from welotrope.core.finder.scenes import make_scene
from welotrope.core.finder.stage import Focus, Stage
from welotrope.core.kit.aids.kind import Aids, FinderScene, Indicator, Needle, Patch, Prisms, Split, Through
from welotrope.core.kit.aids.models import confirmation_defocus
from welotrope.core.kit.aids.registry import view_called
from welotrope.core.optics.thin_lens import effective_stop, magnification, object_distance_at_extension
from welotrope.core.optics.wedge import wedge_darkness
from welotrope.core.practice.exercises import known_exercise
from welotrope.core.practice.trial import Trial

WIDTH_PX, HEIGHT_PX = 900, 600
UNITS_PER_PX = 36.0 / WIDTH_PX
USUAL_MAGNIFICATION = 0.9  # at which a finder shows the frame across the whole picture
PHOTO_PX = (720, 480)


@dataclass(frozen=True, kw_only=True)
class Instrument:
    """What of a set-up the finder needs.

    Parameters
    ----------
    extension_at
        Extension in mm seen at a ring angle in degrees, at the stop one looks through.
    view_stop, widest
        The stop one looks through, and the lens's widest.
    own_blur_mm
        The lens's own blur at that stop, diffraction included, mm.
    aids
        The aids of the body, by tag; a view takes usual ones where it has none.
    sensor_px
        Pixels across the sensor.
    """

    extension_at: Callable[[float], float]
    view_stop: float
    widest: float
    own_blur_mm: float
    confirmation_band_mm: float
    aids: Aids = field(default_factory=dict)
    sensor_px: int = 6000


@dataclass(frozen=True, kw_only=True)
class FrameRequest:
    """What is asked to be seen.

    Parameters
    ----------
    aid
        Key of a way to look through an aid, see ``kit.aids.registry.views``.
    angle_deg
        Ring angle, degrees.
    step
        Magnification over the whole frame, 1 or more: of a live picture, or how closely the eye looks at a screen.
    x, y
        Middle of the magnified area, picture units.
    turned
        Whether the camera is held upright, a quarter turned.
    threshold, colour
        Peaking level and colour; no peaking without a threshold.
    lean_mm, seconds
        Lean towards the scene, and how long it has run.
    mask
        Whether a diffraction mask is before the lens.
    """

    aid: str
    angle_deg: float
    step: float = 1.0
    x: float = 0.0
    y: float = 0.0
    turned: bool = False
    threshold: float | None = None
    colour: str = "white"
    lean_mm: float = 0.0
    seconds: float = 0.0
    mask: bool = False


@dataclass
class Finder:
    """A stage seen through an instrument."""

    stage: Stage
    instrument: Instrument
    seed: int = 0
    _grain: Picture = field(init=False)

    def __post_init__(self) -> None:
        rng = np.random.default_rng(self.seed)
        self._grain = np.clip(rng.normal(128, 26, (HEIGHT_PX, WIDTH_PX)), 0, 255).astype(np.uint8)

    def frame(self, look: FrameRequest) -> Picture:
        """Return what is seen, BGR, 600 × 900, 8 bit."""
        seen, view = self.seen(look.aid), self.view(look)
        if seen.through is Through.DISPLAY:
            picture = self._live(look, view, seen)
        elif seen.through is Through.PLAIN:
            picture = self._plain(look, view, seen)
        else:
            picture = self._optical(look, view, seen)
        if seen.through is not Through.DISPLAY:
            _mask_outside(picture, view)
        if look.turned:
            picture = np.asarray(cv2.rotate(picture, cv2.ROTATE_90_COUNTERCLOCKWISE), np.uint8)
        if picture.shape[1] != WIDTH_PX:
            picture = np.asarray(cv2.resize(picture, (WIDTH_PX, HEIGHT_PX), interpolation=cv2.INTER_LINEAR), np.uint8)
        for part in seen.parts:
            if isinstance(part, Indicator):
                self._indicator(picture, self.focus(look), part)
            elif isinstance(part, Needle):
                self._needle(picture, self.focus(look), part, self.pixel_mm(look))
        return picture

    def seen(self, key: str) -> FinderScene:
        """Return what is looked at through a view; raises LookupError for none of that key."""
        found = view_called(key)
        if found is None:
            raise LookupError(key)
        return found[1].seen(self.instrument.aids)

    def view(self, look: FrameRequest) -> View:
        """Return the window that is rendered: the whole frame, or an area as finely as display and sensor show it."""
        width, height = (HEIGHT_PX, WIDTH_PX) if look.turned else (WIDTH_PX, HEIGHT_PX)
        seen = self.seen(look.aid)
        if seen.through is not Through.DISPLAY:  # the eye may look closer; the camera is aimed at the subject
            scene = self.stage.scene
            return View(width, height, _optical_units(look.step, seen), scene.target_x, scene.target_y)
        shown = self.shown_px(look.step, seen)
        share = shown / WIDTH_PX
        units = 36.0 / look.step / shown
        scene = self.stage.scene
        x, y = (look.x, look.y) if look.step > 1 else (scene.target_x, scene.target_y)
        return View(round(width * share), round(height * share), units, x, y)

    def pixel_mm(self, look: FrameRequest) -> float:
        """Size on the sensor of a pixel of what is shown, mm; that of the display or the scene where it is coarser."""
        seen = self.seen(look.aid)
        if seen.through is not Through.DISPLAY:
            shown = _optical_units(look.step, seen)
        else:
            shown = 36.0 / look.step / self.shown_px(look.step, seen)
        return max(shown, self.stage.scene.finest) * self.stage.unit_mm

    def shown_px(self, step: float, seen: FinderScene) -> int:
        """Pixels across that are truly shown: no more than the frame, the display or the magnified sensor has."""
        return max(90, min(WIDTH_PX, seen.display_px, round(self.instrument.sensor_px / step)) // 2 * 2)

    def focus(self, look: FrameRequest, *, stop: float | None = None) -> Focus:
        """Return how the lens stands; ``stop`` in place of the viewing stop."""
        instrument = self.instrument
        N = instrument.view_stop if stop is None else stop
        blades = 0 if instrument.widest * 1.05 >= N else 6
        return Focus(
            extension_mm=instrument.extension_at(look.angle_deg), stop=N, own_blur_mm=instrument.own_blur_mm,
            blades=blades, lean_mm=look.lean_mm, seconds=look.seconds,
            opened=min(instrument.widest / N, 1.0), breathing=True,
        )  # fmt: skip

    def _optical(self, look: FrameRequest, view: View, seen: FinderScene) -> Picture:
        """See through a screen: no thinner depth than it shows, dimmer and grainier with slow lenses."""
        true = self.focus(look)
        stop = max(true.stop, seen.screen_stop)
        shown = replace(true, stop=stop, opened=min(self.instrument.widest / stop, 1.0))
        picture = self.stage.render(view, shown)
        for part in seen.parts:
            if isinstance(part, Split):
                dark = self._darkness(part.deviation_deg, true)
                along = part.along_deg + (90.0 if look.turned else 0.0)
                prisms.split_image(self.stage, picture, view, true, part.deviation_deg, dark, along)
            elif isinstance(part, Prisms):
                dark = self._darkness(part.deviation_deg, true)
                inner, outer = prisms.COLLAR if part.collar else prisms.SPOT
                prisms.microprism(self.stage, picture, view, true, part.deviation_deg, dark, inner=inner, outer=outer)
        return self._dimmed(picture, screen_gain(self.stage.scene.brightness, self.instrument.view_stop))

    def _darkness(self, deviation_deg: float, focus: Focus) -> float:
        m = magnification(max(focus.extension_mm, 0.0), self.stage.focal_mm)
        return wedge_darkness(deviation_deg, focus.stop, m=m)

    def _dimmed(self, picture: Picture, gain: float) -> Picture:
        """Darken a picture on a screen and let the grain of the screen show."""
        grain = self._grain if picture.shape[:2] == self._grain.shape else self._grain.T
        strength = 0.10 + 0.45 * (1 - gain)
        shaded = cv2.multiply(picture, cv2.cvtColor(grain, cv2.COLOR_GRAY2BGR), scale=gain * strength / 128)
        return np.asarray(cv2.addWeighted(picture, gain * (1 - strength), shaded, 1.0, 0), np.uint8)

    def _plain(self, look: FrameRequest, view: View, seen: FinderScene) -> Picture:
        """See through a plain finder, sharp at every distance, with the second picture in its middle."""
        still = replace(
            self.focus(look, stop=128.0), extension_mm=self.stage.focal_mm**2 / 8000, own_blur_mm=0.0, breathing=False
        )
        picture = self.stage.render(view, still)
        x = max(self.instrument.extension_at(look.angle_deg), 1e-9)
        ring = float(object_distance_at_extension(x, self.stage.focal_mm))
        for part in seen.parts:
            if isinstance(part, Patch):
                off = part.base_mm * (1 / 2000.0 - 1 / part.reads_mm)
                prisms.rangefinder_patch(self.stage, picture, view, still, ring, part.base_mm, off, upright=look.turned)
        return self._dimmed(picture, min(1.0, screen_gain(self.stage.scene.brightness, 2.0)))

    def _live(self, look: FrameRequest, view: View, seen: FinderScene) -> Picture:
        """See a live picture on the display: as bright as it likes, noisy in the dark; edges lit if asked for."""
        focus = self.focus(look)
        picture = self.stage.render(view, focus)
        if look.mask:
            _diffraction_spikes(self.stage, picture, view, focus)
        if self.stage.scene.brightness < 0.1:
            noise = self._grain[: picture.shape[0], : picture.shape[1]]
            if noise.shape == picture.shape[:2]:
                picture = np.asarray(
                    cv2.addWeighted(picture, 1.0, cv2.cvtColor(noise, cv2.COLOR_GRAY2BGR), 0.12, -12), np.uint8
                )
        if look.threshold is not None:
            display_per_px = seen.display_px / max(view.width_px, view.height_px)
            peaking.mark(picture, peaking.lit(picture, look.threshold, display_per_px), look.colour)
        return picture

    def _indicator(self, picture: Picture, focus: Focus, part: Indicator) -> None:
        """Draw the focus indicator under the picture: a lozenge that fills when lit, and bars when not."""
        off = self.stage.defocus_mm(self.stage.scene.target, focus)
        working = effective_stop(focus.stop, magnification(max(focus.extension_mm, 0.0), self.stage.focal_mm))
        reach = confirmation_defocus(part.base_stop, working, self.instrument.confirmation_band_mm)
        (x, y), amber = _foot(picture), (90, 200, 240)
        lozenge = np.array([(x - 9, y), (x, y - 9), (x + 9, y), (x, y + 9)], np.int32)
        if abs(off) <= reach:
            cv2.fillPoly(picture, [lozenge], amber, cv2.LINE_AA)
        else:
            cv2.polylines(picture, [lozenge], True, (110, 120, 120), 1, cv2.LINE_AA)
        # Bars stand on the side to which the plane lies too near (left) or too far (right), more the farther off.
        count = 0 if abs(off) <= reach else min(4, 1 + int(abs(off) / reach / 3))
        for k in range(count):
            at = x + (26 + 12 * k) * (1 if off > 0 else -1)
            cv2.rectangle(picture, (at - 3, y - 8), (at + 3, y + 8), amber, -1)

    def _needle(self, picture: Picture, focus: Focus, part: Needle, pixel_mm: float) -> None:
        """Draw how sharp the target is, as a bar under the picture."""
        off = abs(self.stage.defocus_mm(self.stage.scene.target, focus))
        working = effective_stop(focus.stop, magnification(max(focus.extension_mm, 0.0), self.stage.focal_mm))
        share = 2 ** -((off / working / pixel_mm / part.half_px) ** 2)
        (x, y), reach = _foot(picture), WIDTH_PX // 3
        cv2.rectangle(picture, (x - reach, y - 5), (x + reach, y + 5), (70, 78, 78), 1)
        cv2.rectangle(picture, (x - reach, y - 5), (x - reach + round(2 * reach * share), y + 5), (90, 200, 240), -1)


def _foot(picture: Picture) -> tuple[int, int]:
    """Draw the dark foot under the picture and return its middle, pixels."""
    cv2.rectangle(picture, (0, HEIGHT_PX - 34), (WIDTH_PX, HEIGHT_PX), (18, 20, 20), -1)
    return WIDTH_PX // 2, HEIGHT_PX - 17


def _optical_units(step: float, seen: FinderScene) -> float:
    """Picture units in a pixel of an optical finder: the more it magnifies, the larger everything stands."""
    return UNITS_PER_PX / step * USUAL_MAGNIFICATION / (seen.finder_magnification or USUAL_MAGNIFICATION)


def _mask_outside(picture: Picture, view: View) -> None:
    """Blacken what lies outside the frame: a finder of low magnification shows it small, with dark around."""
    (left, top), (right, bottom) = (
        view.place(view.centre_x + side * 18, view.centre_y + side * 12) for side in (-1, 1)
    )
    picture[: max(round(top), 0)] = 0
    picture[max(round(bottom), 0) :] = 0
    picture[:, : max(round(left), 0)] = 0
    picture[:, max(round(right), 0) :] = 0


def screen_gain(brightness: float, stop: float) -> float:
    """How bright a screen looks, 0.15 to 1, for a scene's brightness (1 in daylight) and the stop looked through.

    Parameters
    ----------
    brightness
        Brightness of the scene, 1 in daylight.
    stop
        F-number that the screen is looked through.
    """
    return float(max(0.15, math.sqrt(min(1.0, brightness * 40 / stop**2))))


def _diffraction_spikes(stage: Stage, picture: Picture, view: View, focus: Focus) -> None:
    """Draw what a mask of three gratings makes of bright stars: a fixed cross, and a spike that slides through it."""
    for index, layer in enumerate(stage.scene.layers):
        slide = stage.defocus_mm(index, focus) / focus.stop / (view.units_per_px * stage.unit_mm)
        for light in layer.lights:
            if light.strength < 2:
                continue
            x, y = stage.place(view, focus, light.x, light.y)
            length = 60 * min(1.0, light.strength / 4.7)
            for angle, off in ((math.radians(70), 0.0), (math.radians(110), 0.0), (math.radians(90), slide)):
                dx, dy = math.cos(angle) * length, math.sin(angle) * length
                ends = [(round((x + off + s * dx) * 16), round((y + s * dy) * 16)) for s in (-1, 1)]
                overlay = picture.copy()
                cv2.line(overlay, ends[0], ends[1], (200, 200, 200), 1, cv2.LINE_AA, 4)
                cv2.addWeighted(overlay, 0.6, picture, 0.4, 0, dst=picture)


def photograph(trial: Trial, renderings: Renderings | None = None, *, whole: bool = False) -> Picture:
    """Return the picture a trial took: at full size round the subject, or the whole frame; BGR, 480 × 720.

    Parameters
    ----------
    trial
        The round as it was kept.
    renderings
        Scenes rendered beforehand, by name.
    whole
        Whether the whole frame is wanted, else the subject at full size.
    """
    photo = trial.photo
    reach = FocusRange(photo.focal_mm, photo.nearest_mm, math.inf if photo.farthest_mm >= 1e12 else photo.farthest_mm)
    scene = make_scene(trial.scene, trial.seed, reach, renderings)
    if (done := known_exercise(trial.exercise)) is not None:
        scene = exercised(scene, done)
    stage = Stage(scene, photo.focal_mm, photo.unit_mm, exact=True)
    blades = 0 if trial.stop <= photo.widest * 1.05 else 6
    middle = scene.target_x * 0.5, scene.target_y * 0.5  # the subject is seldom put in the middle
    focus = Focus(
        extension_mm=photo.extension_mm, axis=middle, stop=trial.stop, own_blur_mm=photo.own_blur_mm, blades=blades,
        lean_mm=photo.lean_mm, seconds=photo.seconds, opened=min(photo.widest / trial.stop, 1.0), breathing=True,
    )  # fmt: skip
    width, height = PHOTO_PX
    if whole:
        return stage.render(View(width, height, 36.0 / width, *middle), focus)
    # A moving subject stands larger, and so a little farther from the middle.
    scale = stage.scale(scene.target, focus)
    units = min(photo.pitch_mm / photo.unit_mm, UNITS_PER_PX)
    return stage.render(View(width, height, units, scene.target_x * scale, scene.target_y * scale), focus)
