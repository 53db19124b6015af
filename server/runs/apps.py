"""The runs app."""

from django.apps import AppConfig


class RunsConfig(AppConfig):
    name = "server.runs"
    label = "runs"

    def ready(self) -> None:
        import server.runs.room  # noqa: F401  # registers what runs take
        from server.framings.flows import placed
        from server.runs.asking import take_in_answered

        placed.connect(lambda photos, **_: take_in_answered(photos), weak=False, dispatch_uid="runs.asking")
