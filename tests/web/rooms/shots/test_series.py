"""Series of stops and of the ring: dropped, measured, kept, drawn, deleted and put back."""

import re

import cv2
import numpy as np
import pytest

from tests.web.pages import text_of
from tests.web.rooms.shots.test_aid_series import stored, waited
from welotrope.core.testshot.series_record import SeriesCurve, SeriesPoint, SeriesRecord
from welotrope.core.testshot.series_words import SeriesKind, series_headline
from welotrope.store.queries import test_shots

STOPS = (2, 2.8, 4, 5.6)


@pytest.fixture(scope="module")
def pictures():
    """A flat subject, sharpest at f/4."""
    rng = np.random.default_rng(2)
    subject = cv2.GaussianBlur(rng.integers(0, 255, (700, 900)).astype(np.float32), (0, 0), 1.2)
    subject = 40 + 170 * (subject - subject.min()) / np.ptp(subject)
    made = []
    for blur in (2.2, 1.4, 0.4, 1.5):
        grey = np.clip(cv2.GaussianBlur(subject, (0, 0), blur) + rng.normal(0, 2, subject.shape), 0, 255)
        made.append(cv2.imencode(".png", grey.astype(np.uint8))[1].tobytes())
    return made


def send(client, pictures, batch, **typed):
    for number, data in enumerate(pictures):
        client.post(f"/log/pictures/drop?batch={batch}&name=shot{number}.png", content=data)
    return client.post("/shots/series", data={"batch": batch} | typed)


def test_the_sharpest_stop_is_measured_kept_and_drawn(client, pictures):
    page = waited(client, send(client, pictures, "00000000000000c1", kind="stops", places="2 2.8 4 5.6"))
    assert "Sharpest at f/4 in the centre" in text_of(page)
    drawn = re.search(r'aria-label="Centre: .*?</svg>', page.text, re.DOTALL)[0]
    heights = [float(one) for one in re.findall(r'cy="([\d.]+)"', drawn)]
    assert heights.index(min(heights)) == 2  # the best stands highest
    bars = re.findall(r'y1="([\d.]+)" y2="([\d.]+)"', drawn)
    assert all(float(low) >= float(high) for low, high in bars)
    id = int(re.search(r"/shots/series/result/(\d+)/delete", page.text)[1])
    with client.app.state.database.session(write=False) as uow:
        kept = test_shots.get_series(uow, id)
    assert [one.at for one in kept.found.curves[0].points] == list(STOPS)
    gone = client.post(f"/shots/series/result/{id}/delete")
    assert f"id={id}" not in gone.text
    client.post("/undo/" + gone.text.split('action="/undo/')[1].split('"')[0])
    assert f"/shots/series?id={id}" in client.get("/shots/series").text


def test_the_ring_is_measured_in_the_unit_it_was_read_in(client, pictures):
    page = waited(client, send(client, pictures, "00000000000000c2", kind="ring", places="10 20 30 40"))
    best = float(re.search(r"Sharpest at ([\d.]+) on the ring", text_of(page))[1])
    assert 22 < best < 35


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"kind": "stops", "places": "2 4"}, "Places: read “2 4”; a series needs 3 at least."),
        ({"kind": "stops", "places": "2 4 8"}, "Places: read “2 4 8”; 4 pictures came."),
        ({"kind": "level", "places": "nearer far"}, "Places: read “far”; it is neither of the two."),
        ({"kind": "stops", "places": "2 4 8 wide"}, "that is not a stop"),
        ({"kind": "ring", "places": "1 2 3 far"}, "that is not a number"),
        ({"kind": "colours", "places": "1 2 3 4"}, "Series: read “colours”; there is none of that name."),
    ],
)
def test_bad_answers_keep_what_was_typed(client, pictures, typed, words):
    answer = send(client, pictures, "00000000000000c3", **typed)
    assert answer.status_code == 422
    assert words in text_of(answer)
    assert f'value="{typed["places"]}"' in answer.text


def test_a_series_that_cannot_be_measured_says_why(client, pictures):
    answer = send(client, pictures[:3], "00000000000000c4", kind="stops", places="2 4 4")
    page = answer
    while "failed" not in text_of(page):
        page = client.get(answer.url.path)
    assert "that stop is there twice" in text_of(page)


def test_series_and_shots_with_an_aid_are_kept_apart(client, pictures):
    stored(client, [1.0, 2.0])
    waited(client, send(client, pictures, "00000000000000c5", kind="stops", places="2 2.8 4 5.6"))
    with client.app.state.database.session(write=False) as uow:
        assert len(test_shots.list_series(uow)) == 1
        assert len(test_shots.results_of_setup(uow, 1)) == 1
        assert len(test_shots.shots_of_setup(uow, 1)) == 2
    assert client.get("/shots/series?id=1").status_code == 404  # a shot with an aid


def curve(part, best):
    return SeriesCurve(part=part, points=(SeriesPoint(at=2.0, score=1.0),), best=best)


@pytest.mark.parametrize(
    ("kind", "curves", "words"),
    [
        (
            "stops",
            [("centre", 5.6), ("edge", None), ("corner", 8.0)],
            "Sharpest at f/5.6 in the centre and at f/8 in the corners",
        ),
        (
            "stops",
            [("centre", 5.6), ("corner", None)],
            "Sharpest at f/5.6 in the centre; no stop stands out in the corners",
        ),
        ("stops", [("centre", None), ("corner", None)], "No stop stands out in the centre or in the corners"),
        ("stops", [], "There is too little detail to compare stops"),
        ("ring", [("middle", None)], "The sharpest place is not told"),
    ],
)
def test_what_is_said_is_no_more_than_was_told(kind, curves, words):
    record = SeriesRecord(pictures=("a.jpg",), curves=tuple(curve(*one) for one in curves))
    assert series_headline(SeriesKind(kind), record) == words
