"""Findings made sentences: at the edges, which are the command line, the window, and files that people read."""

from zweistimme.sentences.catalogue import sentence_of, sentences_of

__all__ = ["sentence_of", "sentences_of"]
