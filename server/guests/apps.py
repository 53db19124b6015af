"""The guests app."""

from django.apps import AppConfig


class GuestsConfig(AppConfig):
    name = "server.guests"
    label = "guests"
