"""Pages that answer what photographers looked for and did not find."""

import pytest

from tests.web.pages import headline, soup, text_of


def test_plan_with_the_stop_one_has_and_the_farthest_on_its_mark(client):
    query = "name=a&distance=1m&name=b&distance=6ft&stop_rule=own&own_stop=16&focus=far+mark"
    page = client.get(f"/plan?{query}")
    assert "f/16" in headline(page)
    assert "1.83 m" in headline(page)
    assert soup(page).select_one("#own-stop option[selected]")["value"] == "16"
    assert "Field of view" in text_of(page)


def test_a_scene_that_no_stop_holds_is_bracketed(client):
    page = text_of(client.get("/plan?name=a&distance=0.6m&name=b&distance=inf&stop_rule=own&own_stop=8"))
    assert "focus bracket at f/8" in page
    assert "frames hold all of it together" in page
    assert "focus bracket" not in text_of(client.get("/plan?name=a&distance=3m&name=b&distance=4m"))


def test_zones_show_kept_settings_their_gaps_and_ones_own_height(client):
    page = text_of(client.get("/plan/zones"))
    assert "Your presets, and the gaps between them" in page
    assert "nothing sharp from" in page
    assert "By your own height" in page
    assert "With a wall" in page


def test_compare_by_equal_framing_and_what_to_begin_with(client):
    page = text_of(client.get("/plan/compare?near=2+m&far=6+m&stop=f%2F8&width=1.5+m"))
    assert "Same field of view, 1.50 m wide, at f/8" in page
    assert "Which lens to begin with" in page
    bad = client.get("/plan/compare?near=2+m&far=6+m&stop=f%2F8&width=1cm")
    assert bad.status_code == 422
    assert "larger than life" in text_of(bad)


def test_sitter_and_close_up_tell_the_background(client):
    assert "Background blur" in text_of(client.get("/plan/sitter"))
    assert "eyes and the knot of a tie" in text_of(client.get("/plan/sitter"))
    close = text_of(client.get("/plan/close"))
    assert "pairs of close-up lenses" in close


def test_the_kit_says_how_far_the_lens_stands_out(client):
    assert "Length in front of the mount" in text_of(client.get("/kit"))
    assert "69 mm" in text_of(client.get("/kit"))  # a lens of 42 mm on a ring of 27.46


def test_a_lamp_is_measured_where_it_goes_on_and_off(empty_client):
    empty_client.post("/start", data={"kind": "slr", "focal": "50", "stops": "1.8", "near": "3 m", "throw": "half"})
    form = {one["name"]: one.get("value", "") for one in soup(empty_client.get("/kit/bodies/1")).select("form[action='/kit/bodies/1'] input[name]") if one.get("type") not in ("checkbox", "radio")}  # fmt: skip
    empty_client.post("/kit/bodies/1", data=form | {"kind": "slr", "confirmation": "yes", "medium": "film"})
    assert "Measure the dead band" in text_of(empty_client.get("/aids?at=3m&stop=1.8"))
    answer = empty_client.post("/aids/lamp?at=3m&stop=1.8", data={"on": "20", "off": "26"})
    row = soup(answer).select_one("[data-aid=confirmation]")
    assert "±3.0°" in row.get_text()
    assert soup(empty_client.get("/kit/bodies/1")).select_one("#f-confirmation_half")["value"] != ""


@pytest.mark.parametrize(("on", "off", "words"), [("20", "20", "0° from where it goes on"), ("x", "3", "not a number")])
def test_a_lamp_that_was_misread_is_said(client, on, off, words):
    answer = client.post("/aids/lamp?at=3m&stop=2", data={"on": on, "off": off})
    assert answer.status_code == 422
    assert words in text_of(answer) or "confirmation" not in answer.text


def test_rounds_tell_how_long_a_frame_takes(client):
    assert "s per frame" in text_of(client.get("/aids?at=3m&stop=2"))
