"""The pages that measure, audit, sight and print: what they answer, keep, undo, and refuse."""

import math
import re

import pytest

from tests.web.pages import headline, soup, text_of
from welotrope.core.ring.helicoid import Helicoid
from welotrope.store.queries.kit import get_setup

TRUE = Helicoid.from_closest_focus(50, 450, 230)


def take(client, setup):
    client.post("/in-hand", data={"setup": str(setup)})


def measured(pairs, **more):
    return {
        "position": [f"{angle:g}" for angle, _ in pairs],
        "distance": [text for _, text in pairs],
        "use": ["auto"] * len(pairs),
        "kind": "engraved",
        "way": "degrees",
    } | more


EIGHT = [
    (round(float(TRUE.angle_at_distance(m * 1000)), 1), "inf" if math.isinf(m) else f"{m} m")
    for m in (0.45, 0.5, 0.6, 0.8, 1.2, 2, 4, math.inf)
]


def test_readings_are_fitted_kept_used_and_forgotten(client):
    worked = client.post("/scale/measure", data=measured(EIGHT, intent="work"))
    lead = TRUE.lead_mm
    found = re.match(r"A plain helicoid: (\d+\.\d\d) mm a turn", headline(worked))
    assert float(found[1]) == pytest.approx(lead, abs=0.03)
    assert "this assumes that the engraving is right" in text_of(worked)
    assert "measured throw" in text_of(client.get("/scale"))

    kept = client.post("/scale/measure", data=measured(EIGHT, intent="keep"))
    assert "Saved 8 readings of Norrvik 50" in text_of(kept)
    assert "8 readings of the engraving" in text_of(client.get("/scale"))
    assert 'value="230"' in client.get("/scale/measure?record=scale").text

    forgotten = client.post("/scale/measure/forget", data={"record": "scale"})
    assert "measured throw" in text_of(client.get("/scale"))
    undo = forgotten.text.split('action="/undo/')[1].split('"')[0]
    client.post(f"/undo/{undo}", data={"back": "/scale"})
    assert "8 readings of the engraving" in text_of(client.get("/scale"))


def test_a_bad_reading_is_named_with_its_amount(client):
    pairs = [(angle + (3.1 if text == "1.2 m" else 0), text) for angle, text in EIGHT]
    answer = text_of(client.post("/scale/measure", data=measured(pairs)))
    assert "The 1.20 m point is off by 3.1°, too near on the ring: read again? It was left out." in answer
    assert "7 of 8 count" in answer


def test_pasted_readings_count_like_typed_ones(client):
    lines = "\n".join(f"{angle}: {text}" for angle, text in EIGHT)
    answer = client.post("/scale/measure", data={"kind": "engraved", "way": "degrees", "paste": lines})
    assert "8 of 8 count" in text_of(answer)


@pytest.mark.parametrize(
    ("data", "words"),
    [
        (measured([(10, "2 m")]), "1 reading"),
        (measured([]), "0 readings"),
        (measured([(0, "inf"), (50, "2 m"), (50, "1 m")]), "1.00 m and 2.00 m at 50°"),
        (measured([(10, "5 m"), (12, "2 m"), (14, "1 m")]), "within 5°"),
        (measured([(200, "inf"), (100, "2 m"), (10, "50 cm")]), "the wrong way round"),
        (measured([(0, "inf"), (200, "30 cm")]), "nearer than closest focus"),
        (measured([(i, f"{10 + i / 10} m") for i in range(500)]), "500 readings"),
        (measured([(0, "inf"), (100, "1 m")], way="tape", diameter="0"), "no focus ring is that size"),
        (measured([(0, "inf"), (100, "1 m")], way="tape"), "Measure the ring across"),
        (measured([(0, "inf"), (100, "soon")]), "Reading 2."),
        (measured([(0, "inf"), (100, "1 m")], error="wide"), "Reading error"),
    ],
)
def test_bad_readings_have_their_sentence_and_keep_what_was_typed(client, data, words):
    answer = client.post("/scale/measure", data=data | {"intent": "keep"})
    assert answer.status_code == 422
    assert words in text_of(answer)
    assert all(f'value="{text}"' in answer.text for text in data["distance"][:60])
    assert "measured throw" in text_of(client.get("/scale"))


def test_depth_marks_give_the_rule_and_both_rings(client):
    answer = client.get("/scale/marks")
    assert (
        headline(answer)
        == "For your criterion use marks 0.4 stops wider; none of this lens’s marks lies nearer to that than the one you set."
    )
    assert answer.text.count('class="engraved-pair"') == answer.text.count('class="true-pair"') == 16
    stricter = client.post(
        "/scale/marks", data={"stop": ["16"], "far": ["inf"], "at_index": [""], "near": ["1.4 m"], "intent": "work"}
    )
    assert "stops wider: set f/11, read the" in headline(stricter)


@pytest.mark.parametrize(
    ("row", "words"),
    [
        (("16", "inf", "", ""), "one mark says nothing"),
        (("", "inf", "", "2 m"), "Reading 1."),
        (("16", "1 m", "", "2 m"), "must read nearer than the far"),
    ],
)
def test_bad_depth_marks(client, row, words):
    stop, far, index, near = row
    data = {"stop": [stop], "far": [far], "at_index": [index], "near": [near]}
    answer = client.post("/scale/marks", data=data | {"intent": "keep"})
    assert answer.status_code == 422
    assert words in text_of(answer)


def test_infinity_by_the_adapter_by_sighting_and_out_of_reach(client):
    take(client, 5)
    assert headline(client.get("/scale/infinity")).startswith("Infinity is not reached: the farthest sharp distance is")
    take(client, 1)
    assert headline(client.get("/scale/infinity")) == "Infinity should be at the ∞ mark; not checked yet"
    client.post("/scale/infinity", data={"angle": ["6", "6.4", "1.2 mm"], "warmth": ["cold", "warm", "warm"]})
    answer = client.get("/scale/infinity")
    assert headline(answer) == "Infinity lies 4.9° before the ∞ mark, 2.6 mm along the ring"
    assert "By 3 sightings" in text_of(answer)
    assert "a job for a technician" in text_of(answer)
    assert "by your check" in text_of(client.get("/scale"))
    client.post("/scale/infinity", data={"farthest": "25 m"})
    assert headline(client.get("/scale/infinity")).startswith(
        "Infinity is not reached: the farthest sharp distance is 25"
    )


@pytest.mark.parametrize(
    ("data", "words"),
    [
        ({}, "there is none"),
        ({"angle": ["far"], "warmth": [""]}, "Sighting 1."),
        ({"angle": ["5000"], "warmth": [""]}, "no ring has infinity there"),
        ({"angle": ["1"], "warmth": [""], "farthest": "25 m"}, "seen and missed at once"),
    ],
)
def test_bad_sightings(client, data, words):
    answer = client.post("/scale/infinity", data=data)
    assert answer.status_code == 422
    assert words in text_of(answer)


def test_the_widest_stops_stand_ready_for_trials_of_shift_and_a_stop_alone_is_none(client):
    sent = soup(client.get("/scale/shift"))
    assert [one["value"] for one in sent.select("[name=stop]")][:4] == ["1.4", "1.4", "2", "2"]
    data = {"stop": ["1.4", "1.4", "2", "2", "2.8"], "angle": ["60", "60.2", "61", "61.2", ""], "intent": "keep"}
    assert client.post("/scale/shift", data=data).status_code == 200
    assert headline(client.get("/scale/shift")) == "Turn 1.0° nearer at f/2"


def test_focus_shift_is_applied_where_the_set_up_is_used(client):
    before = headline(client.get("/scale?at=2 m&stop=8"))
    data = {"stop": ["1.4", "1.4", "8", "8"], "angle": ["60", "60.2", "62", "62.2"], "intent": "keep"}
    client.post("/scale/shift", data=data)
    assert headline(client.get("/scale/shift")) == "Turn 2.0° nearer at f/8"
    after = client.get("/scale?at=2 m&stop=8")
    # What stands under the index is 2° farther in; what is in focus and sharp is as before.
    assert headline(client.get("/scale?at=2 m&stop=1.4")).startswith("Index on 2.00 m at f/1.4. Sharp")
    index, focus_and_limits = headline(after).split(", which focuses at 2.00 m")
    assert focus_and_limits == before.removeprefix("Index on 2.00 m at f/8")
    with client.app.state.database.session() as uow:
        setup = get_setup(uow, 1).setup
    under = float(setup.known.scale.distance_at_angle(setup.known.true.angle_at_distance(2000) + 2.0))
    assert index == f"Index on {under / 1000:.2f} m at f/8"
    assert "Focus shift is included" in text_of(after)
    assert 'class="shift-mark" transform="translate(16 0)"' in after.text


def test_an_indicator_says_which_step(client):
    take(client, 6)
    assert "Indicator one step right of 15." in text_of(client.get("/scale?at=42cm&stop=5.6"))
    assert "placed by 14 readings" in headline(client.get("/scale/measure"))
    assert "deck rail 0.42 m at f/5.6, indicator one step right of 15" in text_of(client.get("/plan"))


def test_what_a_ring_rests_on_is_always_labelled(client):
    labels = []
    for setup in range(1, 7):
        take(client, setup)
        page = client.get("/scale").text
        labels.append(page.split('class="basis basis-')[1].split('"')[0])
    assert labels == ["engraved", "engraved", "calibrated", "engraved", "engraved", "calibrated"]


@pytest.mark.parametrize(
    ("query", "words"),
    [
        ("part=strip&diameter=0", "no focus ring is that size"),
        ("part=strip&diameter=64&distances=20cm", "this lens does not focus so near"),
        ("part=strip&diameter=64&distances=soon", "not a distance"),
        ("part=strip&diameter=64&thickness=9", "no strip is that thick"),
        ("part=strip&diameter=64&copies=900", "Copies"),
        ("part=card&stops=f/zero", "stop"),
        ("part=strip&diameter=64&distances=" + "+".join(f"{i}m" for i in range(1, 60)), "59 distances"),
    ],
)
def test_a_wrong_sheet_is_never_printed(client, query, words):
    page = client.get(f"/scale/print?chosen=1&{query}")
    assert page.status_code == 422
    assert words in text_of(page)
    assert "print.pdf" not in page.text
    for suffix in ("pdf", "svg"):
        assert client.get(f"/scale/print.{suffix}?chosen=1&{query}").status_code == 422


def test_a_strip_without_a_diameter_is_a_question_and_the_answer_is_remembered(client):
    client.post("/kit/lenses", data={"name": "Bare", "focal": "28", "stops": "2.8 8", "closest_focus": "0.3 m"})
    client.post("/kit/setups", data={"body_id": "1", "lens_id": "7", "standard": "print"})
    page = client.get("/scale/print")
    assert page.status_code == 200
    assert "Enter the diameter of the focus ring" in text_of(page)
    assert client.get("/scale/print.pdf").status_code == 422
    order = {"chosen": "1", "part": "strip", "diameter": "58.5", "copies": "1"}
    shown = client.post("/scale/print", data=order)
    assert "Remembered 58.5 mm as the ring of Bare" in text_of(shown)
    assert 'value="58.5"' in client.get("/kit/lenses/7").text
    again = client.post("/scale/print", data=order | {"diameter": "60"})
    assert "Remembered" not in text_of(again)
    assert 'value="60"' in again.text


def test_a_guessed_throw_is_warned_about_before_printing(client):
    client.post("/kit/lenses", data={"name": "Bare", "focal": "28", "stops": "2.8 8", "closest_focus": "0.3 m"})
    client.post("/kit/setups", data={"body_id": "1", "lens_id": "7", "standard": "print"})
    assert "a strip would be inaccurate" in text_of(client.get("/scale/print"))


NUMBERS = {"one": 1, "two": 2, "half": 0.5, "quarter": 0.25, "quarters": 0.75}


@pytest.mark.parametrize("stop", ["2.8", "5.6", "16"])
def test_an_indicators_words_stay_within_the_window(client, stop):
    """Read back as a person would, the step named lies within half the sharp window of what was asked."""
    take(client, 6)
    for mm in range(300, 1000, 61):
        page = client.get(f"/scale?at={mm}mm&stop={stop}")
        words = re.search(r"Indicator ([^.<]*(?:\.\d[^.<]*)?)\.", text_of(page))[1]
        step = float(re.search(r"(\d+)$", words)[1])
        if "on step" not in words:
            amount = sum(NUMBERS.get(word, 0) for word in words.split(" of ")[0].split()) or float(words.split()[0])
            # The scale runs from infinity at the right, so right of a step is farther.
            step += amount if "left" in words else -amount
        seen = soup(page)
        window = float(seen.select_one('[data-out="window-deg"]').get_text().split()[0])
        angle = float(seen.select_one("#ring")["data-angle"])
        throw = float(re.search(r"the whole bar, ([\d.]+) steps", text_of(page))[1])
        deg_per_step = float(seen.select_one("#ring")["aria-valuemax"]) / throw
        assert abs(step - angle / deg_per_step) <= max(window / 2, 0.05) * 1.02, words
