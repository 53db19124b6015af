"""The trays app."""

from django.apps import AppConfig


class TraysConfig(AppConfig):
    name = "server.trays"
    label = "trays"
