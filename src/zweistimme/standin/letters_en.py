"""English letters to sounds, for words the lexicon does not have. Southern British: r only before vowels."""

from __future__ import annotations

import re

from zweistimme.standin.letters import rules

RULES = rules(
    """
    ^kn = n
    ^wr = r
    ^gn = n
    ^ps = s
    tion = S @ n
    sion = Z @ n
    tious = S @ s
    cious = S @ s
    ture$ = tS @
    ough(?=t) = O
    ough$ = oU
    augh(?=t) = O
    igh = aI
    eigh = eI
    tch = tS
    dge = dZ
    sch = s k
    sh = S
    ch = tS
    ph = f
    th(?=er) = D
    th = T
    wh = w
    ck = k
    ng$ = N
    ng(?=[s']) = N
    nk = N k
    qu = k w
    gh = g
    ble$ = b @ l
    ple$ = p @ l
    tle$ = t @ l
    dle$ = d @ l
    gle$ = g @ l
    ckle$ = k @ l
    air = e@
    are$ = e@
    ear(?=[nltc]) = 3
    ear = i@
    eer = i@
    ere$ = i@
    oor = O
    our$ = @
    or$ = @
    ore = O
    or = O
    ar(?=r) = ae
    ar = A
    ir(?=[aeiou]) = aI r
    er$ = @
    ers$ = @ z
    er(?=[aeiou]) = E r
    er = 3
    ir = 3
    ur(?=[aeiou]) = u@ r
    ur = 3
    ai = eI
    ay = eI
    au = O
    aw = O
    ea(?=[dl]th?$) = E
    ea = i
    ee = i
    ei = i
    ey$ = I
    ew = j u
    eu = j u
    ie$ = aI
    ies$ = I z
    ie = i
    oa = oU
    oe$ = oU
    oi = OI
    oy = OI
    oo(?=k) = U
    oo = u
    ou = aU
    ow$ = oU
    ow = aU
    ue$ = u
    ui(?=t) = u
    a(?=[^aeiouyw]e$) = eI
    a(?=[^aeiouyw]es$) = eI
    a(?=[^aeiouyw]ing) = eI
    e(?=[^aeiouyw]e$) = i
    i(?=[^aeiouyw]e$) = aI
    i(?=[^aeiouyw]es$) = aI
    i(?=nd$) = aI
    i(?=ld$) = aI
    o(?=[^aeiouyw]e$) = oU
    o(?=[^aeiouyw]es$) = oU
    o(?=ld) = oU
    u(?=[^aeiouyw]e$) = u
    (?<=[td])ed$ = I d
    (?<=[pkfsxhc])ed$ = t
    ed$ = d
    (?<=[sxzhcg])es$ = I z
    (?<=[^aeiou])e$ =
    (?<=[^aeiou])es$ = z
    all = O l
    al(?=k) = O
    a(?=st$|th$|sk$|ss$|ft) = A
    ^a(?=[^aeiou][aeiou]) = @
    wa = w Q
    a$ = @
    a = ae
    ^e(?=[^aeiou][aeiou]) = I
    e = E
    i$ = I
    i = I
    o$ = oU
    o = Q
    u(?=ll|sh|t$) = U
    u = V
    y$ = I
    ^y = j
    y = I
    '|’ =
    bb = b
    cc = k
    c(?=[eiy]) = s
    c = k
    dd = d
    ff = f
    g(?=[ei]) = dZ
    gg = g
    g = g
    (?<=[aeiou])h =
    h = h
    j = dZ
    k = k
    ll = l
    l = l
    mb$ = m
    mm = m
    m = m
    nn = n
    n = n
    pp = p
    p = p
    rr = r
    r(?![aeiouy]) =
    r = r
    ss = s
    (?<=[bdgvlmnrwy])s$ = z
    (?<=[aeiou])s(?=[aeiou]) = z
    s = s
    tt = t
    t = t
    b = b
    d = d
    f = f
    v = v
    w = w
    x = k s
    z = z
    """
)
_PREFIX = re.compile(r"^(a|be|re|de|ex|in|im|con|com|pre|pro|un|dis|for)(?=[^aeiou]{1,2}[aeiouy]\w)")
_LATE = re.compile(r"(tion|sion|ic|ity|ical)s?$")


def stressed_syllable(word: str, sounds: list[str]) -> int:
    """The first syllable, the second after a common prefix, the last but one before -tion and the like."""
    if _LATE.search(word):
        return -2
    return 1 if _PREFIX.match(word) and len(word) > 5 else 0
