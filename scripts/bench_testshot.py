"""How right test shots are measured, over pictures of the simulated camera, and how fast; printed as a table.

python scripts/bench_testshot.py [pictures]
"""

from __future__ import annotations

import math
import multiprocessing
import resource
import statistics
import sys
import tempfile
import time
from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np

from welotrope.core.testshot.camera import SimulatedCamera, developed, picture_of, seen_by_sensor
from welotrope.core.testshot.ring_series import look, read_ring
from welotrope.core.testshot.sheets import SheetPaper, slope_sheet, wall_sheet
from welotrope.core.testshot.slope import ShotSettings
from welotrope.core.testshot.slope_reading import PlaneReading, read_slope
from welotrope.core.testshot.stop_series import StopSeries

SLOPE, WALL = slope_sheet(SheetPaper.A4), wall_sheet(SheetPaper.A4, 1)
STOPS = (1.4, 2.0, 2.8, 4.0, 5.6, 8.0, 11.0, 16.0)
FAULTS = {
    "half outside": {"off_centre": (0.47, 0.0)}, "motion of 8 px": {"shake_px": 8.0}, "plane off the sheet": None,
    "printed at 94 %": {"print_scale": 0.94},
}  # fmt: skip


@dataclass(frozen=True)
class Checked:
    """One measured picture: how far off, how wide, against what is allowed; mm and degrees."""

    off: float
    wide: float
    allowed: float
    tilt_told: bool
    tilt_off: float
    tilt_wide: float
    tilt_allowed: float
    seconds: float
    warned: bool


def posed(rng: np.random.Generator, *, megapixels: tuple[float, float] = (12, 45)) -> SimulatedCamera:
    """Return a camera somewhere before the sheet, with its plane of focus somewhere on what can be seen of it."""
    width = int(math.sqrt(rng.uniform(*megapixels) * 1.5e6))
    focal = float(np.exp(rng.uniform(math.log(28), math.log(135))))
    stop = float(np.exp(rng.uniform(math.log(1.2), math.log(8))))
    distance = float(np.exp(rng.uniform(math.log(500), math.log(3000))))
    slope = float(rng.uniform(35, 60))
    seen = min(100.0, 12 * distance / focal * 0.7) * math.sin(math.radians(slope))
    plane = float(np.clip(rng.normal(0, _depth(stop, distance, focal) / 3), -seen / 2, seen / 2))
    return SimulatedCamera(
        focal_mm=focal, stop=stop, distance_mm=distance, size_px=(width, int(width / 1.5)), slope_deg=slope,
        roll_deg=float(rng.uniform(-10, 10)), off_centre=tuple(rng.uniform(-1 / 6, 1 / 6, 2).tolist()), plane_mm=plane,
        tilt_deg=float(rng.choice([0.0, rng.uniform(-3, 3)])), noise=float(rng.uniform(1, 8)),
        seed=int(rng.integers(1 << 30)),
    )  # fmt: skip


def _depth(stop: float, distance: float, focal: float) -> float:
    return 2 * stop * 0.03 * (distance / focal) ** 2


def _read(camera: SimulatedCamera, quality: int) -> tuple[PlaneReading, float]:
    _, data = cv2.imencode(".jpg", picture_of(SLOPE, camera), [cv2.IMWRITE_JPEG_QUALITY, quality])
    picture = cv2.imdecode(data, cv2.IMREAD_GRAYSCALE)
    start = time.perf_counter()
    found = read_slope(picture, ShotSettings(focal_mm=camera.focal_mm, width_mm=camera.width_mm, stop=camera.stop))
    return found, time.perf_counter() - start


def one_picture(seed: int) -> Checked | None:
    cv2.setNumThreads(1)
    rng = np.random.default_rng(seed)
    camera = posed(rng)
    found, seconds = _read(camera, int(rng.integers(75, 96)))
    if found.plane_mm is None:
        return None
    return Checked(
        abs(found.plane_mm - camera.plane_mm), (found.plane_high_mm - found.plane_low_mm) / 2,
        max(1.0, _depth(camera.stop, camera.distance_mm, camera.focal_mm) / 10),
        found.tilt_deg is not None, abs((found.tilt_high_deg + found.tilt_low_deg) / 2 - camera.tilt_deg),
        (found.tilt_high_deg - found.tilt_low_deg) / 2,
        max(0.3, 0.15 * abs(camera.tilt_deg)), seconds, bool(found.warnings),
    )  # fmt: skip


def one_fault(asked: tuple[str, int]) -> bool:
    """Whether a picture with a fault came out right, or with a warning."""
    name, seed = asked
    rng = np.random.default_rng(seed)
    camera = posed(rng, megapixels=(12, 14))
    camera = replace(camera, stop=min(camera.stop, 4.0))
    if FAULTS[name] is None:
        camera = replace(camera, plane_mm=float(rng.choice([-1, 1])) * 130 * math.sin(math.radians(camera.slope_deg)))
    else:
        camera = replace(camera, **FAULTS[name])
    found, _ = _read(camera, 90)
    allowed = max(1.0, _depth(camera.stop, camera.distance_mm, camera.focal_mm) / 10)
    right = found.plane_mm is not None and abs(found.plane_mm - camera.plane_mm) <= allowed
    return right or bool(found.warnings)


def one_ring(seed: int) -> tuple[float, bool] | None:
    """How far off the best place is, in windows, and whether its interval holds; None where it is not told."""
    rng = np.random.default_rng(seed)
    focal, stop = float(rng.choice([35, 50, 85, 135])), float(rng.uniform(1.4, 5.6))
    distance = float(np.exp(rng.uniform(math.log(600), math.log(2500))))
    count, step = int(rng.integers(5, 10)), float(rng.uniform(0.3, 1.0))
    best = float(rng.uniform(1.2, count - 2.2))
    flat = rng.random() < 0.5
    base = SimulatedCamera(
        focal_mm=focal, stop=stop, distance_mm=distance, size_px=(2400, 1600), slope_deg=0.0 if flat else 45.0,
        noise=float(rng.uniform(1, 8)),
    )  # fmt: skip
    shots = []
    for place in range(count):
        extension = focal**2 / (distance - focal) - (place - best) * step * 2 * stop * 0.03
        if extension <= 0.02:
            return None
        camera = replace(base, plane_mm=focal + focal**2 / extension - distance, seed=seed + place)
        shots.append(look(picture_of(WALL if flat else SLOPE, camera)))
    found = read_ring(range(count), shots)
    return None if found.best is None else ((found.best - best) * step, found.low <= best <= found.high)


def one_stops(seed: int) -> list[tuple[bool, bool | None]]:
    """For middle and corners: whether the top is right or a neighbour, and the stop that was called too."""
    rng = np.random.default_rng(seed)
    subject = _scene(rng)
    centre = int(rng.integers(1, 6))
    corner = int(rng.integers(centre, 8))
    noise, series = float(rng.uniform(1, 8)), StopSeries()
    for index, stop in enumerate(STOPS):
        blurs = [math.hypot(0.5, (0.35 if index < best else 0.18) * abs(best - index)) for best in (centre, corner)]
        camera = SimulatedCamera(
            focal_mm=50, stop=stop, size_px=(3000, 2000), own_blur_px=blurs[0], corner_blur_px=blurs[1], noise=noise,
            seed=seed + index, white=200 + float(rng.uniform(-20, 20)),
        )  # fmt: skip
        moved = np.roll(subject, tuple(rng.integers(-3, 4, 2).tolist()), (0, 1))
        _, data = cv2.imencode(".jpg", developed(seen_by_sensor(moved, camera), camera), [cv2.IMWRITE_JPEG_QUALITY, 88])
        series.add(cv2.imdecode(data, cv2.IMREAD_GRAYSCALE), stop)
    found = series.read()
    told = []
    for zone, called, best in (("centre", found.best_centre, centre), ("corner", found.best_corner, corner)):
        scores = next(scores for name, scores in found.zones.items() if name.value == zone)
        if not scores:
            continue
        top = max(range(len(scores)), key=lambda k: scores[k].score)
        told.append((abs(top - best) <= 1, None if called is None else abs(STOPS.index(called) - best) <= 1))
    return told


def _scene(rng: np.random.Generator) -> np.ndarray:
    total = np.zeros((2000, 3000), np.float32)
    for octave in range(8):
        side = 2**octave
        grid = rng.standard_normal((2000 // side + 2, 3000 // side + 2)).astype(np.float32)
        total += cv2.resize(grid, (3000, 2000), interpolation=cv2.INTER_LINEAR) * side**0.3
    return (0.05 + 0.75 * (total - total.min()) / np.ptp(total)).astype(np.float32)


def _percent(values: list[bool]) -> str:
    return f"{100 * statistics.fmean(values):5.1f} % of {len(values)}" if values else "none"


def accuracy(pictures: int) -> None:
    with multiprocessing.get_context("spawn").Pool() as pool:  # threads of OpenCV do not survive a fork
        every = pool.map(one_picture, range(1000, 1000 + pictures), chunksize=2)
        told = [one for one in every if one is not None]
        print(f"pictures measured, and not told            {len(told)}, {len(every) - len(told)}")
        print("plane within 1 mm or a tenth of the depth ", _percent([one.off <= one.allowed for one in told]))
        print("its 95 % interval holds                   ", _percent([one.off <= one.wide for one in told]))
        figures = [one.tilt_off <= one.tilt_allowed for one in told if one.tilt_told]
        print("tilt within 0.3° or 15 %, where it is told", _percent(figures))
        print("its 95 % interval holds                   ", _percent([one.tilt_off <= one.tilt_wide for one in told]))
        print(
            "right without a warning, or warned        ",
            _percent([one.off <= one.allowed or one.warned for one in told]),
        )
        print(f"seconds a picture, median                  {statistics.median(one.seconds for one in told):.2f}")
        few = max(pictures // 15, 4)
        for name in FAULTS:
            fine = pool.map(one_fault, [(name, 5000 + k) for k in range(few)])
            print(f"{name + ': right or warned':<42}", _percent(fine))
        rings = [one for one in pool.map(one_ring, range(7000, 7000 + max(pictures // 5, 6))) if one is not None]
        print("ring within a tenth of the window         ", _percent([abs(off) <= 0.1 for off, _ in rings]))
        print("its 95 % interval holds                   ", _percent([holds for _, holds in rings]))
        stops = [zone for one in pool.map(one_stops, range(9000, 9000 + max(pictures // 10, 6))) for zone in one]
        print("best stop right or its neighbour          ", _percent([right for right, _ in stops]))
        print(
            "  and so where it is called               ", _percent([right for _, right in stops if right is not None])
        )


def speed() -> None:
    camera = SimulatedCamera(focal_mm=50, stop=2, distance_mm=900, size_px=(6000, 4000), plane_mm=3, noise=3)
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "shot.jpg"
        cv2.imwrite(str(path), picture_of(SLOPE, camera), [cv2.IMWRITE_JPEG_QUALITY, 90])
        shot = ShotSettings(focal_mm=50, width_mm=36, stop=2)
        decoded, measured = [], []
        for _ in range(7):
            start = time.perf_counter()
            picture = cv2.imread(str(path), cv2.IMREAD_GRAYSCALE)
            middle = time.perf_counter()
            read_slope(picture, shot)
            decoded.append(middle - start)
            measured.append(time.perf_counter() - middle)
    decode, measure = statistics.median(decoded), statistics.median(measured[1:])
    print(f"24 megapixels: decoded in {decode:.2f} s, measured in {measure:.2f} s, limit {1.5 * decode + 0.3:.2f} s")


def measure_alone() -> None:
    """Measure one picture in a process of its own and print the memory that took."""
    camera = SimulatedCamera(focal_mm=50, stop=2, distance_mm=900, size_px=(600, 400))
    picture = np.tile(picture_of(SLOPE, camera), (10, 10))
    read_slope(picture, ShotSettings(focal_mm=50, width_mm=36, stop=2))
    print(
        f"memory with 24 megapixels                  {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB"
    )


if __name__ == "__main__":
    speed()
    accuracy(int(sys.argv[1]) if len(sys.argv) > 1 else 300)
