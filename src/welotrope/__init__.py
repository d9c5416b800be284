"""Welotrope: critical focus with manual lenses, measured, planned, checked and recorded."""

__version__ = "0.9.0"
