"""The command line."""

from mooring.cli.app import main

__all__ = ["main"]
