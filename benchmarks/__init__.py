"""Timings, as ratios measured in one run."""
