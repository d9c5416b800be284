"""The first form as a page: every way to look leads to a ring setting, and what cannot be is said."""

import re

import pytest

from tests.web.pages import headline, soup, text_of, undo_path
from welotrope.core.kit.camera_kind import CAMERA_KINDS, ScaleShown

LEAST = {"focal": "50", "stops": "2", "nearest": "0.5 m", "throw": "half", "near": "2 m", "far": "4 m"}


@pytest.mark.parametrize("kind", CAMERA_KINDS, ids=lambda kind: kind.id)
def test_every_kind_leads_to_a_setting_and_back(empty_client, kind):
    answer = empty_client.post("/start", data=LEAST | {"kind": kind.id})
    assert headline(answer).startswith("Index on 2.6" if kind.scale is ScaleShown.RING else "Focus at 2.6")
    aids = text_of(empty_client.get("/aids"))
    assert ("typical values" in aids) == bool(kind.usual)
    kit = text_of(empty_client.get("/kit"))
    assert ("180° by eye" in kit) == ("of extension a turn" in kit) == ("Throw of the ring" in kit) == kind.turns
    empty_client.post(undo_path(answer))
    assert headline(empty_client.get("/")) == "Your first focus setting in a minute"


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"megapixels": "0"}, "Megapixels"),
        ({"focal": "wide"}, "Focal length"),
        ({"stops": "zero"}, "stops"),
        ({"near": "5 m"}, "at or beyond far"),
        ({"near": ""}, "half empty"),
        ({"nearest": "near"}, "that is not a distance"),
        ({"size": "huge"}, "picture size"),
    ],
)
def test_what_cannot_be_is_said_at_its_field_and_nothing_is_stored(empty_client, change, words):
    answer = empty_client.post("/start", data=LEAST | {"kind": "slr"} | change)
    assert answer.status_code == 422
    assert words.lower() in text_of(answer).lower()
    assert headline(empty_client.get("/")) == "Your first focus setting in a minute"


def test_the_backups_page_and_everything_as_one_file(client):
    assert headline(client.get("/kit/backups")) == "0 backups kept"
    archive = client.get("/kit/backups/everything.zip")
    assert archive.content[:2] == b"PK"
    assert archive.headers["content-type"] == "application/zip"
    assert client.get("/kit/backups/../welotrope.sqlite3").status_code == 404


def test_a_zoom_starts_with_both_its_ends(empty_client):
    answer = empty_client.post("/start", data=LEAST | {"kind": "slr", "focal": "35-70", "stops": "3.5"})
    assert answer.status_code == 200
    assert "My 35–70 mm" in text_of(answer)
    assert [button["value"] for button in soup(answer).select(".zoom button")] == ["35", "70"]


@pytest.mark.parametrize(
    ("scene", "subjects"),
    [
        ({"near": "1 m", "far": ""}, ["1 m"]),  # one subject: that, and not the horizon
        ({"near": "1 m", "far": "1 m"}, ["1 m"]),
        ({"near": "1 m", "far": "", "horizon": "yes"}, ["1 m", "∞"]),
        ({"near": "1 m", "far": "3 m"}, ["1 m", "3 m"]),
    ],
)
def test_one_subject_is_enough_and_the_horizon_is_asked_for(empty_client, scene, subjects):
    answer = empty_client.post("/start", data=LEAST | {"kind": "mirrorless"} | scene)
    assert [one["value"] for one in soup(answer).select("input[name=distance]") if one["value"]] == subjects


def test_a_lens_in_feet_only_answers_in_feet_first(empty_client):
    answer = empty_client.post("/start", data=LEAST | {"kind": "slr", "engraved": "ft", "nearest": "2", "near": "8 ft"})
    assert re.match(r"Index on \d+′\d*½?″? \(\d\.\d\d m\)", headline(answer))
    assert headline(empty_client.get("/scale")).startswith("Index on ")
    assert "′ at f/" in headline(empty_client.get("/scale")) or "″ at f/" in headline(empty_client.get("/scale"))


def test_another_camera_and_its_lens_are_in_hand_after_a_few_answers(empty_client):
    empty_client.post("/start", data=LEAST | {"kind": "mirrorless"})
    answer = empty_client.post("/kit/add/camera", data={"kind": "slr", "prisms": "split", "name": "Kyrstad"})
    assert headline(answer) == "A lens for Kyrstad"
    scale = empty_client.post("/kit/add/lens", data={
        "body": "2", "joined": "made", "focal": "28", "stops": "2.8", "engraved": "ft", "nearest": "1"})  # fmt: skip
    assert "My 28 mm on Kyrstad" in text_of(scale)
    fit = text_of(empty_client.get("/kit"))
    assert "careful" not in fit.lower().split("set-ups")[0]
    assert "Not known: the mount" not in fit
    lens = empty_client.get("/kit/lenses/2")
    assert soup(lens).select_one("#f-closest_focus")["value"] in ("1′", "1 ft")


def test_the_pieces_listed_join_lens_and_body_and_two_may_be_stacked(client):
    page = soup(client.get("/kit/setups/1"))
    assert [" ".join(one.get_text().split()) for one in page.select("#f-adapter_id option")][1:] == [
        "thread ring, 27.5: M42×1 to Ostrel bayonet, 27.46 mm"
    ]
    client.post("/kit/adapters", data={
        "name": "extender", "lens_side": "Ostrel bayonet", "body_side": "Ostrel bayonet", "optics": "yes",
        "factor": "1.4", "nominal": "20"})  # fmt: skip
    page = soup(client.get("/kit/setups/1"))
    (extender,) = [one["value"] for one in page.select("#f-converter_id option") if "extender" in one.get_text()]
    answer = client.post("/kit/setups/1", data={
        "body_id": "1", "lens_id": page.select_one("#f-lens_id option[selected]")["value"], "standard": "print",
        "adapter_id": page.select_one("#f-adapter_id option[selected]")["value"], "converter_id": extender})  # fmt: skip
    assert answer.status_code == 200
    kit = text_of(client.get("/kit"))
    assert "70 mm" in kit or "f/2" in kit
