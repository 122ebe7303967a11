"""Hand over: files that appear whole, each re-opened and measured, all listed in a manifest."""

from zweistimme.stages.handover.deliver import hand_over
from zweistimme.stages.handover.manifest import MANIFEST
from zweistimme.stages.handover.ready import UNTRANSLATED, open_points, ready_versions, unworded_stretches

__all__ = ["MANIFEST", "UNTRANSLATED", "hand_over", "open_points", "ready_versions", "unworded_stretches"]
