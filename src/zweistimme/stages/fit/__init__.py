"""Fit: where every take stands on the original timeline, and why."""

from zweistimme.stages.fit.by_hand import pin_and_plan
from zweistimme.stages.fit.limits import Limits, limits_for
from zweistimme.stages.fit.placements import fit
from zweistimme.stages.fit.render import fitted_clip

__all__ = ["Limits", "fit", "fitted_clip", "limits_for", "pin_and_plan"]
