"""What was meant and where focus fell: places in the picture, searches, rolls, and misses on the ring."""

import datetime as dt
import math
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st

from welotrope.core.errors import WelotropeError
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import ImageFormat, SharpnessStandard, Standard
from welotrope.core.review.evidence import ring_miss
from welotrope.core.review.frame import Frame, Spot, frame_at, parse_spot, read_tags, write_spot
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.roll import Roll, frame_order, next_film_frame, spread_times
from welotrope.core.review.search import read_search, words_of
from welotrope.core.units.distance import Unit

NOON = dt.datetime(2026, 3, 14, 12)


@given(st.floats(0, 1), st.floats(0, 1))
def test_a_place_written_is_read_back_to_half_a_percent(x, y):
    back = parse_spot(write_spot(Spot(x, y)))
    assert math.isclose(back.x, x, abs_tol=0.006)
    assert math.isclose(back.y, y, abs_tol=0.006)


@pytest.mark.parametrize("text", ["left upper", "Upper left", "16.7 16.7"])
def test_the_nine_places_have_names(text):
    assert write_spot(parse_spot(text)) == "upper left"


@pytest.mark.parametrize("text", ["101 50", "-1 20", "nose", "20", "inf inf", "1 2 3"])
def test_what_is_no_place_is_refused_in_a_sentence(text):
    with pytest.raises(WelotropeError, match="Place in the picture"):
        parse_spot(text)


def test_tags_are_read_once_each_and_bounded():
    assert read_tags("#Boat, wind  boat") == ("boat", "wind")
    with pytest.raises(WelotropeError, match="Tags"):
        read_tags(" ".join(map(str, range(13))))
    with pytest.raises(WelotropeError, match="Tags"):
        read_tags("x" * 31)


def a_setup(**lens):
    made = Lens(name="Norrvik 50", focal_mm=50, stops=(1.4, 2, 4, 8), closest_mm=450, throw_deg=230, **lens)
    standard = SharpnessStandard(kind=Standard.PRINT)
    return Setup(body=Body("B", ImageFormat(36, 24, 6000), ()), lens=made, standard=standard)


def missed(setup, set_mm, outcome, miss_mm, stop=1.4, believed=None):
    new = frame_at(1, setup, setup.ring(stop).setting_for(set_mm), stop, NOON)
    values = {name: getattr(new, name) for name in type(new).__dataclass_fields__}
    return Frame(**{**values, "id": 1, "outing_id": 1, "outcome": outcome, "miss_mm": miss_mm, "believed_mm": believed})


@pytest.mark.parametrize("set_mm", [600.0, 2000.0, 9000.0])
@pytest.mark.parametrize(("outcome", "sign"), [(Outcome.FRONT, -1), (Outcome.BEHIND, 1)])
def test_a_miss_is_how_far_the_ring_would_have_to_be_turned(set_mm, outcome, sign):
    """It has the sign of the side, is what lies between both marks, and a plane at the end of the zone is one half."""
    setup = a_setup()
    ring, off = setup.ring(1.4), set_mm * 0.04
    found = ring_miss(setup, missed(setup, set_mm, outcome, off))
    assert found.plane_mm == pytest.approx(set_mm + sign * off, rel=1e-4)
    turned = ring.angle_at_distance(set_mm) - ring.angle_at_distance(set_mm + sign * off)
    assert found.error_deg == pytest.approx(float(turned), rel=1e-3)
    assert math.copysign(1, found.error_deg) == sign
    # A plane at the very end of the sharp range is a miss of half the window.
    zone = missed(setup, set_mm, outcome, 0.0)
    end = zone.near_mm if outcome is Outcome.FRONT else zone.far_mm
    edge = ring_miss(setup, missed(setup, set_mm, outcome, abs(end - zone.distance_mm)))
    assert abs(edge.windows) == pytest.approx(1.0, abs=0.08)


def test_a_miss_from_infinity_is_told_by_where_it_fell():
    setup = a_setup()
    found = ring_miss(setup, missed(setup, math.inf, Outcome.FRONT, 20_000.0))
    assert found.plane_mm == 20_000
    assert found.error_deg < 0


def test_a_zoom_misses_by_the_ring_of_the_focal_length_it_had():
    """Wherever it stands now: the same miss is a quarter of the extension at half the focal length."""
    from welotrope.demo.skarnmere import ADAPTERS, BODIES, LENSES, SETUPS

    body, lens, standard, adapter = SETUPS[6]
    zoom = Setup(body=BODIES[body], lens=LENSES[lens], standard=standard, adapter=ADAPTERS[adapter])
    short = zoom.at_focal(35)
    frame = missed(short, 3000.0, Outcome.FRONT, 300.0, stop=4)
    assert ring_miss(zoom, frame) == ring_miss(short, frame)
    assert frame.focal_mm == pytest.approx(35)
    assert ring_miss(zoom, frame).windows != pytest.approx(
        ring_miss(zoom, replace(frame, focal_mm=70.0)).windows, rel=0.2
    )


def test_the_subject_is_where_it_was_believed_to_be():
    setup = a_setup()
    found = ring_miss(setup, missed(setup, 2000.0, Outcome.FRONT, 100.0, believed=2200.0))
    assert found.plane_mm == 2100


@pytest.mark.parametrize("change", [
    {"miss_mm": None}, {"outcome": Outcome.HIT}, {"outcome": None}, {"outcome": Outcome.SOFT}, {"distance_mm": None},
    {"stop": None}, {"miss_mm": 1990.0},
])  # fmt: skip
def test_what_is_not_known_gives_no_miss(change):
    setup = a_setup()
    assert ring_miss(setup, replace(missed(setup, 2000.0, Outcome.FRONT, 100.0), **change)) is None


def test_a_search_reads_words_bounds_and_days():
    found = read_search("Norrvik f<4 >2m <5 -soft #boat 2026-03 f<x", Unit.METRIC, outcome="unchecked", lens="L")
    assert (found.words, found.without) == (("norrvik", "#boat"), ("soft",))
    assert (found.near_mm, found.far_mm, found.closed_stop, found.open_stop) == (2000, 5000, 4, None)
    assert (found.day, found.outcome, found.lens, found.unread) == ("2026-03", "unchecked", "L", ("f<x",))
    assert read_search("<9", Unit.FEET).far_mm == pytest.approx(2743.2)
    assert not read_search("", Unit.METRIC).asks
    assert read_search("x", Unit.METRIC, outcome="nonsense").outcome == ""


def test_a_frame_is_found_by_all_that_is_known_of_it():
    frame = replace(
        missed(a_setup(), 2000.0, Outcome.FRONT, 100.0), subject="Ida, hands", aid="split_image", technique="lean",
        tags=("boat",), iso=400, film_frame="12A", instead="rope\ncoil",
    )  # fmt: skip
    words = words_of(frame, roll="26-07")
    for word in (
        "norrvik",
        "ida,",
        "split",
        "lean",
        "#boat",
        "iso400",
        "12a",
        "26-07",
        "coil",
        "front",
        "f/1.4",
        "50mm",
    ):
        assert f" {word} " in words, word


def test_a_roll_is_exposed_at_its_push():
    assert Roll(name="a", iso=400, push_stops=-1).exposure_index == 200
    assert Roll(name="a").exposure_index is None
    said = Roll(name="26-07", film="Grauwe", iso=400, push_stops=1).describe(film_frame="12A")
    assert said == "Roll 26-07, Grauwe ISO 400 at 800, frame 12A"
    with pytest.raises(WelotropeError, match="Push"):
        Roll(name="a", push_stops=9)


def test_film_frames_count_and_sort_as_on_the_roll():
    assert sorted(["10", "2", "12A", "00", "12", ""], key=frame_order) == ["00", "2", "10", "12", "12A", ""]
    assert [next_film_frame(one) for one in ("1", "12A", "")] == ["2", "13", ""]


def test_times_are_spread_evenly_and_in_order():
    times = spread_times(5, NOON, NOON + dt.timedelta(hours=1))
    assert [(one - NOON).seconds // 60 for one in times] == [0, 15, 30, 45, 60]
    assert spread_times(1, NOON, NOON + dt.timedelta(hours=1)) == [NOON]
    with pytest.raises(WelotropeError, match="before the first"):
        spread_times(3, NOON, NOON - dt.timedelta(1))
