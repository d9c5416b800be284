"""What the pages of the short way in show."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.camera_kind import CAMERA_KINDS, CameraKind
from welotrope.web.forms.record_form import RecordForm


@dataclass(frozen=True, kw_only=True)
class StartPage:
    """The form of a newcomer, or of another camera."""

    form: RecordForm
    errors: dict[str, str] = field(default_factory=dict)
    kinds: tuple[CameraKind, ...] = CAMERA_KINDS


@dataclass(frozen=True, kw_only=True)
class AddLensPage:
    """The form of another lens: the cameras it may be for, the one chosen, and what may join the two."""

    form: RecordForm
    bodies: list[tuple[int, Body]]
    body_id: int
    body: Body
    adapters: list[tuple[int, Adapter]]
    errors: dict[str, str] = field(default_factory=dict)

    @property
    def ways(self) -> list[tuple[str, str]]:
        """How it may go on, as pairs of value and words."""
        by = [(str(key), f"by {adapter.name}, for {adapter.lens_side.name} lenses") for key, adapter in self.adapters]
        made, unknown = next(one.options for one in self.form.inputs("joint"))
        return [made, *by, unknown]
