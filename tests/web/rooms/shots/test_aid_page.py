"""The page of a series with an aid, read: sides, signs, intervals, and what counts."""

import math
import re
from types import SimpleNamespace

import pytest

from tests.web.pages import soup, text_of, words
from tests.web.rooms.shots.test_aid_series import SERIES, WHEN, stored
from welotrope.core.hand.causes import Cause
from welotrope.core.testshot.aid_series import AidFault, MeasuredShot
from welotrope.demo.measured_shots import add_test_shots
from welotrope.store.queries import files, kit, test_shots
from welotrope.web.request.shot_taking import shot_from
from welotrope.web.rooms.log.why import NearAndFar, WhyPage

LINE = ((0.11, 0.42), (0.93, 0.57))


def keep(client, shots, *, aid="magnified", series=SERIES, setup=1):
    with client.app.state.database.session() as uow:
        found = kit.get_setup(uow, setup)
        sha = files.keep_file(uow, b"\xff\xd8made-up", "image/jpeg", WHEN)
        for shot in shots:
            new = test_shots.NewShot(
                series=series, setup_id=setup, body_name=found.setup.body.name, lens_name=found.setup.lens.name,
                aid=aid, taken_at=WHEN, preview_sha=sha,
            )  # fmt: skip
            test_shots.add_shot(uow, new, shot)
        uow.commit()


def shot(name, plane, *, wide=0.4, distance=900.0, warnings=()):
    return MeasuredShot(
        picture=name, stop=1.4, distance_mm=distance, plane_mm=plane, low_mm=plane - wide, high_mm=plane + 2 * wide,
        line=LINE, warnings=warnings,
    )  # fmt: skip


def page_of(client, **query):
    asked = {"series": SERIES, "aid": "magnified", "stop": "1.4"} | query
    return client.get("/shots", params=asked)


@pytest.mark.parametrize(
    ("sign", "side", "where", "end"), [(1, "behind", "behind", "∞"), (-1, "in front", "in front of", "the close end")]
)
def test_sides_are_said_of_the_right_side(client, sign, side, where, end):
    keep(client, [shot(f"{k}.jpg", sign * plane) for k, plane in enumerate((9.0, 9.5, 9.2))])
    page = soup(page_of(client))
    assert re.fullmatch(rf"With the magnified view focus falls 9\.\d mm {side}", words(page.select_one("h1")))
    figure = words(page.select_one(".shot-figure"))
    low, high = sorted((sign * 9.2 - 0.4, sign * 9.2 + 0.8))
    sign_text = "+" if sign > 0 else "−"
    assert f"{sign_text}9.2 mm {where} the line, {low:+.1f} to {high:+.1f} mm".replace("-", "−") in figure
    facts = [" ".join(words(part) for part in one.select("dt, dd")) for one in page.select("dl.facts > div")]
    assert f"too far towards {end}" in facts[1]
    mean = re.search(r"Mean of 3 ([+−][\d.]+) mm ([+−][\d.]+) to ([+−][\d.]+) mm", facts[0])
    values = [float(one.replace("−", "-")) for one in mean.groups()]
    assert values[1] < values[0] < values[2]
    windows = [float(one.replace("−", "-")) for one in re.findall(r"[+−]\d\.\d", facts[2])]
    assert windows[0] < windows[1]
    assert windows[0] * sign > 0


def test_what_counts_and_what_does_not_is_said_picture_by_picture(client):
    keep(client, [shot("good.jpg", 3.0), shot("shaken.jpg", 4.0, warnings=("It is shaken.",))])
    rows = {words(row).split()[1]: words(row) for row in soup(page_of(client)).select("tbody tr")}
    assert "+3.0 mm +2.6 to +3.8 mm yes" in rows["good.jpg"]
    assert "no: It is shaken." in rows["shaken.jpg"]


def test_the_line_is_laid_where_the_plane_was_found(client):
    keep(client, [shot("good.jpg", 3.0)])
    line = soup(page_of(client)).select_one(".shot-picture svg line")
    assert [float(line[name]) for name in ("x1", "y1", "x2", "y2")] == [0.11, 0.42, 0.93, 0.57]


def fell_behind(distance, off, focal=50.0):
    """By the thin lens: how far behind a subject, mm from the film, focus falls when the film is nearer by ``off``."""
    away = (distance + math.sqrt(distance**2 - 4 * focal * distance)) / 2  # of the two that image it, the farther
    image = distance - away - off
    return 1 / (1 / focal - 1 / image) - away


def test_near_and_far_together_name_the_fault(client):
    for series, distance in (("a" * 16, 900.0), ("b" * 16, 3600.0)):
        planes = [fell_behind(distance, 0.05) * share for share in (0.98, 1.0, 1.02, 1.0)]
        shots = [shot(f"{k}.jpg", plane, distance=distance) for k, plane in enumerate(planes)]
        keep(client, shots, aid="matte", series=series, setup=4)
    client.post("/in-hand", data={"setup": "4"})
    both = text_of(page_of(client, series="a" * 16, aid="matte"))
    assert "It is off alike near and far: the ground glass stands" in both
    assert "too far from the lens" in both
    assert "shims it by 0.05 mm, nearer to the lens" in both
    why = text_of(client.get("/log/why"))
    assert "Matte screen, by test shots near and far: It is off alike near and far: the ground glass stands" in why


def test_what_frames_make_likely_is_certain_once_test_shots_near_and_far_say_the_same(practised_client):
    with practised_client.app.state.database.session() as uow:
        add_test_shots(uow, sorted(one.id for one in kit.list_setups(uow)))
        uow.commit()
        series = sorted({one.series for one in test_shots.shots_of_setup(uow, 8)})
    why = text_of(practised_client.get("/log/why?setup=8"))
    assert re.search(r"Focus is [\d.]+° in front: the rangefinder is misaligned", why)
    assert "Not certain yet" not in why
    assert "Adjusting it is a repairer’s job" in why
    practised_client.post(f"/shots/series/{series[0]}/delete")  # the near ones: far ones alone leave the doubt
    assert "Not certain yet" in text_of(practised_client.get("/log/why?setup=8"))


def test_one_distance_or_alike_ones_are_not_said_to_tell_causes_apart(client):
    for series, distance in (("a" * 16, 900.0), ("b" * 16, 1000.0)):
        planes = [fell_behind(distance, 0.05) * share for share in (0.98, 1.0, 1.02, 1.0)]
        shots = [shot(f"{k}.jpg", plane, distance=distance) for k, plane in enumerate(planes)]
        keep(client, shots, aid="matte", series=series, setup=4)
    client.post("/in-hand", data={"setup": "4"})
    assert "near and far" not in text_of(client.get("/log/why"))


def test_measured_lines_stand_where_they_matter(client):
    stored(client, [9.0, 9.5, 9.2, 9.4])
    for path in ("/scale", "/aids", "/plan", "/kit/setups/1"):
        said = text_of(client.get(path))
        assert "With the magnified view focus falls 9.3 mm behind measured on 15 Mar 2026" in said
    stored(client, [9.0, 9.5, 9.2], made_up=True, series="c" * 16, setup=2)
    client.post("/in-hand", data={"setup": "2"})
    assert "Measured by test shots" not in text_of(client.get("/scale"))


def test_places_in_the_picture_are_kept_as_shares_of_their_own_side():
    found = {
        "width_px": 400, "height_px": 200, "plane_line_px": [[40.0, 50.0], [360.0, 150.0]], "mark_px": [100.0, 20.0],
        "distance_mm": 900.0, "plane_mm": 1.0, "plane_low_mm": 0.5, "plane_high_mm": 1.5, "tilt_deg": 0.1,
        "warnings": [],
    }  # fmt: skip
    shot = shot_from(found, "a.jpg", 2.0)
    assert shot.line == ((0.1, 0.25), (0.9, 0.75))
    assert shot.mark == (0.25, 0.1)
    assert (shot.low_mm, shot.high_mm) == (0.5, 1.5)


def test_progress_in_pictures_stands_beside_what_rounds_say(client):
    assert "Take a series of test shots now" in text_of(client.get("/practice/hand?setup=4"))
    for series, planes in (("a" * 16, (20, -12, 9, -18, 14)), ("b" * 16, (2, -1, 1, -2, 1))):
        keep(client, [shot(f"{k}.jpg", plane) for k, plane in enumerate(planes)], aid="matte", series=series, setup=4)
    page = client.get("/practice/hand?setup=4")
    rows = [
        [words(cell) for cell in row.select("td")]
        for row in soup(page).select('[aria-label="Matte screen in test shots"] tbody tr')
    ]
    assert [row[1] for row in rows] == ["5", "5"]
    assert float(rows[0][2]) > 5 * float(rows[1][2])
    said = re.search(
        r"is (0\.\d\d) times as large \(95 % interval (0\.\d\d) to (0\.\d\d)\): you focus more precisely", text_of(page)
    )
    times, low, high = (float(one) for one in said.groups())
    assert low < times < high < 1


@pytest.mark.parametrize(
    ("cause", "aid", "fault", "confirmed"),
    [
        (Cause.RANGEFINDER, "rangefinder", AidFault.SETTING, True),
        (Cause.RANGEFINDER, "rangefinder", AidFault.CAM, False),
        (Cause.RANGEFINDER, "matte", AidFault.SETTING, False),
        (Cause.SCREEN, "split_image", AidFault.SETTING, True),
        (Cause.LEAN, "rangefinder", AidFault.SETTING, False),
    ],
)
def test_only_a_setting_of_the_same_aid_confirms_a_cause(cause, aid, fault, confirmed):
    told = NearAndFar(aid=aid, fault=fault, sentence="")
    page = SimpleNamespace(likeliest=SimpleNamespace(cause=cause), near_and_far=(told,))
    assert WhyPage.is_confirmed.fget(page) is confirmed


def test_a_change_on_no_day_is_named_after_the_page_was_seen(client):
    client.get("/practice/hand")
    answer = client.post("/practice/changes", data={"what": "other", "made_at": "soon"})
    assert answer.status_code == 422
    assert "soon" in text_of(answer)
    assert soup(answer).select_one(".error")
