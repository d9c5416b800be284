"""Live frames over the API: a sweep by other programs, what is refused, and sweeps that end."""

import cv2
import numpy as np
import pytest

from tests.core.live.sweeps import SweepSettings, frames_of
from welotrope.interchange.worker_pool import BusyError
from welotrope.web.request.live_sweeps import IDLE_S, MOST_AT_ONCE, LiveSweeps, SweepOrder

GREY = {"content-type": "application/octet-stream"}
SETTINGS = SweepSettings(side=160, frames=36, peak=0.5, contrast=0.8, noise=2)
ORDER = SweepOrder(measures="detail", sharp_px=4.0)


@pytest.fixture(scope="module")
def frames():
    return list(frames_of(SETTINGS))


def post(client, grey, query="sweep=one", *, path="measure"):
    height, width = grey.shape
    address = f"/api/live/{path}?{query}&width={width}&height={height}"
    return client.post(address, content=grey.tobytes(), headers=GREY)


def test_a_sweep_is_followed_to_its_best(client, frames):
    answers = [
        post(client, grey, f"sweep=a&sharp_px={SETTINGS.sharp_px}&at={200 + 10 * place}").json()
        for place, grey in frames
    ]
    past = next(one for one in answers if one["state"] == "past")
    assert {"sharpness", "best", "share", "state", "low", "high"} <= set(past)
    assert past["best_at"] == pytest.approx(200, abs=5)
    assert 0 <= past["low"] <= past["share"] <= past["high"] <= 1
    assert past["sharpness"] < past["best"]
    assert past["says"] == "Past the best: turn back"
    assert f"{round(100 * past['share'])} % of the best sharpness" in past["found"]
    assert len(past["curve"]) > 10
    assert past["curve"][-1][1] == pytest.approx(past["share"], abs=0.01)
    assert answers[0]["state"] == "searching"


def test_a_guide_leads_and_a_rate_places(client, frames):
    step, seen = 0, []
    for number, (_, grey) in enumerate(frames):
        query = f"sweep=b&sharp_px=4&guide=plane&step={step}&rate=3&seconds={number / 10}"
        answer = post(client, grey, query).json()
        step = answer["step"]
        seen.append((answer["step"], answer["fresh"], answer["best_at"]))
    assert [one[0] for one in seen] == sorted(one[0] for one in seen)
    assert seen[-1][0] == 1
    assert [one[1] for one in seen].count(True) == 1
    assert 0 < next(one[2] for one in seen if one[0] == 1) < 3 * len(frames) / 10


@pytest.mark.parametrize("kind", ["jpg", "png"])
def test_pictures_are_taken_too(client, frames, kind):
    packed = cv2.imencode(f".{kind}", cv2.cvtColor(frames[0][1], cv2.COLOR_GRAY2BGR))[1].tobytes()
    answer = client.post("/api/live/measure?sweep=p", content=packed, headers={"content-type": f"image/{kind}"})
    assert answer.status_code == 200, answer.text
    assert answer.json()["frame"] == 0


def test_sharp_parts_are_told(client, frames):
    sharpest = min(frames, key=lambda one: abs(one[0]))[1]
    answer = post(client, np.tile(sharpest, (2, 2)), "sweep=o&limit_px=6", path="outline").json()
    cells = [one for row in answer["cells"] for one in row]
    assert {1} <= set(cells) <= {0, 1, None}
    assert "by the standard" in answer["says"]


BAD = {
    "no picture": ("sweep=x", b"GIF89a", {}, "no JPEG or PNG"),
    "broken": ("sweep=x", b"\xff\xd8\xff nothing", {}, "cannot be read as a picture"),
    "too few bytes": ("sweep=x&width=100&height=100", b"x" * 99, GREY, "a byte a pixel"),
    "too many pixels": ("sweep=x&width=2000&height=1000", b"", GREY, "a million at most"),
    "too small": ("sweep=x&width=20&height=20", b"x" * 400, GREY, "at least 64 pixels"),
    "no key": ("sweep=a%20b&width=64&height=64", b"x" * 4096, GREY, "letters and digits"),
    "no guide": ("sweep=x&width=64&height=64&guide=no", b"x" * 4096, GREY, "Choose from free"),
    "no step": ("sweep=x&width=64&height=64&guide=plane&step=99", b"x" * 4096, GREY, "no such step"),
    "no blur": ("sweep=x&sharp_px=nan", b"", GREY, "sharp_px"),
    "nowhere": ("sweep=x&at=inf", b"", GREY, "at"),
}


@pytest.mark.parametrize("case", BAD)
def test_what_cannot_be_measured_is_refused_with_a_sentence(client, case):
    query, body, headers, said = BAD[case]
    answer = client.post(f"/api/live/measure?{query}", content=body, headers=headers)
    assert answer.status_code == 422
    assert said in answer.json()["error"]


def test_a_picture_of_too_many_pixels_is_refused_before_it_is_unpacked(client):
    packed = cv2.imencode(".png", np.zeros((2000, 2000), np.uint8))[1].tobytes()
    answer = client.post("/api/live/measure?sweep=x", content=packed, headers={"content-type": "image/png"})
    assert answer.status_code == 422
    assert "a million pixels at most" in answer.json()["error"]


def test_other_sites_may_not_measure(client):
    foreign = {**GREY, "origin": "http://elsewhere.example"}
    answer = client.post("/api/live/measure?sweep=x&width=64&height=64", content=b"x" * 4096, headers=foreign)
    assert answer.status_code == 403


def test_sweeps_end_by_themselves_and_only_so_many_run_at_once(frames):
    now = [0.0]
    sweeps = LiveSweeps(clock=lambda: now[0])
    grey = frames[0][1]
    for number in range(MOST_AT_ONCE):
        sweeps.measure(f"key{number}", ORDER, grey)
    with pytest.raises(BusyError, match="32 live sweeps run at once"):
        sweeps.measure("more", ORDER, grey)
    now[0] = IDLE_S + 1
    assert sweeps.measure("more", ORDER, grey).reading.frame == 0
    assert len(sweeps) == 1


def test_another_order_begins_the_sweep_anew(frames):
    sweeps = LiveSweeps()
    for _, grey in frames[:3]:
        sweeps.measure("one", ORDER, grey)
    again = sweeps.measure("one", SweepOrder(measures="stars", sharp_px=4.0), frames[3][1])
    assert again.reading.frame == 0
