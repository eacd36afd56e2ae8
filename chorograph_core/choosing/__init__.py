"""Choosing what goes where: candidates measured in place, judged by the rules of the craft, and proposed."""

from chorograph_core.choosing.balance import Balance, balance_of
from chorograph_core.choosing.hearing import Heard, heard
from chorograph_core.choosing.levels import LEVELS, Level, level_of
from chorograph_core.choosing.proposing import Proposed, ranked
from chorograph_core.choosing.reasons import Reason, reasons_for
from chorograph_core.choosing.setting_out import Custom, Setting, setting_of
from chorograph_core.choosing.starts import proposed_legend
from chorograph_core.choosing.take_up import TakeUp, take_up_of

__all__ = [
    "LEVELS", "Balance", "Custom", "Heard", "Level", "Proposed", "Reason", "Setting", "TakeUp",
    "balance_of", "heard", "level_of", "proposed_legend", "ranked", "reasons_for", "setting_of",
    "take_up_of",
]  # fmt: skip
