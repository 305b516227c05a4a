"""Readers held against damaged files: `python -m fuzz`."""
