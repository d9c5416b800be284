"""Sheets at true size: what is drawn, and the same drawing as SVG and as PDF."""
