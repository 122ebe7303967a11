"""Cast: a voice for every speaker in every version, proposed by what voices are like, overruled by hand."""

from zweistimme.stages.cast.able import (
    Coverage,
    able_voices,
    coverage,
    speaks,
    spoken_language,
    stand_in_language,
    stand_ins,
)
from zweistimme.stages.cast.run import cast, check_cast, measure, on_offer, people_to_cast, proposed, to_measure

__all__ = [
    "Coverage",
    "able_voices",
    "cast",
    "check_cast",
    "coverage",
    "measure",
    "on_offer",
    "people_to_cast",
    "proposed",
    "speaks",
    "spoken_language",
    "stand_in_language",
    "stand_ins",
    "to_measure",
]
