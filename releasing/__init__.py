"""What is done to release Mooring, and is no part of it."""
