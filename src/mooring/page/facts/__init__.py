"""What the browser is told about a robot, as plain values and bytes."""
