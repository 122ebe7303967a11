"""Spanish letters to sounds; the spelling tells nearly everything."""

from __future__ import annotations

import re

from zweistimme.standin.letters import rules
from zweistimme.standin.phones import is_vowel

RULES = rules(
    """
    ch = tS
    ll = j
    rr = 4 4
    ^r = 4 4
    (?<=[nls])r = 4 4
    r = 4
    qu(?=[eiéí]) = k
    gu(?=[eiéí]) = g
    gü = g w
    g(?=[eiéí]) = x
    ^g = g
    (?<=n)g = g
    g = G
    c(?=[eiéí]) = T
    c = k
    z = T
    j = x
    ñ = J
    h =
    ^[bv] = b
    (?<=m)b = b
    (?<=n)v = b
    [bv] = B
    ^y$ = i
    [aá]y$ = ai
    [eé]y$ = ei
    [oó]y$ = oi
    y = j
    [aá]i = ai
    [eé]i = ei
    [oó]i = oi
    [aá]u = au
    [eé]u = eu
    i(?=[aeoáéó]) = j
    u(?=[aeoáéóií]) = w
    [aá] = a
    [eé] = e
    [ií] = i
    [oó] = o
    [uúü] = u
    d = d
    x = k s
    f = f
    k = k
    l = l
    m = m
    n = n
    p = p
    s = s
    t = t
    w = w
    """
)


def stressed_syllable(word: str, sounds: list[str]) -> int:
    """A written accent decides; else words in a vowel, n or s are stressed on the last but one."""
    accent = re.search(r"[áéíóú]", word)
    if accent:
        before = re.findall(r"[iu](?=[aeoáéó])|[aeiouáéíóúü]", word[: accent.start()])
        glides = len(re.findall(r"[iu](?=[aeoáéó])|(?<=[qg])u(?=[eiéí])", word[: accent.start() + 1]))
        return max(0, len(before) - glides)
    count = sum(map(is_vowel, sounds))
    return count - 2 if re.search(r"[aeiouns]$", word) and count > 1 else count - 1
