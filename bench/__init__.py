"""Measures the core against the codecs' own floor and against a straightforward loop."""
