"""Tables, by what they hold; each is found here whatever file it stands in."""

from welotrope.store.models.base import Base
from welotrope.store.models.kit import (
    AdapterRow,
    AttachmentRow,
    BodyRow,
    LensRow,
    MeasurementRow,
    MountRow,
    PresetRow,
    SetupRow,
    SheetLineRow,
    SheetTickRow,
    SlotRow,
)
from welotrope.store.models.log import (
    FrameCountRow,
    FrameRow,
    OutingRow,
    PictureImportRow,
    PictureMapRow,
    PictureRow,
    RollRow,
    SidecarRow,
)
from welotrope.store.models.practice import DrillRow, EyeConstantRow, KitChangeRow, ShotRow, TrialRow
from welotrope.store.models.upkeep import DeviceRow, FileRow, JobRow, JournalRow, ReceivedRow, SettingRow

__all__ = [
    "AdapterRow",
    "AttachmentRow",
    "Base",
    "BodyRow",
    "DeviceRow",
    "DrillRow",
    "EyeConstantRow",
    "FileRow",
    "FrameCountRow",
    "FrameRow",
    "JobRow",
    "JournalRow",
    "KitChangeRow",
    "LensRow",
    "MeasurementRow",
    "MountRow",
    "OutingRow",
    "PictureImportRow",
    "PictureMapRow",
    "PictureRow",
    "PresetRow",
    "ReceivedRow",
    "RollRow",
    "SettingRow",
    "SetupRow",
    "SheetLineRow",
    "SheetTickRow",
    "ShotRow",
    "SidecarRow",
    "SlotRow",
    "TrialRow",
]
