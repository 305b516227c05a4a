"""Physical constants."""

STANDARD_GRAVITY = 9.80665
"""[m/s^2], as defined by the 3rd General Conference on Weights and Measures, 1901."""
