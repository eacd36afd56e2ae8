from django.apps import AppConfig


class PhotosConfig(AppConfig):
    """Photographs of a top."""

    name = "studio.photos"
    label = "photos"
