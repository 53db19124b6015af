"""The photos app."""

from django.apps import AppConfig


class PhotosConfig(AppConfig):
    name = "server.photos"
    label = "photos"

    def ready(self) -> None:
        import server.photos.room  # noqa: F401  # registers what photos take
