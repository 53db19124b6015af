"""The photos app."""

from django.apps import AppConfig


class PhotosConfig(AppConfig):
    name = "server.photos"
    label = "photos"
