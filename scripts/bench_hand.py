"""What is said of a hand and of why focus misses, held against simulated photographers of whom the truth is known.

Hands: log-normal spreads by a factor of 1.5 about the average eye (as met) and of 2 (wide), and hands just half, twice
and three times as coarse, all with a bias of 0 ± 0.3; hands with heavy tails (Student's t, 3 degrees of freedom), and
hands that improve from 2 to 0.7 over their trials, held against how they end. Histories of 30 frames with a 50 mm lens
from 0.7 to 6 m at f/1.4 to f/5.6: focus errors planted by cause.
"""

from __future__ import annotations

import math
import os
import statistics
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Iterator
from pathlib import Path

sys.path.insert(0, str(Path(__file__).parents[1]))

import numpy as np
from fastapi.testclient import TestClient
from scipy.stats import t as student_t
from tests.conftest import NOW, RANGEFINDER

from welotrope.core.hand.skill_estimate import estimate_skill
from welotrope.core.hand.skill_trial import MissSide, SkillTrial
from welotrope.core.review.misses import why_missed
from welotrope.core.stats import chance_within
from welotrope.demo.build import build_demo
from welotrope.interchange.hand_request import DiagnosisAnswer, HandRequest, diagnosis_answer
from welotrope.store.queries import kit, observations
from welotrope.store.session import Database
from welotrope.web.app.application import create_app

HISTORIES = int(os.environ.get("HISTORIES", "400"))
PRINTED = 0.005  # half of the percent to which chances are printed
Row = Callable[[str, float, str, float], None]
F, LEAD, BLUR, FRAMES, STOPS = 50.0, 10.8, 0.03, 30, (1.4, 2, 2.8, 4, 5.6)
# What a hand scatters by, in windows: constant, and as the aid shows it for a few aids.
AIDS = {"magnified": 0.012, "split_image": 0.017, "matte": 0.02, "rangefinder": 0.02, "scale": 0.06}
CAUSES = ("rangefinder", "extension", "focus shift", "guessing")
TWO = "extension and focus shift"


def made_up(kind: str, trials: int, rng: np.random.Generator) -> tuple[np.ndarray, Callable[[float], float]]:
    """Return the trials of a made-up hand, and its true chance of a hit by the half window; both in what it sees."""
    if kind == "tails":
        return rng.standard_t(3, trials), lambda half: float(2 * student_t.cdf(half, 3) - 1)
    if kind == "learner":
        return rng.normal(0, np.geomspace(2, 0.7, trials)), lambda half: chance_within(half, 0.7, bias=0.0)
    fixed = {"half": 0.5, "twice": 2.0, "thrice": 3.0}
    spread = fixed.get(kind) or math.exp(rng.normal(0, math.log({"met": 1.5, "wide": 2.0}[kind])))
    bias = float(rng.normal(0, 0.3))
    return rng.normal(bias, spread, trials), lambda half: chance_within(half, spread, bias=bias)


def covered(kind: str, trials: int, rng: np.random.Generator) -> bool:
    """Whether the truth lies in the interval as it is printed, of the chance of a hit of one made-up hand."""
    shown, truth = made_up(kind, trials, rng)
    hand = estimate_skill([SkillTrial(z=float(z)) for z in shown])
    half = float(rng.choice([0.3, 0.7, 1.2, 2.5]))
    stated = hand.chance(half, 1.0)
    return stated.low - PRINTED <= truth(half) <= stated.high + PRINTED


def coverage_table() -> None:
    kinds = ("met", "wide", "half", "twice", "thrice", "tails", "learner")
    print(f"\nChance of a hit, {HISTORIES} hands of each kind: percent whose truth lies in the stated interval")
    print(f"{'trials':<10}" + "".join(f"{kind:>8}" for kind in kinds))
    rng = np.random.default_rng(60)
    for trials in (4, 8, 12, 20, 40, 60):
        # Nobody improves threefold within a dozen trials.
        shares = [_share(kind, trials, rng) if kind != "learner" or trials >= 40 else "–" for kind in kinds]
        print(f"{trials:<10}" + "".join(f"{share:>8}" for share in shares), flush=True)


def _share(kind: str, trials: int, rng: np.random.Generator) -> str:
    return f"{100 * sum(covered(kind, trials, rng) for _ in range(HISTORIES)) / HISTORIES:.1f}"


def improving() -> tuple[float, float]:
    """Median over- or underestimate, percent, of a spread that fell by half over 100 trials; and its median miss."""
    rng = np.random.default_rng(100)
    off = []
    for _ in range(HISTORIES):
        end = math.exp(rng.normal(0, 0.4))
        spreads = end * np.exp(np.linspace(math.log(2), 0, 100))
        off.append(math.log(estimate_skill([SkillTrial(z=float(z)) for z in rng.normal(0, spreads)]).sigma_z / end))
    return 100 * math.expm1(statistics.median(off)), 100 * math.expm1(statistics.median(abs(one) for one in off))


def planted(cause: str, size: float, stop: float, distance: float, aid: str) -> float:
    """Error of a cause, mm of extension behind; ``size`` in half windows at f/2.4, the middle of those stops."""
    near = (distance / (distance - F)) ** 2
    unit = size * 2.4 * BLUR
    shapes = {
        "rangefinder": near if aid == "rangefinder" else 0.0, "extension": 1.0,
        "focus shift": 1.6 * (1 - (STOPS[0] / stop) ** 2),
        "guessing": near * 1800 / distance if aid == "scale" else 0.0,
        "window": stop / 2.4, "none": 0.0,
    }  # fmt: skip
    return unit * sum(shapes[one] for one in cause.split(" and "))


def history(cause: str, size: float, rng: np.random.Generator) -> DiagnosisAnswer:
    """Return what is said of 30 frames with an error planted, half of the histories told by side only."""
    aids = {"rangefinder": ("rangefinder",), "guessing": ("scale",), "extension": ("scale", "split_image", "matte")}
    chosen = str(rng.choice(aids.get(cause, ("magnified", "split_image", "matte"))))
    by_side, scatter = bool(rng.integers(0, 2)), float(rng.uniform(0.6, 1.4)) * (2.5 if cause == "none" else 1)
    trials = []
    for _ in range(FRAMES):
        stop, distance = float(rng.choice(STOPS)), float(np.exp(rng.uniform(math.log(700), math.log(6000))))
        error = planted(cause, size, stop, distance, chosen) + rng.normal(0, scatter * AIDS[chosen])
        half = stop * BLUR
        side = MissSide.FRONT if error < -half else MissSide.BEHIND if error > half else MissSide.HIT
        told = {"side": side} if by_side else {"error_deg": error * 360 / LEAD}
        trials.append({"aid": chosen, "stop": stop, "distance_mm": distance + F, **told})
    lens = {"focal_mm": F, "lead_mm": LEAD}
    return diagnosis_answer(
        HandRequest.model_validate({"lens": lens, "blur_mm": BLUR, "trials": trials, "from": "principal"})
    )


def answers(cause: str, size: float, seed: int) -> Iterator[DiagnosisAnswer]:
    rng = np.random.default_rng(seed)
    for _ in range(HISTORIES):
        yield history(cause, size, rng)


def hand_bench(row: Row, floor: Row, home: str = "http://127.0.0.1:8420") -> None:
    """Print the tables, and what has a limit as rows."""
    _speed(row, home)
    coverage_table()
    lag, miss = improving()
    row("a hand that improves by half: over its spread, median", abs(lag), "%", 15)
    row("the same, off either way, median", miss, "%", 15)
    found = Counter(answer.verdict for answer in answers("none", 0.0, 1))
    row(f"scatter called one-sided ({HISTORIES} histories)", 100 * found["one-sided"] / HISTORIES, "%", 5)
    found = Counter(answer.verdict for answer in answers("window", 2.0, 2))
    floor("bias of a window found in 30 frames", 100 * found["one-sided"] / HISTORIES, "%", 90)
    stated = right = 0
    for seed, cause in enumerate(CAUSES, start=3):
        called = Counter(answer.cause for answer in answers(cause, 2.0, seed))
        said = sum(called[one] for one in CAUSES)
        stated, right = stated + said, right + called[cause]
        print(f"  {cause}: {dict(called.most_common())}")
    floor("cause right where one is stated", 100 * right / max(stated, 1), "%", 90)
    row("the same, cause left undecided or none", 100 * (1 - stated / (HISTORIES * len(CAUSES))), "%", 100)
    said = Counter(" and ".join(sorted(answer.causes)) or "none" for answer in answers(TWO, 2.0, 9))
    print(f"  {TWO} together: {dict(said.most_common())}")
    wrong = sum(count for names, count in said.items() if not set(names.split(" and ")) & {*TWO.split(" and "), "none"})
    row("two causes at once: neither of them named", 100 * wrong / HISTORIES, "%", 10)


def _speed(row: Row, home: str) -> None:
    """Time the pages with what the demo holds, and the diagnosis over 10 000 frames of its rangefinder."""
    row("model of a hand after a trial, 500 known", 1000 * _update_s(), "ms", 40)
    with tempfile.TemporaryDirectory() as held:
        build_demo(Path(held), pictures=False)
        with TestClient(create_app(Path(held), now=lambda: NOW), base_url=home, headers={"origin": home}) as client:
            client.post("/in-hand", data={"setup": str(RANGEFINDER)})
            for path in ("/practice/tape", "/practice/guess", "/practice/hand", "/log/why"):
                client.get(path)
                times = [_ms(lambda path=path: client.get(path)) for _ in range(9)]
                row(f"page {path}", statistics.median(times), "ms", 40)
        database = Database(Path(held))
        with database.session() as uow:
            setup, frames = kit.get_setup(uow, RANGEFINDER).setup, observations.field_frames(uow, RANGEFINDER)
        database.close()
        many = [
            frames[place % len(frames)]._replace(id=place, distance_mm=1000.0 + 5000 * (place * 37 % 100) / 100)
            for place in range(10_000)
        ]
        times = [_ms(lambda: why_missed(setup, many)) for _ in range(5)]
        row("diagnosis over 10 000 frames", statistics.median(times), "ms", 1000)


def _ms(work: Callable[[], object]) -> float:
    start = time.perf_counter()
    work()
    return 1000 * (time.perf_counter() - start)


def _update_s() -> float:
    rng = np.random.default_rng(9)
    known = [
        SkillTrial(z=float(z), setup=str(place % 4), days_ago=place / 5)
        for place, z in enumerate(rng.normal(0, 1, 500))
    ]
    times = []
    for _ in range(9):
        known.append(SkillTrial(z=float(rng.normal()), setup="1"))
        start = time.perf_counter()
        estimate_skill(known)
        times.append(time.perf_counter() - start)
    return statistics.median(times)


def _print_row(what: str, value: float, unit: str, limit: float) -> None:
    print(f"{what:<64}{value:>8.1f} {unit:<3} (limit {limit:g})", flush=True)


if __name__ == "__main__":
    hand_bench(_print_row, _print_row)
