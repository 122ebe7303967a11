"""Zweistimme: a desk for dubbing a programme into other languages."""

import os

__version__ = "0.1.0"

# Work is spread over cores in pieces of our own (sound/cores.py). A matrix product that spread itself as well would
# make the pieces wait for each other, and its last digit would hang on how busy the machine is.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
