"""Reading and writing the traits of a body and the fit of a lens as form fields."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.kit.mount import Known
from welotrope.core.kit.traits import ApertureRing, BodyTraits, Finder, LensFit, ScaleStandard, Screen
from welotrope.core.units.stops import parse_stop
from welotrope.web.forms import Reader, number, whole_number

SCREEN_EXAMPLE = "split image, 2.8, split 6.5"


def traits_texts(traits: BodyTraits) -> dict[str, str]:
    """Return the traits as form fields."""
    return {
        "finder": traits.finder.value,
        "clearance": _text(traits.clearance_mm),
        "coupling_lever": traits.coupling_lever.value,
        "lever_proud": _text(traits.lever_proud_mm),
        "presses_pin": traits.presses_pin.value,
        "screens": "; ".join(_screen_text(screen) for screen in traits.screens),
        "peaking_colours": ", ".join(traits.peaking_colours),
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
            ("lever_proud", "how far the lever stands proud", "mm"),
            ("burst", "burst rate", ""),
            ("lag", "shutter lag", "ms"),
        )
    }
    slots = reader.optional("slots", form["slots"], lambda text: whole_number(text, "number of slots", 0, 50))
    screens: tuple[Screen, ...] = reader.take("screens", lambda: _screens(form["screens"]), ())
    try:
        return BodyTraits(
            _member(Finder, form["finder"], Finder.UNKNOWN),
            numbers["clearance"],
            _member(Known, form["coupling_lever"], Known.UNKNOWN),
            screens,
            tuple(part.strip()[:20] for part in form["peaking_colours"].split(",")[:8] if part.strip()),
            bool(form["stabiliser"]),
            numbers["burst"],
            numbers["lag"],
            _member(ScaleStandard, form["distance_scale"], ScaleStandard.NONE),
            _member(Known, form["aids_need_manual_focus"], Known.UNKNOWN),
            _member(Known, form["magnifier_fires"], Known.UNKNOWN),
            _member(Known, form["by_wire"], Known.UNKNOWN),
            slots or 0,
            numbers["lever_proud"],
            _member(Known, form["presses_pin"], Known.UNKNOWN),
        )
    except WelotropeError as error:
        reader.errors.setdefault(error.key if error.key in form else "name", error.sentence)
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
        "rear": _text(fit.rear_mm),
    }


def read_fit(form: dict[str, Any], reader: Reader) -> LensFit:
    """Read a lens's fit, noting errors with the reader."""
    numbers = {
        name: reader.optional(name, form[name], _reads(label, "mm"))
        for name, label in (
            ("protrusion", "rear protrusion"),
            ("image_circle", "image circle"),
            ("length", "length"),
            ("rear", "width of the rear"),
        )
    }
    try:
        return LensFit(
            numbers["protrusion"],
            _member(ApertureRing, form["aperture_ring"], ApertureRing.UNKNOWN),
            _member(Known, form["pin"], Known.UNKNOWN),
            numbers["image_circle"],
            bool(form["endless"]),
            numbers["length"],
            numbers["rear"],
        )
    except WelotropeError as error:
        reader.errors.setdefault(error.key if error.key in form else "name", error.sentence)
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
