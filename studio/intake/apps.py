from django.apps import AppConfig


class IntakeConfig(AppConfig):
    """The consult: measures, condition, materials, wishes, photographs."""

    name = "studio.intake"
    label = "intake"
