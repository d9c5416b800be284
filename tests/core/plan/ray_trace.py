"""A thin lens traced ray by ray: an outside witness for blur, focus and magnification."""

import math


def refract(height, slope, focal):
    """A ray through a thin lens leaves with its slope less its height over the focal length."""
    return slope - height / focal


def blur_on_film(object_mm, film_mm, focal, stop):
    """Diameter of the patch that a point ``object_mm`` before the lens makes on a film ``film_mm`` behind it."""
    ends = []
    for edge in (-0.5, 0.5):
        height = edge * focal / stop
        slope = 0.0 if math.isinf(object_mm) else height / object_mm
        ends.append(height + film_mm * refract(height, slope, focal))
    return abs(ends[1] - ends[0])


def image_height(object_height, object_mm, film_mm):
    """Where the ray through the middle of the lens meets the film."""
    return -object_height / object_mm * film_mm


def through_two(object_mm, first_focal, gap, second_focal):
    """Where two thin lenses image a point, behind the second, and how large (traced, two rays)."""
    heights = []
    for start, angle in ((1.0, -1 / object_mm), (1.0, 0.0)):  # from the tip of an object 1 mm tall
        height = start + object_mm * angle
        slope = refract(height, angle, first_focal)
        height += slope * gap
        heights.append((height, refract(height, slope, second_focal)))
    (h1, s1), (h2, s2) = heights
    behind = (h2 - h1) / (s1 - s2)
    return behind, h1 + s1 * behind
