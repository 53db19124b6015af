"""The step of recipes that sends a run's files to an account."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from server.deliveries import flows
from server.deliveries.models import Account
from server.runs.models import Rendition, Run
from tray_core.errors import RecipeError


def deliver(run: Run, rows: list[Rendition], step: dict[str, Any]) -> list[Path]:
    """Send them; RecipeError where the studio has no account of that name."""
    account = Account.objects.filter(studio=run.studio_id, name=step["to"]).first()
    if account is None:
        raise RecipeError(
            "deliver",
            expected=f"an account named {step['to']}",
            found="none",
            remedy="Add it, or choose another in the place station, then send the files from the run's page.",
        )
    flows.deliver(account, rows)
    return []
