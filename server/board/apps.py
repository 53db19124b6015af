"""The board app."""

from django.apps import AppConfig


class BoardConfig(AppConfig):
    name = "server.board"
    label = "board"
