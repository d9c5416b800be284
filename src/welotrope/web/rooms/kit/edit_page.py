"""What every page of the kit that edits something shows."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Generic, TypeVar

from welotrope.core.inputs import Input
from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.joint import Joint, Route
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.setup import Setup
from welotrope.core.kit.traits import Screen
from welotrope.core.rules import RuleFinding
from welotrope.web.forms.record_form import RecordForm, narrowed
from welotrope.web.forms.text_form import TextForm

_DECIDED = ("kind", "finder", "medium")  # by the kind of camera, if it decides them
FormT = TypeVar("FormT", bound=TextForm)


@dataclass(frozen=True, kw_only=True)
class FormLimits:
    """What of a form its kind of camera has no answer to, by name, and the options that are left of some."""

    skipped: frozenset[str] = frozenset()
    options: Mapping[str, tuple[str, ...]] = field(default_factory=dict)


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
    converters: list[tuple[int, Adapter]] = field(default_factory=list)
    chosen: Setup | None = None
    limits: FormLimits = field(default_factory=lambda: FormLimits())
    findings: tuple[RuleFinding, ...] | None = None
    checked: list[str] = field(default_factory=list)
    routes: list[Route] = field(default_factory=list)
    joint: Joint | None = None
    screens: tuple[Screen, ...] = ()
    back: str = ""
    fills: str = ""
    detour: str = ""

    def asked(self, group: str) -> list[Input]:
        """Return the inputs of a part of the form, without what its kind of camera has no answer to."""
        if not isinstance(self.form, RecordForm):
            return []
        asked = [one for one in self.form.inputs(group) if one.name not in self.limits.skipped or self._holds(one)]
        return [narrowed(one, self.limits.options) for one in asked]

    def _holds(self, one: Input) -> bool:
        """Whether something unusual was entered all the same, which is not to be lost."""
        return one.name not in _DECIDED and getattr(self.form, one.name) not in ("", one.usual, [])
