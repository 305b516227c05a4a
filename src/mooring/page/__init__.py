"""The live page in the browser: it shows and asks; what is computed is computed below it."""
