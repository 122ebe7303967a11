"""Findings made sentences: at the edges, which are the command line, the window, and files that people read."""

from zweistimme.sentences.catalogue import sentence_of, sentences_of
from zweistimme.sentences.english_checks import KINDS
from zweistimme.sentences.names import ADDRESSES, PARTS, STATES

__all__ = ["ADDRESSES", "KINDS", "PARTS", "STATES", "sentence_of", "sentences_of"]
