from django.apps import AppConfig


class BookConfig(AppConfig):
    """The job book: every fact, decision and change, searchable."""

    name = "studio.book"
    label = "book"
