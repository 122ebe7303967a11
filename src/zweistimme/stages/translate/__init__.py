"""From segments to lines: by an engine, or from captions in the target language matched by time."""

from zweistimme.stages.translate.given import translation_from_file
from zweistimme.stages.translate.made import batched, items_of, open_translations, translate

__all__ = ["batched", "items_of", "open_translations", "translate", "translation_from_file"]
