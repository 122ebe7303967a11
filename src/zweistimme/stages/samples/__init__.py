"""A voice made from samples: clean stretches of a person found, looked at, sent with consent, and removed again."""

from zweistimme.stages.samples.consents import MadeFrom, consent_of, consents
from zweistimme.stages.samples.finding import clean_stretches
from zweistimme.stages.samples.making import make_voice, remove_made_voice, said_in_samples
from zweistimme.stages.samples.sample import PLAIN, Poor, Sample, of_clip, of_file, poor_sets

__all__ = [
    "PLAIN",
    "MadeFrom",
    "Poor",
    "Sample",
    "clean_stretches",
    "consent_of",
    "consents",
    "make_voice",
    "of_clip",
    "of_file",
    "poor_sets",
    "remove_made_voice",
    "said_in_samples",
]
