"""Where and when, as a sentence says it: phrases of place and of time."""

import re
from functools import lru_cache

from syntagma.core.english.noun_groups import head_end, is_plural, split_determiner
from syntagma.core.notation.late_regex import regex

# ──── Which preposition a place takes by its noun, and with which article: against a wall, on a
# doorstep, at the edge of a meadow, on pale oak.


def _nouns(words: str) -> frozenset[str]:
    return frozenset(part.strip() for part in words.split(";"))


ON = _nouns(
    """
        balcony; bank; bandstand; bar stool; beach; bed; bench; board; boat; boulder; branch;
        bridge; bunk; bus; carpet; causeway; chair; cliff; cliff top; coast; coastline; cobbles;
        cobblestones; corner; couch; counter; court; cushion; deck; desk; dock; doorstep; driveway;
        dune; embankment; escalator; farm; ferry; field of play; fire escape; floor; footbridge;
        forecourt; front steps; grass; hill; hillside; hilltop; horseback; ice; island; isle; jetty;
        ladder; landing; lawn; ledge; levee; mantelpiece; mat; mesa; moon; mountain; mountain pass;
        mountain top; mountainside; mudflat; outcrop; overpass; patio; pavement; path; pebbles;
        peninsula; piano; piazza; picnic blanket; pier; pillow; plain; planet; plank; plateau;
        plate; platform; plinth; podium; porch; prairie; promenade; quay; quayside; raft; railing;
        ranch; reef; ridge; riverbank; road; rock; rocks; roof; roof terrace; rooftop; rooftops;
        roundabout; rug; runway; sand; sandbank; saucer; savannah; scaffolding; sea wall; seabed;
        seafront; shelf; ship; shipwreck; shore; shoreline; sidewalk; ski slope; slipway; slope;
        snow; sofa; square; staircase; stage; stairs; step; steps; stool; stoop; stove; strand;
        street; street corner; summit; surface; swing; table; tabletop; tarmac; terrace; throne;
        tightrope; towpath; track; tracks; trail; train; trampoline; tray; treadmill; tundra;
        veranda; verandah; viaduct; wharf; wheel; windowsill; yacht
    """
)
AT = _nouns(
    """
        airport; altar; bar; barrier; border; bus stop; campfire; cash desk; checkout; checkpoint;
        counter window; crossing; crossroads; desk lamp; easel; entrance; exit; factory gate;
        fairground; front desk; front door; funfair; gate; gateway; gig; grave; kiosk;
        level crossing; lathe; loom; market; market stall; piano keyboard; port; reception desk;
        school gate; sewing machine; stall; stand; ticket barrier; ticket window; traffic lights;
        tram stop; watchtower; waterfront; wedding; well; wheel of a ship; window; workbench; zoo
    """
)
AGAINST = _nouns(
    "backdrop; background; bare wall; blackboard; brick wall; canvas; chalkboard; curtain;"
    " curtains; door; fence; hedge; paper; plaster; plaster wall; screen; seamless; sheet; tile;"
    " tiles; wall; wallpaper; walls; whiteboard"
)
UNDER = _nouns(
    "arch; archway; awning; canopy; chandelier; flyover; parasol; pergola; street lamp;"
    " streetlight; street light; tree; trees; umbrella; underpass"
)
THE = {  # parts of places, with what they take before them
    "edge": "at the",
    "end": "at the",
    "foot": "at the",
    "bottom": "at the",
    "top": "at the",
    "mouth": "at the",
    "side": "by the",
    "back": "at the",
    "front": "at the",
    "rim": "on the",
    "brink": "on the",
    "bank": "on the",
    "banks": "on the",
    "shore": "on the",
    "shores": "on the",
    "middle": "in the",
    "centre": "in the",
    "center": "in the",
    "heart": "in the",
    "corner": "in the",
    "outskirts": "on the",
    "ruins": "in the",
    "depths": "in the",
    "entrance": "at the",
    "gates": "at the",
    "summit": "on the",
    "slopes": "on the",
    "streets": "in the",
    "roof": "on the",
    "steps": "on the",
    "shadow": "in the",
    "bed": "on the",
    "crest": "on the",
    "inside": "on the",
}
OPEN = {
    "snow": "in the",
    "rain": "in the",
    "dark": "in the",
    "darkness": "in the",
    "grass": "in the",
    "dirt": "in the",
    "mud": "in the",
    "sand": "in the",
    "ice": "on the",
    "sky": "in the",
    "air": "in the",
    "mars": "on ",
    "venus": "on ",
    "horseback": "on ",
}
STUFF = _nouns(
    "acrylic; ash; asphalt; bark; birch; brass; burlap; canvas cloth; cardboard; cedar; cherry"
    " wood; clay; concrete; copper; cork; cotton; denim; felt; fur; glass; gold; granite; gravel;"
    " kraft paper; lace; leather; limestone; linen; mahogany; maple; marble; moss; oak; parchment;"
    " pine; plywood; porcelain; sandstone; satin; silk; slate; steel; stone; teak; terrazzo; tweed;"
    " velvet; walnut; wood; wool; zinc"
)  # as surfaces, without an article


@lru_cache(maxsize=4096)
def placed(words: str) -> tuple[str, str | None]:
    """(The preposition, the article or None if it goes by the noun) for a place named by its words
    alone; ("in", None) for most.
    """
    _, group = split_determiner(words)
    low = group.lower()
    head = low[: head_end(low)]
    last = head.split()[-1] if head.split() else ""
    two = " ".join(head.split()[-2:])
    if last in THE and low[len(head) :].startswith(" of "):
        preposition, article = THE[last].split()
        return preposition, article
    if head in OPEN:
        preposition, _, article = OPEN[head].partition(" ")
        return preposition, article
    if last in STUFF or two in STUFF:
        return "on", ""
    for preposition, nouns in (("on", ON), ("at", AT), ("against", AGAINST), ("under", UNDER)):
        if two in nouns or last in nouns:
            return preposition, (
                ""
                if is_plural(last)
                or last
                in (
                    "snow",
                    "ice",
                    "grass",
                    "sand",
                    "tarmac",
                    "scaffolding",
                    "plaster",
                    "paper",
                    "wallpaper",
                )
                else None
            )
    return "in", None


# ──── How a time is said as a place is: in the 1950s, in medieval times, in wartime, today.


def _words(words: str) -> frozenset[str]:
    return frozenset(part.strip() for part in words.split(";"))


_ADVERBS = _words(
    "today; nowadays; now; right now; once upon a time; long ago; long, long ago; tomorrow;"
    " yesterday; overnight"
)
_BARE = _words(
    "antiquity; prehistory; wartime; peacetime; y2k; classical antiquity; late antiquity"
)  # without an article
_LANDS = _words(
    "africa; america; arabia; athens; austria; babylon; baghdad; britain; byzantium; china; egypt;"
    " england; europe; france; germany; greece; hungary; india; ireland; israel; italy; japan;"
    " korea; mesopotamia; mexico; persia; poland; portugal; rome; russia; scandinavia; scotland;"
    " spain; sumer; troy; turkey; venice; vienna; wales"
)  # "Victorian England"
_PERIODS = _words(
    "aftermath; age; ages; armistice; baroque; belle epoque; belle époque; blitz; century;"
    " centuries; crusades; cretaceous; decade; decades; depression; dust bowl; dynasty;"
    " enlightenment; empire; era; future; gold rush; jurassic; middle ages; millennium; mesozoic;"
    " past; period; present; quattrocento; reformation; regency; reign; renaissance; revolution;"
    " rococo; space race; triassic; war; wars; wild west; old west; winter of discontent; years;"
    " twenties; thirties; forties; fifties; sixties; seventies; eighties; nineties; noughties; tens"
)
_WORLDS = frozenset(
    "alternate alternative dystopian flooded imagined invented possible post-apocalyptic sci-fi"
    " strange utopian another better bleak bright dark different hopeful".split()
)  # one of many futures
_ADJECTIVE = regex(
    r"(?:early |late |mid[- ]?|high |pre[- ]?|post[- ]?|neo[-"
    r" ]?)?(?:ancient|modern|medieval|mediaeval|primeval|antebellum|contemporary|victorian|roman|norman|saxon|viking|aztec|inca|tudor|stuart|soviet|feudal|colonial|imperial|moorish|ottoman|mughal|wilhelmine|\w+punk|\w+(?:istic|oric|olithic|assic|aceous|onic|onial|ical|ian|ean|ine|aic|tic))"  # noqa: E501
)
_DECADE = regex(
    r"(?:(?:early|mid|late|swinging|roaring)[- ])?(?:the )?['’]?\d{2,4}['’]?s(?:/\d0s)?"
)
_YEAR = regex(r"(?:ad |circa )?\d{3,4}(?: ?(?:bc|bce|ad|ce))?")


def period(words: str) -> tuple[str, str | None, str] | None:
    """(The preposition, the article or None if it goes by the noun, the words completed) for words
    that name a time; None for all others.

    >>> period("1950s"), period("medieval") (('in', 'the', '1950s'), ('in', '', 'medieval times'))
    """
    low = words.lower().strip()
    if low in _ADVERBS:
        return "", "", words
    if low in _BARE or _YEAR.fullmatch(low) or (" " in low and low.split()[-1] in _LANDS):
        return "in", "", words
    if re.fullmatch(r"year \d+", low) or _DECADE.fullmatch(low):
        return "in", "the", words
    if _ADJECTIVE.fullmatch(low):
        return "in", "", f"{words} times"
    head = low.partition(" of ")[0].split()
    if head and head[-1] == "times":
        return "in", "", words
    if head and (head[-1] in _PERIODS or " ".join(head[-2:]) in _PERIODS):
        return "in", None if head[-1] == "future" and _WORLDS & set(head) else "the", words
    return None
