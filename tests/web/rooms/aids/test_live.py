"""The Live page without a browser: what it is told, what it may ask for, and stills that are kept."""

import cv2
import numpy as np
import pytest

from welotrope.core.finder.made_up_view import FRAMES, HEIGHT_PX, WIDTH_PX
from welotrope.core.practice.scene_list import FOR_LIVE
from welotrope.store.queries import log, pictures


def scale(client, query):
    return client.get(f"/aids/live/scale?{query}&setup=1&at=2m").json()


def test_only_this_page_may_ask_for_a_camera(client):
    policy = client.get("/aids/live").headers["permissions-policy"]
    assert "camera=(self)" in policy
    assert policy.count("(self)") == 1
    for path in ("/aids", "/scale", "/static/css/app.css"):
        assert "camera=()" in client.get(path).headers["permissions-policy"]


def test_the_scale_follows_width_and_magnification_and_the_stop_looked_through(client):
    whole, magnified, wide = (
        scale(client, query) for query in ("px=1920&stop=8", "px=1920&stop=8&step=2", "px=3840&stop=8")
    )
    assert magnified["levels"][-1]["px"] == pytest.approx(2 * whole["levels"][-1]["px"], rel=0.02)
    assert wide["levels"][-1]["px"] == pytest.approx(2 * whole["levels"][-1]["px"], rel=0.02)
    assert "f/8" in whole["says"]
    assert magnified["half"] == "limit of the standard"
    assert scale(client, "px=400&stop=2")["half"] == "blur of 2 pixels"


def test_a_stack_is_reckoned_from_its_ring_step_or_refused(client):
    found = scale(client, "px=3840&stop=8&frames=6&turn=4")
    assert found["frames"] == 6
    assert found["step_px"] > 0
    refused = client.get("/aids/live/scale?px=1920&setup=1&at=2m&stop=8&frames=6&turn=0.01")
    assert refused.status_code == 422
    assert "Blur of one step" in refused.json()["error"]


@pytest.mark.parametrize("scene", FOR_LIVE)
def test_the_made_up_camera_is_sharpest_at_its_best(client, scene):
    told = client.get(f"/aids/live/made-up/{scene}.json?setup=1").json()
    assert told["frames"] == FRAMES
    fine = []
    x, y = int(told["x"] * WIDTH_PX), int(told["y"] * HEIGHT_PX)
    for index in range(1, FRAMES, 4):
        answer = client.get(f"/aids/live/made-up/{scene}/{index}.jpg?setup=1")
        picture = cv2.imdecode(np.frombuffer(answer.content, np.uint8), cv2.IMREAD_GRAYSCALE)
        assert picture.shape == (HEIGHT_PX, WIDTH_PX)
        part = picture[max(y - 48, 0) : y + 48, max(x - 48, 0) : x + 48]
        fine.append((cv2.Laplacian(part, cv2.CV_32F).var(), index))
    best = max(fine)[1]
    assert 8 < best < FRAMES - 8
    assert max(fine)[0] > 2 * fine[0][0]


@pytest.mark.parametrize("path", ["nowhere.json", "figurehead/99.jpg", "nowhere/3.jpg"])
def test_places_that_are_not_there_are_refused(client, path):
    assert client.get(f"/aids/live/made-up/{path}").status_code == 422


def test_a_body_on_film_is_told_so(practised_client, client):
    for setup in range(1, 8):
        page = client.get(f"/aids/live?setup={setup}").text
        assert ("records on film" in page) != ("Open a camera" in page)


def test_a_still_is_kept_with_a_frame_and_measured(client):
    random = np.random.default_rng(1)
    still = cv2.imencode(".jpg", random.integers(0, 255, (300, 400), dtype=np.uint8))[1].tobytes()
    batch = "0123456789abcdef"
    sent = client.post(f"/log/pictures/drop?batch={batch}&name=live.jpg", content=still)
    assert sent.status_code in (200, 204), sent.text
    answer = client.post("/aids/live/keep?setup=1&at=2m&stop=4", data={"batch": batch}, follow_redirects=False)
    assert answer.status_code == 303
    assert answer.headers["location"].startswith("/log?done=")
    with client.app.state.database.session(write=False) as uow:
        frame = log.last_frame(uow, 1)
        kept = pictures.pictures_of_frames(uow, [frame.id])[frame.id][0]
        assert pictures.measured(uow, kept.id)["width_px"] == 400
    assert (frame.stop, frame.aid, frame.tags) == (4, "live", ("live",))
    assert frame.distance_mm == pytest.approx(2000, rel=0.01)
    assert kept.name == "live.jpg"
    again = client.post("/aids/live/keep?setup=1", data={"batch": batch})
    assert again.status_code == 422
    assert "did not come" in again.text


def test_the_live_picture_is_saved_as_an_aid_and_judged(client):
    answer = client.post("/aids/live/aid?setup=1", data={"live_px": "1920", "live_step": "10"}, follow_redirects=False)
    assert answer.headers["location"].startswith("/aids?")
    page = client.get("/aids?setup=1&at=2m&stop=2").text
    assert "Live on the computer" in page
    assert "Save as an aid" in client.get("/aids/live?setup=1").text
    assert client.post("/aids/live/aid?setup=1", data={"live_px": "9"}).status_code == 422
    assert client.post("/aids/live/aid?setup=1", data={"live_px": "1920", "live_step": "x"}).status_code == 422


def test_a_stack_that_cannot_be_measured_still_opens_the_page(client):
    page = client.get("/aids/live?setup=1&guide=stack&frames=6&turn=0.01")
    assert page.status_code == 200
    assert 'value="stack" selected' in page.text
