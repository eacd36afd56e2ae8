"""Where the guide speaks of a stage."""

from __future__ import annotations

from django import template
from django.urls import reverse

from studio.helping.guide import STAGES

register = template.Library()


@register.simple_tag
def help_for(stage: str) -> str:
    """The address of the page of the guide about a stage."""
    key = STAGES.get(stage)
    return reverse("help-page", args=[key]) if key else reverse("help")
