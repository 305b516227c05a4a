"""What is kept of a run, and what it says about itself."""
