"""Variants as a user's package defines them, registered from outside of Mooring."""
