"""What the pages of Practice show."""

from __future__ import annotations

import json
import statistics
from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from welotrope.core.kit.aids.registry import view_name, views
from welotrope.core.practice.advice import advice
from welotrope.core.practice.exercises import EXERCISES, Exercise, exercise, known_exercise
from welotrope.core.practice.skill import Skill
from welotrope.core.practice.trial import Trial
from welotrope.core.stats.proportions import Proportion, wilson
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.practice import StoredTrial
from welotrope.web.rooms.practice.forms import RoundForm

if TYPE_CHECKING:
    from welotrope.web.rooms.practice.rounds import OpenRound

_SHOWN = 12
_PLOT_W, _PLOT_H = 620.0, 180.0


@dataclass(frozen=True, kw_only=True)
class AidTally:
    """What the trials with an aid say: how many, how many hit and with what interval, scatter and bias."""

    aid: str
    name: str
    trials: int
    hits: Proportion
    skill: Skill | None
    seconds: float
    through: float


@dataclass(frozen=True, kw_only=True)
class PracticePage:
    """The Practice room: the record of the set-up in hand, and a round to choose."""

    stored: StoredSetup
    form: RoundForm
    problem: str
    exercises: tuple[Exercise, ...]
    aids: tuple[tuple[str, str, bool], ...]
    scenes: tuple[tuple[str, str], ...]
    records: tuple[AidTally, ...]
    latest: list[StoredTrial]
    stops: tuple[float, ...]
    left_out: int
    lost: bool
    unit: Unit


@dataclass(frozen=True, kw_only=True)
class RoundPage:
    """A round being played; nothing in it tells how far the subject is."""

    key: str
    setup_name: str
    exercise: Exercise
    scene_title: str
    target_name: str
    aid: str
    aid_name: str
    stop: float
    view_stop: float
    steps: tuple[float, ...]
    grids: tuple[float, ...]
    first_step: float
    levels: tuple[str, ...]
    colours: tuple[str, ...]
    live: bool
    moving: bool
    throw_deg: float
    start_deg: float
    direction: int
    area: tuple[float, float]
    lean_mm: float
    lean_grid_mm: float

    @property
    def plan_json(self) -> str:
        """What the script works with; safe inside a script element."""
        plan = {
            "base": f"/practice/rounds/{self.key}", "steps": self.steps, "grids": self.grids,
            "first_step": self.first_step, "turned": self.exercise.turned, "levels": self.levels,
            "colours": self.colours, "live": self.live, "moving": self.moving, "throw_deg": self.throw_deg,
            "start_deg": self.start_deg, "direction": self.direction, "area": self.area, "lean": self.lean_mm,
            "lean_grid": self.lean_grid_mm, "peak_first": bool(self.exercise.finishes_on),
        }  # fmt: skip
        return json.dumps(plan).replace("<", "\\u003c")


@dataclass(frozen=True, kw_only=True)
class PathPlot:
    """The turning over time, in pixels: the line, the window's band, ticks of seconds and degrees."""

    points: str
    band_top: float
    band_height: float
    target_y: float
    end: tuple[float, float]
    x_ticks: tuple[tuple[float, str], ...]
    y_ticks: tuple[tuple[float, str], ...]
    width: float = _PLOT_W
    height: float = _PLOT_H


@dataclass(frozen=True, kw_only=True)
class TrialPage:
    """The result of a round."""

    stored: StoredTrial
    trial: Trial
    aid_name: str
    advice: str
    plot: PathPlot | None
    again: str
    again_aid: str
    unit: Unit


def practice_page(
    stored: StoredSetup, form: RoundForm, problem: str, trials: list[StoredTrial], skills: dict[str, Skill],
    finest: Sequence[str], left_out: int, lost: bool, unit: Unit,
) -> PracticePage:  # fmt: skip
    """Compute the Practice room; ``finest`` are the kinds of aid that work here, best first."""
    from welotrope.core.finder.labels import SCENE_NAMES

    own = aids_of(stored)
    chosen = exercise(form.exercise) if form.exercise in {item.id for item in EXERCISES} else EXERCISES[0]
    if not form.aid:
        form = form.model_copy(update={"aid": next((kind for kind in finest if kind in chosen.views), "")})
    return PracticePage(
        stored=stored, form=form, problem=problem, exercises=EXERCISES,
        aids=tuple((aid, view_name(aid), aid in own) for aid in sorted(chosen.views, key=lambda aid: aid not in own)),
        scenes=tuple((scene, SCENE_NAMES[scene]) for scene in chosen.scenes), records=_records(trials, skills),
        latest=trials[:_SHOWN], stops=stored.setup.lens.stops, left_out=left_out, lost=lost, unit=unit,
    )  # fmt: skip


def aids_of(stored: StoredSetup) -> list[str]:
    """Return the ways to look that the body in hand has, by key."""
    tags = set(stored.setup.body.aids_by_tag)
    return [view.key for kind, view in views() if {kind.tag, *view.with_tags} <= tags]


def round_page(opened: OpenRound) -> RoundPage:
    """Compute the page a round is played on."""
    from welotrope.core.finder.round import MAX_LEAN_MM

    made = opened.round
    scene = made.finder.stage.scene
    setup = opened.setup
    return RoundPage(
        key=opened.key, setup_name=setup.name, exercise=made.exercise, scene_title=scene.title,
        target_name=scene.target_name, aid=made.aid, aid_name=view_name(made.aid), stop=made.stop,
        view_stop=made.view_stop, steps=made.steps, grids=tuple(made.grid_deg(step) for step in made.steps),
        first_step=made.first_step, levels=tuple(name for name, _ in made.levels),
        colours=setup.body.traits.peaking_colours or ("white", "red", "yellow"), live=made.live,
        moving=scene.speed_mm_s > 0, throw_deg=made.ring.throw_deg, start_deg=made.start_deg,
        direction=1 if setup.lens.infinity_side.value == "left" else -1,
        area=(round(scene.target_x, 3), round(scene.target_y, 3)),
        lean_mm=MAX_LEAN_MM if made.exercise.leans else 0.0, lean_grid_mm=made.lean_grid_mm(made.first_step),
    )  # fmt: skip


def trial_page(stored: StoredTrial, unit: Unit) -> TrialPage:
    """Compute the page of a result."""
    trial = stored.trial
    infinity_first = not trial.path or trial.path[0][1] < trial.target_deg
    # Finishing on the magnified picture is kept as the magnifier's, but begins with peaking.
    done = known_exercise(trial.exercise)
    aid = done.aids[0] if done and done.finishes_on else trial.aid
    again = f"exercise={trial.exercise}&aid={aid}&stop={trial.stop:g}"
    return TrialPage(
        stored=stored, trial=trial, aid_name=view_name(trial.aid), advice=advice(trial, infinity_first),
        plot=path_plot(trial), again=again, again_aid=aid, unit=unit,
    )  # fmt: skip


def path_plot(trial: Trial) -> PathPlot | None:
    """Lay the turning out over time; None when the ring was locked or never turned."""
    if len(trial.path) < 2 or not trial.counts:
        return None
    half = trial.window_deg / 2
    angles = [angle for _, angle in trial.path]
    low, high = min(*angles, trial.target_deg - half), max(*angles, trial.target_deg + half)
    low, high = low - 0.05 * (high - low), high + 0.05 * (high - low)
    end = max(trial.path[-1][0], 0.1)

    def x(seconds: float) -> float:
        return 46 + (_PLOT_W - 60) * seconds / end

    def y(angle: float) -> float:
        return 10 + (_PLOT_H - 36) * (angle - low) / (high - low)

    step = max(1, round(end / 6))
    return PathPlot(
        points=" ".join(f"{x(seconds):.1f},{y(angle):.1f}" for seconds, angle in trial.path),
        band_top=y(trial.target_deg - half), band_height=y(trial.target_deg + half) - y(trial.target_deg - half),
        target_y=y(trial.target_deg), end=(x(trial.path[-1][0]), y(trial.path[-1][1])),
        x_ticks=tuple((x(second), f"{second} s") for second in range(0, int(end) + 1, step)),
        y_ticks=tuple((y(angle), f"{angle:.0f}°") for angle in (low, (low + high) / 2, high)),
    )  # fmt: skip


def _records(trials: list[StoredTrial], skills: dict[str, Skill]) -> tuple[AidTally, ...]:
    by_aid: dict[str, list[Trial]] = defaultdict(list)
    for stored in trials:
        if stored.trial.counts:
            by_aid[stored.trial.aid].append(stored.trial)
    records = []
    for aid, own in by_aid.items():
        hits = wilson(sum(trial.hit for trial in own), len(own))
        if hits is not None:
            through = sum(trial.passed > 0 for trial in own) / len(own)
            seconds = statistics.median(trial.seconds for trial in own)
            records.append(
                AidTally(
                    aid=aid,
                    name=view_name(aid),
                    trials=len(own),
                    hits=hits,
                    skill=skills.get(aid),
                    seconds=seconds,
                    through=through,
                )
            )
    return tuple(sorted(records, key=lambda record: -record.hits.low))
