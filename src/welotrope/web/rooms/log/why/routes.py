"""/log/why: why it missed, and the test that would tell."""

from __future__ import annotations

from dataclasses import replace

from fastapi import APIRouter
from starlette.responses import Response

from welotrope.core.errors import ConflictError
from welotrope.core.review.frame import TEST_TAG, frame_at
from welotrope.core.review.misses import FramesToTake
from welotrope.store.queries import hands, kit_changes, log
from welotrope.web.rooms.log.why.context import WhyPage, counts_since, why_page
from welotrope.web.shell.desk import AtDesk, Desk

router = APIRouter()


@router.get("/log/why")
def why(desk: AtDesk) -> Response:
    """Show where focus lands with the set-up in hand, and why."""
    what = ("why", desk.held_as, desk.now().date(), desk.preferences.unit)
    return desk.page("log/why/page.html", desk.kept(what, lambda: _page(desk)))


@router.post("/log/why/test")
def take_along(desk: AtDesk) -> Response:
    """Begin an outing that holds the frames of the test, to be marked as they are looked at; undoable as one."""
    page = _page(desk)
    if not page.test:
        raise ConflictError("test", "nothing to test", "the frames there are decide it", "See Why it missed")
    with desk.change("Began a test"):
        outing = log.add_outing(desk.book, f"Test: {page.stored.setup.lens.name}"[:80], desk.now().date())
        _add_frames(desk, outing, page.test)
    return desk.back_to(f"/log?outing={outing}")


def _page(desk: Desk) -> WhyPage:
    stored = desk.in_hand()
    change = next(iter(kit_changes.changes_of(desk.book, stored.id)), None)
    since = counts_since(hands.measured_on(desk.book).get(stored.id), change)
    return why_page(
        stored, hands.field_frames(desk.book, stored.id), since, change, desk.personal().eye,
        hands.other_outcomes(desk.book, stored.id, since), desk.preferences.unit,
    )  # fmt: skip


def _add_frames(desk: Desk, outing: int, taken: tuple[FramesToTake, ...]) -> None:
    stored = desk.in_hand()
    for one in taken:
        ring = stored.setup.ring(one.stop)
        angle = ring.clamp(float(ring.angle_at_distance(one.distance_mm)))
        for _ in range(one.frames):
            frame = frame_at(stored.id, stored.setup, angle, one.stop, desk.now())
            log.add_frame(
                desk.book, outing,
                replace(frame, aid=one.aid, subject="test target", believed_mm=one.distance_mm, tags=(TEST_TAG,)),
            )  # fmt: skip
