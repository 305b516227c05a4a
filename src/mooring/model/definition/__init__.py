"""What a definition is: fields with units, what they refer to, how all of it is gone through."""
