"""What every page of the kit that edits something shows."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Generic, TypeVar

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.joint import Joint, Route
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.traits import Screen
from welotrope.core.rules import Finding
from welotrope.web.forms.text_form import TextForm

FormT = TypeVar("FormT", bound=TextForm)


@dataclass(frozen=True, kw_only=True)
class EditPage(Generic[FormT]):
    """A form page: what is edited, its errors, and where it posts to."""

    form: FormT
    action: str
    title: str
    id: int | None = None
    errors: dict[str, str] = field(default_factory=dict)
    bodies: list[tuple[int, Body]] = field(default_factory=list)
    lenses: list[tuple[int, Lens]] = field(default_factory=list)
    step: str = ""
    mounts: list[str] = field(default_factory=list)
    adapters: list[tuple[int, Adapter]] = field(default_factory=list)
    findings: tuple[Finding, ...] | None = None
    checked: list[str] = field(default_factory=list)
    routes: list[Route] = field(default_factory=list)
    joint: Joint | None = None
    screens: tuple[Screen, ...] = ()
    back: str = ""
    fills: str = ""
    detour: str = ""
