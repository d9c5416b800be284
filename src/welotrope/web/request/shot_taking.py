"""Measuring pictures of sheets beside the requests, keeping what they tell, and saying it where it bears."""

from __future__ import annotations

import datetime as dt
import json
import secrets
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING

from welotrope.core.json_values import JsonObject
from welotrope.core.kit.aids.registry import kind_names
from welotrope.core.kit.setup import Setup
from welotrope.core.testshot.aid_series import AidVerdictFound, MeasuredShot, aid_headline, read_aid
from welotrope.core.testshot.series_words import SeriesKind, series_headline
from welotrope.interchange.pictures.workers import PictureError, PictureWorkers
from welotrope.interchange.testshot import shot_of
from welotrope.store import cache
from welotrope.store.queries import files, history, test_shots
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.session import Database
from welotrope.web.request.jobs import turn

if TYPE_CHECKING:
    from welotrope.web.request.context import RequestContext


@dataclass(frozen=True, kw_only=True)
class MeasuredLine:
    """What was measured, when, and where it is shown."""

    text: str
    taken_at: dt.datetime
    path: str


def measured_lines(context: RequestContext) -> tuple[MeasuredLine, ...]:
    """Return what real test shots told of the set-up in hand, the newest of each kind and aid."""
    stored = context.find_selected_setup()
    if stored is None:
        return ()
    lines: dict[str, MeasuredLine] = {}
    for one in test_shots.results_of_setup(context.uow, stored.id):
        if not one.made_up and one.kind not in lines:
            text = series_headline(SeriesKind(one.kind), one.found)
            lines[one.kind] = MeasuredLine(text=text, taken_at=one.taken_at, path=f"/shots/series?id={one.id}")
    names = {"scale": "Distance scale", **kind_names()}
    shots = test_shots.shots_of_setup(context.uow, stored.id)
    if not shots:
        return tuple(lines.values())
    eye = context.personal().eye
    for (aid, series), group in groupby(shots, key=lambda shot: (shot.aid, shot.series)):
        taken = list(group)
        found = read_aid(stored.setup, aid, [one.shot for one in taken], eye=eye)
        if found.verdict in (AidVerdictFound.OFF, AidVerdictFound.RIGHT):
            text = aid_headline(found, names.get(aid, aid))
            lines[f"aid {aid}"] = MeasuredLine(text=text, taken_at=taken[-1].taken_at, path=f"/shots?series={series}")
    return tuple(lines.values())


@dataclass(frozen=True, kw_only=True)
class ShotRequest:
    """What pictures are taken with: the series they belong to, the set-up, the aid and stop, and by whom."""

    series: str
    stored: StoredSetup
    aid: str
    stop: float
    person: str = ""
    made_up: bool = False


class ShotTaker:
    """Measures pictures one after another and stores what they tell."""

    def __init__(self, database: Database, workers: PictureWorkers, now: Callable[[], dt.datetime]) -> None:
        self._database, self._workers, self._now = database, workers, now

    def take(self, order: ShotRequest, path: Path, name: str) -> int:
        """Measure a picture, store it and return its key; one that cannot be read is stored with the reason."""
        preview = cache.cached(self._database.folder, f"shot-{secrets.token_hex(8)}.jpg")
        try:
            shot = self._measured(order, path, name, preview)
            with turn(self._database) as uow:
                now = self._now()
                sha = files.keep_file(uow, preview.read_bytes(), "image/jpeg", now) if preview.exists() else None
                new = test_shots.NewShot(
                    series=order.series, person=order.person, setup_id=order.stored.id,
                    body_name=order.stored.setup.body.name, lens_name=order.stored.setup.lens.name, aid=order.aid,
                    taken_at=now, made_up=order.made_up, preview_sha=sha,
                )  # fmt: skip
                with history.recorded(uow, f"Measured {name}", now):
                    return test_shots.add_shot(uow, new, shot)
        finally:
            preview.unlink(missing_ok=True)

    def _measured(self, order: ShotRequest, path: Path, name: str, preview: Path) -> MeasuredShot:
        said = slope_said(order.stored.setup, order.stop)
        try:
            found = self._workers.ask("plane", path, said=json.dumps(said), preview=str(preview))
        except PictureError as error:
            return MeasuredShot(picture=name, stop=order.stop, warnings=(error.sentence,))
        return shot_from(found, name, order.stop)


def slope_said(setup: Setup, stop: float) -> dict[str, float]:
    """Return what a set-up tells of a picture: focal length and picture width, mm, stop, and what counts as sharp."""
    image = setup.body.image
    return {
        "focal_mm": setup.lens.focal_mm, "width_mm": max(image.width_mm, image.height_mm), "stop": stop,
        "blur_mm": setup.blur_mm,
    }  # fmt: skip


def shot_from(found: JsonObject, name: str, stop: float) -> MeasuredShot:
    """Return what was measured as it is kept: places in the picture as shares of its sides."""
    width, height = found.get("width_px") or 1, found.get("height_px") or 1

    def share(place: list[float]) -> tuple[float, float]:
        return (place[0] / width, place[1] / height)

    line, mark = found.get("plane_line_px"), found.get("mark_px")
    places = (share(line[0]), share(line[1])) if line else None
    return replace(shot_of(found, name, stop), mark=share(mark) if mark else None, line=places)
