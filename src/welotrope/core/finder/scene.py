"""A scene: flat layers at true distances, lights, and the thing to focus on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from welotrope.core.finder.canvas import Canvas, Colour


@dataclass(frozen=True)
class PointLight:
    """A small light: where it is in picture units, its strength (1 lights one pixel white), and its colour."""

    x: float
    y: float
    strength: float
    colour: Colour = (255, 255, 255)


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
        Whether it comes closer with the scene's speed.
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
    name, title
        Its key, and its name in words.
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
    """

    name: str
    title: str
    layers: tuple[Layer, ...]
    target: int
    target_name: str
    target_x: float
    target_y: float
    brightness: float = 1.0
    speed_mm_s: float = 0.0

    @property
    def target_mm(self) -> float:
        """Distance of the target at the start, mm from the front principal plane."""
        return self.layers[self.target].distance_mm


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
