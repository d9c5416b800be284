"""Pictures of the finder's layers, held against the same scenes traced ray by ray through a thin lens.

The references are made by ``scripts/scenes/reference.py``: the target 31 focal lengths away, at f/2.
"""

import math
from pathlib import Path

import cv2
import numpy as np
import pytest

from welotrope.core.finder.canvas import View
from welotrope.core.finder.rendered import laid_out
from welotrope.core.finder.scene import FocusRange
from welotrope.core.finder.stage import Focus, Stage
from welotrope.interchange.scene_files import rendering_called

FOLDER = Path(__file__).parent / "reference"
FOCAL_MM = {
    "figurehead": 65.0099,
    "bow": 55.2471,
    "pebbles": 56.9761,
    "shore": 65.0099,
    "dusk": 53.6113,
    "bench": 58.8068,
    "reeds": 72.5568,
    "rigging": 60.7485,
    "sitter": 62.8122,
    "plank": 58.8068,
    "deck": 53.6113,
    "quay": 62.8122,
}  # where a picture unit is 1 mm on the sensor
# Glitter on water and the sheen of wood are noise in both, which the renderer's denoising takes for what it is not, and
# so are blades of grass thinner than a pixel: two traces of the bench that differ by chance alone are alike to 0.913 and
# 0.938. On the target plank and deck are traced by 256 rays a pixel, bow, bench, shore, quay and dusk by 128, as
# bow, reeds and deck are behind it; the others by 64.
# Structural similarity that each keeps, and how far 99 of 100 pixels are off at most, of 255.
LEAST = {
    "figurehead": {"on": 0.982, "behind": 0.984, "before": 0.987},
    "bow": {"on": 0.971, "behind": 0.971},
    "pebbles": {"on": 0.977, "behind": 0.977, "before": 0.978},
    "shore": {"on": 0.935, "behind": 0.934, "before": 0.942},
    "dusk": {"on": 0.963, "behind": 0.974, "before": 0.979},
    "bench": {"on": 0.907, "behind": 0.933, "before": 0.929},
    "reeds": {"on": 0.972, "behind": 0.971, "before": 0.977},
    "rigging": {"on": 0.973, "behind": 0.966},
    "sitter": {"on": 0.970, "behind": 0.980},
    "plank": {"on": 0.970, "behind": 0.982},
    "deck": {"on": 0.967, "behind": 0.967},
    "quay": {"on": 0.981},
}
MOST_OFF = {
    "figurehead": 11,
    "bow": 16,
    "pebbles": 13,
    "shore": 19,
    "dusk": 24,
    "bench": 22,
    "reeds": 19,
    "rigging": 18,
    "sitter": 18,
    "plank": 14,
    "deck": 16,
    "quay": 19,
}
FOCUSED = {"on": 1.0, "behind": 1.35, "before": 0.8}
FAR = 31.0


class Placed:
    """In place of chance: the target lies where the reference has it."""

    def uniform(self, *_ends):
        return FAR


def alike(one, other):
    """Structural similarity of two pictures in grey, its usual window and constants; 1 for the same."""
    a, b = (cv2.cvtColor(each, cv2.COLOR_BGR2GRAY).astype(float) for each in (one, other))

    def around(values):
        return cv2.GaussianBlur(values, (11, 11), 1.5)

    mean_a, mean_b = around(a), around(b)
    var_a, var_b = around(a * a) - mean_a**2, around(b * b) - mean_b**2
    both = around(a * b) - mean_a * mean_b
    light, detail = (0.01 * 255) ** 2, (0.03 * 255) ** 2
    found = (2 * mean_a * mean_b + light) * (2 * both + detail)
    return float((found / ((mean_a**2 + mean_b**2 + light) * (var_a + var_b + detail))).mean())


@pytest.mark.parametrize("place", sorted(one.stem for one in FOLDER.glob("*.webp")))
def test_a_scene_of_layers_looks_as_it_does_through_a_lens(place):
    name, where = place.split("-")
    focal = FOCAL_MM[name]
    scene = laid_out(name, rendering_called, Placed(), FocusRange(focal, focal * 2, math.inf))
    at = scene.target_mm * FOCUSED[where]
    seen = Stage(scene, focal, 1.0).render(
        View(900, 600, 0.04, 0.0, 0.0), Focus(extension_mm=focal**2 / (at - focal), stop=2.0)
    )
    traced = cv2.imread(str(FOLDER / f"{place}.webp"))
    assert alike(seen, traced) >= LEAST[name][where]
    off = np.abs(seen.astype(int) - traced).max(axis=2)
    assert np.percentile(off, 99) <= MOST_OFF[name], "no bright or dark rim along edges"
