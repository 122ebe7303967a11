"""Findings made sentences: at the edges, which are the command line, the window, and files that people read."""

from zweistimme.sentences.catalogue import sentence_of, sentences_of
from zweistimme.sentences.names import STATES

__all__ = ["STATES", "sentence_of", "sentences_of"]
