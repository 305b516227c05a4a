"""The compiled core of Mooring: a submodule for each room that has compiled code."""
