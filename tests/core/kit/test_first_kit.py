import pytest
from hypothesis import given
from hypothesis import strategies as st

from welotrope.core.inputs import inputs_of
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.aids.registry import kind_of
from welotrope.core.kit.attachment import Attachment
from welotrope.core.kit.body import Body, parse_picture_size
from welotrope.core.kit.camera_kind import (
    CAMERA_KINDS,
    DIGITAL,
    FILM,
    KIND_BY_ID,
    CameraKindId,
    ScaleShown,
    ScreenCentre,
)
from welotrope.core.kit.first_kit import closest_from_front, first_body, first_image, first_lens, pixels_across
from welotrope.core.kit.known_ring import Basis
from welotrope.core.kit.lens import Lens, RingSource
from welotrope.core.kit.measuring_hints import MEASURING_HINTS
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import ImageFormat
from welotrope.core.units.distance import Unit

SLR, COMPACT = KIND_BY_ID[CameraKindId.SLR], KIND_BY_ID[CameraKindId.COMPACT]


@pytest.mark.parametrize("kind", CAMERA_KINDS, ids=lambda kind: kind.id)
@pytest.mark.parametrize("medium", [FILM, DIGITAL])
def test_a_kind_brings_aids_that_are_said_to_be_typical_and_none_that_it_cannot_have(kind, medium):
    image = first_image(kind, parse_picture_size(kind.size), None, film=medium == FILM)
    body = first_body(kind, "mine", image, prisms=ScreenCentre.BOTH)
    assert len(body.typical_aids) == len(body.shown_aids) == len(body.aids)
    assert body.kind is kind
    assert body.traits.finder in kind.finders
    assert {kind_of(aid).tag for aid in body.aids} <= set(kind.aids)
    assert body.is_film == (medium == FILM and not kind.on_sensor)
    if kind.has_screen:
        assert {"split_image", "microprism"} <= {kind_of(aid).tag for aid in body.aids}


@given(megapixels=st.floats(1, 150), width=st.floats(5, 60), shape=st.floats(1, 2))
def test_megapixels_are_the_pixels_of_both_sides(megapixels, width, shape):
    across = pixels_across(megapixels, width, width / shape)
    assert across * across / shape / 1e6 == pytest.approx(megapixels, rel=0.01)
    assert across == pixels_across(megapixels, width / shape, width)


def test_a_throw_by_eye_is_no_measured_throw():
    lens = Lens(name="x", focal_mm=50, stops=(2, 16), closest_mm=500, throw_deg=180, throw_by_eye=True)
    assert lens.ring_source is RingSource.EYE
    assert Setup(body=first_body(SLR, "mine", ImageFormat(36, 24)), lens=lens).known.basis is Basis.ASSUMED


def test_a_compact_that_focuses_at_a_centimetre_from_its_front_has_a_ring_that_can_be():
    lens = first_lens((6.1,), (2.0, 8.0), 10.0, None, kind=COMPACT)
    assert lens.closest_mm == closest_from_front(10.0, 6.1) > 4 * 6.1
    assert lens.engraved_units == ()
    ring = lens.helicoid()
    assert float(ring.distance_at_angle(ring.throw_deg)) == pytest.approx(lens.closest_mm, rel=1e-6)


@given(front=st.floats(0, 3000), focal=st.floats(3, 90))
def test_what_is_measured_from_the_front_is_never_nearer_to_the_sensor_than_a_lens_can_focus(front, focal):
    found = closest_from_front(front, focal)
    assert found >= front
    assert found >= 4 * focal  # 2f before and 2f behind: the least there is


def test_a_lens_engraved_in_feet_only_has_no_metres():
    assert first_lens((75.0,), (3.5,), 1066.8, None, kind=SLR, units=(Unit.FEET,)).engraved_units == (Unit.FEET,)


@pytest.mark.parametrize(
    ("text", "size"),
    [  # sizes as data sheets give them
        ("APS-C", (23.6, 15.7)), ("four thirds", (17.3, 13.0)), ("4/3", (17.3, 13.0)), ('1/1.7"', (7.44, 5.58)),
        ("1/1.7", (7.44, 5.58)), ('2/3"', (8.8, 6.6)), ("127", (40, 40)), ("126", (26.5, 26.5)), ("120", (56, 56)),
        ("crop 1.3", (28.7, 19.1)), ("1.54", (23.5, 15.6)), ("4.7", (7.44, 5.58)), ("crop 5", (6.9, 5.2)), ("1.5x", (23.6, 15.7)),
    ],
)  # fmt: skip
def test_sizes_by_every_usual_name(text, size):
    assert parse_picture_size(text) == size


@given(crop=st.floats(0.5, 9.9).map(lambda crop: round(crop, 2)))
def test_a_crop_factor_is_the_diagonal_of_full_frame_over_that_of_the_picture(crop):
    width, height = parse_picture_size(f"crop {crop}")
    assert 43.27 / (width**2 + height**2) ** 0.5 == pytest.approx(crop, rel=0.04)  # “1.3” is 1.26


def test_every_scale_on_a_screen_is_a_bar_without_engraved_distances():
    for kind in CAMERA_KINDS:
        lens = first_lens((50.0,), (2.8,), 700.0, None, kind=kind)
        assert bool(lens.engraved_units) == (kind.scale is ScaleShown.RING)


def test_every_way_to_find_something_belongs_to_a_field():
    asked = {one.name for record in (Body, Lens, Mount, Adapter, Attachment) for one in inputs_of(record)} | {
        "exponent"
    }
    assert set(MEASURING_HINTS) <= asked
    assert all(one.text.endswith(".") and one.drawing for one in MEASURING_HINTS.values())
