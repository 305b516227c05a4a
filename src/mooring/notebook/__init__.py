"""What a notebook shows of robots, parts, runs and findings, in the cell they came out of."""

from mooring.notebook.cells import cell

__all__ = ["cell"]
