"""Word lists of English: determiners, prepositions, people, idle words, denials, exceptions of
plurals and articles.
"""

import re

from syntagma.core.notation.late_regex import regex

# ──── The word lists that the English rules lean on: closed classes (prepositions, determiners) and
# exceptions.


def _set(text: str) -> frozenset[str]:
    return frozenset(text.split())


PREPOSITIONS = _set(
    """
        aboard about above across after against along alongside amid among amongst around astride at
        atop before behind below beneath beside besides between beyond by despite down during for
        from in inside into like near of off on onto opposite out outside over past per round since
        through throughout till to toward towards under underneath until unto up upon versus via
        with within without
    """
)

# Words after which something has to follow: nothing may end in one of these when what followed is
# gone.
JOINERS = _set(
    """
        and or nor but of with without for from to into onto by at in on between among than as like
        per via the a an under over beside behind below above near inside against through upon amid
        beneath during
    """
)

# What a noun group is followed by, besides a preposition: "a lamp that swings", "a boat adrift".
RELATIVES = _set("that which who whom whose where when while as because so if and or but nor than")
AFTER_NOUNS = _set(
    """
        asleep awake alone alight ablaze adrift afloat aground aloft ashore astern ahead away apart
        aglow abed afoot agape asunder akin alike alive overhead underfoot indoors outdoors upstairs
        downstairs underwater
    """
)
# Adverbs and adjectives that come after a noun when they come last: "a door left open", "a hare
# sitting tall".
TRAILING = _set(
    "open shut ajar tall low high wide far up down away above below straight upright off"
)
# Prepositions that are adjectives as well ("a round tower"): prepositions only before a determiner.
ALSO_ADJECTIVES = _set("round near past inside outside opposite")
NOT_PARTICIPLES = _set("bed red shed sled")  # besides all in -eed: speed, reed, tweed
PARTICIPLES = _set(
    """
        lit hung seen made built torn worn caught bound drawn cut set left held kept laid lost shot
        spread split stuck swept thrown woven wrapped written frozen broken driven hidden shaken
        sunk wound bent lined set strewn shown taken given grown known told sewn sung carved slid
        tied dried fried spun strung flung clung spilt burnt bitten eaten
    """
)
# Adjectives behind a plural, where a preposition or the end follows: "puddles full of sky", "eyes
# shut".
HOW_MANY_ARE = _set(
    "full larger smaller higher lower taller shorter wider longer brighter darker nearer farther"
    " all none no just half shut close open tight still empty upright level"
)
PRONOUNS = _set(
    "somebody nobody someone everybody anybody something nothing everything us them him me you one"
    " another"
)

DETERMINERS = _set(
    """
        a an the this that these those my your his her its our their some any no each every either
        neither another both all several many few enough more most what which whose one two three
        four five six seven eight nine ten eleven twelve
    """
)
# Determiners of more than one word, longest first; the noun that they lead to is the head.
LONG_DETERMINERS = (
    "a couple of",
    "a handful of",
    "dozens of",
    "hundreds of",
    "scores of",
    "plenty of",
    "a lot of",
    "lots of",
    "a number of",
    "all of the",
    "some of the",
    "one of the",
    "a few",
    "a dozen",
    "a hundred",
    "a thousand",
    "half a",
    "half the",
    "half an",
    "all the",
    "both the",
    "such a",
    "such an",
    "many a",
)
NUMBERS = (
    "zero",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
)

# Mass nouns that turn up in descriptions of pictures; free text whose head is one of these takes no
# "a".
MASS = _set(
    """
        air animation anime architecture armour armor art artwork ash ambience bacon baggage bamboo
        beer bokeh brass bread broth bronze bunting butter calligraphy camouflage candlelight
        cardboard cargo chalk charcoal cheese chocolate clay clothing cloth coffee concrete confetti
        contrast copper cotton crockery cutlery darkness daylight debris denim dew dirt dough
        driftwood drizzle dust embroidery equipment fabric firelight firewood flour fluff foam fog
        foliage footage food frost fruit fur furniture gaslight gear ginger glitter gold graffiti
        grain granite grass gravel hail hair haze honey humidity ice icing incense ink iron ivy
        jewellery jewelry kelp lace lamplight lather laughter laundry lava lead leather lichen
        lightning lighting linen linework litter luggage machinery mail marble meat meltwater milk
        mist money moonlight moss mud music manga nature needlework neon noir noise origami ozone
        paper paperwork parchment pasta pepper photography pigment plankton plastic plumage plywood
        pollen popcorn porcelain pottery rain rainwater rice rigging rubber rubble rust salt sand
        sandstone satin scaffolding scenery scud seafood seaweed seawater shade shrubbery signage
        silence silk silt silver skin sleet slush smog smoke snow soap soil soot spaghetti speech
        spray starlight steam steel stitching straw string stubble sugar sunlight sunshine surf
        sweat symmetry tar tartan tea teak tackle thunder timber tinsel torchlight traffic
        translucency turf tweed twilight typography varnish vegetation velvet wallpaper water wax
        weather wheat wicker wildlife wine wood woodgrain wool work daybreak dusk dawn noon midnight
        nightfall
    """
)

# Singular nouns that end in -s, by ending; every other -s is a plural.
SINGULAR_OS = _set("chaos cosmos rhinoceros asbestos pathos ethos kudos")
SINGULAR_AS = _set("atlas gas bias alias pancreas christmas pampas madras arras texas")
PLURAL_IS = _set(
    """
        taxis skis safaris bikinis kiwis tsunamis alibis rabbis emojis paparazzis salamis yetis
        khakis origamis saris bonsais samurais daiquiris okapis
    """
)
PLURAL_US = _set("menus emus gnus tutus gurus haikus bayous caribous zebus thous flus impromptus")
SINGULAR_S = _set(
    "lens summons series species news chassis corps debris tennis physics mathematics gymnastics"
)

# Plural in form and in use: no singular, no article, no change.
PLURAL_ONLY = _set(
    """
        people cattle police folk scissors trousers binoculars spectacles jeans shorts tongs pliers
        goggles overalls oilskins dungarees pyjamas pajamas tights clothes remains outskirts
        surroundings stairs tweezers shears vermin poultry gentry
    """
)
UNCHANGED = _set(
    """
        sheep deer fish salmon trout cod squid bison moose swine aircraft spacecraft hovercraft
        watercraft craft series species offspring headquarters barracks gallows crossroads means
        reindeer grouse krill samurai geisha haiku kanji chassis corps plaice mackerel herring
        halibut hake tuna plankton shrimp kudos cattle police people folk rendezvous faux-pas
        innings bourgeois patois waterworks gasworks
    """
)

IRREGULAR = {
    "man": "men",
    "woman": "women",
    "child": "children",
    "person": "people",
    "ox": "oxen",
    "foot": "feet",
    "tooth": "teeth",
    "goose": "geese",
    "mouse": "mice",
    "louse": "lice",
    "die": "dice",
    "penny": "pennies",
    "knife": "knives",
    "life": "lives",
    "wife": "wives",
    "wolf": "wolves",
    "half": "halves",
    "calf": "calves",
    "leaf": "leaves",
    "loaf": "loaves",
    "shelf": "shelves",
    "self": "selves",
    "elf": "elves",
    "thief": "thieves",
    "sheaf": "sheaves",
    "scarf": "scarves",
    "hoof": "hooves",
    "wharf": "wharves",
    "dwarf": "dwarves",
    "potato": "potatoes",
    "tomato": "tomatoes",
    "hero": "heroes",
    "echo": "echoes",
    "torpedo": "torpedoes",
    "veto": "vetoes",
    "embargo": "embargoes",
    "volcano": "volcanoes",
    "mosquito": "mosquitoes",
    "tornado": "tornadoes",
    "mango": "mangoes",
    "buffalo": "buffaloes",
    "domino": "dominoes",
    "cargo": "cargoes",
    "fresco": "frescoes",
    "grotto": "grottoes",
    "portico": "porticoes",
    "dingo": "dingoes",
    "motto": "mottoes",
    "cactus": "cacti",
    "fungus": "fungi",
    "nucleus": "nuclei",
    "stimulus": "stimuli",
    "alumnus": "alumni",
    "radius": "radii",
    "terminus": "termini",
    "cumulus": "cumuli",
    "nimbus": "nimbi",
    "stratus": "strati",
    "analysis": "analyses",
    "axis": "axes",
    "basis": "bases",
    "crisis": "crises",
    "oasis": "oases",
    "thesis": "theses",
    "parenthesis": "parentheses",
    "ellipsis": "ellipses",
    "metamorphosis": "metamorphoses",
    "bacterium": "bacteria",
    "curriculum": "curricula",
    "stratum": "strata",
    "datum": "data",
    "medium": "media",
    "phenomenon": "phenomena",
    "criterion": "criteria",
    "automaton": "automata",
    "polyhedron": "polyhedra",
    "appendix": "appendices",
    "vertex": "vertices",
    "matrix": "matrices",
    "helix": "helices",
    "codex": "codices",
    "vortex": "vortices",
    "larva": "larvae",
    "nebula": "nebulae",
    "alga": "algae",
    "vertebra": "vertebrae",
    "antenna": "antennae",
    "stigma": "stigmata",
    "genus": "genera",
    "château": "châteaux",
    "chateau": "chateaux",
    "tableau": "tableaux",
    "gâteau": "gâteaux",
    "quiz": "quizzes",
    "fez": "fezzes",
    "whiz": "whizzes",
    "still life": "still lifes",
    "lowlife": "lowlifes",
    "gas": "gases",
    "bus": "buses",
    "this": "these",
    "dormouse": "dormice",
    "titmouse": "titmice",
    "passer-by": "passers-by",
    "passerby": "passersby",
    "court martial": "courts martial",
    "manservant": "menservants",
    "graffito": "graffiti",
    "seraph": "seraphim",
}
# Compounds follow their last part (fisherman, snowman, wolfman; penknife; cloverleaf), apart from
# these.
NOT_MEN = _set("human german roman norman shaman talisman caiman ottoman brahman hetman dragoman")
COMPOUND_TAILS = (
    "woman",
    "man",
    "child",
    "foot",
    "tooth",
    "goose",
    "knife",
    "wife",
    "wolf",
    "calf",
    "leaf",
    "loaf",
    "shelf",
    "thief",
    "hoof",
    "wharf",
    "potato",
    "person",
    "fish",
    "craft",
    "sheep",
    "deer",
    "life",
    "half",
    "scarf",
)
MANY_TAILS = (
    "men",
    "children",
    "feet",
    "teeth",
    "geese",
    "wives",
    "knives",
    "wolves",
    "leaves",
    "loaves",
    "shelves",
    "thieves",
    "mice",
)
NOT_MANY = _set(
    """
        omen specimen abdomen regimen stamen acumen dolmen bitumen lumen albumen ramen cyclamen amen
        yemen hymen semen examen foramen gravamen
    """
)
HARD_CH = _set("stomach monarch patriarch matriarch oligarch epoch loch eunuch tech mach bach")
# Three-part words whose first part is not a noun that could take the plural.
WHOLE_COMPOUNDS = _set(
    """
        jack-in-the-box forget-me-not will-o'-the-wisp cul-de-sac merry-go-round touch-me-not
        ne'er-do-well stick-in-the-mud jack-o'-lantern toad-in-the-hole love-in-a-mist
    """
)
# Nouns in -ing: "an oil painting" is not a painting that oils.
ING_NOUNS = _set(
    """
        ring king wing spring string sling swing thing sting ceiling building painting evening
        morning railing mooring crossing landing opening setting drawing etching engraving carving
        dwelling clearing gathering wedding awning bearing lining coating ending reading meeting
        greeting feeling offering outing covering coupling fitting housing icing lettering lighting
        clothing shading hatching dressing pudding duckling sapling yearling fledgling gosling
        sibling earring herring starling darling seedling hireling rigging flooring paving roofing
        stitching bunting parting rendering serving sitting slipping stocking casting beading edging
        fencing decking planking wiring piping tubing mounting moulding molding string bowstring
        shoestring blessing warning hanging
    """
)

# Said as words although written in capitals; other capitals are spelled letter by letter.
SAID_ACRONYMS = _set(
    "RAW RAM ROM LAN WAN SWAT SIM HUD RIB LIDAR RADAR SONAR LASER MIDI LUT SCUBA GIF JPEG SAD CAD"
    " CAM TIFF"
)
SPELLED_LONG = _set("HDMI HTML HTTP ISBN RGBA")

# Said letter by letter although written small.
SPELLED_SMALL = _set("led uv sos mri ufo atv ev fm hdr lcd rgb hd sd fps slr dslr ui ux vr")

# Abbreviations: a full stop behind one of these does not end a sentence.
ABBREVIATIONS = _set(
    """
        p.m. a.m. e.g. i.e. etc. approx. ca. c. cf. vs. mr. mrs. ms. dr. st. jr. sr. no. vol. fig.
        dept. est. ft. incl. max. min.
    """
)

# ──── Words that say nothing by themselves, for whoever compares, searches or weighs what texts
# say.


_LINKS = frozenset("a an the of in on at and or with for to by".split())

IN_SEARCH = _LINKS  # of what is searched for
IN_PARTS = _LINKS | frozenset(
    "from its his her their is are".split()
)  # of two parts that are laid side by side
IN_NAMES = IN_PARTS | frozenset("this that".split())  # of the names of terms
IN_WEIGHING = IN_NAMES | frozenset("as into under over".split())  # of a part that is weighed
# Of what a text states, in words of three letters and more.
IN_STATEMENTS = frozenset(
    """
        the and for off out one two its not but with from into over under against behind along
        across through that this their very has are was were who his her than then about above below
        beside
    """.split()
)

# ──── What is kept out of a picture, as people write it: "no text, watermark or signature" names
# three things.


_DENIES = regex(r"\b(?:no|without|not|avoid|never)\b[ \t]*:?[ \t]*", re.I)
_BETWEEN = regex(r"[,/;]|(?<=\s)(?:and|or)(?=\s)")


def undenied(text: str) -> str:
    """Negative text without the words that deny: "no text" is "text"."""
    return _DENIES.sub("", text)


def kept_out(text: str) -> list[str]:
    """The things that negative text names, one by one, without the words that deny them."""
    return [part.strip() for part in _BETWEEN.split(undenied(text)) if part.strip()]


# ──── Nouns of people, and their typical endings.


PEOPLE = frozenset(
    """
        man woman boy girl child kid baby person lady gentleman guy friend mother father sister
        brother daughter son aunt uncle grandmother grandfather grandma grandpa queen king prince
        princess chef nurse clerk cook captain pilot monk nun priest soldier guard girlhood toddler
        teenager pensioner bride groom couple family crew crowd team host hostess waitress actress
        stewardess athlete acrobat clown magician mechanic musician physician librarian astronaut
        diplomat wife husband widow widower neighbour neighbor colleague stranger mum mom dad
        grandad granny gran cousin niece nephew mayor landlord landlady warden mate vicar lawyer
        butler bridesmaid wizard witch boss apprentice sailor tailor doctor author conductor
        inspector editor translator accountant activist actor adventurer agent ambassador analyst
        announcer archer architect artisan attendant auditor babysitter bachelor ballerina bandit
        banker barber barista bartender beggar biker blogger bodyguard bouncer boxer broker builder
        burglar busker businessman businesswoman butcher caretaker cashier celebrity chauffeur
        cheerleader chemist choirmaster citizen cleaner comedian commander commuter composer
        contractor coroner counsellor courier cowboy cowgirl craftsman criminal critic curator
        customer dealer decorator demonstrator deputy designer detective diver drifter druid drummer
        duchess duke electrician emperor empress employee engineer entertainer entrepreneur
        executive explorer farmhand fiddler fighter firefighter fireman foreigner fugitive gambler
        gardener gladiator goddess governor graduate grandson granddaughter grocer guardian guest
        hacker hermit hero heroine hiker hitchhiker hitman hooligan housewife hygienist immigrant
        influencer intern inventor investigator janitor jester jeweller judge juggler knight
        labourer laborer lad lass lecturer lifeguard logger lover lumberjack maid manager medic
        mercenary merchant messenger migrant millionaire miner minister monarch mountaineer mourner
        narrator nomad officer orphan outlaw painter paramedic parent passenger passerby pensioner
        pharmacist philosopher photographer pickpocket pilgrim pioneer pirate plumber poet policeman
        policewoman politician postman potter preacher president prisoner professor programmer
        prophet protester pupil rabbi racer ranger rapper rebel receptionist recruit referee refugee
        reporter rescuer researcher retiree rocker rogue roofer runaway saint salesman samurai
        scholar schoolboy schoolgirl scientist scout sculptor seamstress secretary senator servant
        shaman shepherd sheriff shopper shopkeeper skateboarder skater skier smuggler sorcerer
        sorceress spectator spy squire steward storyteller student stuntman surfer surgeon survivor
        swordsman technician tenant therapist thief tourist trader trainee trapper traveller
        traveler tutor umpire undertaker usher vagabond vagrant valet vampire vendor veteran viking
        villager visitor volunteer waiter wanderer warlock warrior watchman welder winner witness
        wrestler youngster zookeeper
    """.split()
)
_TRADE = regex(
    r"(?:maker|keeper|worker|driver|seller|player|singer|dancer|painter|writer|baker|teacher|farmer|fisher"
    r"|hunter|rider|runner|swimmer|walker|climber|ist|smith|monger|wright|man|woman|men|women|boy|girl|children|people)$"
)
_NOT_PERSONS = frozenset("mist twist list wrist fist moist waist human talisman caiman".split())

# Ends of words for several that do something (animals among them).
SEVERAL_ENDINGS = (
    "ers",
    "men",
    "children",
    "people",
    "girls",
    "boys",
    "ists",
    "couples",
    "friends",
    "birds",
    "dogs",
    "horses",
)


def is_person(noun: str) -> bool:
    """Does a noun in small letters speak of a person, by what it is or by how it ends?"""
    return noun not in _NOT_PERSONS and (noun in PEOPLE or bool(_TRADE.search(noun)))
