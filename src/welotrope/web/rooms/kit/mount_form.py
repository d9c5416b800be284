"""The forms of a mount and of an adapter."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TypeVar

from welotrope.core.errors import UnreadableError, WelotropeError
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.mount import Known, Link, Mount
from welotrope.web.forms import Reader, TextForm, field_of, number, required_name

ChoiceT = TypeVar("ChoiceT", Known, Link)


class MountForm(TextForm):
    """Fields of a mount as typed."""

    name: str = ""
    register_mm: str = ""
    throat: str = ""
    actuation: str = Link.UNKNOWN.value
    stop_report: str = Link.UNKNOWN.value
    protruding: str = Known.UNKNOWN.value
    pin: str = Known.UNKNOWN.value

    @classmethod
    def of(cls, mount: Mount) -> MountForm:
        """Fill the form from a mount."""
        return cls(
            name=mount.name,
            register_mm=_text(mount.register_mm),
            throat=_text(mount.throat_mm),
            actuation=mount.actuation.value,
            stop_report=mount.stop_report.value,
            protruding=mount.protruding.value,
            pin=mount.pin.value,
        )

    def mount(self) -> tuple[Mount | None, dict[str, str]]:
        """Return the mount, or None with an error sentence per field."""
        reader = Reader()
        name = reader.take("name", lambda: required_name(self.name, "mount name"), "")
        register = reader.optional("register_mm", self.register_mm, lambda text: number(text, "register", "mm"))
        throat = reader.optional("throat", self.throat, lambda text: number(text, "throat diameter", "mm"))
        if reader.errors:
            return None, reader.errors
        links = choice(Link, self.actuation), choice(Link, self.stop_report)
        try:
            return Mount(name, register, throat, *links, choice(Known, self.protruding), choice(Known, self.pin)), {}
        except WelotropeError as error:
            return None, {field_of(error, MountForm): error.sentence}


class AdapterForm(TextForm):
    """Fields of an adapter as typed; the sides are keys of mounts."""

    name: str = ""
    lens_side: str = ""
    body_side: str = ""
    nominal: str = ""
    measured: str = ""
    optics: str = ""
    presses_pin: str = Known.UNKNOWN.value
    works_aperture: str = ""
    foot: str = ""
    factor: str = ""

    @classmethod
    def of(cls, adapter: Adapter) -> AdapterForm:
        """Fill the form from an adapter; the sides are named by their mounts."""
        return cls(
            name=adapter.name,
            lens_side=adapter.lens_side.name,
            body_side=adapter.body_side.name,
            nominal=_text(adapter.nominal_mm),
            measured=_text(adapter.measured_mm),
            optics="yes" if adapter.optics else "",
            presses_pin=adapter.presses_pin.value,
            works_aperture="yes" if adapter.works_aperture else "",
            foot="yes" if adapter.foot else "",
            factor=_text(adapter.factor),
        )

    def adapter(self, mounts: Mapping[str, Mount]) -> tuple[Adapter | None, dict[str, str]]:
        """Return the adapter, or None with an error sentence per field; ``mounts`` are by name."""
        reader = Reader()
        name = reader.take("name", lambda: required_name(self.name, "adapter name"), "")
        lens_side = reader.take("lens_side", lambda: named_mount(self.lens_side, mounts, "lens side"), None)
        body_side = reader.take("body_side", lambda: named_mount(self.body_side, mounts, "body side"), None)
        nominal = reader.optional("nominal", self.nominal, lambda text: number(text, "nominal thickness", "mm"))
        measured = reader.optional("measured", self.measured, lambda text: number(text, "measured thickness", "mm"))
        factor = reader.optional("factor", self.factor, lambda text: number(text, "factor", "×"))
        if reader.errors or lens_side is None or body_side is None:
            return None, reader.errors
        try:
            return Adapter(
                name, lens_side, body_side, nominal, measured, bool(self.optics), choice(Known, self.presses_pin),
                bool(self.works_aperture), bool(self.foot), factor,
            ), {}  # fmt: skip
        except WelotropeError as error:
            return None, {field_of(error, AdapterForm): error.sentence}


def choice(kind: type[ChoiceT], text: str) -> ChoiceT:
    """Return the member of that value, or “not known”."""
    return kind(text) if text in set(kind) else kind("not known")


def named_mount(name: str, mounts: Mapping[str, Mount], field: str) -> Mount | None:
    """Return the mount of that name; raises UnreadableError when there is none."""
    if name not in mounts:
        raise UnreadableError(field, name, "no such mount is known", "Choose one from the list, or add it first")
    return mounts[name]


def _text(value: float | None) -> str:
    return "" if value is None else f"{value:g}"
