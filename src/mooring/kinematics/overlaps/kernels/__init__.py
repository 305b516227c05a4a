"""Distances between convex shapes."""
