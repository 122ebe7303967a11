"""Findings made sentences, for the command line and the window alike."""

from zweistimme.sentences.catalogue import sentence_of, sentences_of

__all__ = ["sentence_of", "sentences_of"]
