"""Working on the transcript in the window: the commands, and the panels that open at the foot of the Score."""

from zweistimme.window.transcribing.commands import Transcribing
from zweistimme.window.transcribing.drawer import Drawer
from zweistimme.window.transcribing.files import TranscriptFiles

__all__ = ["Drawer", "Transcribing", "TranscriptFiles"]
