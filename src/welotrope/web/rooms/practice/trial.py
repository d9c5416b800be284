"""The result of a round, with the picture it took."""

from __future__ import annotations

from dataclasses import dataclass

from fastapi import APIRouter
from starlette.exceptions import HTTPException
from starlette.responses import Response

from welotrope.core.kit.aids.registry import view_name
from welotrope.core.practice.advice import advice
from welotrope.core.practice.exercises import exercise_title, known_exercise
from welotrope.core.practice.trial import Trial
from welotrope.core.units.distance import Unit
from welotrope.store.queries import practice
from welotrope.store.queries.practice import StoredTrial
from welotrope.web.components.plot import PathPlot, path_plot
from welotrope.web.request.context import CurrentContext
from welotrope.web.rooms.practice.round import jpeg


@dataclass(frozen=True, kw_only=True)
class TrialPage:
    """The result of a round."""

    stored: StoredTrial
    trial: Trial
    aid_name: str
    exercise: str
    advice: str
    plot: PathPlot | None
    again: str
    again_aid: str
    unit: Unit

    @property
    def best_frame(self) -> int:
        """Which frame of a burst is the sharpest, from 0; -1 without a burst."""
        burst = self.trial.burst_mm
        return burst.index(min(burst)) if burst else -1


def trial_page(stored: StoredTrial, unit: Unit) -> TrialPage:
    """Compute the page of a result."""
    trial = stored.trial
    infinity_first = not trial.path or trial.path[0][1] < trial.target_deg
    # Finishing on the magnified picture is kept as the magnifier's, but begins with peaking.
    done = known_exercise(trial.exercise)
    aid = done.aids[0] if done and done.finishes_on else trial.aid
    again = f"exercise={trial.exercise}&aid={aid}&stop={trial.stop:g}"
    return TrialPage(
        stored=stored, trial=trial, aid_name=view_name(trial.aid),
        exercise=exercise_title(trial.exercise), advice=advice(trial, infinity_first=infinity_first),
        plot=path_plot(trial), again=again, again_aid=aid, unit=unit,
    )  # fmt: skip


router = APIRouter()


@router.get("/practice/trials/{id}")
def result(context: CurrentContext, id: int) -> Response:
    """Show the result of a round."""
    return context.page(
        "practice/trial/page.html",
        trial_page(practice.get_trial(context.uow, id), context.preferences.unit),
    )


@router.get("/practice/photos/{key}.jpg")
def photo(context: CurrentContext, key: str, *, whole: bool = False) -> Response:
    """Return the picture a round took, by the round's key: at full size round the subject, or whole."""
    from welotrope.core.finder.finder import photograph
    from welotrope.interchange.scene_files import rendering_called

    found = practice.trial_of_round(context.uow, key[:80])
    if found is None:
        raise HTTPException(404)
    taken = photograph(found.trial, rendering_called, whole=whole)
    return Response(jpeg(taken), media_type="image/jpeg", headers={"cache-control": "max-age=3600"})


@router.post("/practice/trials/{id}/delete")
def delete(context: CurrentContext, id: int) -> Response:
    """Delete a trial, undoably."""
    with context.undoable_transaction("Deleted a round"):
        practice.delete_trial(context.uow, id)
    return context.back_to("/practice")
