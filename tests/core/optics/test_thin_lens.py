import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.core.strategies import film_distances, focals
from welotrope.core.errors import OutOfRangeError, TooCloseError
from welotrope.core.optics import thin_lens
from welotrope.core.optics.thin_lens import Datum, distance_at, extension_at


@given(st.data(), focals)
def test_film_distance_round_trip(data, f):
    D = data.draw(film_distances(f))
    x = thin_lens.extension_at_film_distance(D, f)
    assert thin_lens.film_distance_at_extension(x, f) == pytest.approx(D, rel=1e-9)


@given(st.data(), focals, st.sampled_from(list(Datum)))
def test_datum_round_trip(data, f, datum):
    D = data.draw(film_distances(f))
    assert distance_at(extension_at(D, f, datum), f, datum) == pytest.approx(D, rel=1e-9)


@given(focals)
def test_life_size_is_the_shortest_distance(f):
    x = thin_lens.extension_at_film_distance(4 * f, f)
    assert thin_lens.magnification(x, f) == pytest.approx(1, rel=1e-5)
    assert thin_lens.object_distance_at_extension(x, f) == pytest.approx(2 * f, rel=1e-5)


@given(st.data(), focals)
def test_newtons_form_holds(data, f):
    """x·x' = f², measured from the focal points (Newton 1704), against the engraved distance."""
    D = data.draw(film_distances(f).filter(math.isfinite))
    x = thin_lens.extension_at_film_distance(D, f)
    s = thin_lens.object_distance_at_extension(x, f)
    assert x * (s - f) == pytest.approx(f * f, rel=1e-6)
    assert pytest.approx(s + f + x, rel=1e-9) == D


def test_principal_planes_apart_shift_the_film_distance():
    x = thin_lens.extension_at_film_distance(1010.0, 50, h=10)
    assert x == pytest.approx(thin_lens.extension_at_film_distance(1000.0, 50))


def test_arrays_answer_like_scalars():
    distances = np.array([500.0, 1000.0, np.inf])
    extensions = thin_lens.extension_at_film_distance(distances, 50)
    assert extensions.tolist() == [thin_lens.extension_at_film_distance(float(d), 50) for d in distances]
    back = thin_lens.film_distance_at_extension(extensions, 50)
    assert back[-1] == math.inf
    assert back[:2] == pytest.approx(distances[:2])


def test_past_infinity_is_infinity():
    assert thin_lens.object_distance_at_extension(-0.01, 50) == math.inf
    assert thin_lens.film_distance_at_extension(0.0, 50) == math.inf


@pytest.mark.parametrize("D", [199.9, 100, 1])
def test_too_close_names_four_focal_lengths(D):
    with pytest.raises(TooCloseError, match="at least 200 mm"):
        thin_lens.extension_at_film_distance(float(D), 50)


def test_inside_the_focal_point_forms_no_image():
    with pytest.raises(TooCloseError, match="more than 50 mm"):
        thin_lens.extension_at_object_distance(50.0, 50)


@pytest.mark.parametrize("f", [0, -50, 0.5, 6000, math.nan])
def test_focal_length_range(f):
    with pytest.raises(OutOfRangeError, match="1 to 5000 mm"):
        thin_lens.check_focal(f)
