"""Words that no good break parts from a neighbour: articles, prepositions and conjunctions lean on what comes behind,
postpositions and particles on what came before."""

from __future__ import annotations

from functools import lru_cache
from typing import Final

from zweistimme.project.languages import language_of

_FORWARD: Final = {
    "en": "a an the and or but of in on at to for with from by as that this his her its my your our their not no very",
    "de": "der die das den dem des ein eine einen einem einer eines und oder aber in im am an auf zu zum zur mit von "
    "vom bei nach für aus durch sein seine ihr ihre mein meine kein keine dass wenn",
    "es": "el la los las un una unos unas y o u pero de del a al en con por para que su sus mi mis tu tus no se lo",
    "fr": "le la les l' un une des du de d' et ou mais à au aux en dans sur avec pour par que qu' son sa ses mon ma "
    "mes ton ta tes leur leurs ce cet cette ces ne n' se s' je j' si sans chez",
    "it": "il lo la i gli le l' un uno una e o ma di del della dei a al alla in nel nella con per da dal su che non si",
    "pt": "o a os as um uma e ou mas de do da dos das em no na nos nas a ao à com por para que seu sua meu minha não",
    "ca": "el la els les l' un una i o però de del dels a al en amb per que seu seva no es",
    "ro": "un o și sau dar de la în pe cu din pentru că să nu al ai ale",
    "nl": "de het een en of maar van in op aan te voor met uit bij dat zijn haar mijn niet om",
    "sv": "en ett den det de och eller men av i på till för med från som att inte sin sitt min",
    "da": "en et den det de og eller men af i på til for med fra som at ikke sin sit min",
    "nb": "en et ei den det de og eller men av i på til for med fra som at ikke sin sitt min",
    "fi": "ja tai mutta että jos kun ei se", "hu": "a az egy és vagy de hogy ha nem", "et": "ja või aga et kui ei",
    "pl": "i a o u w z na do od za ze we po pod nad przed przez dla bez że się nie czy lub ale jak ten ta to",
    "cs": "a i o u v z s k na do od za ze ve po pod nad před pro bez že se si ne či ale jak ten ta to",
    "sk": "a i o u v z s k na do od za zo vo po pod nad pred pre bez že sa si nie či ale ako ten tá to",
    "hr": "i a o u s k na do od za iz po pod nad pred bez da se ne ili ali kao taj ta to",
    "sl": "in a o v s z k na do od za iz po pod nad pred brez da se ne ali kot ta to",
    "ru": "и а о у в с к на до от за из по под над перед для без что не или но как же ли бы этот эта это",
    "uk": "і й а о у в з с к на до від за із по під над перед для без що не або але як цей ця це",
    "bg": "и а о у в с към на до от за из по под над пред без че не или но като този тази това да се",
    "el": "ο η το οι τα τον την του της των ένας μια ένα και ή αλλά σε στο στη στην στον στα από για με να "
    "θα που ότι δεν μη",
    "tr": "bir bu şu o ve veya ama en çok her hiç", "vi": "và hoặc nhưng của ở trong với cho một các những không",
    "id": "dan atau tetapi di ke dari yang untuk dengan pada sebuah tidak",
    "ms": "dan atau di ke dari yang untuk dengan",
    "ar": "في من على إلى عن مع أن إن لا ما لم لن هذا هذه ذلك أو ثم كل",
    "he": "של את על אל עם מן כי או לא אבל זה כל אם גם",
    "fa": "و یا در از به با بر که این آن هر", "ko": "그 이 저 한 안 못 더 또",
}  # fmt: skip
_BACKWARD: Final = {
    "hi": "का के की को में से पर तक ने भी ही है हैं था थे थी तो", "mr": "चा चे ची ला मध्ये ने पण ही आहे",
    "tr": "mi mı mu mü de da ile için gibi kadar", "fa": "را ها", "ur": "کا کے کی کو میں سے پر تک نے بھی ہی ہے ہیں",
    "ko": "것 수 때", "fr": "? ! : ;", "en": "", "hu": "is",
}  # fmt: skip
_FORWARD_SETS: Final = {tag: frozenset(words.split()) for tag, words in _FORWARD.items()}
_BACKWARD_SETS: Final = {tag: frozenset(words.split()) for tag, words in _BACKWARD.items()}
_ALIASES: Final = {"no": "nb", "nn": "nb", "sr": "hr", "bs": "hr", "gl": "pt", "be": "ru", "mk": "bg", "nds": "de"}
_ANY: Final = frozenset().union(*(_FORWARD_SETS[tag] for tag in ("en", "de", "es")))
_SIGNS: Final = "«»„“”‘’\"'¿¡()[]،,"


@lru_cache(maxsize=20_000)
def parting_price(before: str, after: str, tag: str = "") -> int:
    """What it costs to part two words, 0 (nothing leans on anything) to 2 (both do).

    >>> parting_price("la", "mer", "fr-FR"), parting_price("bir", "saat", "tr"), parting_price("समुद्र", "में", "hi")
    (1, 1, 1)
    >>> parting_price("mer", "monte", "fr-FR"), parting_price("sie", "?", "fr-FR")
    (0, 1)
    """
    language = language_of(tag)
    language = _ALIASES.get(language, language)
    forward, backward = _FORWARD_SETS.get(language, _ANY), _BACKWARD_SETS.get(language, frozenset())
    first, second = before.lower().strip(_SIGNS), after.lower().strip(_SIGNS)
    elided = before.lower().strip('«»„“”"¿¡()[]')
    return int(first in forward or elided in forward) + int(second in backward)
