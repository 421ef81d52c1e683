"""Verbs in prompts: what a subject does in the present tense, what is heard, what describes a noun.

Written by hand. The base forms are here; the third person follows from them.
"""

from syntagma.core.notation.late_regex import regex


def _set(text: str) -> frozenset[str]:
    return frozenset(text.split())


def third(base: str) -> str:
    """The third person singular of a verb: "pass" → "passes", "carry" → "carries"."""
    if base.endswith(("s", "x", "z", "ch", "sh", "o")):
        return base + "es"
    return base[:-1] + "ies" if base.endswith("y") and base[-2:-1] not in "aeiou" else base + "s"


_BASES = _set("""
    accept adjust admire aim alight answer appear approach argue arrive ask assemble attack await
    bake balance bathe beat beckon beg begin bend bite blaze bleed blink bloom blow board boil
    bounce bow brace braid brake break breathe brew bring brush build burn burst bury buy call carry
    carve cast catch celebrate chase chat chatter cheer chew chop circle clap clasp clean climb
    cling close collapse collect comb come comfort cook count cover cradle crane crash crawl creep
    crouch cross crowd crumble crumple cry curl cut dance dangle dart deal deliver descend dig dine
    dip disappear dissolve dive do dock dodge drag draw dress drift drink drip drive drizzle drop
    drown dry duck eat embrace emerge empty enter erupt examine exhale explore extend eye face fade
    fall fasten feed fight fill find finish fix flap flash flee flicker fling flip float flow
    flutter fly fold follow gallop gather gaze get give glance glare gleam glide glimmer glint
    glisten glitter glow grab grasp graze greet grin grind grip grow guard guide hammer hand hang
    haul have help hesitate hide hit hold hop hover hug hunt hurl hurry inhale inspect iron join
    juggle jump keep kick kiss knead kneel knit knock land laugh launch lay lead leak lean leap
    learn leave lick lie lift light limp line linger listen live load lock look loom loosen lower
    make march measure meet melt mend merge milk mix mount move mow nap nest nod offer open orbit
    pace pack paddle paint park pass paste pat patrol pause pedal peek peel peer perch perform pet
    pick pile pinch pitch plane plant play pluck plunge point poise polish pop pose pounce pour
    practise pray prepare press print prowl prune pull pump punch push put queue race raise rake
    reach read recede reel reflect rehearse release relax remove repair rest return reveal ride ring
    rip rise roam roast roll row rub run rush sail salute scan scatter scoop scowl scramble scrape
    scratch scream scrub scurry search sell send serve set settle sew shake share sharpen shave
    shelter shield shimmer shine shiver shoot shout shovel show shrug shuffle shut sigh sing sink
    sip sit skate sketch ski skid skim skip slam slant sleep slice slide slip slither slump smash
    smell smile smoke snap sneak sniff snore snuggle soak soar sort sow spark sparkle speak speed
    spill spin splash split sprawl spray spread spring sprint sprinkle sprout squat squeeze squint
    stack stagger stalk stamp stand stare start startle stay steady steal steam steer step stick
    stir stitch stomp stoop stop straddle straighten stream stretch stride strike stroke stroll
    struggle study stumble surface surge surf survey swallow sway sweep swerve swim swing swirl
    swoop take talk tap taste teach tear tend thank thaw thread throw thrust tickle tie tighten tilt
    tiptoe toast topple toss touch tow trail train trim trip trot trudge try tuck tug tumble tune
    turn twirl twist type unfold unfurl unlock unpack unroll untie unwrap vanish wade wait wake walk
    wander warm wash watch water wave wear weave weep weigh weld whip whirl whittle wilt wink wipe
    wobble work wrap wrestle write yawn yell zip pivot tip collide billow cascade drape glare hurtle
    jostle lunge lurch pirouette plummet ripple scuttle shatter smear snake spiral squirm sputter
    swell trickle tremble tumble twinkle waddle waft whisk wriggle flood slap clack clop shape mould
    skitter throb pulse lash seep slant filter rake streak bathe batter pelt howl gust blanket cloak
    shroud loom peal blare thunder stomp tread wheel scamper trot canter bound vault somersault sway
    teeter totter hobble saunter amble meander march parade patrol plod wend zoom glimpse spy notice
    spot whack thump bash jab stab slash parry block juggle inflate deflate unbutton button unzip
    wring scour rinse launder starch knot plait pin clip glue staple sharpen whet sieve sift whisk
    fry grill bake simmer poach baste carve peel core pit mash roast steep ladle serve sip slurp
    repot harvest reap plough hoe mow scythe graft tend milk shear saddle groom shoe hitch harness
    unload stow heave hoist furl reef tack steer anchor bail launch beach clutch cup cuddle nibble
    gnaw munch devour sample frost glaze drizzle garnish plate season chisel sculpt solder rivet
    crochet embroider sand varnish stencil photograph film frame ferry fish net moor dredge signal
""")
# Third persons that are more often nouns in the plural: verbs only before an object, an adverb or a
# particle.
NOUNY = _set(
    """
        lights waves rocks leaves lines marks plants boats steps plays looks walks rides smokes
        clouds streams rays beams drops sparks circles rings points stops hands faces eyes boards
        docks parks packs presses prints races reels rests rolls rows sails scans scratches screams
        sets shelters shields shovels sinks sketches skis slices slides slips snaps sounds splashes
        springs stacks stalks stamps stands stares starts steals steams sticks stitches strokes
        strolls studies surfaces surveys threads toasts trails trains trips tunes turns twists types
        waters works yards paints patrols pedals peels perches petals picks piles pitches planes
        plates posts pumps punches queues rakes roasts cuts dips drinks drives ducks films fishes
        flashes flaps frames glares glazes grips guards guides hooks irons lands leaks limps locks
        loads looms meets mounts nests nets notes pets frosts crowds covers casts calls brushes
        braces brakes boxes bows bounces beats aims cranes crashes combs cups curls signals seasons
        samples ripples spirals surges warms milks mixes moves
    """
)

_ING = {
    (base[:-1] if base.endswith("e") and not base.endswith("ee") else base) + "ing": base
    for base in _BASES
}
_THIRDS = {third(base): base for base in _BASES}


# The past of verbs that don't end on -ed; the second form where the participle is another.
_PASTS = (
    "awake awoke|bear bore|beat beat|become became|begin began|bend bent|bite bit|bleed bled|"
    "blow blew|break broke|bring brought|build built|burn burnt|burst burst|buy bought|cast cast|"
    "catch caught|choose chose|cling clung|come came|creep crept|cut cut|deal dealt|dig dug|do did|"
    "draw drew|dream dreamt|drink drank|drive drove|eat ate|fall fell|feed fed|feel felt|"
    "fight fought|find found|flee fled|fling flung|fly flew|forget forgot|freeze froze|get got|"
    "give gave|go went|grind ground|grow grew|hang hung|have had|hear heard|hide hid|hit hit|"
    "hold held|keep kept|kneel knelt|knit knit|know knew|lay laid|lead led|lean leant|leap leapt|"
    "learn learnt|leave left|lend lent|let let|lie lay|light lit|lose lost|make made|mean meant|"
    "meet met|pay paid|put put|quit quit|read read|ride rode|ring rang|rise rose|run ran|say said|"
    "see saw|seek sought|sell sold|send sent|set set|sew sewed|shake shook|shine shone|shoot shot|"
    "show showed|shrink shrank|shut shut|sing sang|sink sank|sit sat|sleep slept|slide slid|"
    "sling slung|smell smelt|sow sowed|speak spoke|spend spent|spill spilt|spin spun|split split|"
    "spread spread|spring sprang|stand stood|steal stole|stick stuck|sting stung|stride strode|"
    "strike struck|string strung|sweep swept|swell swelled|swim swam|swing swung|take took|"
    "teach taught|tear tore|tell told|think thought|throw threw|tread trod|understand understood|"
    "wake woke|wear wore|weave wove|weep wept|win won|wind wound|withdraw withdrew|wring wrung|"
    "write wrote|be was|be were"
)
_PAST = {past: base for base, past in (pair.split() for pair in _PASTS.split("|"))}


def base_of(word: str) -> str:
    """The base form of a known verb: "peers", "peering", "peered", "found" → "peer", "find"; a word
    that is none as it is.
    """
    if word in _BASES:
        return word
    if found := _THIRDS.get(word) or _ING.get(word) or _PAST.get(word):
        return found
    for ending in ("ing", "ed"):
        if word.endswith(ending):
            stem = word.removesuffix(ending)
            tries = (
                stem,
                stem + "e",
                stem[:-1] if stem[-2:-1] == stem[-1:] else "",
                stem[:-1] + "y" if stem.endswith("i") else "",
            )
            return next((one for one in tries if one in _BASES), word)
    return word


def is_past(word: str) -> bool:
    """Is a word the past of a known verb, and of nothing else: "found", "walked"?"""
    return word not in _BASES and base_of(word) != word and (word in _PAST or word.endswith("ed"))


def participle(verb: str) -> str:
    """The -ing form of a verb in the present or the past tense: trots → trotting, came → coming,
    lies → lying.
    """
    if verb.endswith("ing") and verb not in _BASES:
        return verb
    base = base_of(verb)
    if base == verb and verb not in _BASES:
        if base.endswith("ies") and len(base) > 4:
            base = base[:-3] + "y"
        elif base.endswith(("sses", "shes", "ches", "xes", "zes", "oes")):
            base = base[:-2]
        elif base.endswith("s") and not base.endswith("ss"):
            base = base[:-1]
    if base.endswith("ie"):
        return base[:-2] + "ying"
    if base.endswith("e") and not base.endswith(("ee", "oe", "ye", "be")):
        return base[:-1] + "ing"
    if _DOUBLED.fullmatch(base):
        return base + base[-1] + "ing"
    return base + "ing"


_DOUBLED = regex(r"(?:[^aeiou\W]*|(?:un|re|for|be)[b-df-hj-np-tv-z]+|qu)[aeiou][bdgklmnprt]")


def in_third(word: str) -> bool:
    """Has a verb the ending of the third person singular? "hisses" has, "hiss" has not."""
    return word.endswith("s") and not word.endswith("ss")


VERBS = _BASES | {third(base) for base in _BASES}
# Verbs of sound: what "clatters" is heard, whatever it is.
_SOUNDS = _set(
    "clatter hiss scrape bang clang whistle splash ring thud crack squeak rustle clink cough"
    " splutter slam thump crunch sizzle beep chime screech squeal jingle honk toot bark hoot caw"
    " croak neigh moo meow chirp"
)
SOUND_VERBS = _SOUNDS | {third(base) for base in _SOUNDS}
_AMBIENT = _set(
    "hum drum tick creak murmur crackle toll patter rumble buzz whir drip chatter roar lap echo"
    " drone gurgle babble whine"
)
AMBIENT_VERBS = _AMBIENT | {third(base) for base in _AMBIENT}
# Participles that come before a noun and describe it; others say what is done to it.
DESCRIBING = _set(
    """
        falling glowing leading gathering drifting flickering rolling rising setting burning smoking
        breaking towering flying floating blazing shining swirling buzzing dripping crumbling
        growing moving running winding sweeping flowing striking stunning overhanging driving
        blowing fading lingering shimmering sparkling twinkling dazzling blinding glaring howling
        raging passing weeping sleeping dancing dying living standing hanging peeling overlapping
        repeating interlocking cascading accelerating scudding sailing rowing fishing melting
        trailing billowing smouldering gleaming glistening rippling tumbling crashing advertising
        walking smiling laughing trembling curling rotting rusting flaking thundering whispering
        murmuring chirping sizzling matching contrasting complementary working
    """
)
# Adjectives that no ending tells.
ADJECTIVES = _set(
    """
        old young new wet dry dark small big large tiny huge little great bright low high hard soft
        warm cold cool hot deep thin thick tall short long wide narrow single lone tired empty full
        open clear plain bare rich poor calm wild loud quick slow fast heavy light sweet sharp flat
        round square broken worn torn late early first last steep rough smooth strong weak fresh
        stale grim grave proud shy kind cruel damp bleak stark vast modern digital giant fine real
        double two-tone matt matte pale dim faint gentle distant raw crisp shallow tense vivid bold
        loose tight both upright sparse solo quiet silent sombre somber
    """
)
# Colours, as adjectives and as nouns.
COLOURS = _set(
    """
        blues greens reds browns greys grays ochres ambers pinks yellows golds whites blacks black
        white blue green red brown grey gray ochre amber pink yellow gold teal navy coral indigo
        cream rust umber sienna turquoise violet purple orange olive beige ivory crimson scarlet
        cobalt mauve lilac sage bone charcoal copper silver mustard burgundy maroon magenta cyan tan
        peach ochres crimson verdigris sepia teals rose sand lemon plum slate ink brick bottle
        emerald jade ultramarine chalk terracotta ruby sapphire tobacco moss walnut honey chestnut
        mahogany caramel chocolate coffee biscuit oatmeal wheat buff ecru taupe pewter aubergine
    """
)
