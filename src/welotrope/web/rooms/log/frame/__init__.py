"""Frames: logging, changing and marking one."""
