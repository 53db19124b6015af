"""Marks: letters and pictures that lie over a rendition, as masks of their own."""
