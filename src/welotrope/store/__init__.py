"""Rows and core values: the only place that speaks SQL."""
