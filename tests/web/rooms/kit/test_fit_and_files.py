"""Fit, mounts, adapters, slots, sheets and files as pages."""

import ast
import inspect

import pytest

from tests.web.pages import fields_of, soup, text_of, undo_path, words
from welotrope.core.kit import fit_joint, fit_parts
from welotrope.core.rules import RuleFinding, Severity
from welotrope.web.request.templating import environment

ADAPTER = {"name": "new ring", "lens_side": "M42×1", "body_side": "Ostrel bayonet", "nominal": "27.46"}


def undo(client, answer, back="/kit"):
    return client.post(undo_path(answer), data={"back": back})


def test_demo_shows_a_safe_a_careful_and_a_stop_set_up(client):
    items = soup(client.get("/setups")).select("#setup-list li")
    rows = [
        (item.select_one("strong").get_text(), words(item), item.select_one(".verdict").get_text().strip())
        for item in items
    ]
    assert all(f"{lens} on " in said for lens, said, _ in rows)
    rows = [(lens, said.partition(" on ")[2].partition(" 0.0")[0], verdict) for lens, said, verdict in rows]
    assert rows == [
        ("Norrvik 50", "Ostrel 6", "fits"),
        ("Velloise 20", "Ostrel 6", "careful"),
        ("Tarnholt 35", "Kyrstad Reflex", "do not mount"),
        ("Norrvik 50", "Kyrstad Reflex", "fits"),
        ("Brannoch 135", "Ostrel 6", "careful"),
        ("Ostrel 28 W", "Ostrel 6", "fits"),
        ("Lindmere 35–70", "Ostrel 6", "fits"),
    ]


def test_a_stop_warns_on_every_page_until_it_is_cleared(client):
    client.post("/in-hand", data={"setup": "3"})
    for path in ("/scale", "/plan", "/aids", "/log", "/kit", "/help"):
        assert "Do not mount this set-up" in text_of(client.get(path))
    words = text_of(client.get("/kit/setups/3"))
    assert "coupling lever" in words
    assert "Never force a mount" in words
    fields = fields_of(client.get("/kit/lenses/3"), "/kit/lenses/3")
    fields |= {
        "infinity_side": "right",
        "aperture_ring": "cut back or notched",
        "pin": "no",
        "mount": "Kyrstad bayonet",
    }
    for ticked in ("endless", "shortens", "beyond"):
        fields.pop(ticked, None)
    assert client.post("/kit/lenses/3", data=fields).status_code == 200
    assert "Do not mount this set-up" not in text_of(client.get("/scale"))


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"body_side": "M42×1"}, "points at its own mount"), ({"nominal": "-30"}, "Nominal thickness"),
        ({"measured": "thick"}, "not a number"), ({"lens_side": "nowhere"}, "no such mount"), ({"name": ""}, "needs a name"),
    ],
)  # fmt: skip
def test_bad_adapters_are_named(client, change, words):
    answer = client.post("/kit/adapters", data=ADAPTER | change)
    assert answer.status_code == 422
    assert words in text_of(answer)


@pytest.mark.parametrize(
    ("form", "words"),
    [
        ({"name": "", "register_mm": "20"}, "needs a name"), ({"name": "x", "register_mm": "0"}, "Flange distance"),
        ({"name": "x", "throat": "1"}, "Throat"), ({"name": "T2"}, "there is a mount of that name"),
    ],
)  # fmt: skip
def test_bad_mounts_are_named(client, form, words):
    answer = client.post("/kit/mounts", data=form)
    assert answer.status_code == 422
    assert words in text_of(answer)


def test_adapters_and_mounts_are_made_used_and_deleted(client):
    assert "Added adapter new ring" in text_of(client.post("/kit/adapters", data=ADAPTER))
    assert 'value="27.46"' in client.get("/kit/adapters/5").text
    assert "Deleted adapter" in text_of(client.post("/kit/adapters/5/delete"))
    refused = client.post("/kit/adapters/1/delete")
    assert refused.status_code == 422
    assert "set-ups use it" in text_of(refused)
    assert "Added mount Skarn" in text_of(client.post("/kit/mounts", data={"name": "Skarn", "register_mm": "27,8"}))
    assert 'value="27.8"' in client.get("/kit/mounts/7").text


def test_an_adapter_makes_the_set_up_and_a_thick_one_loses_infinity(client):
    client.post("/kit/adapters", data=ADAPTER | {"measured": "27.56"})
    client.post("/kit/setups/1", data={"body_id": "1", "lens_id": "1", "adapter_id": "5", "standard": "print"})
    words = text_of(client.get("/kit"))
    assert "0.10 mm too thick: focus stops at" in words
    routes = text_of(client.get("/kit/setups/1"))
    assert "via new ring 70 mm" in routes


def test_another_screen_is_fitted_and_undone(client):
    answer = client.post("/kit/bodies/2/screen", data={"name": "plain matte, old"})
    assert "Fitted the screen" in text_of(answer)
    assert 'name="split_deviation" type="text" value=""' in answer.text
    assert 'value="6.5"' in undo(client, answer, "/kit/bodies/2").text
    assert client.post("/kit/bodies/2/screen", data={"name": "none such"}).status_code == 422


def test_scale_says_when_the_adapter_moves_infinity(client):
    client.post("/in-hand", data={"setup": "2"})
    assert "Infinity lies 3.8° before the ∞ mark, by your check" in text_of(client.get("/scale"))


def test_slots_warn_when_two_lenses_share_one(client):
    page = text_of(client.get("/kit/bodies/1/slots"))
    assert "Two lenses share slot 2" in page
    moved = client.post("/kit/bodies/1/slots", data={"lens": "2", "number": "3"})
    assert "Two lenses share" not in text_of(moved)
    assert "Two lenses share slot 2" in text_of(undo(client, moved, "/kit/bodies/1/slots"))
    assert client.post("/kit/bodies/1/slots", data={"lens": "2", "number": "99"}).status_code == 422
    assert "keeps no lens data" in text_of(client.get("/kit/bodies/2/slots"))


def test_the_sheet_is_ticked_per_outing_and_changed_per_body(client):
    page = text_of(client.get("/kit/setups/1/sheet"))
    assert "0 of 11 done" in page
    assert "Lens slot 1: 50 mm, f/1.4" in page
    ticked = client.post(
        "/kit/setups/1/sheet/tick", data={"line": "release", "done": "yes"}, headers={"hx-request": "true"}
    )
    assert "1 of 11 done" in text_of(ticked)
    assert "1 of 11 done" in text_of(client.get("/kit/setups/1/sheet"))
    client.post("/log/outings", data={"name": "Next day", "day": "2026-05-01"})
    assert "0 of 11 done" in text_of(client.get("/kit/setups/1/sheet"))
    added = client.post("/kit/setups/1/sheet/line", data={"text": "Lens cap off", "reason": "it happens"})
    assert "0 of 12 done" in text_of(added)
    assert "Lens cap off" in text_of(client.get("/kit/setups/2/sheet"))
    dropped = client.post("/kit/setups/1/sheet/line", data={"line": "user-mode", "drop": "yes"})
    assert "user mode" not in text_of(dropped)
    assert "user mode" in text_of(undo(client, dropped, "/kit/setups/1/sheet"))
    restored = client.post("/kit/setups/1/sheet/restore")
    assert "Lens cap off" not in text_of(restored)
    assert client.post("/kit/setups/1/sheet/line", data={"text": ""}).status_code == 422


def test_a_kit_file_is_shown_stored_and_undone(client, empty_client):
    text = client.get("/kit/export.json").text
    preview = empty_client.post("/kit/import", files={"file": ("kit.json", text)})
    assert "Nothing is stored yet" in text_of(preview)
    assert empty_client.get("/kit/lenses/1").status_code == 404
    stored = empty_client.post("/kit/import/store", data={"text": text})
    assert "Imported" in text_of(stored)
    assert empty_client.get("/kit/export.json").json() == client.get("/kit/export.json").json()
    undo(empty_client, stored)
    assert empty_client.get("/kit/export.json").json()["lenses"] == []


def test_a_bad_row_stops_the_whole_file_and_is_named_by_its_line(empty_client):
    table = "name;focal;stops;closest;throw\r\nGood 50;50;2 2,8 4;0,5 m;200\r\nBad 50;50;2 4;inf;200\r\nWorse;x;;;\r\n"
    answer = empty_client.post("/kit/import", files={"file": ("lenses.csv", table.encode("cp1252"))})
    words = text_of(answer)
    assert answer.status_code == 422
    assert "line 3 (Bad 50)" in words
    assert "must turn nearer" in words
    assert "line 4 (Worse)" in words
    assert "Good 50 lens" in words
    assert empty_client.post("/kit/import/store", data={"text": table}).status_code == 422
    assert empty_client.get("/kit/lenses/1").status_code == 404
    good = "\r\n".join(table.splitlines()[:2])
    assert "Imported 1 thing" in text_of(empty_client.post("/kit/import/store", data={"text": good}))
    assert 'value="2 2.8 4"' in empty_client.get("/kit/lenses/1").text


def test_five_megabytes_are_refused(empty_client):
    answer = empty_client.post("/kit/import", files={"file": ("kit.json", "[" + "1," * 2_500_000 + "1]")})
    assert answer.status_code == 413
    assert "2 MB" in text_of(answer)
    assert empty_client.post("/kit/import").status_code == 422


def test_the_schema_is_documented(client):
    assert set(client.get("/kit/schema.json").json()["properties"]) >= {"format", "version", "lenses", "setups"}


def test_the_fit_of_a_choice_is_shown_before_it_is_stored(client):
    safe = client.get("/kit/setups/new", params={"body_id": 1, "lens_id": 1, "adapter_id": "1"})
    assert "No conflict found" in text_of(safe)
    alone = client.get("/kit/setups/new", params={"body_id": 1, "lens_id": 1, "adapter_id": "", "chosen_for": "1 on 1"})
    assert "does not go on" in text_of(alone)
    made = client.get("/kit/setups/new", params={"body_id": 1, "lens_id": 1, "made_for_body": "yes"})
    assert "No conflict found" in text_of(made)


def test_a_reflex_with_its_own_lens_is_focused_wide_open(client):
    client.post("/in-hand", data={"setup": "3"})
    words = text_of(client.get("/aids", params={"at": "3 m", "stop": "11"}))
    assert "viewed at f/2.8" in words
    assert "lay a line across the split" in words
    assert "one half goes black at f/11" in text_of(
        client.get("/aids", params={"at": "3 m", "stop": "11", "view": "taking"})
    )


@pytest.mark.parametrize("drawing", ["register", "thickness", "protrusion", "throat", "lever", "pin"])
def test_every_finding_has_its_drawing(drawing):
    finding = RuleFinding(
        rule="rule",
        severity=Severity.CAREFUL,
        topic="",
        text="why",
        reason="",
        clears="what clears it",
        drawing=drawing,
    )
    page = environment().get_template("components/verdict/fit.html").render(findings=[finding], checked=[], joins=True)
    assert "<svg" in page


def test_no_rule_names_a_drawing_there_is_not():
    sources = [inspect.getsource(module) for module in (fit_joint, fit_parts)]
    calls = [node for source in sources for node in ast.walk(ast.parse(source)) if isinstance(node, ast.Call)]
    found = [node for node in calls if isinstance(node.func, ast.Name) and node.func.id == "found"]
    named = {given.value.value for node in found for given in node.keywords if given.arg == "drawing"}
    assert len(found) > 15
    assert named <= {"register", "thickness", "protrusion", "throat", "lever", "pin"}
    assert named


@pytest.mark.parametrize("back", ["javascript:alert(1)", "//evil.example", "https://evil.example/kit"])
def test_a_way_back_leads_nowhere_else(client, back):
    page = client.get("/kit/mounts/new", params={"back": back, "fills": "mount"})
    assert back not in page.text
    made = client.post(
        "/kit/mounts", data={"name": "Elsewhere", "back": back, "fills": "mount"}, follow_redirects=False
    )
    assert made.headers["location"].startswith("/kit?done=")


def test_an_electronic_finder_takes_no_screen(client):
    form = {"name": "Fjeldr", "size": "36 × 24", "width_px": "6000", "finder": "electronic finder"}
    assert client.post("/kit/bodies", data=form | {"finder_magnification": "0.8"}).status_code == 422
    assert client.post("/kit/bodies", data=form).status_code == 200


def test_an_adapter_made_by_a_form_left_before_it_was_drawn_anew_stays_chosen(client):
    form = fields_of(client.get("/kit/setups/new"), "/kit/setups")
    lens, body = _chosen(client, "lens_id", "Tarnholt 35"), _chosen(client, "body_id", "Ostrel 6")
    assert form["chosen_for"] != f"{lens} on {body}", "the form must be of another pair still"
    left = client.post(
        "/kit/setups/detour", data=form | {"lens_id": lens, "body_id": body, "detour": "adapters:adapter_id"}
    )
    asked = fields_of(left, "/kit/adapters") | {"name": "made on the way", "lens_side": "M42×1"}
    back = client.post("/kit/adapters", data=asked)
    assert words(soup(back).select_one("#f-adapter_id option[selected]")).startswith("made on the way")
    assert words(soup(back).select_one("#f-lens_id option[selected]")) == "Tarnholt 35"


def _chosen(client, field, name):
    options = soup(client.get("/kit/setups/new")).select(f"#f-{field} option")
    return next(option["value"] for option in options if words(option) == name)
