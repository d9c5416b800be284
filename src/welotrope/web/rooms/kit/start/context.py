"""What the first page shows."""

from __future__ import annotations

from dataclasses import dataclass, field

from welotrope.core.kit.first_kit import FINDERS, LooksThrough
from welotrope.web.forms.record_form import RecordForm


@dataclass(frozen=True, kw_only=True)
class StartPage:
    """The form of a newcomer."""

    form: RecordForm
    errors: dict[str, str] = field(default_factory=dict)
    finders: tuple[LooksThrough, ...] = FINDERS
