"""Hypothesis strategies for optical values within what lenses are."""

from hypothesis import strategies as st

from welotrope.core.ring.helicoid import Helicoid

focals = st.floats(8, 600)
stops = st.floats(1, 32)
blurs = st.floats(0.004, 0.06)


@st.composite
def film_distances(draw, focal):
    """A film-plane distance a lens of this focal length can be focused to, or infinity."""
    return draw(st.one_of(st.just(float("inf")), st.floats(4.0001 * focal, 1e6)))


@st.composite
def rings(draw):
    focal = draw(st.floats(10, 200))
    closest = draw(st.floats(6 * focal, 60 * focal))
    return Helicoid.from_closest_focus(focal, closest, draw(st.floats(50, 360)))
