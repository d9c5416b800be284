"""What the result of a round shows."""

from __future__ import annotations

from dataclasses import dataclass

from welotrope.core.kit.aids.registry import view_name
from welotrope.core.practice.advice import advice
from welotrope.core.practice.exercises import known_exercise
from welotrope.core.practice.trial import Trial
from welotrope.core.units.distance import Unit
from welotrope.store.queries.practice import StoredTrial
from welotrope.web.components.plot.path import PathPlot, path_plot


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


def trial_page(stored: StoredTrial, unit: Unit) -> TrialPage:
    """Compute the page of a result."""
    trial = stored.trial
    infinity_first = not trial.path or trial.path[0][1] < trial.target_deg
    # Finishing on the magnified picture is kept as the magnifier's, but begins with peaking.
    done = known_exercise(trial.exercise)
    aid = done.aids[0] if done and done.finishes_on else trial.aid
    again = f"exercise={trial.exercise}&aid={aid}&stop={trial.stop:g}"
    return TrialPage(
        stored=stored, trial=trial, aid_name=view_name(trial.aid), advice=advice(trial, infinity_first=infinity_first),
        plot=path_plot(trial), again=again, again_aid=aid, unit=unit,
    )  # fmt: skip
