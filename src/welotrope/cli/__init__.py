"""The command line."""

from welotrope.cli import testshot  # noqa: F401  adds its commands
from welotrope.cli.app import app, main

__all__ = ["app", "main"]
