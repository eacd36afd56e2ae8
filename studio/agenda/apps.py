from django.apps import AppConfig


class AgendaConfig(AppConfig):
    """Hours at the machine, days off, and when a job can be done."""

    name = "studio.agenda"
    label = "agenda"
