"""Test shots of the demo: a rangefinder that is out near and far alike, an adapter that sits askew, a lens that shifts.

The figures are those that pictures of the simulated camera with these faults gave.
"""

from __future__ import annotations

import datetime as dt
from collections.abc import Sequence

from welotrope.core.testshot.aid_series import MeasuredShot
from welotrope.core.testshot.series_record import SeriesCurve, SeriesFigure, SeriesPoint, SeriesRecord
from welotrope.store.queries import kit, test_shots
from welotrope.store.unit_of_work import UnitOfWork

_DAY = dt.datetime(2026, 3, 8, 14, 20)
_MINUTES = 2
# Where the plane fell before the line, mm, with half its interval: the film is 0.13 mm too far away for what was seen.
_RANGED = (
    ("5a0c3be1d2f40718", 1200.0, 0.6, (-59.4, -61.8, -57.9, -60.7)),
    ("b7e20c9a44d1f536", 4000.0, 7.0, (-655.0, -668.0, -641.0, -660.0)),
)
_ADAPTER = SeriesRecord(
    pictures=("IMG_2207.jpg", "IMG_2208.jpg"), stop=3.5,
    figures=(
        SeriesFigure(name="tilt_deg", value=0.312, low=0.288, high=0.336),
        SeriesFigure(name="tip_deg", value=-0.011, low=-0.034, high=0.012),
        SeriesFigure(name="across_mm", value=0.198, low=0.183, high=0.213),
        SeriesFigure(name="upright_mm", value=-0.005, low=-0.014, high=0.005),
        SeriesFigure(name="curvature_mm", value=-0.021, low=-0.027, high=-0.015),
        SeriesFigure(name="half_depth_mm", value=0.101, low=0.101, high=0.101),
    ),
)  # fmt: skip
_STOPS = SeriesRecord(
    pictures=tuple(f"IMG_22{number}.jpg" for number in range(11, 18)),
    curves=(
        SeriesCurve(
            part="centre", best=5.6,
            points=tuple(
                SeriesPoint(at=at, score=score, low=score - 0.02, high=score + 0.02 if score < 1 else 1.0)
                for at, score in ((2.8, 0.71), (4, 0.9), (5.6, 1.0), (8, 0.97), (11, 0.91), (16, 0.78), (22, 0.61))
            ),
        ),
        SeriesCurve(
            part="corner", best=8.0,
            points=tuple(
                SeriesPoint(at=at, score=score, low=score - 0.04, high=score + 0.04 if score < 1 else 1.0)
                for at, score in ((2.8, 0.42), (4, 0.58), (5.6, 0.83), (8, 1.0), (11, 0.97), (16, 0.86), (22, 0.66))
            ),
        ),
    ),
)  # fmt: skip


def add_test_shots(uow: UnitOfWork, setups: Sequence[int]) -> None:
    """Add series of test shots: ``setups`` are keys in the order of the demo's set-ups, the rangefinder's newest."""
    ranged = max(kit.list_setups(uow), key=lambda one: one.id)
    for series, distance, wide, planes in _RANGED:
        for number, plane in enumerate(planes):
            shot = MeasuredShot(
                picture=f"{round(distance)}-{number + 1}.jpg", stop=2.0, distance_mm=distance, plane_mm=plane,
                low_mm=plane - wide, high_mm=plane + wide,
            )  # fmt: skip
            test_shots.add_shot(uow, _new(ranged, series, number, aid="rangefinder"), shot)
    test_shots.add_series(uow, _new(kit.get_setup(uow, setups[1]), "c" * 16, 20), "level", _ADAPTER)
    test_shots.add_series(uow, _new(kit.get_setup(uow, setups[4]), "e" * 16, 40), "stops", _STOPS)


def _new(stored: kit.StoredSetup, series: str, number: int, *, aid: str = "") -> test_shots.NewShot:
    return test_shots.NewShot(
        series=series, setup_id=stored.id, body_name=stored.setup.body.name, lens_name=stored.setup.lens.name, aid=aid,
        taken_at=_DAY + dt.timedelta(minutes=_MINUTES * number),
    )  # fmt: skip
