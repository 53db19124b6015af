"""The recipes app."""

from django.apps import AppConfig


class RecipesConfig(AppConfig):
    name = "server.recipes"
    label = "recipes"
