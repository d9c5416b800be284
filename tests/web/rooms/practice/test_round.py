"""Rounds over the wire: begun, looked at, answered once, left, abandoned; and nothing that tells the distance."""

import json
import re

import cv2
import numpy as np
import pytest

from tests.web.pages import headline, soup, text_of
from welotrope.store.queries.practice import list_trials
from welotrope.web.rooms.practice.keeper import MOST_OPEN, RoundKeeper


def begin(client, **order):
    form = {"exercise": "single", "aid": "magnified", "scene": "shed", "stop": "1.4"} | order
    answer = client.post("/practice/rounds", data=form, follow_redirects=False)
    assert answer.status_code == 303, text_of(answer)
    return answer.headers["location"]


def opened(client, url):
    return client.app.state.rounds.find(url.rsplit("/", 1)[1]).round


def trials(client):
    with client.app.state.database.session() as session:
        return list_trials(session)


def test_room_opens_on_the_record_and_a_new_set_up_on_an_invitation(client):
    assert re.match(r"Magnified view: \d+ % of 12 rounds within the window", headline(client.get("/practice")))
    assert "times the smallest visible error" in text_of(client.get("/practice"))
    client.post("/in-hand", data={"setup": "2"})
    assert headline(client.get("/practice")) == "No practice with Velloise 20 yet"


def test_a_round_is_looked_at_released_and_kept(client):
    before = len(trials(client))
    url = begin(client)
    page = client.get(url)
    assert "the mast" in headline(page)
    plan = json.loads(soup(page).select_one("#finder-plan").string)
    frame = client.get(f"{url}/frame?i=30&step=6&x=1&y=0")
    assert frame.headers["content-type"] == "image/jpeg"
    assert frame.headers["cache-control"] == "no-store"
    picture = cv2.imdecode(np.frombuffer(frame.content, np.uint8), cv2.IMREAD_COLOR)
    assert picture.shape == (600, 900, 3)
    assert plan["steps"] == [1, 6, 12]

    sent = {"angle": "40", "seconds": "5.5", "path": "[[0, 20], [2.5, 44], [5.5, 40]]"}
    to = client.post(f"{url}/shutter", data=sent).json()["to"]
    result = client.get(to)
    assert re.search(r"(Sharp|Behind|In front)", headline(result))
    assert "5.5 s" in text_of(result)
    for which in ("", "?whole=1"):
        shown = soup(client.get(to)).select_one('img[src^="/practice/photos/"]')["src"].partition("?")[0]
        photo = client.get(shown + which)
        assert cv2.imdecode(np.frombuffer(photo.content, np.uint8), cv2.IMREAD_COLOR).shape == (480, 720, 3)
    kept = trials(client)
    assert len(kept) == before + 1
    assert kept[0].trial.path == ((0.0, 20.0), (2.5, 44.0), (5.5, 40.0))
    assert (kept[0].lens_name, kept[0].trial.aid, kept[0].trial.stop) == ("Norrvik 50", "magnified", 1.4)


def test_the_same_round_is_answered_once(client):
    url = begin(client)
    first = client.post(f"{url}/shutter", data={"angle": "40", "seconds": "3"}).json()
    count = len(trials(client))
    second = client.post(f"{url}/shutter", data={"angle": "90", "seconds": "9"}).json()
    assert second == {"to": first["to"], "again": True}
    assert len(trials(client)) == count
    back = client.get(url, follow_redirects=False)
    assert back.headers["location"] == first["to"]


def test_a_release_without_a_round_keeps_nothing(client):
    count = len(trials(client))
    answer = client.post("/practice/rounds/nothing-here/shutter", data={"angle": "40"})
    assert answer.status_code == 404
    assert "This round is over" in answer.json()["problem"]
    assert client.get("/practice/rounds/nothing-here", follow_redirects=False).headers["location"] == "/practice?lost=1"
    assert "That round is over" in text_of(client.get("/practice?lost=1"))
    assert client.get("/practice/rounds/nothing-here/frame?i=1").status_code == 404
    assert client.get("/practice/trials/9999").status_code == 404
    assert len(trials(client)) == count


@pytest.mark.parametrize(
    ("sent", "words"),
    [
        ({"angle": "999"}, "Ring: read “999°”"),
        ({"angle": "soon"}, "not a number"),
        ({"angle": "nan"}, "Ring"),
        ({"angle": "40", "seconds": "-3"}, "Time"),
        ({"angle": "40", "lean": "4000"}, "Lean"),
        ({"angle": "40", "path": "{"}, "no list of pairs"),
        ({"angle": "40", "path": "[[5, 1], [2, 1]]"}, "time must run forwards"),
        ({"angle": "40", "path": "[" * 70000}, "too long"),
    ],
)
def test_a_bad_release_keeps_nothing_and_the_round_goes_on(client, sent, words):
    url = begin(client)
    count = len(trials(client))
    answer = client.post(f"{url}/shutter", data=sent)
    assert answer.status_code == 422
    assert words in answer.json()["problem"]
    assert len(trials(client)) == count
    assert "to" in client.post(f"{url}/shutter", data={"angle": "40", "seconds": "1"}).json()


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ("i=99999", "Ring"), ("i=-40", "Ring"), ("i=x", "not a number"), ("i=1&step=7", "no such step"),
        ("i=1&lean=900", "Lean"), ("i=1&t=-1", "Time"), ("i=1&step=6&x=80", "outside the frame"), ("i=1&level=loud", "none of that name"),
    ],
)  # fmt: skip
def test_a_bad_look_says_why(client, query, words):
    answer = client.get(f"{begin(client)}/frame?{query}")
    assert answer.status_code == 422
    assert words in answer.text


@pytest.mark.parametrize(
    ("order", "words"),
    [
        ({"exercise": "juggling"}, "there is none of that name"),
        ({"scene": "moon"}, "is not done there"),
        ({"aid": "crystal ball"}, "is not done with it"),
        ({"stop": "wide"}, "stop"),
    ],
)
def test_a_round_that_cannot_be_begun(client, order, words):
    answer = client.post("/practice/rounds", data={"exercise": "single", "aid": "matte"} | order)
    assert answer.status_code == 422
    assert words in text_of(answer)


def test_ten_rounds_begun_and_abandoned_leak_nothing(client):
    count = len(trials(client))
    urls = [begin(client) for _ in range(10)]
    for url in urls:
        client.get(f"{url}/frame?i=3")
    keeper = client.app.state.rounds
    assert len(keeper) == MOST_OPEN
    assert client.get(urls[0], follow_redirects=False).headers["location"] == "/practice?lost=1"
    assert client.post(f"{urls[-1]}/leave").status_code == 204
    assert opened(client, urls[-1]).finder.stage._painted == {}
    assert client.get(f"{urls[-1]}/frame?i=3").status_code == 200
    assert len(trials(client)) == count


def test_rounds_not_looked_at_for_long_are_forgotten(client):
    clock = [0.0]
    keeper = RoundKeeper(clock=lambda: clock[0])
    made = client.app.state.rounds.find(begin(client).rsplit("/", 1)[1])
    from welotrope.core.finder.round import RoundRequest

    order = RoundRequest("single", "matte", "shed", 1.4)
    old = keeper.open(1, made.setup, order)
    clock[0] = 3 * 3600
    keeper.open(1, made.setup, order)
    assert keeper.find(old.key) is None


@pytest.mark.parametrize("exercise", ["single", "through", "drop-in", "stars", "trap", "lean"])
def test_nothing_sent_before_the_release_tells_the_distance(client, exercise):
    """Neither page nor frame headers hold the subject's distance, its ring angle or the seed, nor follow from them."""
    aid, scene = ("magnified", {"stars": "stars", "trap": "boat", "lean": "sitter"}.get(exercise, "shed"))
    if exercise == "stars":  # needs a ring that turns past infinity
        client.post("/scale/infinity", data={"angle": "9", "warmth": "not noted", "intent": "keep"})
    url = begin(client, exercise=exercise, aid=aid, scene=scene)
    made = opened(client, url)
    scene = made.finder.stage.scene
    x = 50 * 50 / (scene.target_mm - 50) if np.isfinite(scene.target_mm) else 0.0
    angle = made.ring.angle_at_extension(x)
    sent = client.get(url)
    frame = client.get(f"{url}/frame?i=2")
    texts = [sent.text, str(dict(sent.headers)), str(dict(frame.headers)), frame.content[:300].decode("latin-1")]
    secrets = [str(made.seed)] + ([f"{scene.target_mm:.0f}", f"{angle:.2f}"] if x else [])
    for secret in secrets:
        # As a number by itself: a hash in a file's address or a key may hold its digits by chance.
        alone = re.compile(rf"(?<![\w.-]){re.escape(secret)}(?![\w.-])")
        assert not any(alone.search(text) for text in texts), secret
    again = begin(
        client,
        exercise=exercise,
        aid=aid,
        scene={"stars": "stars", "trap": "boat", "lean": "sitter"}.get(exercise, "shed"),
    )
    assert opened(client, again).seed != made.seed


def test_own_rounds_stand_in_on_the_aids_page(client):
    words = text_of(client.get("/aids?at=2.4m&stop=1.4"))
    assert re.search(r"\d+ % to (over )?\d+ %, your 17 trials, ±", words)  # 12 rounds and 5 frames
    assert "your 11 trials" in words  # peaking
    assert "From 47 of your trials" in words
    average = text_of(client.get("/aids?at=2.4m&stop=1.4&average=yes"))
    assert "your 17 trials" not in average
    assert "What the average eye would do" in average


def test_a_round_is_deleted_and_brought_back(client):
    url = client.post(f"{begin(client)}/shutter", data={"angle": "40", "seconds": "1"}).json()["to"]
    count = len(trials(client))
    answer = client.post(f"{url}/delete")
    assert len(trials(client)) == count - 1
    undo = answer.text.split('action="/undo/')[1].split('"')[0]
    client.post(f"/undo/{undo}", data={"back": "/practice"})
    assert len(trials(client)) == count


def test_a_measured_display_decides_what_a_round_could_show(client):
    client.post("/in-hand", data={"setup": "4"})

    def shown_mm(**more):
        url = begin(client, aid="matte")
        sent = {"angle": "40", "seconds": "5.5", "step": "3", "shown": "100", "meant": "yes"} | more
        client.post(f"{url}/shutter", data=sent)
        return max(trials(client), key=lambda one: one.id).trial.shown_mm

    before = shown_mm()
    assert "Measure this display" in text_of(client.get(begin(client, aid="matte")))
    answer = client.post("/practice/display", data={"card_px": "324", "eye": "60 cm"})
    assert "A pixel of this display is 0.264 mm, seen from 60 cm" in headline(answer)
    page = client.get(begin(client, aid="matte"))
    assert "Measure this display" not in text_of(page)
    plan = json.loads(soup(page).select_one("#finder-plan").string)
    assert len(plan["finder_px"]) == len(plan["steps"]) == 2
    assert plan["finder_px"][0] == pytest.approx(3 * plan["finder_px"][1])
    assert shown_mm() > 1.5 * before
    assert shown_mm(shown="4000") == pytest.approx(before)
    client.post("/practice/display", data={"card_px": "324", "bar": "63.5", "eye": "2 ft"})
    assert "0.265 mm, seen from 61 cm" in headline(client.get("/practice/display"))


@pytest.mark.parametrize(
    ("sent", "words"),
    [
        ({"card_px": "324", "eye": "near"}, "Distance from the eye: read “near”"),
        ({"card_px": "324", "eye": "2 cm"}, "Distance from the eye: read “2 cm”; nobody looks at a screen from there"),
        ({"card_px": "4", "eye": "60 cm"}, "Size on the screen: read “4”"),
        ({"card_px": "324", "bar": "9999", "eye": "60 cm"}, "no screen is like that"),
        ({"card_px": "324", "bar": "x", "eye": "60 cm"}, "Size on the screen: read “x”"),
    ],
)
def test_a_display_that_cannot_be_is_named_and_what_was_typed_stays(client, sent, words):
    answer = client.post("/practice/display", data=sent)
    assert answer.status_code == 422
    assert words in text_of(answer)
    assert soup(answer).select_one("#eye")["value"] == sent["eye"]
    assert "display" not in client.cookies


@pytest.mark.parametrize("cookie", ["x", "0.2", "0.264-", "nan-600", "0.264-inf", "9-600"])
def test_a_cookie_that_is_no_display_is_none(client, cookie):
    client.cookies.set("display", cookie)
    assert headline(client.get("/practice/display")) == "Hold a card to the screen"
