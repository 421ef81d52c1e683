"""The words and marks at which prose is cut into parts, or kept together (cutting.py)."""

import re

CHUNK = re.compile(r"(?:[^,;:.!?\n—]|[.,:](?=[^\s]))+")
WORD = re.compile(r"\S+")
GLUE = re.compile(
    r"^(?:(?:and|of|then|while|as|to show|to reveal|showing|showing us|revealing|depicting|featuring|with|but|for|from|to|who|which|that|use|using"
    r"|add|include|including|plus)\s+)+",
    re.I,
)
MEANWHILE = re.compile(r"\s+(?:as|while|when)\s+(?=(?:an?|the|his|her|two|three|he|she|they|it)\s)", re.I)
PARTS_OF_BODIES = frozenset(
    "leg foot feet paw hoof wheel stilt shoulder head face arm hand knee back finger wing tail lap hip toe cheek nose forehead chin brow neck chest fur side tiptoe horseback".split()
)
CUTS_DEED = frozenset(
    "in on at under among behind inside outside beside near aboard from down through beneath by between amid atop underneath beyond above".split()
)
ANOTHER = re.compile(r"(?<=\w)\s+(?=(?:an?|the|his|her|their|two|three|four|some)\s)", re.I)
ADVERB = re.compile(r"(?<=\w)\s+(?:just|still|already|barely|almost|now|\w+ly)$")
PRONOUNS = frozenset("he she they it".split())
CLOTHED = re.compile(r"^(?:in|wearing|dressed in|clad in|wrapped in|bundled in|draped in)\b", re.I)
TIMED = re.compile(
    r"\s+(?:in (?:extreme |ultra |dreamy )?(?:slow[- ]motion|real time|reverse|one take)|at \d+ (?:frames per second|fps)|(?:seen|viewed|photographed) (?:from|through)\b.*|frozen mid-\w+)$",
    re.I,
)
ATTRIBUTE = re.compile(
    r"\s+(of|with|and|for|shaped like|(?:made|carved|built|woven|folded|formed|cut) (?:entirely )?(?:of|from|out of)|(?:covered|coated|dusted|encrusted"
    r"|filled|topped|decorated|studded|overgrown|draped|stuffed|piled|stacked|adorned|crowned|lined|painted) (?:in|with)|full of|in the)\s+(?=\S)",
    re.I,
)
TRAIL = re.compile(
    r"\s+(of|and|between|with|above|below|from|to|behind|beside|lined with|covered (?:in|with)|filled with|full of|for)\s+(?=\S)",
    re.I,
)
AGE = re.compile(r"\s+in (?:his|her|their) (?:early |mid |late |mid-|late-|early-)*(?:teens|\w+ties)\b", re.I)
# What can be somewhere or do something: what follows it is cut off.
HAVES = frozenset("subject animal food object architecture setting close-detail wardrobe material creature-feature".split())
AIR = frozenset(
    "visual-effect weather lighting light-quality music ambience sound-effect hour".split()
)  # what fills a clause of its own
WITH_APART = HAVES | {"action"}  # what "with" may lead to as a part of the thing before it
DEED_BY_ITSELF = frozenset("pose expression lighting visual-effect pacing camera-angle looping-motion".split())
