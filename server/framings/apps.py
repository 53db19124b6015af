"""The framings app."""

from django.apps import AppConfig


class FramingsConfig(AppConfig):
    name = "server.framings"
    label = "framings"
