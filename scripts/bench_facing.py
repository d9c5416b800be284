"""How right rows and walls of sheets are measured, and how soon a picture that lands is told; printed as a table.

python scripts/bench_facing.py [series]
"""

from __future__ import annotations

import json
import math
import multiprocessing
import statistics
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np

from welotrope.core.testshot.camera import SimulatedCamera, picture_of, picture_of_sheets
from welotrope.core.testshot.row_reading import read_row
from welotrope.core.testshot.sheets import SheetPaper, row_sheet, slope_sheet, wall_sheet
from welotrope.core.testshot.slope import ShotSettings
from welotrope.core.testshot.wall_reading import look_at_wall, read_wall
from welotrope.interchange.pictures.workers import PictureWorkers
from welotrope.web.request.watching import FolderWatch

ASIDE_MM, UPRIGHT_MM = 235.0, 320.0
_LANDED = 5


def one_row(seed: int) -> tuple[float, float, float] | None:
    """How far off the plane is, how wide its half interval, and what is allowed, mm; None where it is not told."""
    rng = np.random.default_rng(seed)
    focal, stop = float(rng.choice([50, 85, 135])), float(rng.choice([1.4, 2, 2.8]))
    distance = max(float(rng.uniform(1500, 5000)), 37 * focal)
    depth = 2 * stop * 0.03 * (distance / focal) ** 2
    step = max(depth * float(rng.uniform(0.3, 0.5)), 15.0)
    width = int(rng.choice([4800, 6000]))
    camera = SimulatedCamera(
        focal_mm=focal, stop=stop, distance_mm=distance, slope_deg=float(rng.uniform(-3, 3)), seed=seed,
        turned_deg=float(rng.uniform(-3, 3)), roll_deg=float(rng.uniform(-2, 2)), noise=float(rng.uniform(1, 6)),
        plane_mm=float(rng.uniform(-1.2, 1.2)) * step, size_px=(width, width * 2 // 3),
        tilt_deg=float(rng.uniform(-0.5, 0.5)),
    )  # fmt: skip
    placed = []
    for number in range(3, 8):
        uneven = 0.0 if number == 5 else float(rng.uniform(-0.1, 0.1))
        away = (number - 5) * step * (1 + uneven)
        placed.append((row_sheet(SheetPaper.A4, number), camera.before(((number - 5) * ASIDE_MM, 0.0, away))))
    found = read_row(picture_of_sheets(placed), ShotSettings(focal_mm=focal, width_mm=36, stop=stop))
    if found.plane_mm is None or found.plane_high_mm is None:
        return None
    return abs(found.plane_mm - camera.plane_mm), found.plane_high_mm - found.plane_mm, max(1.0, depth / 10)


def one_wall(seed: int) -> tuple[list[float], list[float]] | None:
    """How far off tilt, tip (degrees) and curvature (mm) are, and half intervals of each; None where not told."""
    rng = np.random.default_rng(seed)
    focal, stop = float(rng.choice([35, 50, 85])), float(rng.choice([1.4, 2, 2.8, 4]))
    distance = focal * (3 * 215 / 36) * float(rng.uniform(1.0, 1.15))
    width = int(rng.choice([3600, 4800, 6000]))
    size = (width, width * 2 // 3)
    true = [float(rng.uniform(-0.25, 0.25)), float(rng.uniform(-0.15, 0.15)), float(rng.uniform(-0.06, 0.06))]
    base = SimulatedCamera(
        focal_mm=focal, stop=stop, distance_mm=distance, slope_deg=float(rng.uniform(-3, 3)), size_px=size,
        turned_deg=float(rng.uniform(-3, 3)), noise=float(rng.uniform(1, 6)),
        corner_blur_px=float(rng.uniform(0.5, 2.0)),
    )  # fmt: skip
    rate = focal / stop * base.image_mm / base.pitch_mm
    settings, shots = ShotSettings(focal_mm=focal, width_mm=36, stop=stop), []
    for farther in (False, True):
        blur = float(rng.uniform(5, 9)) * width / 6000
        focus = 1 / (1 / distance + (-1 if farther else 1) * blur / rate)
        camera = replace(base, plane_mm=focus - distance, seed=2 * seed + farther)
        leans = [
            math.degrees(math.atan(math.tan(math.radians(one)) * camera.axis_focus_mm / focal)) for one in true[:2]
        ]
        curved = -true[2] / camera.image_mm**2 * camera.axis_focus_mm**2 / (1 + 4 / 9)
        camera = replace(camera, tilt_deg=leans[0], tip_deg=leans[1], curved_mm=curved)
        placed = [
            (wall_sheet(SheetPaper.A4, k + 1), camera.before(((k % 3 - 1) * 213.0, (k // 3 - 1) * 300.0, 0.0)))
            for k in range(9)
        ]
        shot = look_at_wall(picture_of_sheets(placed), settings, farther=farther)
        if isinstance(shot, str):
            return None
        shots.append(shot)
    found = read_wall(shots, settings)
    told = [found.tilt_deg, found.tip_deg, found.curvature_mm]
    if any(one is None for one in told):
        return None
    offs = [abs(one.value - real) for one, real in zip(told, true, strict=True) if one is not None]
    return offs, [one.high - one.value for one in told if one is not None]


def _percent(values: list[bool]) -> str:
    return f"{100 * statistics.fmean(values):5.1f} % of {len(values)}" if values else "none"


def accuracy(series: int) -> None:
    """Print how right rows and walls are."""
    with multiprocessing.get_context("spawn").Pool() as pool:  # threads of OpenCV do not survive a fork
        rows = [one for one in pool.map(one_row, range(100, 100 + series)) if one is not None]
        print(f"rows told                                  {len(rows)} of {series}")
        print("plane within 1 mm or a tenth of the depth ", _percent([off <= allowed for off, _, allowed in rows]))
        print("its 95 % interval holds                   ", _percent([off <= wide for off, wide, _ in rows]))
        walls = [one for one in pool.map(one_wall, range(300, 300 + series)) if one is not None]
        print(f"walls told                                 {len(walls)} of {series}")
        for k, (name, unit) in enumerate((("tilt", "°"), ("tip", "°"), ("curvature", " mm"))):
            offs = [one[0][k] for one in walls]
            print(f"{name + ', median off':<42} {statistics.median(offs):.3f}{unit}")
            print("its 95 % interval holds                   ", _percent([one[0][k] <= one[1][k] for one in walls]))


def landing() -> None:
    """Print how long it takes from a 24-megapixel picture that lands in a watched folder to its figure."""
    camera = SimulatedCamera(focal_mm=50, stop=2, distance_mm=900, size_px=(6000, 4000), plane_mm=3, noise=3)
    data = cv2.imencode(".jpg", picture_of(slope_sheet(SheetPaper.A4), camera), [cv2.IMWRITE_JPEG_QUALITY, 90])[1]
    said = json.dumps({"focal_mm": 50, "width_mm": 36, "stop": 2, "blur_mm": 0.03})
    workers, done = PictureWorkers(), []
    with tempfile.TemporaryDirectory() as folder:

        def take(path: Path) -> None:
            workers.ask("plane", path, said=said)
            done.append(time.perf_counter())

        watch = FolderWatch(Path(folder), take, begin=workers.make_ready)
        time.sleep(3)  # a photographer walks back to the camera
        took = []
        for number in range(_LANDED):
            (Path(folder) / f"{number}.jpg").write_bytes(data.tobytes())
            landed = time.perf_counter()
            while len(done) <= number:
                time.sleep(0.01)
            took.append(done[-1] - landed)
        watch.stop()
    workers.close()
    print(f"24 megapixels from landing to figure: first {took[0]:.2f} s, median {statistics.median(took):.2f} s")


if __name__ == "__main__":
    landing()
    accuracy(int(sys.argv[1]) if len(sys.argv) > 1 else 60)
