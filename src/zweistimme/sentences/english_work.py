"""What is said of the work: recognising, translating, voicing, fitting, mixing, handing over."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Final

WORK: Final[Mapping[str, str]] = {
    "terms-left-out": "{left_out:concept|concepts} without a term in {language:language} were left out.",
    "from-version": "{lines:line has|lines have} the words of {basis:language} in {version:language}.",
    "merged-direction": (
        "Line {line} had the direction “{direction}” in {version:language}, which cannot stand between words; the "
        "whole line has none. Undo, or give it one."
    ),
    "merged-voice": (
        "Line {line} had the voice {voice} of its own in {version:language}, and was joined with lines of other "
        "voices; the whole line has the voice of its person. Undo, or give it a voice of its own."
    ),
    "received-not-remembered": (
        "This project was not made on this desk: {lines:settled line stays|settled lines stay} out of your translation "
        "memory. Take them in with “memory keep”, or in the memory’s panel."
    ),
    "chosen-voice-refused": (
        "{names}: the voice that was chosen does not speak {language:language}, and none may stand in. Choose "
        "another, or allow stand-ins."
    ),
    "waits-for-version": "{lines:line waits|lines wait} for {basis:language}, whose words they have.",
    "region-differs": (
        "In {lines:line|lines} of {version:language} something is said that was put otherwise there before; "
        "“check” shows where."
    ),
    "pictures-not-sent": "No pictures go along: {why}",
    "hints-left-out": "The engine is told {told:,} names and terms, and not {left_out:,} more.",
    "words-not-heard": "{unheard} of {segments} segments were not heard as they are written; their times stay.",
    "speech-found": "Found {seconds:,.0f} s of speech by {people:speaker|speakers}.",
    "voices-alike": (
        "{people} people were said to speak; their voices are too much alike. Give lines to them by hand."
    ),
    "heard-outside": "The engine heard “{words}” at {at_us:clock}; it {why} and is left out.",
    "without-words": "{stretches:stretch|stretches} of speech could not be put into words; they are marked.",
    "hesitations-left-out": "{sounds:sound|sounds} of hesitation left out of the text.",
    "laid-by-length": (
        "No voice speaks {language}, so the script was laid over the speech by length alone. Check its times."
    ),
    "script-unsure": (
        "No sentence of {file} was heard for certain; they were laid over the speech in their order. Check "
        "their times, and that it is the right script."
    ),
    "script-partly-unsure": (
        "{unsure} of {sentences} sentences are where they are with some doubt; their words are marked."
    ),
    "sentence-not-heard": "“{text}” was not heard; it is left out.",
    "more-not-heard": "{sentences:more sentence was|more sentences were} not heard and left out.",
    "speech-not-written": "{stretches:stretch of speech is|stretches of speech are} not in {file} and without words.",
    "voices-stand-in": (
        "No voice of {engine} speaks {wanted:language}; voices for {related:language} stand in. Refuse that "
        "on the Cast page, or with cast --no-substitutes."
    ),
    "heard-whispered": "whispered: {share} % of it has a pitch",
    "heard-shouted": "louder by {level_db:.0f} dB and higher by {pitch_st:.0f} semitones than usual",
    "heard-hurried": "hurried: {pace:.1f} syllables a second, usually {usual:.1f}",
    "heard-slow": "slow: {pace:.1f} syllables a second, usually {usual:.1f}",
    "heard-lively": "lively: its pitch moves by {more_st:.1f} semitones more than usual",
    "heard-questioning": "its pitch rises by {rise_st:.0f} semitones at the end",
    "lexemes-left-out": (
        "{left_out:word was|words were} left out: they are said neither in IPA, nor in X-SAMPA, nor like another word."
    ),
    "takes-not-comparable": (
        "{takes:take is|takes are} too short, or too unlike the desk's own voices, to be compared with them. Choose a "
        "recogniser that hears {language:language}."
    ),
    "take-not-heard": "The take of line {line} could not be heard: {why}",
    "again-beyond-amount": (
        "{lines:line is|lines are} not right yet, but asking again would cost more than {amount:g}; they stay."
    ),
    "voice-not-measured": "The voice {voice} could not be measured: {why}",
    "voices-cost-to-measure": (
        "{voices:voice is|voices are} not measured; that takes {characters:,} characters of {engine}, some {amount:g} "
        "{currency}."
    ),
    "text-has-tone": "{engine} reads the wording as {tone} ({strength} of 100).",
    "phrase-by-phrase": "Placed in {phrases} phrases, where the original has its own.",
    "samples-short": (
        "There are {seconds:g} s; less than {enough:g} s make a guess of a voice, {good:g} s a good one."
    ),
    "samples-noisy": "{samples:sample has|samples have} something under the voice: {snr_db} dB, 20 are wanted.",
    "samples-clipped": "{samples:sample is|samples are} cut off at the top. Take others, or record with less gain.",
    "samples-in-a-room": "The room rings for {decay_s:g} s, and the voice would bring it along.",
    "auditions-cost": (
        "{lines:line is|lines are} to be spoken; that takes {characters:,} characters of {engine}, some {amount:g} "
        "{currency}."
    ),
    "voice-alike": (
        "{hz} Hz was measured, the voice has {voice_hz} Hz; of {count:voice|voices} it is number {rank} in likeness."
    ),
    "voice-pitch-unknown": "{hz} Hz was measured; how high the voice is nobody knows. It is number {rank} of {count}.",
    "voice-unmeasured-person": "There is too little speech to say what the person's voice is like.",
    "voice-earlier": "Somebody of this name had it in an earlier project.",
    "voice-related": "It speaks {language:language} instead.",
    "voice-shared": "{names} would have it, too: there are too few voices.",
    "voice-confused": "It is easily taken for that of {names}, who is in the same scene.",
    "manner-beyond-voice": (
        "The voice {voice} goes not so far in {control}; it is spoken as near to what is wanted as it can."
    ),
    "without-voice": "No voice of {engine} speaks {language}. Without one: {names}. Import takes for them.",
    "lines-stale": (
        "{lines} of {all} lines in {version} are heard as they were before they were changed: {places}{more}. Voice "
        "and fit them again."
    ),
    "lines-untranslated": "{lines} of {all} lines in {version} have words that were not translated: {places}{more}.",
    "lines-clash-at": "{lines} of {all} lines in {version} are heard at once with others: {places}{more}.",
    "lines-behind-end-at": (
        "{lines} of {all} lines in {version} go on behind the end of the programme, where nothing is heard any more: "
        "{places}{more}."
    ),
    "directions-unheard": (
        "{lines} of {all} lines in {version} have a direction that is not among those their voice knows: "
        "{places}{more}."
    ),
    "stretches-unworded": (
        "{stretches} of {all} stretches of speech have no words, so no version says them. Write them, or take "
        "them away."
    ),
    "direction-unknown": (
        "“{direction}”, in {lines:line|lines}, is not among the directions that the voice {voice} knows."
    ),
    "lines-without-take": "{lines} of {all} lines in {version} have no take and are not heard: {places}{more}.",
    "no-video": "There will be no video: {why} Everything else is handed over.",
    "captions-too-fast": (
        "In {version} {captions:caption goes|captions go} by faster than {speed:g} letters a second, at "
        "{places}{more}: there is more speech than time to read it."
    ),
    "lines-too-long": (
        "In {version} {lines:line is|lines are} too long whatever is done; the Fit page, or the command "
        "remedies, says what would help."
    ),
    "lines-clash": (
        "In {version} {lines:line is|lines are} heard at once with another, since pins stand in the way; the "
        "Fit page, or the command remedies, says what would help."
    ),
    "lines-behind-end": (
        "In {version} {lines:line goes|lines go} on behind the end of the programme, where nothing is heard any more: "
        "pins stand in the way. Move or remove them."
    ),
    "takes-silent": "In {version} {takes:take is|takes are} silent; record or make them again.",
    "loudness-not-reached": (
        "The {version} mix measures {loudness_lufs:.1f} LUFS: {wanted_lufs:.0f} cannot be reached with a true"
        " peak of {peak_dbtp:.0f} dBTP."
    ),
    "cuts-unknown": "The cuts of the picture are not known yet. Once they are, fit the lines near them again.",
    "no-cuts": "Cuts of the picture are not known, and lines run over them: {why}",
    "range-too-wide": (
        "The {version} mix for {preset} has a loudness range of {range_lu:.1f} LU; at most {most_lu:.0f} are wanted: "
        "turn loud places down, or what lies under soft ones."
    ),
    "no-room-tone": (
        "The original of {version} hardly pauses, so that no room tone can be told from it: it is silent under the dub "
        "where somebody speaks. Give a bed, or have the original give way."
    ),
    "lines-drowned": (
        "In {version} {lines:line is|lines are} softer than what is under them, at {places}{more}: turn the "
        "bed down, or give a bed where there is none."
    ),
    "file-found-again": "{file} was found again as {path}.",
    "stale-by-hand": (
        "In {version} {lines:line that somebody settled no longer matches its source|lines that somebody settled no "
        "longer match their source}; look over what has changed."
    ),
    "lines-gone": "{lines:line of the file is|lines of the file are} of no line here any more.",
    "words-kept": (
        "{lines:line is final or locked and keeps its|lines are final or locked and keep their} words; {file} has "
        "others."
    ),
    "from-memory": "{lines:line|lines} of {version} taken from the memory: the same had been settled before.",
    "run-cost": "{engine}: {characters:,} characters, {amount:,.2f} {currency}.",
    "run-cost-sound": "{engine}: {seconds:,.0f} s of sound, {amount:,.2f} {currency}.",
    "sounds-like-another": (
        "The speech sounds like {heard:language}, not {said:language}. Check the language of the programme."
    ),
}
