"""The block library: blocks as data, round ones, drafted ones, and a studio's own."""

from chorograph_core.blocks.library import Block, block, block_library

__all__ = ["Block", "block", "block_library"]
