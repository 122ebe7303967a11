"""German letters to sounds. Long vowels before one consonant, short before two; final devoicing."""

from __future__ import annotations

import re

from zweistimme.standin.letters import rules

RULES = rules(
    """
    tsch = tS
    sch = S
    chs = k s
    (?<=[aou])ch = x
    ch = C
    ck = k
    ^st = S t
    ^sp = S p
    (?<=^[gb]e)st = S t
    (?<=^[gb]e)sp = S p
    (?<=auf)st = S t
    tz = ts
    z = ts
    pf = pf
    ph = f
    qu = k v
    ng(?![aeiouäöü]) = N
    ng(?=e) = N
    nk = N k
    ß = s
    ss = s
    s(?=[aeiouäöüy]) = z
    s = s
    ^v = f
    v = f
    w = v
    j = j
    ieh = i
    ie = i
    ei = aI
    ai = aI
    eu = OY
    äu = OY
    au = aU
    aa = aa
    ah = aa
    ee = e
    eh = e
    ih = i
    oh = o
    oo = o
    uh = u
    äh = E
    öh = 2
    üh = y
    er$ = 6
    ern$ = 6 n
    ert$ = 6 t
    e$ = @
    en$ = @ n
    el$ = @ l
    em$ = @ m
    es$ = @ s
    et$ = @ t
    st$ = s t
    (?<=^)ge(?=[^aeiouäöü]) = g @
    (?<=^)be(?=[^aeiouäöü]) = b @
    ^ver = f E 6
    ^zer = ts E 6
    a(?=[^aeiouäöüy]([aeiouäöü]|$)) = aa
    a = a
    e(?=[^aeiouäöüy][aeiouäöü]) = e
    e = E
    i(?=[^aeiouäöüynmr][aeiouäöü]) = i
    i = I
    o(?=[^aeiouäöüy]([aeiouäöü])) = o
    o = O
    u(?=[^aeiouäöüys]([aeiouäöü]|$)) = u
    u = U
    ä(?=[^aeiouäöüy][aeiouäöü]) = E
    ä = E
    ö(?=[^aeiouäöüy]([aeiouäöü]|$)) = 2
    ö = 9
    ü(?=[^aeiouäöüy]([aeiouäöü]|$)) = y
    ü = Y
    y = Y
    é = e
    bb = b
    dd = d
    ff = f
    gg = g
    ll = l
    mm = m
    nn = n
    pp = p
    rr = R
    tt = t
    b($|(?=[sft])) = p
    b = b
    d($|(?=s)) = t
    d = d
    (?<=i)g$ = C
    g($|(?=[st])) = k
    g = g
    c = k
    f = f
    h = h
    k = k
    l = l
    m = m
    n = n
    p = p
    (?<=[aeiouäöüh])r(?![aeiouäöü]) = 6
    r = R
    t = t
    x = k s
    """
)
_UNSTRESSED = re.compile(r"^(ge|be|ver|zer|er|ent|emp|hin)(?=[^aeiou]|auf|aus)")


def stressed_syllable(word: str, sounds: list[str]) -> int:
    """The first syllable, or the second after an unstressed prefix."""
    return 1 if _UNSTRESSED.match(word) and len(word) > 4 else 0
