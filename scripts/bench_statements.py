"""What is stated with an interval, held against simulations: rings read by made-up photographers, and made-up hands.

Rings: plain, plain with the principal planes apart by up to 0.3 of the focal length either way, bowed by 5, 10 and 20°,
and bowed throughout, the travel growing as the angle to the power of 1.25; a 50 mm lens of 10.8 mm lead from 0.45 m,
ring error 0.5°, the tape's error as told. *At best* is the share of gross readings that one who knows
the ring beforehand could name, accusing an innocent one in 2 % of surveys: more than that nobody can ask.
Hands: scatter and bias in units of what an aid shows.
"""

from __future__ import annotations

import math
import os
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass

import numpy as np
from scipy.stats import norm

from welotrope.core.aids.advice import judge
from welotrope.core.errors import ConflictError
from welotrope.core.hand.skill_estimate import estimate_skill
from welotrope.core.hand.skill_trial import SkillTrial
from welotrope.core.kit.aids.magnified import MagnifiedView
from welotrope.core.kit.aids.matte import MatteScreen
from welotrope.core.kit.aids.microprism import Microprism
from welotrope.core.kit.aids.rangefinder import RangefinderPatch
from welotrope.core.kit.aids.split_image import SplitImage
from welotrope.core.kit.aids.viewing_optics import Sensor, Target, ViewingOptics
from welotrope.core.optics.thin_lens import extension_at_film_distance
from welotrope.core.ring.calibration import Model, calibrate
from welotrope.core.ring.survey import Point, Survey, SurveyKind
from welotrope.core.stats import chance_within

MOST_INNOCENT = 0.02  # surveys in which an innocent reading may be named
RINGS = int(os.environ.get("RINGS", "60"))
F, LEAD, NEAR, INFINITY = 50.0, 10.8, 450.0, 1.3
KINDS = ("plain", "planes", "bow 5", "bow 10", "bow 20", "power")
POWER, POWER_THROW = 1.25, 200.0


@dataclass(frozen=True)
class Drawn:
    """A made-up survey; ``which`` reading is gross (−1 for none), and whether one who knows the ring could name it."""

    survey: Survey
    which: int
    could_be_named: bool
    h_mm: float


def planes_apart(kind: str, rng: np.random.Generator) -> float:
    """Return how far the principal planes of a made-up lens are apart, mm."""
    return float(rng.uniform(-0.3, 0.3)) * F if kind == "planes" else 0.0


def surveys(kind: str, count: int, tape: float, gross: bool, rng: np.random.Generator) -> Drawn:
    """Return a survey of a made-up ring; drawn again when it is refused."""
    while True:
        with suppress(ConflictError):
            return drawn(kind, count, tape, gross, rng)


def drawn(kind: str, count: int, tape: float, gross: bool, rng: np.random.Generator) -> Drawn:
    """Draw one survey; raises ConflictError when two distances fall on one setting."""
    h = planes_apart(kind, rng)
    bow = float(kind[4:]) * rng.choice([-1, 1]) if kind.startswith("bow") else 0.0
    distances = np.array([math.inf, *(1 / np.linspace(1 / 5000, 1 / NEAR, count - 1))])
    x_max = float(extension_at_film_distance(NEAR, F, h=h))

    def ring(at: np.ndarray) -> np.ndarray:
        x = np.array([0.0 if math.isinf(mm) else float(extension_at_film_distance(mm, F, h=h)) for mm in at])
        if kind == "power":
            return INFINITY + POWER_THROW * (x / x_max) ** (1 / POWER)
        return INFINITY + x * 360 / LEAD + bow * np.sin(np.pi * x / x_max)

    taped = np.where(np.isfinite(distances), distances * (1 + rng.normal(0, tape, count)), distances)
    read = ring(distances) + rng.normal(0, 0.5, count)
    which = -1
    if gross:
        which = int(rng.integers(0, count))
        read[which] += rng.choice([-1, 1]) * rng.uniform(6, 15)
    points = tuple(Point(float(angle), float(mm)) for angle, mm in zip(read, taped, strict=True))
    spread = np.hypot(0.5, np.abs(ring(taped * (1 + tape)) - ring(taped)))
    off = np.abs(read - ring(taped)) / spread
    least = float(norm.ppf(1 - MOST_INNOCENT / (2 * count)))
    survey = Survey(points=points, kind=SurveyKind.MEASURED, error=0.5, distance_error=tape)
    return Drawn(survey, which, bool(gross and off[which] > least), h)


def calibration_table() -> None:
    print(f"\nRings, {RINGS} each; shares of 100 that the interval holds, that are called, and that are named")
    print(f"{'ring':<8}{'read':>5}{'tape':>6}{'gross':>7}{'lead in':>9}{'∞ in':>7}{'h in':>6}{'helicoid':>10}"
          f"{'undecided':>11}{'curved':>8}{'innocent':>10}{'gross':>7}{'at best':>9}")  # fmt: skip
    rng = np.random.default_rng(20260314)
    for kind in KINDS:
        for count in (4, 6, 9, 14):
            for tape in (0.0, 0.01, 0.02):
                for gross in (False, True) if count >= 6 else (False,):
                    calibration_row(kind, count, tape, gross, rng)


def calibration_row(kind: str, count: int, tape: float, gross: bool, rng: np.random.Generator) -> None:
    held = {"lead": 0, "infinity": 0, "h": 0}
    h_stated = 0
    models: list[Model] = []
    innocent = caught = at_best = 0
    for _ in range(RINGS):
        made = surveys(kind, count, tape, gross, rng)
        survey, which = made.survey, made.which
        found = calibrate(survey, F, min(point.distance_mm for point in survey.points))
        held["lead"] += found.lead_low_mm <= LEAD <= found.lead_high_mm
        held["infinity"] += abs(found.infinity_deg - INFINITY) <= found.infinity_half_deg
        if found.h_mm is not None:
            h_stated += 1
            held["h"] += abs(found.h_mm - made.h_mm) <= found.h_half_mm
        models.append(found.model)
        named = {residual.index for residual in found.outliers}
        innocent += bool(named - {which})
        caught += which in named
        at_best += made.could_be_named
    share: Callable[[float], str] = lambda number: f"{100 * number / RINGS:.0f}"  # noqa: E731
    helical = kind in ("plain", "planes")
    lead = share(held["lead"]) if helical else "–"
    h_share = f"{100 * held['h'] / h_stated:.0f}" if helical and h_stated else "–"
    named_share, best_share = (share(caught), share(at_best)) if gross else ("–", "–")
    print(f"{kind:<8}{count:>5}{tape * 100:>5.0f}%{'one' if gross else 'none':>7}{lead:>9}{share(held['infinity']):>7}"
          f"{h_share:>6}{share(models.count(Model.HELICOID)):>10}{share(models.count(Model.UNDECIDED)):>11}"
          f"{share(models.count(Model.CURVED)):>8}{share(innocent):>10}{named_share:>7}{best_share:>9}",
          flush=True)  # fmt: skip


HANDS = {"as met": None, "fine, 0.5": (0.5, 0.0), "coarse, 2": (2.0, 0.0), "biased, 0.6": (1.0, 0.6)}
AIDS = {
    "matte": MatteScreen(0.9), "split image": SplitImage(0.9), "microprism": Microprism(0.9),
    "rangefinder": RangefinderPatch(47, 0.72), "magnified 6×": MagnifiedView(1280, (6,)),
}  # fmt: skip


def sight(stop: float) -> ViewingOptics:
    """Return a 50 mm lens on 2 m at a stop."""
    x = float(extension_at_film_distance(2000.0, F))
    # Film and subject both stay while the ring turns.
    window = 2 * stop * 0.029 / (1 - x / F) * 360 / LEAD
    return ViewingOptics(
        focal_mm=F,
        focus_x=x,
        stop=stop,
        view_stop=min(stop, 4.0),
        widest=1.4,
        blur_mm=0.029,
        degrees_per_mm=360 / LEAD,
        window_deg=window,
    )


def photographers_table() -> None:
    print("\nHands with 12 rounds, 200 of each: shares of 100 whose true chance of a hit lies in the stated interval")
    print(f"{'aid':<14}{'stop':>6}" + "".join(f"{name:>14}" for name in HANDS))
    rng = np.random.default_rng(7)
    for name, aid in AIDS.items():
        for stop in (1.4, 2.8, 8.0):
            at = sight(stop)
            shares = [covered(aid, at, hand, rng) for hand in HANDS.values()]
            print(f"{name:<14}{stop:>6g}" + "".join(f"{100 * share:>14.0f}" for share in shares), flush=True)


def covered(aid: object, at: ViewingOptics, fixed: tuple[float, float] | None, rng: np.random.Generator) -> float:
    kept = 0
    for _ in range(200):
        sigma, bias = fixed or (math.exp(rng.normal(0, math.log(1.5))), float(rng.normal(0, 0.3)))
        hand = estimate_skill([SkillTrial(z=float(z)) for z in rng.normal(bias, sigma, 12)])
        plain = judge([aid], at, target=Target(), sensor=Sensor(0.006, 6000))[0]  # type: ignore[list-item]
        own = judge([aid], at, target=Target(), sensor=Sensor(0.006, 6000), hands={plain.kind: hand})[0]  # type: ignore[list-item, dict-item]
        truth = chance_within(at.half_window_mm, sigma * plain.defocus_mm, bias=bias * plain.defocus_mm)
        kept += own.hit_low - 0.005 <= truth <= own.hit_high + 0.005
    return kept / 200


if __name__ == "__main__":
    calibration_table()
    photographers_table()
