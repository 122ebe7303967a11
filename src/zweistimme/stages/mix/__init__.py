"""Mix: all takes at their places over the bed or the ducked original, brought to a loudness, block by block."""

from zweistimme.stages.mix.levels import measured_tracks
from zweistimme.stages.mix.write import MixFiles, write_mix

__all__ = ["MixFiles", "measured_tracks", "write_mix"]
