"""A database's kit as a document, and a document stored into a database."""

from __future__ import annotations

import math

from welotrope.core.plan.subjects import parse_subject_token, subject_token
from welotrope.interchange.kit_json import (
    KitDocument,
    PresetEntry,
    RecordEntry,
    SetupEntry,
    SlotEntryJson,
    distance_or_none,
)
from welotrope.store.book import Book
from welotrope.store.queries import attachments, kit, mounts, transfer
from welotrope.store.queries.ring_records import StoredRecord


def gather(book: Book) -> KitDocument:
    """Return the whole kit as a document."""
    return KitDocument(
        mounts=transfer.all_mounts(book),
        adapters=[adapter for _, adapter in mounts.list_adapters(book)],
        attachments=[attachment for _, attachment in attachments.list_attachments(book)],
        bodies=[body for _, body in kit.list_bodies(book)],
        lenses=[lens for _, lens in kit.list_lenses(book)],
        setups=[SetupEntry.model_validate(names._asdict()) for names in transfer.setup_names(book)],
        slots=[SlotEntryJson(body=body, lens=lens, number=number) for body, lens, number in transfer.slot_names(book)],
        presets=[
            PresetEntry(
                lens=lens,
                name=name,
                distance_mm=distance_or_none(distance),
                stop=stop,
                subjects=[subject_token(subject) for subject in subjects],
            )
            for lens, name, distance, stop, subjects in transfer.preset_values(book)
        ],
        records=[
            RecordEntry(lens=lens, body=body, adapter=adapter, kind=kind, taken=stored.taken, record=stored.record)  # type: ignore[arg-type]
            for lens, body, adapter, kind, stored in transfer.record_values(book)
        ],
    )


def store(book: Book, document: KitDocument) -> None:
    """Store a document's kit; things of the same name are replaced. Does not commit."""
    for mount in document.mounts:
        transfer.store_mount(book, mount)
    for adapter in document.adapters:
        transfer.store_adapter(book, adapter)
    for attachment in document.attachments:
        transfer.store_attachment(book, attachment)
    for body in document.bodies:
        transfer.store_body(book, body)
    for lens in document.lenses:
        transfer.store_lens(book, lens)
    for setup in document.setups:
        transfer.store_setup(
            book, transfer.SetupNames(**{name: getattr(setup, name) for name in SetupEntry.model_fields})
        )
    for slot in document.slots:
        transfer.store_slot(book, slot.body, slot.lens, slot.number)
    for preset in document.presets:
        subjects = tuple(parse_subject_token(token) for token in preset.subjects)
        distance = math.inf if preset.distance_mm is None else preset.distance_mm
        transfer.store_preset(book, (preset.lens, preset.name, distance, preset.stop, subjects))
    for entry in document.records:
        stored = StoredRecord(entry.record, entry.taken)
        transfer.store_record(book, (entry.lens, entry.body, entry.adapter, entry.kind, stored))
