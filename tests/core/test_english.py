"""English, by tables of cases: each entry is what should come out, read aloud."""

import pytest

from syntagma.core import english
from syntagma.core.english.adverbials import period, placed
from syntagma.core.english.noun_groups import head_end
from syntagma.core.english.sentences import first_mention


def cases(table: str) -> list[str]:
    return [
        case.strip()
        for line in table.strip().splitlines()
        for case in line.split("|")
        if case.strip()
    ]


# The article is right as it is here; what follows it is given to the function.
ARTICLES = cases("""
an 85mm lens | a 6-second clip | an 11-frame strip | an 18th-century chart | an f/1.8 aperture | a one-eyed gull
a ukulele | an hour | an heirloom | a European gull | an SOS lamp | an X-ray | a UV lamp | an MRI | a U-boat
an umbrella | a unicorn | an honest face | a euphoric crowd | an f/2.8 aperture | an eerie launch | a launch
an 8-bit sprite | an 8K still | a 4K still | an 800-year-old oak | an 80s jacket | a 90s jacket | an 1850s print
a 1950s print | an 1100-seat hall | a 1,100-piece puzzle | an 11,000-piece puzzle | an 18,000-ton ship | a 110-foot mast
an 18-55mm zoom | a 24-70mm zoom | an 11:30 ferry | a 7:15 ferry | an 11.5-inch plate | a 1.8-litre flask | a 0.8 stop
an 8x10 negative | a 5x7 print | a 1/8 scale model | a 1/4 turn | a ½-inch gap | a 3D model | a 2-shot | a 007-style number
an 1800mm lens | a 100mm lens | a 180-degree turn | a 118-foot tower | an 11 o'clock shadow | a £5 ticket | an $8 ticket
an hourglass | an hourly boat | an honorary captain | an honour guard | an honor guard | an heiress | an heir
a hotel | a historic quay | a hero | a heron | a horizon | a human figure | a halo | a homage | a harbour pilot
an hors d'oeuvre | an haute couture gown | a union flag | a uniform | a unique mark | a unit | a university | a universal joint
a unison chant | a unilateral beam | a unicycle | a unisex coat | a unified look | a unidirectional light | a unanimous crew
an unimportant clerk | an uninhabited island | an unintended blur | an uninterrupted view | an uninviting pier
an unidentified wreck | an unimpressed cat | an unissued stamp | an unironed shirt | an uninspired pose | an unlit quay
an uneasy calm | an upright plank | an urban street | an urgent flag | an urn | an urchin | an usher | an utter calm
a usual crossing | a useful knot | a used ticket | a user | a utensil | a utility boat | a utopian town | a uranium glass
a Uruguayan gaucho | an ukiyo-e print | a ubiquitous gull | an ultramarine sea | an ultra-wide lens | an unstable deck
a eulogy | a eucalyptus | a ewe | a ewer | a European ferry | a one-way street | a once-grand pier | a oner | an onerous task
an onion | an only child | an oar | an oily rag | an ouzel | an oilskin coat | an old launch | an owl | an overhead shot
a yacht | a yellow oilskin | a young pilot | an yttrium lamp | an ylang-ylang flower | an LED panel | an led panel
an RGB strip | an HDR still | an SLR body | a DSLR body | an FM radio | a CCTV frame | an NPC | a PVC tarpaulin | an MDF board
a RAW file | a GIF | a JPEG | a LUT | a RIB | a SWAT team | a radar dish | a laser | a LIDAR scan | an HDMI cable
an A-frame hut | a B-movie look | an S-curve | a T-shirt | an L-shaped pier | a V-shaped wake | an M-shaped gull | an F-stop
a U-turn | a Y-joint | an N-scale model | an H-beam | an O-ring | an M4 screw | a B52 haircut | an x-height | an ISO 400 grain
a U.S. chart | an S.O.S. flare | an a.m. ferry | a p.m. ferry | an MP3 player | a TV screen
an étude | an œuvre | an île | an Ångström lamp | a ñandu | an über-wide frame | an mbira | a "quiet" scene | an "eerie" scene
an “odd” smile | a (small) crowd | an (empty) quay | an island | an inshore trawler | an aerial shot | an aquatint | an etching
""")


@pytest.mark.parametrize("case", ARTICLES)
def test_article(case):
    article, _, rest = case.partition(" ")
    assert english.article(rest) == article


PLURALS = [
    tuple(case.split(" > "))
    for case in cases("""
ferry > ferries | man > men | lighthouse keeper's dog > lighthouse keeper's dogs | knife > knives | wolf > wolves | buoy > buoys
sheep > sheep | lens > lenses | child > children | ferry crossing the sound > ferries crossing the sound | woman > women
person > people | foot > feet | tooth > teeth | goose > geese | mouse > mice | die > dice | ox > oxen | penny > pennies
wife > wives | life > lives | half > halves | calf > calves | leaf > leaves | loaf > loaves | shelf > shelves | elf > elves
thief > thieves | scarf > scarves | hoof > hooves | wharf > wharves | sheaf > sheaves | roof > roofs | chief > chiefs
cliff > cliffs | cuff > cuffs | reef > reefs | gulf > gulfs | proof > proofs | safe > safes | chef > chefs | giraffe > giraffes
handkerchief > handkerchiefs | penknife > penknives | bookshelf > bookshelves | cloverleaf > cloverleaves
church > churches | brush > brushes | box > boxes | fox > foxes | waltz > waltzes | glass > glasses | dress > dresses
bus > buses | gas > gases | bias > biases | atlas > atlases | iris > irises | walrus > walruses
octopus > octopuses | crocus > crocuses | campus > campuses | albatross > albatrosses | compass > compasses
stomach > stomachs | monarch > monarchs | loch > lochs | epoch > epochs | brooch > brooches | arch > arches | torch > torches
city > cities | fly > flies | lady > ladies | soliloquy > soliloquies | day > days | key > keys | quay > quays | boy > boys
donkey > donkeys | trolley > trolleys | Henry > Henrys | baby > babies | story > stories | potato > potatoes
tomato > tomatoes | hero > heroes | echo > echoes | volcano > volcanoes | mosquito > mosquitoes | tornado > tornadoes
photo > photos | piano > pianos | studio > studios | radio > radios | halo > halos | flamingo > flamingos | kimono > kimonos
cargo > cargoes | fresco > frescoes | portico > porticoes | video > videos | logo > logos | zoo > zoos | igloo > igloos
cactus > cacti | fungus > fungi | nucleus > nuclei | terminus > termini | radius > radii | analysis > analyses | oasis > oases
axis > axes | ellipsis > ellipses | basis > bases | crisis > crises | phenomenon > phenomena | criterion > criteria
vertex > vertices | helix > helices | nebula > nebulae | larva > larvae | antenna > antennae | tableau > tableaux
château > châteaux | plateau > plateaus | quiz > quizzes | fez > fezzes | still life > still lifes | deer > deer
salmon > salmon | aircraft > aircraft | jellyfish > jellyfish | series > series | crossroads > crossroads | offspring > offspring
fisherman > fishermen | oarswoman > oarswomen | snowman > snowmen | human > humans | German > Germans | shaman > shamans
grandchild > grandchildren | dormouse > dormice | mongoose > mongooses | mother-in-law > mothers-in-law
passer-by > passers-by | runner-up > runners-up | close-up > close-ups | push-in > push-ins | two-shot > two-shots
lady-in-waiting > ladies-in-waiting | man-of-war > men-of-war | cul-de-sac > cul-de-sacs | forget-me-not > forget-me-nots
merry-go-round > merry-go-rounds | A-frame > A-frames | T-shirt > T-shirts | MRI > MRIs | SUV > SUVs | 1950 > 1950s
coat of arms > coats of arms | glass of water > glasses of water | bunch of sea holly > bunches of sea holly
harbour pilot in an oilskin coat > harbour pilots in an oilskin coat | boat moored at the quay > boats moored at the quay
lamp lit by moonlight > lamps lit by moonlight | man mending nets > men mending nets | dog barking > dogs barking
woman drinking tea > women drinking tea | old rowing boat > old rowing boats | deep-sea fishing boat > deep-sea fishing boats
oil painting > oil paintings | level crossing > level crossings | wedding ring > wedding rings | mooring > moorings
dog asleep on a coat > dogs asleep on a coat | boat adrift > boats adrift | lamp that swings > lamps that swings
eerie, fog-bound launch > eerie, fog-bound launches | woman in red, smiling > women in red, smiling
bell buoy > bell buoys | tea urn > tea urns | gas lamp > gas lamps | half moon > half moons | pocket watch > pocket watches
paper tickets > paper tickets | scissors > scissors | people > people | ferries > ferries | two men > two men
""")
]


@pytest.mark.parametrize(("one", "many"), PLURALS)
def test_plural(one, many):
    assert english.plural(one) == many


def test_the_tables_are_whole():
    assert len(set(ARTICLES)) >= 150
    assert len({one for one, _ in PLURALS}) >= 150


COUNTABILITY = [
    tuple(case.split(" > "))
    for case in cases("""
sea smoke > mass | dough under a floured hand > mass | wind > mass | wind in dry grass > mass | cold wind > one | soft grey fog > mass | slack water before dawn > mass | warm tea in a flask > mass | film grain > mass
paper tickets > many | binoculars > many | people in oilskins > many | two men > many | tired fishermen > many | penknives > many | geese > many | wet cobbles > many
fine specimen > one | bowl of ramen > one | lens > one | glass > one | harbour pilot > one | tea urn > one | SOS lamp > one | European gull > one | X-ray > one
light bounced off a white wall > mass | light in shafts through weed > mass | light in the window > one | light above the door > one | daylight straight down into the pool > mass
rice fields just flooded > many | salt pans just flooded at dawn > many | half timbered house > one | plates being counted > many | drums turning and a zip ticking > many | human being > one | sun through leaves > mass
Candle Holm > name | Moth > name | Isle of Sand > name | Far Tilling > name | Plover Third > name | old Morrow > one
""")
]


@pytest.mark.parametrize(("text", "number"), COUNTABILITY)
def test_countability(text, number):
    assert english.countability(text) == number


@pytest.mark.parametrize(("text", "determiner", "rest"), [
    ("the old launch", "the", "old launch"),
    ("a few gulls", "a few", "gulls"),
    ("Moth's basket", "Moth's", "basket"),
    ("keeper's dog", "", "keeper's dog"),
    ("3 gulls", "3", "gulls"),
    ("35 mm lens", "", "35 mm lens"),
    ("half moon", "", "half moon"),
    ("two-masted ship", "", "two-masted ship"),
    ("the", "", "the"),
])  # fmt: skip
def test_split_determiner(text, determiner, rest):
    assert english.split_determiner(text) == (determiner, rest)


@pytest.mark.parametrize(("text", "stop", "sentence"), [
    ("the boat leaves.", True, True),
    ("“Mind the step.”", True, True),
    ('("Last boat!")', True, True),
    ("at 9 p.m.", True, False),
    ("rope, tar, etc.", True, False),
    ("drawn by J.", True, False),
    ("what now?", True, True),
    ("and then…", True, True),
    ("the quay", False, False),
    ("", False, False),
])  # fmt: skip
def test_sentence_ends(text, stop, sentence):
    assert (english.has_stop(text), english.ends_sentence(text)) == (stop, sentence)


@pytest.mark.parametrize(("text", "start"), [
    ("flat inks", "Flat inks"),
    ("“last boat,” she says", "“Last boat,” she says"),
    ("f/2.8 aperture", "f/2.8 aperture"),
    ("85mm lens", "85mm lens"),
    ("iBell tone", "iBell tone"),
    ("étude", "Étude"),
    ("ßtrange", "ßtrange"),
    ("", ""),
])  # fmt: skip
def test_capitalised(text, start):
    assert english.capitalised(text) == start


def test_counts_and_lists():
    assert [english.count_words(n) for n in (1, 6, 12, 13)] == ["one", "six", "twelve", "13"]
    assert [english.read_count(t) for t in ("6", "Six", "0", "-1", "2.5", "many", "twelve")] == [
        6,
        6,
        None,
        None,
        None,
        None,
        12,
    ]
    assert english.listed(["a", "b", "c"]) == ["", ", ", " and "]
    assert (
        english.without_stop("a lens.") == "a lens" and english.without_stop("9 p.m.") == "9 p.m."
    )
    assert english.without_end("“Ahoy!”") == "“Ahoy”" and english.without_end("9 p.m.") == "9 p.m."


@pytest.mark.parametrize(("text", "prepositions", "rest"), [
    ("on a wet quay", "on", "a wet quay"),
    ("out on a wet quay", "out on", "a wet quay"),
    ("aboard Morrow", "aboard", "Morrow"),
    ("a wet quay", "", "a wet quay"),
])  # fmt: skip
def test_split_place(text, prepositions, rest):
    assert english.split_place(text) == (prepositions, rest)


@pytest.mark.parametrize(("words", "said"), [
    ("deep green wall", ("against", None)), ("white tiles", ("against", "")), ("edge of a meadow", ("at", "the")), ("foot of a glacier", ("at", "the")), ("pale oak", ("on", "")), ("doorstep", ("on", None)), ("bus stop", ("at", None)), ("hospital roof", ("on", None)),
    ("wooden table by the window", ("on", None)), ("snow", ("in", "the")), ("deep snow", ("on", "")), ("Mars", ("on", "")), ("kitchen", ("in", None)), ("oak tree", ("under", None)), ("window", ("at", None)), ("corner of a bar", ("in", "the")), ("street corner", ("on", None)),
])  # fmt: skip
def test_a_place_takes_its_preposition_by_its_noun(words, said):
    assert placed(words) == said


@pytest.mark.parametrize(
    ("words", "said"),
    [
        ("medieval", ("in", "", "medieval times")),
        ("Victorian", ("in", "", "Victorian times")),
        ("early modern", ("in", "", "early modern times")),
        ("cyberpunk", ("in", "", "cyberpunk times")),
        ("1950s", ("in", "the", "1950s")),
        ("late 1940s", ("in", "the", "late 1940s")),
        ("1923", ("in", "", "1923")),
        ("year 3000", ("in", "the", "year 3000")),
        ("stone age", ("in", "the", "stone age")),
        ("Roman Empire", ("in", "the", "Roman Empire")),
        ("age of sail", ("in", "the", "age of sail")),
        ("far future", ("in", "the", "far future")),
        ("post-apocalyptic future", ("in", None, "post-apocalyptic future")),
        ("edo Japan", ("in", "", "edo Japan")),
        ("wartime", ("in", "", "wartime")),
        ("today", ("", "", "today")),
        ("once upon a time", ("", "", "once upon a time")),
        ("ancient ruins", None),
        ("ticket office", None),
        ("Japan", None),
    ],
)
def test_a_time_is_said_as_a_place(words, said):
    assert period(words) == said


@pytest.mark.parametrize(
    ("group", "head"),
    [
        ("cups slid to one end of every table", "cups"), ("hands larger than the faces", "hands"), ("sticks all at one height", "sticks"), ("puddles full of lit windows", "puddles"),
        ("boots tied to the stool", "boots"), ("lips shaping somebody else's line", "lips"), ("cheeks just let go", "cheeks"), ("eyes narrowed as if against glare", "eyes"), ("brows drawn, mouth open", "brows"),
        ("radishes pulled this morning", "radishes"), ("roofs no higher than a wrist", "roofs"), ("sports car in a lane", "sports car"), ("clothes line in the wind", "clothes line"), ("goods train at dusk", "goods train"),
        ("arms race", "arms race"), ("sales desk under a lamp", "sales desk"), ("customs officer with a torch", "customs officer"),
    ],
)  # fmt: skip
def test_what_says_how_several_are_ends_the_head(group, head):
    assert group[: head_end(group)] == head


@pytest.mark.parametrize(("earlier", "text", "alone"), [
    ("selling a stuffed pike to nobody", "knocking the pike down to himself", "knocking a stuffed pike down to himself"),
    ("following a runaway smell of bread", "catching the end of the smell in a bag", "catching the end of a runaway smell of bread in a bag"),
    ("arguing with a dog that has the ball", "offering the dog a glove", "offering a dog a glove"),
    ("rocking a basket with one foot", "lifting the basket", "lifting a basket"),
    ("hauling an anchor in", "kissing the anchor, then the rope", "kissing an anchor, then the rope"),
    ("travelling alone with a ticket in its collar", "barking at the ticket man", "barking at the ticket man"),  # another thing
    ("drying a drum by the fire", "hanging the drums up", "hanging the drums up"),
    ("carrying one boot", "passing the boot on", "passing the boot on"),  # it was not introduced by "a"
    ("", "lifting the basket", "lifting the basket"),
])  # fmt: skip
def test_what_followed_a_sentence_is_read_alone(earlier, text, alone):
    assert first_mention(text, earlier) == alone
