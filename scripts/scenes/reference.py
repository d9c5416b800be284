"""Render scenes through a thin lens, ray by ray: what the finder's layers are held against in its tests.

python scripts/scenes/reference.py NAME...   where render.py runs. Each picture is as a lens of the frame's angle shows
it whose target lies 31 focal lengths away, at f/2, focused on the target, behind it and before it.
"""

from __future__ import annotations

import argparse
import importlib
import math
from pathlib import Path

import cv2
import numpy as np
from render import toned
from world import World, mi

FOLDER = Path(__file__).parents[2] / "tests" / "core" / "finder" / "reference"
FAR, STOP = 31.0, 2.0  # focal lengths to the target, and the f-number
FOCUSED = {"on": 1.0, "behind": 1.35, "before": 0.8}  # where, as a share of the target's distance
SIZE = (900, 600)
_AT_ONCE = 2


def through_lens(world: World, share: float, samples: int):
    """Return linear light, shape (h, w, 3), through a lens focused at a share of the target's distance."""
    import pyoidn

    target = world.place(world.target)[2]
    scene = mi.load_dict({
        "type": "scene",
        "integrator": {"type": "aov", "aovs": "normal:sh_normal,albedo:albedo",
                       "image": {"type": "path", "max_depth": 7}},
        "sensor": {
            "type": "thinlens", "fov": world.fov_deg, "fov_axis": "x", "near_clip": 0.001,
            "aperture_radius": target / FAR / STOP / 2, "focus_distance": target * share,
            "film": {"type": "hdrfilm", "width": SIZE[0], "height": SIZE[1], "pixel_format": "rgb",
                     "rfilter": {"type": "box"}},
            "to_world": mi.ScalarTransform4f().look_at(list(world.camera), list(world.aim), [0, 0, 1]),
            "sampler": {"type": "independent", "sample_count": _AT_ONCE},
        },
        **world.shapes,
    })  # fmt: skip
    passes = samples // _AT_ONCE
    mean = sum(np.array(mi.render(scene, seed=seed, spp=_AT_ONCE)) for seed in range(passes)) / passes
    colour, normal, albedo = (np.ascontiguousarray(mean[..., k : k + 3], np.float32) for k in (0, 3, 6))
    return np.asarray(pyoidn.denoise(colour, albedo=np.clip(albedo, 0, 1), normal=normal, hdr=True))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("names", nargs="+")
    parser.add_argument("--samples", type=int, default=128)
    parser.add_argument("--where", nargs="+", choices=FOCUSED, default=list(FOCUSED), help="where it is focused")
    options = parser.parse_args()
    FOLDER.mkdir(parents=True, exist_ok=True)
    for name in options.names:
        world = importlib.import_module(name).world()
        for where in options.where:
            light = through_lens(world, FOCUSED[where], options.samples)
            path = FOLDER / f"{name}-{where}.webp"
            cv2.imwrite(str(path), toned(light * world.exposure), [cv2.IMWRITE_WEBP_QUALITY, 98])
        focal = 18 / math.tan(math.radians(world.fov_deg) / 2) * (FAR - 1) / FAR
        print(f"{name}: focal length {focal:.4f} mm where a picture unit is 1 mm", flush=True)


if __name__ == "__main__":
    main()
