"""Pages of the log made of plain records: no database, no application."""

from __future__ import annotations

import datetime as dt
import json
from urllib.parse import parse_qsl

from welotrope.core.picture.picture import Picture, PictureExif
from welotrope.core.plan.field_settings import Preset
from welotrope.core.plan.setting import Subject
from welotrope.core.review.frame import Frame, Outing, Spot
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.search import FrameSearch
from welotrope.core.units.distance import Unit
from welotrope.store.queries.log import After
from welotrope.web.rooms.log.frame import FrameLists
from welotrope.web.rooms.log.outing import PAGE, FrameFilter, LogData, log_page, place_of
from welotrope.web.rooms.log.report import ReportData, report_page
from welotrope.web.rooms.log.review import ReviewData, review_page

NOON = dt.datetime(2026, 3, 14, 12)
OUTING = Outing(4, "Launch day", NOON.date(), 60)
NONE = FrameLists({}, {})


def picture(id: int, second: float, **more: object) -> Picture:
    at = NOON + dt.timedelta(seconds=second)
    return Picture(
        id=id, sha256=f"{id:064x}", name=f"{id}.jpg", media_type="image/jpeg", bytes=1, width_px=600, height_px=400,
        taken_at=at, exif=PictureExif(), **more,
    )  # fmt: skip


def measured(sharpest_px: float) -> dict[str, object]:
    """Two cells of a picture: the left one sharp, the right one not."""
    place = {"x": 0.25, "y": 0.5, "score": 0.9, "blur_px": sharpest_px}
    return {"rows": 1, "cols": 2, "cell_px": 300, "blur_px": [[sharpest_px, 9.0]], "places": [place], "shake": None}


def frame(id: int, **more: object) -> Frame:
    return Frame(id=id, outing_id=4, taken_at=NOON + dt.timedelta(minutes=id), lens_name="Norrvik 50", **more)


def test_a_burst_is_reviewed_beside_its_neighbours_and_its_sharpest_is_named():
    order = [picture(1, -60), picture(2, 0), picture(3, 1), picture(4, 2), picture(5, 60)]
    blurs = {2: 2.6, 3: 0.9, 4: 3.1}
    data = ReviewData(
        picture=order[1], frame=None, stored=None, order=order, saved=[],
        measured={id: measured(blur) for id, blur in blurs.items()},
    )  # fmt: skip
    page = review_page(data, full=False, unit=Unit.METRIC)
    assert [one.id for one in page.beside] == [2, 3, 4]
    assert page.sharpest_id == 3
    assert (page.before.id, page.after.id, page.number, page.count) == (1, 3, 2, 5)


def test_what_a_script_draws_of_sharpness_marks_the_sharp_cell_alone_and_a_soft_spot_is_said():
    one = picture(1, 0)
    data = ReviewData(picture=one, frame=None, stored=None, order=[one], saved=[], measured={1: measured(0.8)})
    page = review_page(data, full=False, unit=Unit.METRIC, spot=Spot(0.75, 0.5))
    assert json.loads(page.map_json)["sharp"] == [[True, False]]
    assert page.said == "Something else is sharper."
    assert review_page(data, full=False, unit=Unit.METRIC, spot=Spot(0.25, 0.5)).said != page.said


def test_without_any_measure_nothing_is_said_of_sharpness():
    one = picture(1, 0)
    data = ReviewData(picture=one, frame=None, stored=None, order=[one], saved=[], measured={1: None})
    page = review_page(data, full=True, unit=Unit.METRIC, spot=Spot(0.5, 0.5))
    assert (page.measured, page.map_json, page.said, page.sharpest_id) == (False, "{}", "", None)


def test_subjects_of_a_preset_are_offered_on_the_side_they_stand_and_by_how_far():
    taken = frame(7, subject="sitter", believed_mm=2000.0, preset_name="bench, opened to 2", setup_id=1)
    subjects = (Subject("rail", 1500.0), Subject("sitter", 2000.0), Subject("mast", 3000.0))
    one = picture(1, 0, frame_id=7)
    data = ReviewData(
        picture=one, frame=taken, stored=None, order=[one], measured={1: None},
        saved=[
            Preset(id=1, lens_id=1, name="bench", distance_mm=2000.0, stop=4.0, subjects=subjects),
            Preset(id=2, lens_id=1, name="quay", distance_mm=2000.0, stop=4.0, subjects=subjects[:1]),
        ],
    )  # fmt: skip
    found = review_page(data, full=False, unit=Unit.METRIC).instead
    assert [(each.name, each.outcome, each.miss_mm) for each in found] == [
        ("rail", Outcome.FRONT, 500.0),
        ("mast", Outcome.BEHIND, 1000.0),
    ]


def test_a_report_lists_each_miss_and_each_note_and_tells_the_side_they_lean_to():
    frames = [frame(n, outcome=Outcome.FRONT if n % 4 == 0 else Outcome.HIT) for n in range(1, 21)]
    frames.append(frame(21, note="Wind from the water"))
    page = report_page(ReportData(outing=OUTING, outings=[OUTING], frames=frames, setups={}, lists=NONE), Unit.METRIC)
    assert [one.line.frame.id for one in page.missed] == [4, 8, 12, 16, 20]
    assert [one.frame.id for one in page.learned] == [21]
    assert all(one.miss is None for one in page.missed), "without the set-up no angle can be told"
    assert (page.leaning.front, page.leaning.behind, page.leaning.side) == (5, 0, Outcome.FRONT)


def test_a_log_shows_one_page_and_leads_on_from_its_last_frame():
    frames = [frame(PAGE + 1 - n) for n in range(PAGE + 1)]
    data = LogData(outings=[OUTING], outing=OUTING, frames=frames, counts=None, lists=NONE, lenses=[], unmatched=0)
    page = log_page(data, FrameFilter(outing=4), FrameSearch(), Unit.METRIC)
    assert len(page.lines) == PAGE
    last = frames[PAGE - 1]
    assert place_of(dict(parse_qsl(page.next_query))["after"]) == After(last.taken_at, last.id)
    whole = log_page(
        LogData(outings=[OUTING], outing=OUTING, frames=frames[:PAGE], counts=None, lists=NONE, lenses=[], unmatched=0),
        FrameFilter(outing=4), FrameSearch(), Unit.METRIC,
    )  # fmt: skip
    assert whole.next_query == ""
