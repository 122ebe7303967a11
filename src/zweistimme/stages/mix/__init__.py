"""Mix: all takes at their places as the original's sat, over the bed or what else lies there, brought to a loudness,
block by block."""

from zweistimme.stages.mix.track_levels import measured_tracks
from zweistimme.stages.mix.write import MixFiles, write_mix, write_sounds

__all__ = ["MixFiles", "measured_tracks", "write_mix", "write_sounds"]
