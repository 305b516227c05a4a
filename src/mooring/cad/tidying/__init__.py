"""Making an assembly fit for a robot: what to leave out, split, join, mend and simplify."""
