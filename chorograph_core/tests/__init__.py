"""Tests of the core. How long one example takes is nobody's promise here: times belong in bench/."""

from hypothesis import settings

settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")
