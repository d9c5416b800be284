"""What the page of a series with one aid shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from welotrope.core.kit.aids.models import Eye
from welotrope.core.kit.aids.registry import kind_names, kind_of
from welotrope.core.testshot.aid_series import (
    AidReading,
    AidVerdictFound,
    MeasuredShot,
    aid_headline,
    fault_sentence,
    likely_causes,
    read_aid,
    told_by_series,
)
from welotrope.core.units.distance import Unit
from welotrope.store.queries.kit import StoredSetup
from welotrope.store.queries.test_shots import ShotSeries, StoredShot
from welotrope.web.request.watching import FolderWatch

SCALE = ("scale", "distance scale")


@dataclass(frozen=True, kw_only=True)
class ShotLine:
    """A picture of a series: its number, what it told, and where to see it."""

    number: int
    id: int
    shot: MeasuredShot
    image: str


@dataclass(frozen=True, kw_only=True)
class WatchView:
    """A folder that is watched: where, whether it is there, and why its last picture was not kept."""

    folder: str
    there: bool
    problem: str


@dataclass(frozen=True, kw_only=True)
class AidShotsPage:
    """A series with one aid: what it tells, picture by picture, and what is to do next.

    ``next_step`` is one sentence; ``said`` what an aid that is off may be, and what would help.
    """

    series: str
    aid: str
    aid_name: str
    aids: tuple[tuple[str, str], ...]
    stop: str
    stops: tuple[str, ...]
    lines: tuple[ShotLine, ...]
    reading: AidReading
    headline: str
    next_step: str
    said: tuple[str, ...]
    made_up: bool
    earlier: tuple[ShotSeries, ...]
    aid_names: dict[str, str]
    batch: str
    folder: str
    errors: dict[str, str]
    watch: WatchView | None
    at_computer: bool
    unit: Unit

    @property
    def last(self) -> ShotLine | None:
        """The newest picture; None without any."""
        return self.lines[-1] if self.lines else None


def aid_choices(stored: StoredSetup) -> tuple[tuple[str, str], ...]:
    """Return the aids a photographer may focus with: keys and names."""
    own = tuple((kind_of(aid).tag, kind_of(aid).label) for aid in stored.setup.body.shown_aids)
    return (*own, SCALE)


def aid_shots_page(
    stored: StoredSetup, shots: Sequence[StoredShot], *, others: Sequence[StoredShot], series: str, aid: str,
    stop: str, eye: Eye, unit: Unit, earlier: Sequence[ShotSeries], batch: str, folder: str, errors: dict[str, str],
    watch: FolderWatch | None, at_computer: bool,
) -> AidShotsPage:  # fmt: skip
    """Compute the page; what was taken is read with the set-up in hand, beside ``others`` with the same aid."""
    reading = read_aid(stored.setup, aid, [one.shot for one in shots], eye=eye)
    said, next_step = likely_causes(reading, aid), ""
    if reading.verdict is AidVerdictFound.OFF and not any(one.made_up for one in shots):
        every = [(one.series, one.shot) for one in (*shots, *others)]
        told = told_by_series(stored.setup, aid, every, eye=eye)
        if told is not None:
            said = (fault_sentence(told, aid),)
            next_step = "That settles it, near and far." if told.fault else ""
    names = kind_names()
    choices = aid_choices(stored)
    name = dict(choices).get(aid, names.get(aid, aid))
    return AidShotsPage(
        series=series, aid=aid, aid_name=name, aids=choices, stop=stop,
        stops=tuple(f"{one:g}" for one in stored.setup.lens.stops),
        lines=tuple(
            ShotLine(number=number, id=one.id, shot=one.shot, image=f"/shots/{one.id}.jpg" if one.preview_sha else "")
            for number, one in enumerate(shots, start=1)
        ),
        reading=reading, headline=aid_headline(reading, name),
        next_step=next_step or _next_step(reading, name, shots), said=said,
        made_up=any(one.made_up for one in shots), earlier=tuple(one for one in earlier if one.series != series),
        aid_names=dict((SCALE, *names.items())), batch=batch, folder=folder, errors=errors,
        watch=_watch_view(watch), at_computer=at_computer, unit=unit,
    )  # fmt: skip


def _watch_view(watch: FolderWatch | None) -> WatchView | None:
    if watch is None or not watch.watching:
        return None
    return WatchView(folder=str(Path(watch.folder)), there=watch.there, problem=watch.problem)


def _next_step(reading: AidReading, name: str, shots: Sequence[StoredShot]) -> str:
    if not shots:
        return f"Turn the ring away, focus on the bold line with the {name.lower()}, take the picture: three times."
    if shots[-1].shot.warnings:
        return shots[-1].shot.warnings[0]
    if reading.verdict is AidVerdictFound.FEW:
        count = "one more picture" if reading.more == 1 else f"{reading.more} more pictures"
        return f"Turn the ring away, focus anew, and take {count}."
    if reading.verdict is AidVerdictFound.OPEN and reading.more:
        count = "one more" if reading.more == 1 else f"about {reading.more} more"
        return f"It is not settled yet: {count} would tell. Focus anew for each."
    if reading.verdict is AidVerdictFound.OPEN:
        return "Ten pictures do not settle it: they scatter more than the aid may be off. Practise with it, or magnify."
    return "That settles it. Stop here, or begin a series at another distance."
