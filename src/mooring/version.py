"""Which version this is: the one place, besides pyproject.toml, that says so."""

VERSION = "0.1.0"
