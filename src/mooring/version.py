"""Which version this is: the one place that says so, from which the package has it."""

VERSION = "0.1.0"
