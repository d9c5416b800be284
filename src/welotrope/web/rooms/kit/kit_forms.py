"""The forms of what is owned, made from what each record asks for."""

from __future__ import annotations

from welotrope.core.kit.adapter import Adapter
from welotrope.core.kit.body import Body
from welotrope.core.kit.lens import Lens
from welotrope.core.kit.mount import Mount
from welotrope.web.record_form import record_form

BodyForm = record_form(Body)
LensForm = record_form(Lens)
MountForm = record_form(Mount)
AdapterForm = record_form(Adapter)
