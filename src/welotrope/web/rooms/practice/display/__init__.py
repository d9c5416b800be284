"""Measuring the display that rounds are seen on."""
