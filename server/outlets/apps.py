"""The outlets app."""

from django.apps import AppConfig


class OutletsConfig(AppConfig):
    name = "server.outlets"
    label = "outlets"
