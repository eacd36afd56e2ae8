"""Text as it is typed into a page, made fit to be kept."""

from __future__ import annotations


def plain(text: str | None, most: int | None = None) -> str:
    """*text* without the characters a database cannot hold, without space around it, cut to *most*.

    >>> plain("  a\\0b ")
    'ab'
    """
    kept = "".join(c for c in text or "" if c >= " " or c in "\n\r\t").strip()
    return kept if most is None else kept[:most]
