"""Measuring rendered pictures: edges, lines and lights, in pixels."""

import math

import numpy as np

from welotrope.core.finder.canvas import View
from welotrope.core.finder.finder import UNITS_PER_PX, Finder, Instrument
from welotrope.core.finder.scene import Layer, Scene
from welotrope.core.finder.stage import Stage
from welotrope.core.kit.aids.registry import kind_of

WHOLE = View(900, 600, UNITS_PER_PX)
F, LEAD = 50.0, 10.8


def backdrop(tone):
    return Layer(1e6, lambda canvas: canvas.fill((tone, tone, tone)), backdrop=True)


def edge_scene(distance_mm, dark=60, light=180, x=0.0, lights=()):
    """A hard upright edge: everything right of ``x`` is lighter, at a distance before a far dark wall."""
    half = Layer(distance_mm, lambda canvas: canvas.box(x, -30, 60, 60, (light, light, light)), tuple(lights))
    return Scene(
        name="edge",
        layers=(backdrop(dark), half),
        target=1,
        target_name="the edge",
        target_x=0.0,
        target_y=0.0,
    )


def line_scene(distance_mm, width=0.25, slope=0.0):
    """A bright upright line at a distance before a dark wall."""
    path = [(-slope * 14, -14), (slope * 14, 14)]
    line = Layer(distance_mm, lambda canvas: canvas.line(path, width, (230, 230, 230)))
    return Scene(
        name="line",
        layers=(backdrop(20), line),
        target=1,
        target_name="the line",
        target_x=0.0,
        target_y=0.0,
    )


def finder(scene, N=1.4, *aids, **more):
    """A finder with aids on a 50 mm lens of 10.8 mm lead that adds no blur of its own."""
    values = {"widest": min(N, 1.4), "own_blur_mm": 0.0, "confirmation_band_mm": 0.03} | more
    values["aids"] = {kind_of(aid).tag: aid for aid in aids}
    return Finder(
        Stage(scene, F, 1.0), Instrument(extension_at=lambda angle: angle * LEAD / 360, view_stop=N, **values)
    )


def angle_of(distance_mm):
    return F * F / (distance_mm - F) * 360 / LEAD


def light(picture):
    """Light of coded values: where the tone curve of the renderings, tabled finely, reaches them."""
    return np.interp((np.asarray(picture, float) / 255) ** 2.2, _TONED, _LIGHT)


_LIGHT = np.concatenate([[0.0], np.geomspace(1e-5, 7.241, 20_000)])
_TONED = _LIGHT * (2.51 * _LIGHT + 0.03) / (_LIGHT * (2.43 * _LIGHT + 0.59) + 0.14)


def edge_diameter(profile):
    """Diameter of the disc that spread a hard edge in light: its line spread has the variance d²/16."""
    spread = np.abs(np.diff(light(profile)))
    at = np.arange(len(spread)) + 0.5
    middle = np.average(at, weights=spread)
    return 4 * math.sqrt(np.average((at - middle) ** 2, weights=spread))


def centre_of_line(rows):
    """Column of the bright line's middle over some rows."""
    bright = np.clip(light(rows) - light(60), 0, None).sum(axis=0)
    return np.average(np.arange(rows.shape[1]), weights=bright)
