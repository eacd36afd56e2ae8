"""The route: the order and direction of stitching, and what it loses on the way."""

from chorograph_core.route.model import Floor, Policy, Route, Stage, State, Step
from chorograph_core.route.planner import PlanError, plan
from chorograph_core.route.replay import replay

__all__ = ["Floor", "PlanError", "Policy", "Route", "Stage", "State", "Step", "plan", "replay"]
