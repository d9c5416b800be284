"""/log/why: why it missed, and the test that would tell."""

from __future__ import annotations

from dataclasses import replace

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import ConflictError
from welotrope.core.review.frame import TEST_TAG, frame_at
from welotrope.core.review.misses import FramesToTake
from welotrope.store.queries import log, observations, practice, test_shots
from welotrope.web.request.context import CurrentContext, RequestContext
from welotrope.web.rooms.log.why.context import WhyPage, counts_since, why_page

router = APIRouter()


@router.get("/log/why")
def why(context: CurrentContext) -> Response:
    """Show where focus lands with the set-up in hand, and why."""
    what = ("why", context.selection.key, context.now().date(), context.preferences.unit)
    return context.page("log/why/page.html", context.cached(what, lambda: _page(context)))


@router.post("/log/why/test")
def take_along(context: CurrentContext) -> Response:
    """Begin an outing that holds the frames of the test, to be marked as they are looked at; undoable as one."""
    page = _page(context)
    if not page.test:
        raise ConflictError("test", "nothing to test", "the frames there are decide it", "See Why it missed")
    with context.undoable_transaction("Began a test"):
        outing = log.add_outing(context.uow, f"Test: {page.stored.setup.lens.name}"[:80], context.now().date())
        _add_frames(context, outing, page.test)
    return context.back_to(f"/log?outing={outing}")


def _page(context: RequestContext) -> WhyPage:
    stored = context.selected_setup()
    change = next(iter(practice.changes_of(context.uow, stored.id)), None)
    since = counts_since(observations.measured_on(context.uow).get(stored.id), change)
    return why_page(
        stored, observations.field_frames(context.uow, stored.id), test_shots.shots_of_setup(context.uow, stored.id),
        since, change, context.personal().eye, observations.other_outcomes(context.uow, stored.id, since),
        context.preferences.unit,
    )  # fmt: skip


def _add_frames(context: RequestContext, outing: int, taken: tuple[FramesToTake, ...]) -> None:
    stored = context.selected_setup()
    for one in taken:
        ring = stored.setup.ring(one.stop)
        angle = ring.clamp(float(ring.angle_at_distance(one.distance_mm)))
        for _ in range(one.frames):
            frame = frame_at(stored.id, stored.setup, angle, one.stop, context.now())
            log.add_frame(
                context.uow, outing,
                replace(frame, aid=one.aid, subject="test target", believed_mm=one.distance_mm, tags=(TEST_TAG,)),
            )  # fmt: skip
