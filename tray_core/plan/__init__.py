"""Plans: pure arithmetic on a photo's facts; the one place where sizes, crops and names are computed."""

from tray_core.plan.cautions import Caution
from tray_core.plan.counting import Number
from tray_core.plan.framing import Framing, carried_over, framing_of
from tray_core.plan.geometry import target_size
from tray_core.plan.laying import followed_framing, layouts
from tray_core.plan.layout import Layout, layout_from_json
from tray_core.plan.naming import Names
from tray_core.plan.planning import Plan, plan_all, plan_renditions

__all__ = [
    "Caution",
    "Framing",
    "Layout",
    "Names",
    "Number",
    "Plan",
    "carried_over",
    "followed_framing",
    "framing_of",
    "layout_from_json",
    "layouts",
    "plan_all",
    "plan_renditions",
    "target_size",
]
