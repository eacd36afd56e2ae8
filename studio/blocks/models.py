"""Blocks that a studio drafted. A job keeps a copy of those it uses, so that none changes under it."""

from __future__ import annotations

from django.db import models

from chorograph_core.blocks.library import Block
from chorograph_core.blocks.own_blocks import data_of, own_block
from studio.accounts.models import Studio


class OwnBlock(models.Model):
    """A block: *data* describes it (see `chorograph_core.chart.own_blocks`), *key* is made of that."""

    studio = models.ForeignKey(Studio, on_delete=models.CASCADE, related_name="own_blocks")
    key = models.CharField(max_length=40)
    name = models.CharField(max_length=60)
    data = models.JSONField()

    class Meta:
        ordering = ["name", "pk"]
        constraints = [
            models.UniqueConstraint(fields=["studio", "name"], name="own_block_named_once")
        ]

    def __str__(self) -> str:
        return self.name

    @property
    def block(self) -> Block:
        """The block as the core knows it, to be found by its key from now on."""
        return own_block(self.data)

    def take(self, made: Block) -> None:
        """Describe *made* from now on."""
        self.key, self.name, self.data = made.key, made.name, data_of(made)


def own_blocks(studio: Studio) -> list[Block]:
    """The studio's own blocks, by name."""
    return [each.block for each in OwnBlock.objects.filter(studio=studio)]
