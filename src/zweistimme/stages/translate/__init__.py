"""From segments to lines: by an engine, or from captions in the target language matched by time."""

from zweistimme.stages.translate.asking import batched, items_of
from zweistimme.stages.translate.by_engine import Only, open_translations, translate
from zweistimme.stages.translate.by_region import translate_version
from zweistimme.stages.translate.from_file import translation_from_file

__all__ = [
    "Only",
    "batched",
    "items_of",
    "open_translations",
    "translate",
    "translate_version",
    "translation_from_file",
]
