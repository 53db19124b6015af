"""Measures the core against references in double precision that share no code with it, on pictures new to it."""
