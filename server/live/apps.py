"""The live app: hints to open pages."""

from django.apps import AppConfig


class LiveConfig(AppConfig):
    name = "server.live"
    label = "live"
