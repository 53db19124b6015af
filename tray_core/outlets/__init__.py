"""Outlets: what a site or platform takes, what becomes of it there, and what that means for a file or a recipe."""

from tray_core.outlets.checking import Breach, FileFacts, breaches
from tray_core.outlets.proposing import propose_recipe
from tray_core.outlets.sheet import Intake, Outlet, Use, WordRules, check_outlet, outlet_schema, read_outlet_file

__all__ = [
    "Breach",
    "FileFacts",
    "Intake",
    "Outlet",
    "Use",
    "WordRules",
    "breaches",
    "check_outlet",
    "outlet_schema",
    "propose_recipe",
    "read_outlet_file",
]
