"""The bundled engines: a small formant voice, a small recogniser, a small translator.

They are stand-ins: enough to try and test everything with no network and no account.
"""
