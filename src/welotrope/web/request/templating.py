"""The Jinja environment with its filters, and numbers that stay on one line with their units."""

from __future__ import annotations

import functools
import hashlib
import math
import pickle
import re
from collections.abc import Hashable
from contextlib import suppress
from pathlib import Path
from typing import Any
from urllib.parse import parse_qsl, urlencode

from jinja2 import (
    Environment,
    FileSystemBytecodeCache,
    FileSystemLoader,
    StrictUndefined,
    pass_context,
    select_autoescape,
)
from jinja2.bccache import Bucket
from jinja2.runtime import Context
from markupsafe import Markup

from welotrope.core.exposure.shutter_dial import marked_iso
from welotrope.core.kit.measuring_hints import MEASURING_HINTS
from welotrope.core.plan.setting import subject_token
from welotrope.core.stats import Proportion
from welotrope.core.units.distance import (
    SpanText,
    Unit,
    format_distance,
    format_feet,
    format_metric,
    format_rough,
    format_span,
    write_distance,
)
from welotrope.core.units.exposure import format_exposure, format_shutter, format_stop
from welotrope.core.units.text import format_date, keep_units
from welotrope.core.units.turn import turn_text
from welotrope.web.state.ring_state import at_token, ring_query

# A space within a tag is followed by the tag's end before any other begins.
_IN_TEXT = r"(?![^<>]*>)"
# What a program reads, and what somebody typed, is left as it is.
_LEFT_ALONE = re.compile(r"(<(?:script|style|textarea)\b.*?</(?:script|style|textarea)>)", re.DOTALL)
# How a template is compiled depends on the filters below, not on its own text alone.
_LEAST_SHARE = 1e-5  # what is less is nothing
_OF_THE_SELECTED_LENS = ("scale", "plan", "aids")  # rooms whose stops are those of the selected lens
_OF_ALL_LENSES = "rooms/plan/compare/page.html"


def with_units_unbroken(html: str) -> str:
    """Return a rendered page with every space between a number and its unit made one that does not break.

    Examples
    --------
    >>> with_units_unbroken('<p title="2 m">sharp to 2 m at ISO 400</p>').count(chr(160))
    2
    """
    parts = _LEFT_ALONE.split(html)
    parts[::2] = (keep_units(part, where=_IN_TEXT) for part in parts[::2])
    return "".join(parts)


WEB = Path(__file__).parents[1]
STATIC = WEB / "static"


_OF_THIS_CODE = hashlib.sha256(Path(__file__).read_bytes()).hexdigest()[:12]


class _Compiled(FileSystemBytecodeCache):
    """Templates as they were compiled, a second of work in all; neither a broken file nor a full disk costs a page."""

    def load_bytecode(self, bucket: Bucket) -> None:
        """Take a template as it was kept, if it is whole."""
        try:
            super().load_bytecode(bucket)
        except (OSError, EOFError, ValueError, TypeError, pickle.UnpicklingError):
            bucket.reset()

    def dump_bytecode(self, bucket: Bucket) -> None:
        """Keep a template, where there is room."""
        with suppress(OSError):
            super().dump_bytecode(bucket)


def _compiled() -> _Compiled | None:
    """Return where they are kept: a folder of the user's among the temporary ones, which Jinja sees to be private."""
    try:
        return _Compiled(pattern=f"__welotrope_{_OF_THIS_CODE}_%s.cache")
    except (OSError, RuntimeError):  # somebody else's folder of that name, or none may be made
        return None


@functools.cache
def environment() -> Environment:
    """Return the one template environment."""
    env = Environment(
        loader=FileSystemLoader(WEB),
        autoescape=select_autoescape(["html"], default=True),
        undefined=StrictUndefined,
        bytecode_cache=_compiled(),
        trim_blocks=True,
        lstrip_blocks=True,
    )
    env.filters.update(
        stop=_stop,
        shutter=format_shutter,
        exposure=format_exposure,
        iso=lambda iso: f"{marked_iso(iso):.0f}",
        chances=format_chances,
        metric=format_metric,
        feet=format_feet,
        distance=lambda mm, unit: _unbroken(format_distance(mm, Unit(unit))),
        other=lambda mm, unit: format_distance(mm, Unit(unit).other),
        chance=format_chance,
        turn=turn_text,
        degrees=format_degrees,
        signed=signed,
        rough=lambda mm, unit: format_rough(mm, Unit(unit)),
        at_token=at_token,
        token=subject_token,
        ring_query=lambda preset, aim=None: ring_query(
            preset.distance_mm, preset.stop, subjects=preset.subjects, aim=aim
        ),
        with_stop=with_stop,
        span=_span,
        percent=percent,
        exact=lambda value: repr(float(value)).removesuffix(".0"),
        written=write_distance,
        date=format_date,
        px=lambda value: f"{value:.2f}".rstrip("0").rstrip("."),
    )
    env.globals.update(static=static_url, infinite=math.isinf, kept=kept_macro, finding=MEASURING_HINTS.get)
    return env


@pass_context
def _stop(context: Context, stop: float) -> str:
    """Write a stop; one of a lens behind a converter as it is marked on the lens, with how it works beside."""
    layout = context.get("layout")
    held = getattr(layout, "selected_setup", None)
    if held is None or layout.room not in _OF_THE_SELECTED_LENS or context.name == _OF_ALL_LENSES:
        return format_stop(stop)
    words: str = held.setup.stop_words(stop)
    return words


@functools.lru_cache(512)
def with_stop(query: str, stop: float) -> str:
    """Return a query with another stop in it."""
    return urlencode([*(pair for pair in parse_qsl(query) if pair[0] != "stop"), ("stop", f"{stop:g}")])


@functools.lru_cache(256)
def kept_macro(template: str, macro: str, *given: Hashable) -> Markup:
    """Return what a macro makes of values that hardly ever change; made once for the same values."""
    made: Markup = getattr(environment().get_template(template).module, macro)(*given)
    return made


@functools.cache
def static_url(name: str) -> str:
    """Return the URL of a static file, with a hash of its content so that browsers may keep it for ever."""
    path = STATIC / name if (STATIC / name).exists() else WEB / name
    digest = hashlib.sha256(path.read_bytes()).hexdigest()[:10]
    return f"/static/{name}?v={digest}"


def _span(zone: Any, unit: Unit) -> SpanText:
    """Write the range of anything with near and far limits, each number and its unit on one line."""
    span = format_span(zone.near_mm, zone.far_mm, Unit(unit))
    return SpanText(_unbroken(span.near), _unbroken(span.far), _unbroken(span.depth))


def _unbroken(text: str) -> str:
    """Keep a number and its unit on one line."""
    return text.replace(" ", "\u00a0")


def format_chance(share: float) -> str:
    """Write a chance as a whole percentage, never as certain: ``97 %``, ``over 99 %``."""
    percent = share * 100
    return "over 99 %" if percent > 99 else "under 1 %" if percent < 1 else f"{percent:.0f} %"


def format_chances(found: Proportion) -> str:
    """Write the interval of a chance: ``90 % to 97 %``; once where both ends read alike."""
    low, high = format_chance(found.low), format_chance(found.high)
    return low if low == high else f"{low} to {high}"


def percent(share: float) -> str:
    """Write a share in whole per cent, and one that would round to nothing by its first figure.

    Examples
    --------
    >>> percent(0.236), percent(0.0029), percent(-0.004), percent(0), percent(1e-7)
    ('24', '0.3', '-0.4', '0', '0')
    """
    whole = f"{share * 100:.0f}"
    return whole if whole.strip("-0") or abs(share) < _LEAST_SHARE else f"{share * 100:.1g}"


def signed(value: float, *, digits: int = 1) -> str:
    """Write a number with its sign, nothing without one: ``+0.12``, ``−0.3``, ``0.00``.

    Examples
    --------
    >>> signed(-0.001, 2), signed(-0.25, 2), signed(1.26)
    ('0.00', '−0.25', '+1.3')
    """
    rounded = round(value, digits)
    return f"{rounded:+.{digits}f}".replace("-", "−") if rounded else f"{0:.{digits}f}"


def format_degrees(value: float) -> str:
    """Write ring degrees to the precision a hand can set: ``0.6°``, ``12°``."""
    return f"{value:.1f}°" if value < 9.95 else f"{value:.0f}°"
