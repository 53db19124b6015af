"""The inlets app."""

from django.apps import AppConfig


class InletsConfig(AppConfig):
    name = "server.inlets"
    label = "inlets"
