"""An engine in Python: only the methods of what it does. Connect it, or offer it to other machines, with

zweistimme engines add tidepool --python docs/examples/python-engine/tidepool.py:engine
zweistimme serve --python docs/examples/python-engine/tidepool.py:engine
"""

import numpy as np

from zweistimme.engines.offers import EngineInfo, VoiceInfo
from zweistimme.engines.protocol import SpeechRequest, Translation, TranslationRequest, Wording, Wordings
from zweistimme.formats.ssml import plain_text

VOICE = VoiceInfo("bubble", "Bubble", "neutral", ("en-GB", "de-DE"), "a tone a word", sample_rate=24_000)


class Tidepool:
    """It turns every text around, and says a word with a tone."""

    def info(self):
        return EngineInfo("tidepool", "1", pairs=(("en", "de"),), voices=(VOICE,), streams=True, converses=False)

    def translate(self, request: TranslationRequest):
        return Translation(tuple(Wordings(i.id, (Wording(" ".join(i.text.split()[::-1])),)) for i in request.items))

    def speak(self, request: SpeechRequest, hear=None):
        times = np.arange(7_200) / VOICE.sample_rate
        tone = (0.3 * np.sin(2 * np.pi * 220 * request.pitch * times) * np.hanning(7_200)).astype(np.float32)
        return np.tile(tone, len(plain_text(request.ssml).split()))  # one channel, at the voice's rate


def engine():
    """The factory."""
    return Tidepool()
