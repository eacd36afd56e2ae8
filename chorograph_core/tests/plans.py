"""Routes for tests that ask nothing of the floor."""

from functools import partial

from chorograph_core.job import planned_job as _planned_job

planned_job = partial(_planned_job, bound=False)
"""Without what travel loses at least: it takes as long again to find."""
