"""Rehearsal: variants of a rendition sent through an outlet's intake, and how much of them survives."""

from tray_core.rehearsal.seen import Ideal, ideal_recipe
from tray_core.rehearsal.variants import Variant, usual_variants, variant_recipe

__all__ = ["Ideal", "Variant", "ideal_recipe", "usual_variants", "variant_recipe"]
