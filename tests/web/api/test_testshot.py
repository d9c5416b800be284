"""Test shots over HTTP: the keys of the command line, pictures as multipart, nothing kept."""

import cv2
import numpy as np
import pytest

from tests.core.testshot.shots import camera, shot


@pytest.fixture(scope="module")
def picture():
    return cv2.imencode(".jpg", shot(camera(plane_mm=5.0)))[1].tobytes()


def test_a_slope_is_measured(client, picture):
    said = {"focal": "50", "width": "36", "stop": "2"}
    answer = client.post("/api/testshot/slope", files={"picture": ("a.jpg", picture)}, data=said)
    assert answer.status_code == 200, answer.text
    found = answer.json()
    assert found["plane_mm"] == pytest.approx(5.0, abs=0.5)
    assert found["warnings"] == []


def test_programs_may_send_pictures_and_other_sites_may_not(client, picture):
    files = {"picture": ("a.jpg", picture)}
    bare = {"origin": "", "sec-fetch-site": "cross-site"}
    assert (
        client.post("/api/testshot/slope", files=files, data={"focal": "50", "width": "36"}, headers=bare).status_code
        == 403
    )


def test_a_series_says_where_each_was_by_field_or_by_name(client):
    rng = np.random.default_rng(2)
    subject = cv2.GaussianBlur(rng.integers(0, 255, (700, 900)).astype(np.float32), (0, 0), 1.2)
    subject = 40 + 170 * (subject - subject.min()) / np.ptp(subject)
    files, at = [], []
    for stop, blur in ((2, 2.2), (2.8, 1.4), (4, 0.4), (5.6, 1.5)):
        grey = np.clip(cv2.GaussianBlur(subject, (0, 0), blur) + rng.normal(0, 2, subject.shape), 0, 255).astype(
            np.uint8
        )
        files.append(("pictures", (f"shot@{stop}.png", cv2.imencode(".png", grey)[1].tobytes())))
        at.append(str(stop))
    named = client.post("/api/testshot/stops", files=files).json()
    said = client.post("/api/testshot/stops", files=files, data={"at": " ".join(at)}).json()
    assert named == said
    assert named["best_centre"] == 4
    assert [one["stop"] for one in named["zones"]["centre"]] == [2, 2.8, 4, 5.6]
    ring = client.post("/api/testshot/ring", files=files, data={"at": "0 1 2 3"}).json()
    assert {"best", "low", "high", "curve"} <= set(ring)
    assert [one["at"] for one in ring["curve"]] == [0, 1, 2, 3]


@pytest.mark.parametrize(
    ("path", "count", "data", "words"),
    [
        ("slope", 0, {"focal": "50", "width": "36"}, "Pictures: read nothing; one picture is measured at a time."),
        ("slope", 1, {"focal": "far", "width": "36"}, "Focal length: read “far”"),
        ("slope", 1, {"width": "36"}, "Focal length: read nothing;"),
        ("ring", 2, {"at": "1"}, "Pictures: read “2 with 1 places”; each needs its place."),
        ("stops", 2, {"at": "2 wide"}, "that is not a stop"),
        ("ring", 2, {"at": "1 2"}, "that is too few places of the ring"),
    ],
)
def test_bad_input_is_named(client, picture, path, count, data, words):
    files = [("picture", (f"{k}.jpg", picture)) for k in range(count)] or None
    answer = client.post(f"/api/testshot/{path}", files=files, data=data)
    assert answer.status_code == 422, answer.text
    assert words in answer.json()["error"]


def test_what_is_no_picture_is_refused(client):
    answer = client.post(
        "/api/testshot/slope", files={"p": ("a.jpg", b"nothing of it")}, data={"focal": "50", "width": "36"}
    )
    assert answer.status_code == 422
    assert "picture" in answer.json()["error"]
