"""Nouns of people, and their typical endings."""

from syntagma.core.notation.late_regex import regex

PEOPLE = frozenset(
    """man woman boy girl child kid baby person lady gentleman guy friend mother father sister brother daughter son aunt
    uncle grandmother grandfather grandma grandpa queen king prince princess chef nurse clerk cook captain pilot monk nun
    priest soldier guard girlhood toddler teenager pensioner bride groom couple family crew crowd team host hostess
    waitress actress stewardess athlete acrobat clown magician mechanic musician physician librarian astronaut diplomat
    wife husband widow widower neighbour neighbor colleague stranger mum mom dad grandad granny gran cousin niece nephew
    mayor landlord landlady warden mate vicar lawyer butler bridesmaid wizard witch boss
    apprentice sailor tailor doctor author conductor inspector editor translator
    accountant activist actor adventurer agent ambassador analyst announcer archer architect artisan attendant auditor babysitter bachelor ballerina bandit banker barber barista bartender beggar biker blogger bodyguard bouncer
    boxer broker builder burglar busker businessman businesswoman butcher caretaker cashier celebrity chauffeur cheerleader chemist choirmaster citizen cleaner comedian commander commuter composer contractor coroner counsellor courier cowboy cowgirl craftsman criminal
    critic curator customer dealer decorator demonstrator deputy designer detective diver drifter druid drummer duchess duke electrician emperor empress employee engineer entertainer entrepreneur executive explorer farmhand fiddler fighter
    firefighter fireman foreigner fugitive gambler gardener gladiator goddess governor graduate grandson granddaughter grocer guardian guest hacker hermit hero heroine hiker hitchhiker hitman hooligan housewife hygienist immigrant influencer intern inventor investigator
    janitor jester jeweller judge juggler knight labourer laborer lad lass lecturer lifeguard logger lover lumberjack maid manager medic mercenary merchant messenger migrant millionaire miner minister monarch mountaineer mourner narrator nomad
    officer orphan outlaw painter paramedic parent passenger passerby pensioner pharmacist philosopher photographer pickpocket pilgrim pioneer pirate plumber poet policeman policewoman politician postman potter preacher president prisoner professor programmer prophet protester pupil
    rabbi racer ranger rapper rebel receptionist recruit referee refugee reporter rescuer researcher retiree rocker rogue roofer runaway saint salesman samurai scholar schoolboy schoolgirl scientist scout sculptor seamstress secretary senator servant shaman shepherd sheriff shopper shopkeeper
    skateboarder skater skier smuggler sorcerer sorceress spectator spy squire steward storyteller student stuntman surfer surgeon survivor swordsman technician tenant therapist thief tourist trader trainee trapper traveller traveler tutor umpire undertaker usher vagabond vagrant valet vampire vendor veteran viking villager visitor volunteer
    waiter wanderer warlock warrior watchman welder winner witness wrestler youngster zookeeper""".split()
)
_TRADE = regex(
    r"(?:maker|keeper|worker|driver|seller|player|singer|dancer|painter|writer|baker|teacher|farmer|fisher"
    r"|hunter|rider|runner|swimmer|walker|climber|ist|smith|monger|wright|man|woman|men|women|boy|girl|children|people)$"
)
_NOT_PERSONS = frozenset("mist twist list wrist fist moist waist human talisman caiman".split())

# Ends of words for several that do something (animals among them).
SEVERAL_ENDINGS = ("ers", "men", "children", "people", "girls", "boys", "ists", "couples", "friends", "birds", "dogs", "horses")


def is_person(noun: str) -> bool:
    """Does a noun in small letters speak of a person, by what it is or by how it ends?"""
    return noun not in _NOT_PERSONS and (noun in PEOPLE or bool(_TRADE.search(noun)))
