"""Sensors: what is measured while stepping, and what they make of it."""
