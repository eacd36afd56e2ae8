"""Directions that stitch long lines well become a choice; what was written freely means all of them."""

from django.db import migrations, models

KNOWN = ("all", "right", "left", "down", "up")


def settle(apps, schema_editor):
    machines = apps.get_model("shelf", "Machine")
    machines.objects.exclude(directions__in=KNOWN).update(directions="all")


class Migration(migrations.Migration):
    dependencies = [("shelf", "0002_reach")]

    operations = [
        migrations.RunPython(settle, migrations.RunPython.noop, elidable=True),
        migrations.AlterField(
            model_name="machine",
            name="directions",
            field=models.CharField(
                choices=[("all", "in all directions"), ("right", "to the right"), ("left", "to the left"),
                         ("down", "towards you"), ("up", "away from you")],
                default="all",
                help_text="Some machines shred the thread in one direction; they then go back empty.",
                max_length=120, verbose_name="Long lines stitch well",
            ),
        ),
    ]  # fmt: skip
