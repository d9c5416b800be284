"""A scene: flat layers at true distances, lights, and the thing to focus on."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

from welotrope.core.finder.canvas import FRAME_UNITS, Canvas, Colour
from welotrope.core.optics.thin_lens import extension_at_object_distance
from welotrope.core.practice.exercises import Exercise

_FROM_AFAR, _WITH_IT = 3.0, 1.5  # how far off what comes begins, and what is so little farther comes with it


@dataclass(frozen=True)
class PointLight:
    """A small light: where it is, how strong, its colour, and how wide it is; places in picture units.

    A strength of 1 makes one pixel of the whole frame, 900 pixels wide, as bright as lit paper.
    """

    x: float
    y: float
    strength: float
    colour: Colour = (255, 255, 255)
    across: float = 0.0


@dataclass(frozen=True)
class Layer:
    """A flat part of a scene.

    Parameters
    ----------
    distance_mm
        From the front principal plane; infinite for the sky.
    paint
        Draws it, in picture units.
    lights
        Its lights.
    backdrop
        Whether it covers the frame.
    moving
        Whether it comes closer with the scene's speed, and sways with it.
    """

    distance_mm: float
    paint: Callable[[Canvas], None]
    lights: tuple[PointLight, ...] = ()
    backdrop: bool = False
    moving: bool = False


@dataclass(frozen=True, kw_only=True)
class Scene:
    """Layers, farthest first.

    Parameters
    ----------
    name
        Its key in the list of scenes.
    layers
        Farthest first; the first covers the frame.
    target
        Index of the layer to focus on.
    target_name
        What to focus on, in words.
    target_x, target_y
        Where it is, picture units.
    brightness
        How bright it is, 1 for daylight.
    speed_mm_s
        How fast its moving layers come closer.
    sway_mm, sway_s
        How far its moving layers sway to and fro, and how long once takes.
    finest
        Size of the finest detail it holds about the target, picture units; 0 where it is drawn as fine as asked.
    """

    name: str
    layers: tuple[Layer, ...]
    target: int
    target_name: str
    target_x: float
    target_y: float
    brightness: float = 1.0
    speed_mm_s: float = 0.0
    sway_mm: float = 0.0
    sway_s: float = 1.0
    finest: float = 0.0

    @property
    def moves(self) -> bool:
        """Whether anything in it moves by itself."""
        return bool(self.speed_mm_s or self.sway_mm)

    def nearer_mm(self, seconds: float) -> float:
        """How much nearer its moving layers are than at the start, mm."""
        return self.speed_mm_s * seconds + self.sway_mm * math.sin(2 * math.pi * seconds / self.sway_s)

    @property
    def is_night(self) -> bool:
        """Whether what is focused on are stars."""
        return math.isinf(self.target_mm) and bool(self.layers[self.target].lights)

    @property
    def target_mm(self) -> float:
        """Distance of the target at the start, mm from the front principal plane."""
        return self.layers[self.target].distance_mm


def swaying(scene: Scene) -> Scene:
    """Return a scene whose sitter sways as people do at ease: by 14 mm to and fro, a scatter of 10 mm, in 3.2 s.

    Parameters
    ----------
    scene
        The scene.
    """
    return replace(_with_its_target(scene), sway_mm=14.0, sway_s=3.2)


def approaching(scene: Scene) -> Scene:
    """Return a scene whose target comes at a walk, 1.2 m/s, from three times as far, before a background that stays.

    Parameters
    ----------
    scene
        The scene.
    """
    layers = tuple(replace(one, distance_mm=one.distance_mm * _FROM_AFAR) for one in scene.layers)
    return replace(_with_its_target(replace(scene, layers=layers)), speed_mm_s=1200.0)


def _with_its_target(scene: Scene) -> Scene:
    """Return a scene of which all moves that is about as near as the target; as it is where that moves already."""
    if scene.layers[scene.target].moving:
        return scene
    nearer = _WITH_IT * scene.target_mm
    return replace(scene, layers=tuple(replace(one, moving=one.distance_mm < nearer) for one in scene.layers))


def exercised(scene: Scene, exercise: Exercise) -> Scene:
    """Return a scene as it behaves in an exercise: still, swaying, or coming at the camera.

    Parameters
    ----------
    scene
        The scene.
    exercise
        The exercise.
    """
    if exercise.approaches:
        return approaching(scene)
    return swaying(scene) if exercise.sways else scene


def aimed_at(scene: Scene, focal_mm: float, unit_mm: float) -> Scene:
    """Return a scene as the camera sees it aimed at a subject that lies on a third of the frame composed.

    The camera is turned about its lens. Aimed at the subject, its distance along the axis is that from the lens to it;
    in the frame composed it is the cosine of the angle of that. Turned back, the plane of focus lies behind it.

    Parameters
    ----------
    scene
        As it lies before the camera in the frame composed.
    focal_mm, unit_mm
        Focal length, and a picture unit on the sensor, mm.
    """
    off_mm = math.hypot(FRAME_UNITS[0] / 6, FRAME_UNITS[1] / 6) * unit_mm
    image_mm = focal_mm + float(extension_at_object_distance(scene.target_mm, focal_mm))
    farther = math.hypot(1.0, off_mm / image_mm)
    return replace(scene, layers=tuple(replace(one, distance_mm=one.distance_mm * farther) for one in scene.layers))


@dataclass(frozen=True)
class FocusRange:
    """What a lens can be focused to: focal length and nearest and farthest object distance, mm."""

    focal_mm: float
    nearest_mm: float
    farthest_mm: float

    def within(self, distance_mm: float, *, room: float = 1.08) -> float:
        """Return the distance within reach, mm, that is nearest to ``distance_mm``.

        ``room`` is the factor kept clear of the near end.
        """
        return min(max(distance_mm, self.nearest_mm * room), self.farthest_mm * 0.97)
