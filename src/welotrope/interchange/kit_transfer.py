"""A database's kit as a document, and a document stored into a database."""

from __future__ import annotations

import math

from welotrope.core.plan.setting import parse_subject_token, subject_token
from welotrope.interchange.kit_json import (
    KitDocument,
    PresetEntry,
    RecordEntry,
    SetupEntry,
    SlotEntryJson,
    distance_or_none,
)
from welotrope.store.queries import kit, mounts, transfer
from welotrope.store.queries.ring_records import StoredRecord
from welotrope.store.unit_of_work import UnitOfWork


def gather(uow: UnitOfWork) -> KitDocument:
    """Return the whole kit as a document."""
    return KitDocument(
        mounts=transfer.all_mounts(uow),
        adapters=[adapter for _, adapter in mounts.list_adapters(uow)],
        attachments=[attachment for _, attachment in mounts.list_attachments(uow)],
        bodies=[body for _, body in kit.list_bodies(uow)],
        lenses=[lens for _, lens in kit.list_lenses(uow)],
        setups=[SetupEntry.model_validate(names._asdict()) for names in transfer.setup_names(uow)],
        slots=[SlotEntryJson(body=body, lens=lens, number=number) for body, lens, number in transfer.slot_names(uow)],
        presets=[
            PresetEntry(
                lens=lens,
                name=name,
                distance_mm=distance_or_none(distance),
                stop=stop,
                subjects=[subject_token(subject) for subject in subjects],
            )
            for lens, name, distance, stop, subjects in transfer.preset_values(uow)
        ],
        records=[
            RecordEntry(lens=lens, body=body, adapter=adapter, kind=kind, taken=stored.taken, record=stored.record)  # type: ignore[arg-type]
            for lens, body, adapter, kind, stored in transfer.record_values(uow)
        ],
    )


def store(uow: UnitOfWork, document: KitDocument) -> None:
    """Store a document's kit; things of the same name are replaced. Does not commit."""
    for mount in document.mounts:
        transfer.store_mount(uow, mount)
    for adapter in document.adapters:
        transfer.store_adapter(uow, adapter)
    for attachment in document.attachments:
        transfer.store_attachment(uow, attachment)
    for body in document.bodies:
        transfer.store_body(uow, body)
    for lens in document.lenses:
        transfer.store_lens(uow, lens)
    for setup in document.setups:
        transfer.store_setup(
            uow, transfer.SetupNames(**{name: getattr(setup, name) for name in SetupEntry.model_fields})
        )
    for slot in document.slots:
        transfer.store_slot(uow, slot.body, slot.lens, slot.number)
    for preset in document.presets:
        subjects = tuple(parse_subject_token(token) for token in preset.subjects)
        distance = math.inf if preset.distance_mm is None else preset.distance_mm
        transfer.store_preset(uow, (preset.lens, preset.name, distance, preset.stop, subjects))
    for entry in document.records:
        stored = StoredRecord(entry.record, entry.taken)
        transfer.store_record(uow, (entry.lens, entry.body, entry.adapter, entry.kind, stored))
