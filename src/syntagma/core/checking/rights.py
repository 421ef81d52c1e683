"""What a prompt must be careful with: names of people, works and marks, and the words that need
care.
"""

import re
from functools import lru_cache

from syntagma.core.diagnostics import ERROR, WARNING, Finding
from syntagma.core.english.word_lists import is_person
from syntagma.core.notation.late_regex import regex

# ──── Given names of many countries, those left out that are as often a word, a place or a flower
# (Rose, Florence, Will, Jordan).


GIVEN_NAMES = frozenset(
    """
    aaron ada abdul abdullah abigail abraham achieng adam adele adrian agnes agnieszka ahmad ahmed
    aiko aisha alan albert alberto alejandra alejandro aleksander aleksandra alessandro alexander
    alexandra alexandre alexei alfred ali alice alicia alison alistair amanda amelia amina amir amit
    amy ana anaïs anastasia anders andre andré andrea andreas andrew andrzej andy angela angelika
    angus anil anita anja anjali ann anna anne anneke annette annika anthony antoine anton antonia
    antonio anya archie ariana arjun arnold arthur arturo asha ashley ashok astrid audrey barbara
    barbora barry bartosz beatrice beatriz belinda benedict benjamin bernard bernd bertha bettina
    beverly bianca björn bogdan boris brandon brenda brian bridget britney bruce bruno bryan camila
    camille carina carl carla carlos carmen caroline casper catalina caterina catherine cecilia
    céline charles charlie charlotte chidi chinonso chinua chloe chloé christina christine christoph
    christopher chukwu claire clara claudia clément clive colin connor constance cristiano cristina
    cynthia daisuke daniel daniela danielle dariusz darren david deborah deepak denis denise derek
    desmond diana diane diego dieter dimitri dinesh dirk dmitri dolores dominic donald donna dorothy
    douglas duncan dwayne edgar edith edmund eduardo edward edwin eileen einar eleanor elena eleni
    elias elif elijah elisa elisabeth eliza elizabeth ella ellen elsa elvira emanuel emeka emil
    emilia emilio emily emma emmanuel enrique erica erik ernest ernst esther ethan eugene eva evelyn
    evgeny fabian farah farid fatima fatou felicity felix fernando filip fiona folake franz françois
    françoise frederick frederik friedrich frieda fumiko gabriel gabriela gareth gary geoffrey georg
    georgina gerald gerhard giacomo gianluca gilbert giles giorgio giovanni giulia giuseppe gladys
    gloria gordon grażyna greg gregory greta grigori guillermo gunnar günther gustav gwen hamza hana
    hannah hans harald haruki haruto hasan hassan heather hector heidi heike heinrich helen helena
    helga helmut hendrik henrik henry herbert hermann hilary hilda hiroshi holger hugh hugo hussein
    ian ibrahim ida ifeoma ignacio igor ilse imran indira ines inés inga ingrid irene irina isaac
    isabel isabella isabelle ismail ivan ivana jacek jackie jacob jacqueline jacques jakob jakub
    james jan jane janet janina jasmin jason javier jean jeffrey jennifer jens jeremy jessica
    joachim joan joanna joanne johan johann johanna johannes john johnny jonas jonathan jorge josé
    josef joseph josephine josh joshua joyce juan juanita judith jules julia julian juliana julie
    juliette julio jürgen justin justyna kamal kareem karen karim karin karl karolina katarina
    katarzyna kate katherine kathleen kathryn katja kavita kazuo keiko keith kelly kenji kenneth
    kenta kevin khadija khalid kim kimberly klaus kofi konrad konstantin krishna krzysztof kumar
    kurt kwame kyle lakshmi lars latisha laura lauren laurent lawrence leila leonard leonardo leroy
    leslie leticia lewis liam lidia linda lionel lisa ljubica lorenzo lorraine louis louisa louise
    lucas lucia lucía luciano lucille luis luisa lukas lukasz lydia lyudmila maciej mads magdalena
    mahmoud malcolm małgorzata manfred manuel manuela marc marcel marcelo marco marek margaret
    margarita margot maria maría mariam mariana marianne marie marina mario marion marjorie markus
    marlon marta martha martin martina mary masako mateo mateusz mathieu matilda matteo matthew
    matthias maureen maurice maxime maximilian megan mei melanie melissa mia michael michał michel
    michelle miguel mikhail milena miloš miriam mitsuko mohamed mohammad mohammed moira monika
    monique moses muhammad murad mustafa nadia nadine nagisa nancy naomi natalia natalie natasha
    nathan nathaniel neil nelson ngozi nicholas nicola nicolas nicole niels nigel nikolai nikos nina
    nneka noah noël nora norbert norman octavia ola oleg oleksandr olga oliver olivia olga oluwaseun
    omar oscar oskar otto owen pablo pamela paola paolo patricia patrick paul paula paulina pauline
    pavel paweł pedro penelope percy peter petra philip philippe phoebe phyllis pierre piotr pilar
    pooja prakash priya rachel rafael rahul rajesh ralph ramón raquel rashid rasmus ravi raymond
    rebecca reginald reinhard renata renate rené ricardo richard rita robert roberta roberto roger
    roland rolf roman romeo ronald rosa rosalind rosemary roxanne rudolf rupert ruth ryan sabine
    sabrina said sakura salma salvador salvatore samantha samir samuel sandra sanjay santosh sarah
    sasha satoshi sebastian serena serge sergei sergio seung shamima shannon sharon sheila shirley
    sigrid silvia simon simone siobhan søren sofía sonia sophie stanislav stefan stefania stefanie
    stephanie stephen steve steven stuart sunita susan susanne suzanne sven svetlana sylvia sylvie
    tadashi takashi takeshi tamara tanja tariq tatiana teresa terry theodore theresa thérèse thomas
    timothy tina tobias tomas tomás tomasz tomoko tony tove tracy tristan ulla ulrich ulrike ursula
    valentina valeria vanessa vera vernon veronica veronika vicente victor viktor vijay vikram
    vincent vinod virginie vivian vivienne vladimir wahid walter wanda wei wendy wilfred wilhelm
    william winston wojciech wolfgang xavier xiaoming yasmin yasuko yolanda yoshi yuki yuko yusuf
    yves yvonne zainab zbigniew zeynep zofia zoe zuzana
""".split()
)

# ──── What no command writes: a prompt that shows a child in a sexual way, or undressed. It is
# refused, and never reworded.


_AGE = (
    r"(?:1[0-7]|[1-9])[ -](?:years?|yrs?|yo)(?:[ -]olds?)?|(?:aged?|age of)"
    r" (?:1[0-7]|[1-9])\b|(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|thirteen|fourteen|fifteen|sixteen|seventeen)["  # noqa: E501
    r" -]years?[ -]olds?"
)
_CHILD = regex(
    r"\b(?:child|children|childs|kid|kids|boys?|girls?|toddlers?|bab(?:y|ies)|infants?|newborns?|minors?|underage|under-age|pre-?teens?|tweens?|teens?|teenagers?|teenaged?|adolescents?|school"
    rf" ?(?:boys?|girls?|child|children|kids?)|daughters?|pupils?|loli\w*|shota\w*|{_AGE})\b",
    re.I,
)
_WORDS = (
    r"nudes?|nudity|nudist|naked|topless|bottomless|undress(?:ed|ing)?|unclothed|bare[-"
    r" ](?:breast(?:s|ed)?|bottom)|without (?:any )?clothes|no clothes"
    r" on|sex|sexual\w*|sexy|sexi(?:er|est)|erotic\w*|porn\w*|nsfw|hentai|ecchi|lewd|lingerie"
    r"|fetish\w*|seductive\w*|sensual\w*|provocative"
    r" (?:poses?|looks?|outfits?|clothes|dress)|sultry"
    r" (?:looks?|gaze|poses?|eyes|smile|expression)|lustful|aroused|orgasm\w*|genitals?|breasts|nipples?|cleavage|striptease|boudoir|pin-?ups?|bedroom"  # noqa: E501
    r" eyes|g-string"
)
_SEXUAL = regex(rf"\b(?:{_WORDS})\b", re.I)
_HARMLESS = regex(
    r"\b(?:naked (?:eyes?|branch(?:es)?|trees?|twigs?|bulbs?|flames?|light|rock|hills?|blades?|mole"
    r" rats?)|(?:naked|unclothed) (?:baby |newborn"
    r" )?(?:birds?|mice|mouse|chicks?|kittens?|animals?)|nude"
    r" (?:colou?rs?|tones?|shades?|palettes?|lips?|lipstick|heels?|nails?|make-?up|pink|beige)"
    r"|(?:chicken|turkey|duck|goose) breasts|bottomless (?:pit|well|sea|lake|bag|cup)|baby"
    r" (?:blue|pink|grand)|(?:same|single|opposite|mixed)[- ]sex|sex of the (?:baby|child)|minor"
    r" (?:key|chord|role|character|planet|scale|damage|detail)s?|boys? band|girls? band|pin-?up"
    r" girls?)\b",
    re.I,
)
_DENIED = regex(
    r"\b(?:(?:no|not|without|never|nobody(?: is)?|no one(?: is)?|avoid(?:ing)?|excluding|free of)"
    rf" (?:any |a |full |explicit )?(?:\w+ (?:or|and) )?|non-)(?:{_WORDS})\b",
    re.I,
)  # "no nudity", "without violence or nudity"; but "without clothes" is what it says
_BARE = regex(r"\b(?:without (?:any )?clothes|no clothes on)\b", re.I)

MESSAGE = "Syntagma writes no prompt that sexualises or undresses a child, for any model"
REMEDY = "remove that; Syntagma will not reword it"
CHILD, SEXUAL = 1, 2


@lru_cache(maxsize=8192)
def signs(text: str) -> int:
    """Which of the two a piece of text may say, CHILD and SEXUAL added up: cheap, for pieces that
    many prompts share.
    """
    return (CHILD if _CHILD.search(text) else 0) + (SEXUAL if _SEXUAL.search(text) else 0)


def against_children(text: str) -> bool:
    """Does a prompt show a child in a sexual way, or undressed? What it keeps out ("no nudity")
    does not count, nor what only sounds so ("naked trees").
    """
    if not _SEXUAL.search(text):
        return False
    plain = _HARMLESS.sub(" ", text)
    said = _DENIED.sub(" ", _BARE.sub(" naked ", plain))  # only the word that is denied goes
    return bool(_SEXUAL.search(said) and _CHILD.search(plain))


def care(text: str) -> Finding | None:
    """The error that such a prompt is refused with; None for any other."""
    return Finding(ERROR, MESSAGE, REMEDY, "text", code="child") if against_children(text) else None


# ──── Whose picture it is: findings for a person who is named, and for a picture of people that
# could pass as evidence. Neither changes a word.


_TWO_NAMES = regex(
    r"(?<![\w’'-])([A-ZÀ-Ž][\w’'-]+)(?:"
    r" (?:[A-ZÀ-Ž]\.|van|von|der|den|de|da|di|du|del|la|le|bin|ibn|al|el|ter))*"
    r" ([A-ZÀ-Ž][\w’'-]*[a-zà-ž][\w’'-]*)"
)
_NO_FAMILY = frozenset(
    """
        age airport avenue bay beach bridge café castle cathedral church circus college cross day
        era express falls garden gardens gothic hall hill hospital hotel house island lake lane
        market mountain museum noir opera palace pan park place plane reef river road sea school
        square station street style theatre theater tower university valley village wharf zoo
    """.split()
)  # "Elizabeth Tower", "Victor Harbour Street"
_EVIDENCE = regex(
    r"\b(?:security[- ]camera|surveillance|cctv|body ?cam(?:era)?|body[- ]worn camera|dash"
    r" ?cam|door ?bell camera|passport (?:photo(?:graph)?|picture)|id photo|mug ?shots?|police"
    r" photo(?:graph)?|crime[- ]scene|forensic photo(?:graph)?|newsreel|news"
    r" (?:report|footage|broadcast|photo(?:graph)?)"
    r"|press photo(?:graph)?|paparazzi|found footage|leaked"
    r" (?:photo(?:graph)?|footage|picture)|x-ray|eyewitness (?:photo(?:graph)?|video|footage))\b",
    re.I,
)
_PEOPLE = regex(
    r"\b(?:he|she|him|her|his|hers|someone|somebody|people|politicians?|president|minister|celebrit(?:y|ies))\b",
    re.I,
)


def named_people(text: str) -> list[str]:
    """The names of persons in a text: a given name and a family name, in capitals as names are."""
    found = list(_TWO_NAMES.finditer(text))
    if not found:
        return []

    return list(
        dict.fromkeys(
            one[0]
            for one in found
            if one[1].lower() in GIVEN_NAMES and one[2].lower() not in _NO_FAMILY
        )
    )


def rights(text: str, known: frozenset[str] = frozenset()) -> list[Finding]:
    """What a prompt asks of somebody's rights; `known`: names in small letters of which it is known
    whose they are.
    """
    found = [
        Finding(
            WARNING,
            f"“{name}” reads like a person's name, and no consent is on record",
            "keep it if the person is invented or has agreed; otherwise describe them without the"
            " name",
            "text",
            code="named-person",
        )
        for name in named_people(text)
        if name.lower() not in known
    ]
    if (like := _EVIDENCE.search(text)) and (
        _PEOPLE.search(text) or any(map(is_person, re.findall(r"[a-z]+", text.lower())))
    ):
        found.append(
            Finding(
                WARNING,
                f"“{like[0]}” with people in it could pass as a record of something that happened",
                "get the consent of real people in it, and label the result as made by a generator",
                "text",
                code="could-pass-as-evidence",
            )
        )
    return found
