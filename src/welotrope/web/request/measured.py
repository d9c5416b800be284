"""What test shots told of the set-up in hand, as it is said on the pages it bears on."""

from __future__ import annotations

import datetime as dt
from dataclasses import dataclass
from itertools import groupby
from typing import TYPE_CHECKING

from welotrope.core.kit.aids.registry import kind_names
from welotrope.core.testshot.aid_series import AidVerdictFound, aid_headline, read_aid
from welotrope.core.testshot.series_words import SeriesKind, series_headline
from welotrope.store.queries import test_shots

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
