"""Fit: where every take stands on the original timeline, and why."""

from zweistimme.project.fit_limits import Limits
from zweistimme.stages.fit.by_hand import change_and_plan, pin_and_plan
from zweistimme.stages.fit.limits import limits_for, limits_of
from zweistimme.stages.fit.placements import fit
from zweistimme.stages.fit.render import fitted_clip

__all__ = ["Limits", "change_and_plan", "fit", "fitted_clip", "limits_for", "limits_of", "pin_and_plan"]
