"""Zones for named subjects, and presets."""
