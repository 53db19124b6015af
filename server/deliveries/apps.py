"""The deliveries app."""

from django.apps import AppConfig


class DeliveriesConfig(AppConfig):
    name = "server.deliveries"
    label = "deliveries"

    def ready(self) -> None:
        from server.deliveries.steps import deliver  # models, which are there only now
        from server.runs.steps import does

        does("deliver", deliver)
