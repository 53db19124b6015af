"""The studios app."""

from django.apps import AppConfig


class StudiosConfig(AppConfig):
    name = "server.studios"
    label = "studios"

    def ready(self) -> None:
        from server.studios import checks  # noqa: F401  # registers itself
