"""Looking at pictures one by one, large, and saying what they show."""

from __future__ import annotations

import json
import secrets
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Annotated
from urllib.parse import urlencode

from fastapi import APIRouter, Query
from starlette.requests import Request
from starlette.responses import Response

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.inputs import FormInput
from welotrope.core.json_values import JsonObject
from welotrope.core.picture.picture import Picture, sharp_blur_px
from welotrope.core.picture.sharpness_map import Place
from welotrope.core.picture.verdict import SpotSharpness, SpotVerdict, at_spot, sharpest_of
from welotrope.core.plan.field_settings import Preset
from welotrope.core.review.evidence import RingMiss, ring_miss
from welotrope.core.review.frame import INSTEAD, Frame, Spot, format_spot, marked
from welotrope.core.review.outcomes import Outcome
from welotrope.core.units.distance import Unit, format_distance, format_rough, parse_distance
from welotrope.interchange.pictures.workers import PictureError
from welotrope.store.queries import files, log, pictures, ring_records
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.unit_of_work import UnitOfWork
from welotrope.web.forms import key_of
from welotrope.web.request.context import CurrentContext, RequestContext, TypedForm, reading_context
from welotrope.web.request.jobs import turn
from welotrope.web.request.limits import Key, is_guest
from welotrope.web.rooms.log.frame_words import FrameWords, frame_words, taken_with
from welotrope.web.rooms.log.picture_serving import original_of

BURST_S = 3.0
MOST_BESIDE = 4
_SEEN = {
    SpotSharpness.SHARP: "The spot is sharp by your criterion.",
    SpotSharpness.AS_SHARP_AS_ANY: "The spot is as sharp as anything here.",
    SpotSharpness.ELSEWHERE: "Something else is sharper.",
    SpotSharpness.UNKNOWN: "There is nothing here to judge sharpness by.",
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Instead:
    """A subject that may be what is sharp instead: its name, words, the side it is on, and how far off it is, mm."""

    name: str
    words: str
    outcome: Outcome
    miss_mm: float


@dataclass(frozen=True, kw_only=True)
class ReviewPage:
    """A picture under review with its frame, the map, the pictures beside it, and the way on."""

    picture: Picture
    frame: Frame | None
    words: FrameWords | None
    outcomes: tuple[tuple[str, str], ...]
    map_json: str
    measured: bool
    softened: bool
    shaken: str
    full: bool
    spot: Spot | None
    spot_words: str
    said: str
    seen: SpotVerdict | None
    instead: tuple[Instead, ...]
    miss: RingMiss | None
    number: int
    count: int
    before: Picture | None
    after: Picture | None
    beside: tuple[Picture, ...]
    sharpest_id: int | None
    unit: Unit


@dataclass(frozen=True, kw_only=True)
class ReviewData:
    """What is kept of a picture under review, of its frame, and of the pictures around it.

    Parameters
    ----------
    picture, frame, stored
        The picture, its frame, and the set-up that was taken with; None for none.
    measured
        The sharpness measured of the picture and of those beside it, by key.
    order
        Every picture of the outing, in order of time.
    saved
        The presets of the lens.
    """

    picture: Picture
    frame: Frame | None
    stored: StoredSetup | None
    measured: Mapping[int, JsonObject | None]
    order: Sequence[Picture]
    saved: Sequence[Preset]


def load_review(uow: UnitOfWork, picture: Picture) -> ReviewData:
    """Read what is kept of a picture under review."""
    frame = None if picture.frame_id is None else log.get_frame(uow, picture.frame_id)
    stored = None if frame is None else taken_with(uow, frame)
    order = pictures.list_pictures(uow, picture.outing_id)
    beside = _beside(order, picture)
    wanted = [picture] if len(beside) < 2 else [picture, *beside]
    return ReviewData(
        picture=picture, frame=frame, stored=stored, order=order,
        measured={one.id: pictures.measured(uow, one.id) for one in wanted},
        saved=[] if stored is None else ring_records.list_presets(uow, stored.lens_id),
    )  # fmt: skip


def review_page(data: ReviewData, *, full: bool, unit: Unit, spot: Spot | None = None) -> ReviewPage:
    """Return the review of a picture; ``spot`` stands in for the one its frame has."""
    picture, frame, stored, order = data.picture, data.frame, data.stored, data.order
    spot = spot or (frame.spot if frame else None)
    measured = data.measured[picture.id]
    limit = None if stored is None else sharp_blur_px(stored.setup, picture.width_px, picture.height_px)
    seen = None
    if spot is not None and measured is not None:
        cell = measured["cell_px"] / picture.width_px, measured["cell_px"] / picture.height_px
        seen = at_spot(measured["blur_px"], cell, _places(measured), spot, limit)
    at = next(index for index, one in enumerate(order) if one.id == picture.id)
    beside = _beside(order, picture)
    return ReviewPage(
        picture=picture, frame=frame, words=None if frame is None else frame_words(frame, unit),
        outcomes=tuple((str(index), one.value) for index, one in enumerate(Outcome, start=1)),
        map_json=json.dumps(_drawn(measured, limit, picture)), measured=measured is not None,
        softened=bool(measured and measured.get("softened")), shaken=_shaken(measured), full=full, spot=spot,
        spot_words=format_spot(spot) if spot else "", said=_SEEN[seen.seen] if seen else "", seen=seen,
        instead=_instead(data, unit), number=at + 1, count=len(order),
        miss=None if frame is None or stored is None else ring_miss(stored.setup, frame),
        before=order[at - 1] if at else None, after=order[at + 1] if at + 1 < len(order) else None, beside=beside,
        sharpest_id=_sharpest(data, beside), unit=unit,
    )  # fmt: skip


def _places(measured: JsonObject | None) -> list[Place]:
    return [Place(**one) for one in (measured or {}).get("places", [])]


def _shaken(measured: JsonObject | None) -> str:
    """Return in words how far all of a picture is drawn out; empty if it is not."""
    shake = (measured or {}).get("shake")
    if shake is None:
        return ""
    nearest = round(shake["direction_deg"] / 45) % 4
    way = ("sideways", "towards bottom right", "up and down", "towards bottom left")[nearest]
    return f"by about {shake['length_px']:.0f} pixels {way}"


def _drawn(measured: JsonObject | None, limit: float | None, picture: Picture) -> JsonObject:
    """Return what the script draws: cells, which are sharp by the standard, and the sharpest places."""
    if measured is None:
        return {}
    sharp_px = limit if limit is not None else 1.2
    return {
        "rows": measured["rows"], "cols": measured["cols"], "cell": measured["cell_px"],
        "sharp": [[one is not None and one <= sharp_px for one in row] for row in measured["blur_px"]],
        "places": measured["places"][:3], "width": picture.width_px, "height": picture.height_px,
    }  # fmt: skip


def _instead(data: ReviewData, unit: Unit) -> tuple[Instead, ...]:
    """Return the subjects of the preset the frame was taken on, in front of and behind the one that was meant."""
    frame = data.frame
    at = None if frame is None else frame.said_mm
    if frame is None or at is None or not frame.preset_name:
        return ()
    name = frame.preset_name.partition(", opened")[0].partition(", stopped")[0]
    preset = next((one for one in data.saved if one.name == name), None)
    found = []
    for subject in preset.subjects if preset else ():
        off = subject.distance_mm - at
        if subject.name == frame.subject or abs(off) < at * 1e-3 or off == float("inf"):
            continue
        side = Outcome.BEHIND if off > 0 else Outcome.FRONT
        words = f"{format_distance(subject.distance_mm, unit)}, {format_rough(abs(off), unit)} {side.value}"
        found.append(Instead(name=subject.name, words=words, outcome=side, miss_mm=abs(off)))
    return tuple(found)


def _beside(order: Sequence[Picture], picture: Picture) -> tuple[Picture, ...]:
    """Return the pictures of a burst or bracket with this one, in order of time."""
    if picture.when is None:
        return (picture,)
    near = [
        one for one in order
        if one.when is not None and (
            abs((one.when - picture.when).total_seconds()) <= BURST_S
            or (one.frame_id is not None and one.frame_id == picture.frame_id)
        )
    ]  # fmt: skip
    at = next(index for index, one in enumerate(near) if one.id == picture.id)
    start = max(min(at - 1, len(near) - MOST_BESIDE), 0)
    return tuple(near[start : start + MOST_BESIDE])


def _sharpest(data: ReviewData, beside: tuple[Picture, ...]) -> int | None:
    if len(beside) < 2:
        return None
    blurs = [min((one.blur_px for one in _places(data.measured[each.id])), default=None) for each in beside]
    best = sharpest_of(blurs, [float(max(one.width_px, one.height_px)) for one in beside])
    return None if best is None else beside[best].id


router = APIRouter()
Share = Annotated[float | None, Query(ge=0, le=1)]


@router.get("/log/review")
def review(
    context: CurrentContext, *, picture: Key | None = None, outing: str = "", x: Share = None, y: Share = None
) -> Response:
    """Show a picture of an outing, the first not checked yet when none is asked for."""
    shown = pictures.get_picture(context.uow, picture) if picture else _first(context, key_of(outing))
    if shown is None:
        return context.page("log/review/empty.html", None)
    spot = Spot(x, y) if x is not None and y is not None else None
    page = review_page(
        load_review(context.uow, shown), full=not is_guest(context.request) and original_of(context, shown) is not None,
        unit=context.preferences.unit, spot=spot,
    )  # fmt: skip
    return context.page("log/review/page.html", page, part="log/review/side.html")


def _first(context: RequestContext, outing_id: int | None) -> Picture | None:
    """Return the first picture of an outing, or of the newest, whose frame is not checked yet; else the first."""
    if outing_id is None:
        outings = log.list_outings(context.uow)
        outing_id = outings[0].id if outings else None
    found = pictures.list_pictures(context.uow, outing_id)
    marked = {
        one.id for one in log.frames_called(context.uow, [p.frame_id for p in found if p.frame_id]) if one.outcome
    }
    return next((one for one in found if one.frame_id and one.frame_id not in marked), found[0] if found else None)


@router.post("/log/review/{id}")
def mark(context: CurrentContext, id: int) -> Response:
    """Keep what a picture shows: the verdict, the spot that was meant, and what is sharp instead."""
    picture = pictures.get_picture(context.uow, id)
    if picture.frame_id is None:
        works = "Put it to a frame on the page of pictures, or make one of it"
        raise UnreadableError("picture", picture.name, "it belongs to no frame yet", works)
    frame = log.get_frame(context.uow, picture.frame_id)
    changed = _changed(context, frame)
    with context.undoable_transaction(f"Reviewed {picture.name}"):
        log.change_frame(context.uow, changed)
    return context.back_to(_on_from(context, picture, changed))


def _on_from(context: RequestContext, picture: Picture, changed: Frame) -> str:
    """Return where to go after a picture: a verdict leads to the next one, and taking it back leads here again."""
    here = f"/log/review?picture={picture.id}"
    if not (context.typed.get("outcome") and changed.outcome):
        return here
    order = [one.id for one in pictures.list_pictures(context.uow, picture.outing_id)]
    after = next(iter(order[order.index(picture.id) + 1 :]), None)
    return here if after is None else f"/log/review?{urlencode({'picture': after, 'undo_to': here})}"


def _changed(context: RequestContext, frame: Frame) -> Frame:
    typed = {name: str(value) for name, value in context.typed.items()}
    outcome = typed.get("outcome", "")
    if outcome and outcome not in set(Outcome):
        raise UnreadableError("result", outcome, "that is not a result", f"Choose one of {', '.join(Outcome)}")
    if "outcome" in typed:
        frame = marked(frame, Outcome(outcome) if outcome else None, context.now())
    if typed.get("x") and typed.get("y"):
        frame = replace(frame, spot=_spot(typed["x"], typed["y"]))
    if "instead" in typed:
        frame = replace(frame, instead=INSTEAD.read(typed["instead"], FormInput(texts={})) if typed["instead"] else "")
    if "miss" in typed:
        said = typed["miss"].strip()
        frame = replace(
            frame, miss_mm=parse_distance(said, field="how far off", bare=context.numbers_in) if said else None
        )
    return frame


def _spot(x: str, y: str) -> Spot:
    try:
        return Spot(float(x), float(y))
    except (ValueError, WelotropeError):
        raise UnreadableError("place in the picture", f"{x} {y}", "that is no place", "Click in the picture") from None


@router.post("/log/review/{id}/measure")
def measure(request: Request, typed: TypedForm, id: int) -> Response:
    """Measure where a picture is sharp, when that was not done when it came in."""
    state = request.app.state
    with reading_context(request, typed=typed) as context:
        picture = pictures.get_picture(context.uow, id)
        original = original_of(context, picture)
    if original is None:
        works = "Bring it in again from its folder"
        raise UnreadableError("picture", picture.name, "its file is gone or has changed", works)
    draft = state.database.folder / f"preview-{secrets.token_hex(4)}.part"
    try:
        with state.heavy.enter():
            found = state.pictures.ask("measure", original, preview=str(draft))
        data = draft.read_bytes()
        with turn(state.database) as uow:
            preview = files.keep_file(uow, data, "image/jpeg", state.now())
            pictures.keep_measured(uow, id, found)
            pictures.change_picture(uow, id, preview_sha=preview)
    except PictureError as error:
        raise UnreadableError("picture", picture.name, error.sentence.rstrip("."), "Look at it by eye") from None
    finally:
        draft.unlink(missing_ok=True)
    with reading_context(request, typed=typed) as context:
        return context.go(f"/log/review?picture={id}")
