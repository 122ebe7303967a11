"""Captions inside a media file: our cues as packets, and the packets of other files as plain text."""

from __future__ import annotations

import html
import re
from typing import Any, Final

ASS_HEADER: Final = (
    b"[Script Info]\nScriptType: v4.00+\n\n[V4+ Styles]\n"
    b"Format: Name, Fontname, Fontsize, PrimaryColour, SecondaryColour, OutlineColour, BackColour, Bold, Italic, "
    b"Underline, StrikeOut, ScaleX, ScaleY, Spacing, Angle, BorderStyle, Outline, Shadow, Alignment, MarginL, "
    b"MarginR, MarginV, Encoding\n"
    b"Style: Default,Sans,16,&Hffffff,&Hffffff,&H0,&H0,0,0,0,0,100,100,0,0,1,1,0,2,10,10,10,1\n\n"
    b"[Events]\nFormat: Layer, Start, End, Style, Name, MarginL, MarginR, MarginV, Effect, Text\n"
)
"""What every encoder of text tracks wants to be given, whatever it writes."""
TEXT_KINDS: Final = ("mov_text", "subrip", "webvtt", "ass", "ssa", "text")
_JOINER: Final = "\u2060"
_ASS_FIELDS: Final = 8
_ASS_STYLE: Final = re.compile(r"\{\\[^}]*\}")
_TAG: Final = re.compile(r"<(?=[^<>]*>)")


def payload(text: str, kind: str) -> bytes:
    """A caption as a packet of a track of this *kind*, shown as it is written: an invisible joiner keeps players from
    reading signs of the text as mark-up where the kind has no way to write them otherwise."""
    if kind == "webvtt":
        return html.escape(text, quote=False).encode()
    plain = text.replace("\\", "\\" + _JOINER)
    if kind == "mov_text":
        body = plain.encode()
        return len(body).to_bytes(2, "big") + body
    return _TAG.sub("<" + _JOINER, plain).replace("{", "{" + _JOINER).encode()


def plain_text(packet: Any, kind: str) -> str:
    """What a packet of another file's caption track says, without its style."""
    data = bytes(packet)
    if kind == "mov_text":
        return data[2 : 2 + int.from_bytes(data[:2], "big")].decode("utf-8", "replace")
    text = data.decode("utf-8", "replace").rstrip("\0\n")
    if kind in ("ass", "ssa"):
        text = text.split(",", _ASS_FIELDS)[-1]
        return _ASS_STYLE.sub("", text).replace("\\N", "\n").replace("\\n", "\n")
    text = re.sub(r"</?[a-zA-Z][^<>]*>", "", text)
    return html.unescape(text) if kind == "webvtt" else text
