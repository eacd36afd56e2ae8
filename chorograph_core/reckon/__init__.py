"""Reckoning: what linework costs in minutes and thread, and how evenly it lies."""

from chorograph_core.reckon.density import Evenness, evenness
from chorograph_core.reckon.rates import Machine, Rates
from chorograph_core.reckon.shared import stitched_inches, stitched_once
from chorograph_core.reckon.thread import thread_inches, thread_yards
from chorograph_core.reckon.totals import Reckoning, reckon

__all__ = [
    "Evenness", "Machine", "Rates", "Reckoning", "evenness", "reckon", "stitched_inches", "stitched_once",
    "thread_inches", "thread_yards",
]  # fmt: skip
