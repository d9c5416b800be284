"""Pictures and the light in them.

It is light that spreads and adds, not the values it is coded in. Pictures are kept in 8 bits, by the tone curve that
scenes are rendered with, whose bright parts roll off as those of a camera do: a bright sky holds several times the
light of white paper. They are turned into light before anything is done with them. Light lies plane by plane, one for
each colour and one for cover, which is laid over another in a third of the time of colours side by side.
"""

from __future__ import annotations

import functools

import cv2
import numpy as np
from numpy.typing import NDArray

Picture = NDArray[np.uint8]
Light = NDArray[np.float32]
_WHITE = 7.241  # light that comes out as white; well lit paper is 1
_STEPS = 65535 / _WHITE  # of the table, to a light of 1
_GAMMA = 2.2
_COVER = 3  # plane of cover, which is a share as it stands


def light_of(picture: Picture, *, into: Light | None = None) -> Light:
    """Return a picture of 8 bits as planes of light, 0 to 7.24; a fourth channel becomes a plane of cover, 0 to 1.

    Parameters
    ----------
    picture
        Coded values, shape (height, width, 3 or 4).
    into
        Where it is put, shape (3 or 4, height, width); None for planes of its own.
    """
    height, width, count = picture.shape
    light = np.empty((count, height, width), np.float32) if into is None else into
    if picture.size:
        for number in range(count):
            plane = cv2.extractChannel(picture, number)
            cv2.LUT(plane, _decoding(cover=number == _COVER), dst=light[number])
    return light


def coded(light: Light) -> Picture:
    """Return planes of light as a picture of 8 bits; what is brighter than white is white.

    Parameters
    ----------
    light
        Light, 0 to 7.24 and above, and cover if there is a fourth plane; shape (3 or 4, height, width).
    """
    planes = [_coded_plane(plane) for plane in light[:_COVER]]
    planes += [np.asarray(cv2.convertScaleAbs(plane, alpha=255), np.uint8) for plane in light[_COVER:] if plane.size]
    if light.size == 0:
        return np.zeros((*light.shape[1:], len(light)), np.uint8)
    return np.asarray(cv2.merge(planes), np.uint8)


def _coded_plane(light: Light) -> Picture:
    if light.size == 0:
        return np.zeros(light.shape, np.uint8)
    steps = cv2.addWeighted(light, _STEPS, light, 0, 0, dtype=cv2.CV_16U)
    return np.asarray(cv2.LUT(steps, _encoding()), np.uint8)


@functools.cache
def _decoding(*, cover: bool) -> Light:
    values = np.arange(256) / 255
    if cover:
        return np.asarray(values, np.float32)
    # The curve of _encoding solved for light, the root that is not negative.
    shown = values**_GAMMA
    square, line, rest = 2.51 - 2.43 * shown, 0.03 - 0.59 * shown, -0.14 * shown
    light = (np.sqrt(line**2 - 4 * square * rest) - line) / (2 * square)
    return np.asarray(np.minimum(light, _WHITE), np.float32)


@functools.cache
def _encoding() -> Picture:
    light = np.arange(65536) / _STEPS
    shown = light * (2.51 * light + 0.03) / (light * (2.43 * light + 0.59) + 0.14)  # as scripts/scenes/render.py has it
    return np.asarray(np.rint(255 * np.minimum(shown, 1.0) ** (1 / _GAMMA)), np.uint8)


def colour_of_light(colour: tuple[int, int, int]) -> Light:
    """Return how much of each colour a lamp sends, 0 to 1, shape (3,): its strength is told apart.

    Parameters
    ----------
    colour
        Its colour at the brightest, BGR, each 0 to 255.
    """
    return np.asarray((np.array(colour) / 255) ** _GAMMA, np.float32)


def times_cover(values: Light, cover: Light) -> Picture:
    """Return coded values as light times cover, coded again.

    Parameters
    ----------
    values
        Coded values, 0 to 255, shape (n, 3).
    cover
        Share that is covered, 0 to 1, shape (n,).
    """
    if not len(values):
        return np.zeros((0, 3), np.uint8)
    return np.asarray(coded(light_of(np.asarray(np.rint(values), np.uint8)[None]) * cover)[0], np.uint8)
