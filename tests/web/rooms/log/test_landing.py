"""A folder that is watched for the log: what lands is imported, shown and can be judged."""

import io
import time

import numpy as np
from PIL import Image

from tests.web.pages import soup, text_of, words


def jpeg(seed):
    grey = np.random.default_rng(seed).integers(0, 255, (300, 450), dtype=np.uint8)
    held = io.BytesIO()
    Image.fromarray(grey).save(held, "JPEG")
    return held.getvalue()


def seen(client, words):
    while words not in text_of(page := client.get("/log/landing", headers={"hx-request": "true"})):
        time.sleep(0.05)
    return page


def test_what_lands_is_imported_and_shown_and_what_cannot_be_read_is_said(client, tmp_path):
    (tmp_path / "before.jpg").write_bytes(jpeg(1))
    outing = soup(client.get("/log/landing")).select("#outing option")[1]["value"]
    began = client.post("/log/landing", data={"folder": str(tmp_path), "outing": outing})
    assert "Take the first picture" in text_of(began)
    (tmp_path / "first.jpg").write_bytes(jpeg(2))
    seen(client, "first.jpg")
    (tmp_path / "broken.jpg").write_bytes(b"\xff\xd8 nothing")
    page = seen(client, "broken.jpg")
    (tmp_path / "second.jpg").write_bytes(jpeg(3))
    page = seen(client, "second.jpg")
    assert "2 pictures from" in text_of(page)
    picture = soup(page).select_one("figure a")["href"]
    assert client.get(soup(page).select_one("figure img")["src"]).headers["content-type"] == "image/jpeg"
    assert "second.jpg" in text_of(client.get(picture))
    ended = client.post("/log/landing/stop")
    assert words(soup(ended).select_one("h1")).startswith("0 of 2 pictures belong to a frame")
    assert "before.jpg" not in text_of(ended)
    assert "second.jpg" in text_of(client.get(f"/log/pictures?outing={outing}"))


def test_a_folder_that_is_none_is_refused_and_kept(client):
    answer = client.post("/log/landing", data={"folder": "/nowhere/at/all"})
    assert answer.status_code == 422
    assert "there is no such folder" in text_of(answer)
    assert soup(answer).select_one("#folder")["value"] == "/nowhere/at/all"
