"""The nouns that parts of prompts end on, by the facet that they speak for ("jetty" is a setting, "parka" is clothes).

Written by hand, from the trade's usage; what the vocabulary's own terms end on comes to it in lexicon.py.
"""


def _set(text: str) -> frozenset[str]:
    return frozenset(text.split())


HEADS: dict[str, frozenset[str]] = {
    "subject": _set("""man men woman women boy boys girl girls child children kid kids baby toddler teenager person people couple crowd family mother father grandmother grandfather
        sister sisters brother brothers friend friends stranger strangers lady gentleman bride groom king queen prince princess knight warrior samurai ninja wizard witch monk nun priest pirate
        captain soldier pilot astronaut nurse doctor surgeon chef cook barista waiter waitress farmer fisherman clerk guard musician drummer pianist violinist singer dancer ballerina
        athlete model artist scientist student teacher pupil old-timer widow giant dwarf elf fairy mermaid ghost skeleton zombie vampire monster demon angel goddess god robot android cyborg alien
        cat kitten dog puppy horse pony cow calf pig sheep lamb goat hen cockerel duck goose swan owl eagle hawk falcon crow raven sparrow robin heron gull seagull pigeon parrot penguin
        fox wolf bear deer stag doe hare rabbit squirrel badger hedgehog otter beaver mouse rat bat lion lioness tiger leopard panther cheetah elephant giraffe zebra rhino hippo monkey gorilla
        whale dolphin shark seal octopus jellyfish crab lobster turtle tortoise frog toad snake lizard crocodile dragon unicorn phoenix butterfly moth bee dragonfly beetle spider ant snail
        car truck lorry van bus motorcycle motorbike scooter bicycle bike train locomotive aeroplane airplane plane jet helicopter balloon airship airship boat ship sailboat yacht ferry kayak canoe rowboat
        tugboat trawler galleon rocket spaceship sneaker handbag perfume smartphone laptop teapot teacup mug vase kettle watch clock book chair stool bottle jar umbrella
        suitcase typewriter telescope compass statue bust sculpture figurine tree oak flower rose tulip sunflower cactus mushroom apple pear orange lemon strawberry cake tart croissant
        burger pizza salad soup ramen cocktail"""),
    "setting": _set("""street alley alleyway road lane highway motorway avenue boulevard path trail track pavement sidewalk kerb crossroads intersection bridge viaduct
        square plaza piazza market marketplace bazaar souk arcade mall supermarket beach shore shoreline coast quay quayside pier jetty wharf dock docks harbour harbor
        marina port bay cove lagoon estuary delta inlet fjord cliff cliffs clifftop headland dune dunes desert steppe prairie plains savannah tundra
        forest woods woodland grove copse thicket clearing glade jungle rainforest crossing meadow field fields pasture paddock farm farmyard farmhouse hill hills hillside
        hilltop mountain mountains mountainside summit ridge valley gorge canyon ravine moor moorland heath marsh marshland swamp bog wetland river riverbank
        riverside stream brook creek canal towpath waterfall lake lakeside lakeshore pond reservoir sea ocean seafront seaside waterfront island islet archipelago
        village hamlet town city cityscape skyline suburb neighbourhood district ghetto downtown outskirts
        station platform subway underground metro terminal airport airfield runway hangar helipad depot garage carriage compartment cabin cockpit deck hold galley
        bridge engine-room submarine kitchen kitchenette pantry scullery room bedroom bathroom washroom nursery living-room parlour lounge study attic loft cellar basement
        hall hallway corridor stairwell staircase stairway landing steps stairs lobby foyer vestibule porch doorway doorstep threshold veranda conservatory office cubicle boardroom
        shop store storefront boutique café cafe bar stall stalls kiosk booth pub tavern inn diner restaurant bistro canteen bakery brewery cinema nightclub club casino ballroom
        workshop workroom studio darkroom forge smithy foundry laboratory lab barn stable stables shed greenhouse glasshouse hothouse garden orchard vineyard
        allotment park parkland playground fairground funfair carnival circus zoo stadium arena court pitch ring rink gym gymnasium dojo pool poolside theatre theater
        stage backstage auditorium amphitheatre church chapel cathedral abbey cloister monastery mosque synagogue temple shrine pagoda crypt graveyard cemetery library
        bookshop museum gallery school schoolroom classroom playroom university campus hospital ward clinic surgery pharmacy factory warehouse quarry mine mineshaft
        mill sawmill shipyard boatyard scrapyard junkyard laundry laundrette cave cavern grotto tunnel sewer rooftop rooftops roof balcony terrace patio courtyard yard
        backyard driveway castle fortress palace throne-room manor mansion villa cottage hut lodge bungalow bothy igloo yurt tent campsite camp tower lighthouse
        ruins ruin excavation seabed reef sandbank mudflat mudflats promenade boardwalk space planet moonscape spaceship starship space-station bunker dungeon prison cell
        glacier icefield oasis crater volcano battlefield barracks checkpoint border hotel motel lift elevator escalator underpass overpass car-park bus-stop taxi tram
        petrol-station table tabletop worktop countertop counter workbench bench desk windowsill sill shelf mantelpiece bed bedside sofa armchair hearth fireside
        cutting-board chopping-board tablecloth hedgerow verge roadside wayside dockside ledge rooftop landscape wilderness outback countryside"""),
    "lighting": _set("""light lights lighting sunlight moonlight candlelight lamplight firelight torchlight daylight starlight lantern-light gaslight streetlight streetlights
        streetlamp streetlamps lamp lamps glow glare sun sunshine sunbeam sunbeams moon moonbeam moonbeams candle candles shadows shadow spotlight spotlights sunny floodlight floodlights
        headlight headlights headlamps taillights rays ray beam beams shaft shafts softbox neon flash strobe strobes
        backlight backlighting uplight uplighting sidelight toplight rimlight reflections reflection highlights shade flames flame fire bonfire lightning bulb bulbs tubes flare illumination
        gleam afterglow glimmer shimmer glint chiaroscuro low-key high-key silhouette gobo dusk-light twilight-glow lanterns"""),
    "weather": _set("""waves swell fog mist rain rainfall drizzle snow snowfall storm thunderstorm sandstorm snowstorm rainstorm squall wind breeze gale cloud clouds overcast haze hail
        sleet frost blizzard foggy misty rainy snowy stormy cloudy windy breezy blustery muggy frosty humid hazy sky skies downpour shower showers gust gusts air heatwave heat rainbow sea-smoke smog
        flurries monsoon hurricane typhoon tornado thunder weather humidity snowflakes raindrops thunderheads cloudburst"""),
    "medium": _set("""painting watercolour watercolor gouache linocut woodcut etching engraving lithograph lithography drawing sketch illustration render rendering
        photo photograph photography collage pastel fresco mosaic tapestry screenprint print mezzotint aquatint animation anime cartoon manga
        panel charcoal ink acrylic tempera diorama papercut embroidery airbrush storyboard cutout oils scan monotype art artwork woodblock duplicator
        cyanotype daguerreotype tintype pixel-art voxel low-poly 3d cgi stop-motion puppetry origami appliqué needlepoint cross-stitch batik stencil sticker mural cutaway cross-section diagram schematic infographic visualisation visualization
        doodle caricature blueprint crayon cel-shading sculpt relief footage"""),
    "design-style": _set("poster vector minimalism constructivism deco nouveau brutalism icon logo logotype monogram infographic style aesthetic flyer mockup wordmark"),
    "technique": _set("""lines line outlines outline hatching cross-hatching crosshatching brushwork brushstrokes brushstroke strokes stroke washes wash stippling shading linework
        contours contour impasto glazing scumbling sgraffito marks dots halftone wet-in-wet drybrush brush pencil weight splatter splatters spatter drips pointillism
        stitching stitches gouges edging bleed bleeds layering blending dithering"""),
    "finish": _set("paper gloss varnish weave fibres fibers texture textures edges margins board laminate sheen parchment vellum patina foil embossing deckle"),
    "material": _set("marble wool felt stone brass steel clay porcelain wood leather glass velvet lichen bronze copper ceramic granite linen silk chrome concrete resin plastic terracotta pewter stoneware earthenware enamel cotton denim suede bamboo rattan straw oak pine walnut iron tin cardboard foam aluminium aluminum titanium cashmere lace satin mohair cork slate sandstone alabaster obsidian crystal rust paint lacquer plaster fur bark scales moss"),
    "mood": _set("""melancholy eerie hushed tense joyful playful serene gloomy cheerful hopeful nostalgic wistful lonely desolate snug cosy cozy whimsical
        mysterious ominous dreamy dreamlike peaceful tranquil calm sombre somber bleak romantic festive frantic comic unsettling quiet patient intimate
        triumphant menacing tender unhurried expectant exhausted uncanny solemn dramatic moody hush loneliness calmness tenderness mood atmosphere feeling vibe
        nostalgia serenity tension wonder awe dread suspense tranquillity tranquility solitude freedom joy grief longing mystery energy stillness warmth
        cheerfulness menace peace foreboding anticipation optimism uplifting heartwarming haunting epic heroic surreal contemplative introspective energetic
        lively carefree mischievous spooky creepy ethereal majestic magical enchanting chilling sinister brooding pensive elegant luxurious adventurous reverent
        sorrowful bittersweet humorous lighthearted light-hearted laid-back zen gritty comedic comical humour humor wondrous wonderful sinister wry deadpan absurd jubilant exuberant defiant stoic weary wary urgent hectic chaotic restful soothing bored silence uneasy dreary cheery edgy quirky sleepy stately homely ghostly friendly drama romance excitement urgency nervous pride dignity vertigo claustrophobia panic hope despair calm delight relaxed silent surreal sparse raw"""),
    "wardrobe": _set("""coat overcoat greatcoat trenchcoat jumper pullover sweater cardigan hoodie jacket blazer anorak parka shirt blouse t-shirt polo turtleneck dress sundress frock skirt
        trousers jeans shorts leggings overalls apron uniform suit tuxedo hat cap scarf gloves mittens boots shoes sneakers trainers slippers heels wellingtons raincoat mackintosh
        oilskins oilskin waistcoat gown robe robes cloak cape tunic helmet spectacles glasses sunglasses scrubs tutu shawl poncho hood veil armour armor kimono sari vest
        dungarees bonnet crown tiara goggles mask costume tweed corset nightgown nightdress pyjamas pajamas headscarf beret fedora bowler sandals stockings socks tights
        belt braces suspenders tie bow-tie necktie collar cuffs sleeves jewellery jewelry necklace earrings earring ring bracelet brooch pendant monocle turban hijab
        leotard bodysuit swimsuit bikini wetsuit spacesuit flight-suit jumpsuit onesie felt balaclava backpack headdress garland outfit attire clothes clothing garments ballgown petticoat make-up makeup face-paint"""),
    "expression": _set("smile grin frown scowl laugh stare glare gaze expression squint smirk pout wink grimace sneer tears"),
    "composition": _set("composition framing symmetry horizon foreground diagonal diagonals margins layout thirds symmetrical asymmetry"),
    "background": _set("background backdrop seamless cyclorama"),
    "sound-effect": _set("""clatter hiss scrape slapping thud clang bang whistle horn bell bells footsteps footfalls crack rustle creak siren click squeak knock knocking
        clink clinking slam thump crunch crash pop snap sizzle beep ring ringing chime chimes gong gunshot explosion bark meow neigh hoot caw howl growl roar screech squeal
        jingle flap flutter swish whoosh zip gulp sigh gasp applause cheers heartbeat hoofbeats doorbell alarm"""),
    "ambience": _set("""hum murmur ticking foghorn birdsong traffic chatter surf crackle patter ambience drone crickets purring laughter applause cicadas seagulls announcements
        rumble rustling trickle babble bustle hubbub chirping whirr whir"""),
    "visual-effect": _set("""sparks embers motes particles steam smoke splinters bubbles leaves petals confetti shavings droplets dust ash spray feathers glitter splash splashes ripples fireflies
        pollen drops breath raindrops beads vapour vapor sawdust fumes debris spores shards sparkles"""),
    "music": _set("""music piano cello accordion violin viola guitar ukulele banjo drums drum drumbeat waltz jazz bass orchestra soundtrack score song melody tune brass choir organ
        harp flute clarinet oboe trumpet trombone saxophone tuba percussion synth synthesiser synthesizer bassline beat lullaby ballad tango harmonica fiddle bagpipes chords arpeggio theme"""),
    "era": _set("era century age period epoch"),
    "lettering": _set("lettering letters capitals typeface typography font script text label labels inscription caption headline wordmark handwriting calligraphy numerals serif"),
    "hour": _set("dawn dusk sunrise sunset noon midday midnight morning afternoon evening night twilight nightfall daybreak night-time nighttime daytime"),
    "pattern": _set("pattern wallpaper tiling"),
    "camera-angle": _set("angle view perspective viewpoint vantage"),
    "speech": _set("voiceover narration"),
}  # fmt: skip

LAMPS = _set("lamp lamps lantern lanterns candle candles bulb bulbs bonfire fire flame flames")  # lights that are things, too
# How places stand where no term of the vocabulary tells: on these, at those, in all others.
ON = _set("""pier quay quayside jetty wharf beach shore shoreline coast roof rooftop rooftops deck hill hillside hilltop cliff clifftop headland bench table tabletop desk workbench counter countertop
    shelf windowsill sill mantelpiece island islet bridge viaduct terrace balcony stage platform pavement sidewalk promenade boardwalk moor heath plain ridge summit road highway motorway runway
    sofa bed farm dune reef seabed glacier threshold doorstep porch veranda landing stairs steps staircase tundra steppe""")
AT = _set("station crossroads intersection border checkpoint bus-stop stall kiosk booth airport harbour port")
# Endings of nouns that no list can hold: "housecoat" is clothes, "schoolyard" a setting.
ENDINGS: tuple[tuple[str, tuple[str, ...]], ...] = (
    ("wardrobe", ("coat", "shirt", "suit", "gown", "robe", "scarf", "glasses", "boots", "shoes", "gloves", "trousers", "wear", "jacket", "hat", "dress", "costume", "clothes", "helmet", "skirt", "stockings")),
    ("setting", ("house", "yard", "field", "fields", "shop", "side", "room", "rooms", "land", "lands", "garden", "station", "park", "port", "market", "scape", "street", "town", "ville", "crossing", "shore", "wood", "way", "lot", "bay", "hall")),
    ("lighting", ("light", "lights", "lit", "lamp", "lamps", "glow", "shine")),
    ("weather", ("storm", "fall", "shower", "showers", "cloud", "clouds")),
    ("lettering", ("lettering", "script")),
    ("mood", ("ness", "phobia")),
    ("subject", ("man", "woman", "men", "women", "boy", "girl", "keeper", "maker", "driver", "player", "worker", "fisher", "hunter", "bird", "fish", "boat", "ship", "ist", "ists")),
)  # fmt: skip
