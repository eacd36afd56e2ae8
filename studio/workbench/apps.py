from django.apps import AppConfig


class WorkbenchConfig(AppConfig):
    """Zones, designs and the legend: the sheet and everything done on it."""

    name = "studio.workbench"
    label = "workbench"
