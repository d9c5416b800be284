"""The sections of Plan as pages: the answer first, what cannot be in a sentence, what was typed kept."""

import html

import pytest

from tests.web.pages import fields_of, headline, soup, text_of, undo_path

SECTIONS = ("zones", "light", "moving", "sitter", "close", "night", "compare")


@pytest.mark.parametrize("setup", [1, 2, 3, 5, 6])
def test_every_section_answers_for_every_set_up(client, setup):
    client.post("/in-hand", data={"setup": str(setup), "back": "/scale"})
    for section in SECTIONS:
        answer = client.get(f"/plan/{section}")
        assert answer.status_code == 200, section
        assert headline(answer)
        assert "nan" not in text_of(answer), section
        assert soup(answer).select_one('.tabs a[aria-current="page"]')["href"] == f"/plan/{section}"


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("zones?near=1.2m", "3 settings would do it"),
        ("zones?stop=none", "Stop: read “none”"),
        ("zones?far=10cm", "this lens does not focus so near"),
        ("zones?overlap=95", "Overlap"),
        ("light?near=10cm", "this lens does not focus so near"),
        ("light?light=sun&meter_shutter=1/30&meter_stop=2&meter_iso=400", "contradicts “full sun, hard shadows”"),
        ("light?light=", "Metered shutter"),
        ("light?meter_shutter=1/30", "Metered stop"),
        ("light?iso=800&most_iso=400", "below ISO 800"),
        ("light?iso=0", "no film or sensor"),
        ("moving?angle=90", "comes no nearer"),
        ("moving?speed=9000", "Write 0 to 400"),
        ("moving?distance=20cm", "this lens does not focus so near"),
        ("moving?rate=0", "Burst rate"),
        ("sitter?distance=far", "that is not a distance"),
        ("sitter?stop=0", "no lens has that stop"),
        ("close?subject=big", "that is not a distance"),
        ("close?depth=0", "Depth"),
        ("night?declination=91", "Write -90 to 90"),
        ("night?foreground=5cm", "this lens does not focus so near"),
        ("compare?near=6m&far=2m", "near distance smaller"),
    ],
)
def test_what_cannot_be_is_said_and_what_was_typed_stays(client, path, words):
    answer = client.get(f"/plan/{path}")
    assert answer.status_code == 422
    assert words in text_of(answer)
    section, _, query = path.partition("?")
    kept = fields_of(answer, f"/plan/{section}")
    for pair in query.split("&"):
        name, _, value = pair.partition("=")
        assert html.unescape(str(kept[name])) == value


@pytest.mark.parametrize(
    ("path", "words"),
    [
        ("light?near=1.5m&far=&light=evening&moves=running&held=hand", "No stop works here: at f/16"),
        ("light?near=2m&far=3m&light=indoors&iso=100&most_iso=100", "What to give up, the least first"),
        ("moving?distance=1m&speed=20&stop=2", "through the zone before the next frame"),
        ("close?subject=3mm", "comes closest"),
        ("close?subject=6cm&room=2m", "working distance is only"),
    ],
)
def test_what_does_not_do_is_answered_with_the_nearest_that_works(client, path, words):
    answer = client.get(f"/plan/{path}")
    assert answer.status_code == 200
    assert words in text_of(answer)


def test_a_reading_alone_is_the_light(client):
    path = "/plan/light?light=&meter_shutter=1/30&meter_stop=2&meter_iso=400"
    assert "EV 4.9 at ISO 100" in text_of(client.get(path))


def test_the_power_of_a_close_up_lens_is_worked_out_from_where_it_is_sharp(client):
    client.post(
        "/kit/attachments", data={"name": "old lens", "kind": "close-up lens", "labelled": "2", "measured": "520 mm"}
    )
    assert fields_of(client.get("/kit/attachments/8"), "/kit/attachments/8")["measured"] == "1.92308"
    refused = client.post("/kit/attachments", data={"name": "x", "kind": "close-up lens", "measured": "5 mm"})
    assert "0.1 to 40" in text_of(refused)


def test_two_zones_of_the_wide_lens_in_both_units(client):
    client.post("/in-hand", data={"setup": "2", "back": "/scale"})
    answer = client.get("/plan/zones?stop=8&count=2")
    assert headline(answer).startswith("Two zones at f/8, sharp from 0.46")
    cards = soup(answer).select(".zone-card")
    assert len(cards) == 2
    assert "the engraving is off on this adapter" in " ".join(cards[0].get_text().split())
    assert len(soup(answer).select("[data-dial-panel]")) == 6
    client.post("/unit", data={"unit": "ft", "back": "/scale"})
    assert "1′6½″" in headline(client.get("/plan/zones?stop=8&count=2"))


def test_an_indicator_is_said_in_steps(client):
    client.post("/in-hand", data={"setup": "6", "back": "/scale"})
    assert "Indicator" in text_of(client.get("/plan/zones"))


def test_a_zone_is_kept_as_a_preset_and_undone(client):
    page = client.get("/plan/zones?stop=8")
    form = soup(page).select_one('form[action="/presets"]')
    sent = {field["name"]: field["value"] for field in form.select("input[name]")}
    answer = client.post("/presets", data=sent)
    assert "Saved preset “zone 1”" in text_of(answer)
    assert headline(answer) == headline(page)
    assert "Undid" in text_of(client.post(undo_path(answer)))


def test_a_reaction_is_kept_and_used_and_undone(client):
    before = text_of(client.get("/plan/moving"))
    assert "a typical value" in before
    answer = client.post("/plan/reaction", data={"press": [str(300 + index) for index in range(10)]})
    assert "Saved your reaction, 304 ms" in text_of(answer)
    assert "Your reaction: 304 ms" in text_of(answer)
    assert "a typical value" in text_of(client.post(undo_path(answer), data={"back": "/plan/moving"}))
    assert client.post("/plan/reaction", data={"press": ["20", "30"]}).status_code == 422


def test_film_keeps_its_iso_and_counts_in_its_failure(client):
    client.post("/in-hand", data={"setup": "3", "back": "/scale"})
    base = "/plan/light?near=3m&far=4m&light=starlight&iso=400&most_iso=6400&held=tripod&moves=still"
    plain, failing = (soup(client.get(base + more)) for more in ("", "&exponent=1.3"))
    isos = {row.select("td")[5].get_text() for row in plain.select("table tr")[1:]}
    assert isos == {"400"}
    assert plain.select("table tr")[1].select("td")[4] != failing.select("table tr")[1].select("td")[4]


def test_attachments_are_entered_used_and_deleted(client):
    answer = client.post(
        "/kit/attachments", data={"name": "helicoid", "kind": "focusing helicoid", "least": "17", "most": "31"}
    )
    assert "Added attachment helicoid" in text_of(answer)
    assert "helicoid" in text_of(client.get("/plan/close?subject=7cm&room=0"))
    assert client.post("/kit/attachments", data={"name": "nothing", "kind": "close-up lens"}).status_code == 422
    page = client.get("/kit/attachments/8")
    assert fields_of(page, "/kit/attachments/8")["most"] == "31"
    gone = client.post("/kit/attachments/8/delete")
    assert "Deleted attachment helicoid" in text_of(gone)
    exported = client.get("/kit/export.json").json()["attachments"]
    assert [one["name"] for one in exported] == sorted(one["name"] for one in exported)
    assert len(exported) == 7


def test_a_stack_lists_every_frame_to_tick(client):
    page = soup(client.get("/plan/close?subject=6cm&room=0&depth=8&chosen=1"))
    rail, ring = page.select(".ticks")
    assert len(rail.select("input[type=checkbox]")) == 5
    assert len(ring.select("input[type=checkbox]")) >= 4


def test_own_measures_are_put_in_once_and_said_everywhere(client):
    client.post("/aids/constants", data={"arm_length": "500"})
    client.post("/in-hand", data={"setup": "2", "back": "/scale"})
    assert "1 arm-length" in text_of(client.get("/plan/zones?stop=8"))


def test_a_trap_knows_the_fastest_time_of_the_body(client):
    """A film body, as usual to 1/1000, and one to 1/4000: 6 m/s past at 6 m asks for 1/2000."""
    said = {}
    for setup in ("3", "1"):
        client.post("/in-hand", data={"setup": setup, "back": "/scale"})
        said[setup] = text_of(client.get("/plan/moving?speed=6&angle=60&distance=6m")).split("Slowest shutter")[1][:70]
    assert said["3"].startswith("faster than 1/1000 s, the fastest of this body")
    assert said["1"].startswith("1/2000 s")


@pytest.mark.parametrize(("stop", "words"), [("0.7", "opens no further than f/"), ("64", "closes no further than f/")])
@pytest.mark.parametrize(
    ("path", "asked"),
    [("/scale", {}), ("/aids", {}), ("/plan/zones", {}), ("/plan/night", {}), ("/plan/sitter", {"distance": "1 m"}),
     ("/plan/moving", {"distance": "4 m", "speed": "2", "press": "0.3"})],
)  # fmt: skip
def test_a_stop_the_lens_has_not_got_is_refused(client, path, asked, stop, words):
    page = client.get(path, params={"stop": stop, **asked})
    assert words in text_of(page)
    assert f"at f/{stop}" not in headline(page)
