"""Reading and writing the traits of a body and the fit of a lens as form fields."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.kit.mount import Known
from welotrope.core.kit.traits import ApertureRing, BodyTraits, Finder, LensFit, ScaleStandard, Screen
from welotrope.core.units.distance import parse_distance
from welotrope.core.units.stops import parse_stop
from welotrope.web.forms import Reader, number, whole_number

_TRAIT_FIELD = {
    "clearance behind the flange": "clearance",
    "rangefinder base": "rangefinder_base",
    "rangefinder magnification": "rangefinder_magnification",
    "where the rangefinder coincides at 2 m, in metres": "rangefinder_reads",
    "base stop of the focus indicator": "confirmation_stop",
    "burst rate": "burst",
    "shutter lag": "lag",
    "number of slots": "slots",
}
_FIT_FIELD = {"rear protrusion": "protrusion", "image circle": "image_circle", "length": "length"}
SCREEN_EXAMPLE = "split image, 2.8, split 6.5"


def traits_texts(traits: BodyTraits) -> dict[str, str]:
    """Return the traits as form fields."""
    return {
        "finder": traits.finder.value,
        "clearance": _text(traits.clearance_mm),
        "coupling_lever": traits.coupling_lever.value,
        "rangefinder_base": _text(traits.rangefinder_base_mm),
        "rangefinder_magnification": _text(traits.rangefinder_magnification) if traits.rangefinder_base_mm else "",
        "rangefinder_reads": "" if traits.rangefinder_reads_mm == 2000 else f"{traits.rangefinder_reads_mm / 1000:g} m",
        "confirmation_stop": _text(traits.confirmation_stop) if traits.confirmation else "",
        "screens": "; ".join(_screen_text(screen) for screen in traits.screens),
        "peaking_colours": ", ".join(traits.peaking_colours),
        "confirmation": "yes" if traits.confirmation else "",
        "stabiliser": "yes" if traits.stabiliser else "",
        "burst": _text(traits.burst_fps),
        "lag": _text(traits.shutter_lag_ms),
        "distance_scale": traits.distance_scale.value,
        "aids_need_manual_focus": traits.aids_need_manual_focus.value,
        "magnifier_fires": traits.magnifier_fires.value,
        "by_wire": traits.by_wire.value,
        "slots": str(traits.slots or ""),
    }


def read_traits(form: dict[str, Any], reader: Reader) -> BodyTraits:
    """Read the traits, noting errors with the reader."""
    numbers = {
        name: reader.optional(name, form[name], _reads(label, unit))
        for name, label, unit in (
            ("clearance", "clearance behind the flange", "mm"),
            ("rangefinder_base", "rangefinder base", "mm"),
            ("rangefinder_magnification", "rangefinder magnification", "×"),
            ("burst", "burst rate", ""),
            ("lag", "shutter lag", "ms"),
        )
    }
    slots = reader.optional("slots", form["slots"], lambda text: whole_number(text, "number of slots", 0, 50))
    reads = reader.optional(
        "rangefinder_reads", form["rangefinder_reads"],
        lambda text: parse_distance(text, field="where the rangefinder coincides at 2 m"),
    )  # fmt: skip
    base_stop = reader.optional(
        "confirmation_stop", form["confirmation_stop"],
        lambda text: parse_stop(text, field="base stop of the focus indicator"),
    )  # fmt: skip
    screens: tuple[Screen, ...] = reader.take("screens", lambda: _screens(form["screens"]), ())
    try:
        return BodyTraits(
            _member(Finder, form["finder"], Finder.UNKNOWN),
            numbers["clearance"],
            _member(Known, form["coupling_lever"], Known.UNKNOWN),
            numbers["rangefinder_base"],
            screens,
            tuple(part.strip()[:20] for part in form["peaking_colours"].split(",")[:8] if part.strip()),
            bool(form["confirmation"]),
            bool(form["stabiliser"]),
            numbers["burst"],
            numbers["lag"],
            _member(ScaleStandard, form["distance_scale"], ScaleStandard.NONE),
            _member(Known, form["aids_need_manual_focus"], Known.UNKNOWN),
            _member(Known, form["magnifier_fires"], Known.UNKNOWN),
            _member(Known, form["by_wire"], Known.UNKNOWN),
            slots or 0,
            numbers["rangefinder_magnification"] or BodyTraits.rangefinder_magnification,
            reads or BodyTraits.rangefinder_reads_mm,
            base_stop or BodyTraits.confirmation_stop,
        )
    except WelotropeError as error:
        reader.errors.setdefault(_TRAIT_FIELD.get(error.field, "name"), error.sentence)
        return BodyTraits()


def fit_texts(fit: LensFit) -> dict[str, str]:
    """Return a lens's fit as form fields."""
    return {
        "protrusion": _text(fit.protrusion_mm),
        "aperture_ring": fit.aperture_ring.value,
        "pin": fit.pin.value,
        "image_circle": _text(fit.image_circle_mm),
        "endless": "yes" if fit.endless else "",
        "length": _text(fit.length_mm),
    }


def read_fit(form: dict[str, Any], reader: Reader) -> LensFit:
    """Read a lens's fit, noting errors with the reader."""
    numbers = {
        name: reader.optional(name, form[name], _reads(label, "mm"))
        for name, label in (("protrusion", "rear protrusion"), ("image_circle", "image circle"), ("length", "length"))
    }
    try:
        return LensFit(
            numbers["protrusion"],
            _member(ApertureRing, form["aperture_ring"], ApertureRing.UNKNOWN),
            _member(Known, form["pin"], Known.UNKNOWN),
            numbers["image_circle"],
            bool(form["endless"]),
            numbers["length"],
        )
    except WelotropeError as error:
        reader.errors.setdefault(_FIT_FIELD.get(error.field, "name"), error.sentence)
        return LensFit()


def _reads(label: str, unit: str) -> Callable[[str], float]:
    return lambda text: number(text, label, unit)


def _screens(text: str) -> tuple[Screen, ...]:
    return tuple(_screen(part.strip()) for part in text.split(";")[:12] if part.strip())


def _screen(text: str) -> Screen:
    name, *rest = [part.strip() for part in text.split(",")]
    stop, split, microprism = 2.8, None, None
    for part in rest:
        kind, _, value = part.rpartition(" ")
        if kind == "split":
            split = number(value, "split deviation")
        elif kind == "microprism":
            microprism = number(value, "microprism deviation")
        elif not kind:
            stop = parse_stop(value, field="screen brightness stop")
        else:
            raise UnreadableError("screens", text, "a part was not understood", f"Write it like {SCREEN_EXAMPLE}")
    return Screen(name[:40], stop, split, microprism)


def _screen_text(screen: Screen) -> str:
    parts = [screen.name, f"{screen.stop:g}"]
    if screen.split_deg is not None:
        parts.append(f"split {screen.split_deg:g}")
    if screen.microprism_deg is not None:
        parts.append(f"microprism {screen.microprism_deg:g}")
    return ", ".join(parts)


def _member(kind: Any, text: str, otherwise: Any) -> Any:
    return kind(text) if text in set(kind) else otherwise


def _text(value: float | None) -> str:
    return "" if value is None else f"{value:g}"
