"""Plans: pure arithmetic on a photo's facts; the one place where sizes and names are computed."""

from tray_core.plan.geometry import target_size
from tray_core.plan.naming import Names
from tray_core.plan.planning import Caution, Plan, plan_all, plan_rendition

__all__ = ["Caution", "Names", "Plan", "plan_all", "plan_rendition", "target_size"]
