import pytest
from hypothesis import given
from hypothesis import strategies as st

from welotrope.core.inputs import inputs_of
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.attachment import Attachment
from welotrope.core.kit.body import Body
from welotrope.core.kit.finding import FINDINGS
from welotrope.core.kit.first_kit import FINDERS, first_body, pixels_across
from welotrope.core.kit.known_ring import Basis
from welotrope.core.kit.lens import Lens, RingSource
from welotrope.core.kit.mount import Mount
from welotrope.core.kit.setup import Setup
from welotrope.core.optics.sharpness import ImageFormat


@pytest.mark.parametrize("looks", FINDERS, ids=lambda looks: looks.id)
@pytest.mark.parametrize("pixels", [None, 6000])
def test_what_one_looks_through_brings_aids_that_are_said_to_be_typical(looks, pixels):
    body = first_body(looks, "mine", ImageFormat(36, 24, pixels))
    assert len(body.typical_aids) == len(body.shown_aids) == len(body.aids)
    assert body.traits.finder is looks.finder
    if pixels is None and looks.id in ("display", "compact"):
        assert body.aids == ()


@given(megapixels=st.floats(1, 150), width=st.floats(5, 60), shape=st.floats(1, 2))
def test_megapixels_are_the_pixels_of_both_sides(megapixels, width, shape):
    across = pixels_across(megapixels, width, width / shape)
    assert across * across / shape / 1e6 == pytest.approx(megapixels, rel=0.01)
    assert across == pixels_across(megapixels, width / shape, width)


def test_a_throw_by_eye_is_no_measured_throw():
    lens = Lens(name="x", focal_mm=50, stops=(2, 16), closest_mm=500, throw_deg=180, throw_by_eye=True)
    assert lens.ring_source is RingSource.EYE
    assert Setup(body=first_body(FINDERS[0], "mine", ImageFormat(36, 24)), lens=lens).known.basis is Basis.ASSUMED


def test_every_way_to_find_something_belongs_to_a_field():
    asked = {one.name for record in (Body, Lens, Mount, Adapter, Attachment) for one in inputs_of(record)} | {
        "exponent"
    }
    assert set(FINDINGS) <= asked
    assert all(one.text.endswith(".") and one.drawing for one in FINDINGS.values())
