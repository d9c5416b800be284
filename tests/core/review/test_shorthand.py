"""Pencilled lines read as a photographer means them."""

import datetime as dt

import pytest

from tests.core.kit.test_zoom import BODY, LENS, M42
from welotrope.core.errors import OutOfRangeError
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.plan.field_settings import Preset, field_settings
from welotrope.core.review.outcomes import Outcome
from welotrope.core.review.shorthand import MOST_LINES, KnownSetup, read_lines
from welotrope.core.units.distance import Unit

FIFTY = Lens(
    name="Norrvik 50", focal_mm=50, stops=(1.4, 2, 2.8, 4, 5.6, 8, 11, 16), closest_mm=450, throw_deg=230, mount=M42
)
WIDE = Lens(name="Tarn 28", focal_mm=28, stops=(2.8, 4, 5.6, 8, 11), closest_mm=300, throw_deg=120, mount=M42)
SLIP = Preset(id=1, lens_id=1, name="slip way", distance_mm=4_000.0, stop=5.6, subjects=())


def known(id, setup, presets=()):
    return KnownSetup(id=id, setup=setup, settings=field_settings(setup, presets))


KIT = [
    known(1, Setup(body=BODY, lens=FIFTY), (SLIP,)), known(2, Setup(body=BODY, lens=WIDE)),
    known(3, Setup(body=BODY, lens=LENS, zoom_mm=35)), known(3, Setup(body=BODY, lens=LENS)),
]  # fmt: skip


def one(text, unit=Unit.METRIC):
    (read,) = read_lines(text, KIT, 1, unit)
    assert read.problem == "", read.problem
    return read.frame


def plane(frame):
    return float(frame.known.setup.ring(frame.stop).distance_at_angle(frame.angle_deg))


def test_the_line_of_the_card():
    frame = one("28/8 z:far ok")
    assert (frame.known.id, frame.stop, frame.setting_name, frame.outcome) == (2, 8, "far zone", Outcome.HIT)
    assert frame.angle_deg == KIT[1].settings[0].setting.angle_deg


@pytest.mark.parametrize(
    ("line", "mm"),
    [("50/4 2.4m", 2400), ("50/4 8ft", 2438.4), ("50/4 inf", float("inf")), ("50/4 90cm", 900), ("50/4 z:slip", 4000)],
)
def test_a_distance_or_a_kept_setting_says_where_the_ring_stood(line, mm):
    assert plane(one(line)) == pytest.approx(mm, rel=1e-6)


def test_a_number_alone_is_in_the_unit_of_the_page():
    assert plane(one("50/4 8", Unit.FEET)) == pytest.approx(2438.4)
    assert plane(one("50/4 8", Unit.METRIC)) == pytest.approx(8000)


@pytest.mark.parametrize(
    ("word", "outcome"),
    [
        ("ok", Outcome.HIT),
        ("F", Outcome.FRONT),
        ("behind", Outcome.BEHIND),
        ("m", Outcome.MOVED),
        ("?", Outcome.UNSURE),
    ],
)
def test_what_it_showed(word, outcome):
    assert one(f"50/4 3m {word}").outcome is outcome


def test_shutter_and_stop_are_not_taken_for_each_other():
    frame = one("50/8 3m 1/250 iso800 14:32; rope, wet")
    assert (frame.stop, frame.shutter_s, frame.iso) == (8, 1 / 250, 800)
    assert (frame.time, frame.note) == (dt.time(14, 32), "rope, wet")
    assert one("50/8 3m 2s").shutter_s == 2
    assert one("50/8 3m 1/8s").shutter_s == 1 / 8


def test_what_is_left_out_is_as_before_but_never_the_result():
    lines = read_lines("50/8 z:far ok iso400\nb\nf11\n28/4 2m", KIT, 1, Unit.METRIC)
    first, second, third, fourth = (line.frame for line in lines)
    assert (second.stop, second.angle_deg, second.setting_name) == (first.stop, first.angle_deg, "far zone")
    assert (second.outcome, second.iso) == (Outcome.BEHIND, 400)
    assert (third.stop, third.angle_deg, third.outcome) == (11, first.angle_deg, None)
    assert (fourth.known.id, fourth.stop) == (2, 4)


def test_frames_are_numbered_on_from_what_is_written():
    lines = read_lines("50/8 z:far\nok\n12 ok\nok\n24A 2m\n\nok", KIT, 3, Unit.METRIC)
    assert [line.frame.number for line in lines if line.frame] == ["3", "4", "12", "13", "24A", "25"]
    assert (lines[5].frame, lines[5].problem) == (None, "")


def test_a_zoom_is_meant_by_the_focal_length_it_was_used_at():
    assert one("35/8 3m").known.setup.lens.focal_mm == 35
    assert one("70/8 3m").known.setup.lens.focal_mm == 70


def test_a_set_up_is_named_where_two_have_the_focal_length():
    assert one("@tarn f4 2m").known.id == 2
    assert one("@lind 35/8 3m").known.id == 3


def test_a_setting_at_another_stop_keeps_its_distance():
    frame = one("50/11 z:slip")
    assert frame.stop == 11
    assert plane(frame) == pytest.approx(4000, rel=1e-6)


@pytest.mark.parametrize(
    ("line", "words"),
    [
        ("85/2 3m", "no lens of the kit has that focal length"), ("28/8 z:zebra", "It has far zone, near zone"),
        ("50/8 perhaps", "none of the words"), ("@nobody 3m", "no set-up is called so"), ("50/8 0.1m", "does not focus so near"),
        ("50/8", "no zone or distance"), ("z:", "no such setting"), ("50/0.1 3m", "0.5"), ("3m", "no stop is said"),
    ],
)  # fmt: skip
def test_a_line_that_says_nothing_is_told_why_and_the_next_one_goes_on(line, words):
    bad, good = read_lines(f"{line}\n50/8 z:far", KIT, 1, Unit.METRIC)
    assert words in bad.problem
    assert bad.frame is None
    assert good.frame.number == "2"


def test_more_than_a_day_of_lines_is_refused():
    with pytest.raises(OutOfRangeError, match="in parts"):
        read_lines("50/8 z:far\n" * (MOST_LINES + 1), KIT, 1, Unit.METRIC)
