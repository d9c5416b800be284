"""Plots."""
