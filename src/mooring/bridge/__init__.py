"""Controllers outside: a simulation served to other programs, and machines followed."""
