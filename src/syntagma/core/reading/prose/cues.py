"""What announces a facet in other people's prompts: words that lead to a part ("lit by"), and the nouns that parts end on ("light").

Written by hand, from the trade's usage; what the vocabulary's own terms end on comes to it in lexicon.py.
"""

import re

from syntagma.core.notation.late_regex import regex


def _set(text: str) -> frozenset[str]:
    return frozenset(text.split())


# Whole parts that a pattern knows, the first that fits. Each is looked for in the part in small letters.
PATTERNS: tuple[tuple[str, str, str], ...] = (
    ("film-look", r"\b(?:8|16|35|65|70) ?mm (?:[\w-]+ )*(?:film|grain|stock|negative|footage)\b", "a film look"),
    ("medium", r"^(?:an? )?(?:[\w-]+ ){0,2}(?:oils?|acrylic|ink|watercolou?r|gouache|charcoal|pastel|pencil|tempera|chalk|crayon)(?: and (?:[\w-]+ ){0,2}\w+)? on (?:[\w-]+ )?\w+$", "a medium"),
    ("setting", r"^(?:at |on |in |by |near )?(?:the )?(?:very )?(?:edge|top|foot|bottom|middle|back|corner|end|heart|centre|center|outskirts|mouth|bend) of (?:an? |the )(?!frame|page|picture|image)\w", "a place"),
    ("lighting", r"\b(?:light|sun|sunlight|moonlight|glow) (?:\w+ly )?(?:play|fall|pour|spill|flood|stream|slant|filter|com|wash|rak|catch|glow|bounc|reflect|break|stream|shin|bleed)(?:s|es|ing)\b", "what the light does"),
    ("expression", r"^(?:staring|looking|gazing|glaring|smiling|peering) (?:\w+ )?(?:into|at|to|past|towards?) (?:the )?(?:lens|camera|viewer)$|^(?:both |all )?(?:laughing|smiling|grinning|crying|frowning|scowling|weeping)(?: (?:softly|hard|broadly|together|with (?:his|her|their|its) .*))?$", "an expression"),
    ("composition", r"\b(?:neatly|carefully|evenly|symmetrically|loosely) (?:arranged|laid out|lined up|stacked|ordered)\b|\b(?:one|two|three)-point perspective$", "a composition"),
    ("lettering", r"\b(?:name|title|slogan|motto|words|text|initials)\b(?: \w+)* (?:on|in|around|across|below|above|at|along)\b", "lettering"),
    ("transition", r"\bcut to\b", "a transition"),
    ("camera-move", r"\b(?:follow|following|chase|reveal|orbit|push-in|pull-back|crane|drone|dolly|gimbal) shot$", "a camera move"),
    ("genre", r"^(?:an? )?(?:cinematic|dramatic|professional|epic|moody|candid) (?:shot|scene|image|picture|frame)$", "a kind of picture"),
    ("camera-move", r"^(?:an? )?(?:[\w-]+ ){1,2}orbit$", "a camera move"),
    ("music", r"^(?:low|soft|distant|faint|gentle|quiet|rhythmic|deep|choral) (?:chanting|singing|humming|drumming|whistling|strumming)$", "music"),
    ("technique", r"\b(?:line|ink|brush|pen|pencil|needle|dot) work$", "a technique"),
    ("palette", r"\bgradient of\b", "colours"),
    ("medium", r"^(?:charcoal|chalk|ink|pastel|graphite|pencil)(?: and (?:\w+ )?(?:charcoal|chalk|ink|pastel|graphite|pencil|wash|gouache|watercolou?r))$", "a medium"),
    ("expression", r"^(?:an? )?(?:\w+ )?(?:faraway|wistful|weary|steely|blank|startled|haunted|distant|piercing|proud|questioning|shy|sly|tender|thoughtful|vacant|worried|knowing|stern|half|shy) (?:look|gaze|stare|smile|eyes)$", "an expression"),
    ("shot-size", r"^(?:an? )?(?:medium|half-length|waist-up|full-length|three-quarter(?:-length)?|tight) portrait$", "a shot size"),
    ("film-look", r"\bfilm (?:colou?rs|tones)$", "a film look"),
    ("finish", r"\b(?:paper|wood|cloth|linen) grain$", "a finish"),
    ("film-look", r"^(?:[\w-]+ ){0,2}grain$", "a film look"),
    ("pacing", r"^held for\b|^(?:a )?(?:long )?pause$", "how time runs"),
    ("camera-angle", r"^(?:seen |shot )?over (?:[\w'’]+ ){1,3}shoulder$", "an angle of view"),
    ("music", r"\bstrings$|^(?:an? )?(?:[\w-]+ ){0,3}(?:piano|cello|violin|guitar|accordion|flute|harp|trumpet|marimba|xylophone|mandolin|lute|sitar|organ|clarinet|horn|banjo|music box)(?: (?:note|chord|melody|line|tune|theme|phrase|riff|solo)s?)$|\b(?:marimba|xylophone|glockenspiel|mandolin|lute|sitar|tabla|kora|bongos?|tambourine|theremin|celesta|music box)$", "music"),
    ("palette", r"\b(?:palette|scheme|tones|shades|colou?rs) of\b", "colours"),
    ("background", r"^(?:on an? )?(?:[\w-]+ ){1,3}ground$", "a background"),
    ("visual-effect", r"\b(?:dust|smoke|steam|pollen|ash|sparks|feathers|embers|spray|leaves|confetti)\b.* in the air$", "something in the air"),
    ("camera-angle", r"^(?:seen |shot |viewed )?through (?:the|an?) (?:[\w-]+ )?(?:window|windscreen|windshield|keyhole|doorway|glass|branches|crowd|fence|railings|curtain)$", "an angle of view"),
    ("lens", r"^\d{1,4} ?mm(?: lens)?(?: at)? f/", "a lens"),
    ("background", r"^(?:on|against) (?:pure |plain |solid )?(?:white|black|grey|gray|cream|transparent)$", "a background"),
    ("technique", r"\b(?:stroke|line) (?:width|weight)s?$", "a technique"),
    ("pacing", r"^(?:no|without) cuts?$|^uncut$", "how time runs"),
    ("negative", r"^(?:no|not|without|avoid|never|free of|minus|nothing)\b(?!.*\bbut\b)", "a denial"),
    ("detail", r"^(?:\d{1,2}k|u?hd|(?:ultra |highly |extremely |very |incredibly )?(?:detailed|realistic|intricate)|(?:best|high) quality"
     r"|high[- ]res(?:olution)?|masterpiece|award[- ]winning|(?!macro|close)[\w-]+ details?|cute|beautiful|stunning|no brand marks)$", "praise"),
    ("weather", r"^(?:[\w-]+ ){0,2}(?:snow|rain|mist|fog|sleet|hail|drizzle|frost|wind|cloud|clouds|sea smoke) (?:\w+ly )?(?:gathering|howl\w*|gust\w*|whip\w*|tear\w*|cling\w*|settl\w*|creep\w*|lash\w*|batter\w*|pelt\w*|swirl\w*|pour\w*|beat\w*|streak\w*|falls?|drifts?|lifts?|rolls?|blows?|hangs?|clears?|thickens?|gathers?)\b", "what the weather does"),
    ("lighting", r"^(?:lit|illuminated|back-?lit|side-?lit|rim-?lit|under-?lit|top-?lit|glowing|lamplit|candlelit)\b|^(?:tiny|softly|warmly|faintly|small|many|dim) glowing\b|\b(?:god|sun) ?rays\b|^by the light of\b|\bcandle-?lit\b", "lit by"),
    ("shot-size", r"\b(?:(?:extreme|medium|big|tight|very)[ -])*(?:close[ -]?up|closeup)s?$", "a shot size"),
    ("shot-size", r"^(?:an? |the )?(?:(?:cinematic|dramatic|static|steady|slow|intimate|simple|clean|opening|final|handheld|hand-held|symmetrical) )?(?:over[- ]the[- ]shoulder|(?:extreme |very |medium )?(?:wide|long|close|full|mid|medium|establishing|cowboy"
     r"|two|group|insert|master|waist|knee|bust|head[- ]and[- ]shoulders|full[- ]body|full[- ]length)(?: (?:wide|close|establishing|long))?)"
     r"[ -](?:shot|view|frame)$", "a shot size"),
    ("lighting", r"\b(?:hard|soft|big|single|warm|cool|strong|broad|high|low|gentle|raking) (?:key|fill|rim|kicker)(?: light)?\b|\b(?:key|fill|rim|kicker|hair) (?:from|at|behind)\b|\bevenly lit\b|\b(?:sun|moon|noon|afternoon|morning|evening|dawn|dusk|winter|summer|day|side|rim|key|fill|back|top|edge|window|work|strip|street|lantern|raking|ambient|practical|north|studio|stage)[ -]?lights?(?:$| from\b| (?:and|with) )", "light"),
    ("transition", r"\b(?:match|jump|hard|straight|smash) cut\b|\b(?:cross[- ])?dissolve|\bfade (?:to|in|out)\b|\bwipe to\b", "a transition"),
    ("pacing", r"\b(?:one|single|unbroken|continuous) (?:\w+ )?take\b|\bslow[- ]motion\b|\btime[- ]?lapse\b|\bin real time\b|\blong (?:\w+ )?holds?\b"
     r"|\b(?:brisk|fast|quick|slow) (?:cutting|cuts|pace|pacing)\b|\bhyper-?lapse\b", "how time runs"),
    ("looping-motion", r"\b(?:in a |seamless )?loop(?:ing|ed)?\b", "a loop"),
    ("focus", r"\brack(?:s|ed)? focus (?:from|between)", "focus"),
    ("camera-move", r"\bcamera\b.*\b(?:push|pull|track|pan|tilt|orbit|glid|crane|follow|zoom|ris|drift|circl|arc|mov|doll|sweep|descend|fl[iyo]"
     r"|hold|stay|rotat|climb|lower|travel|slid|float|creep|hover|lift|lean|roll|shak|wander|turn)\w*", "the camera moves"),
    ("camera-move", r"\b(?:push|pull)[- ](?:in|out|back)\b|\b(?:slow|fast|quick|smooth|gentle|steady|whip|swish)?\s*(?:dolly|zoom|pan|tilt|truck|pedestal)"
     r"(?: (?:in|out|left|right|up|down|forward|backward|shot|to|across|past))*$|\bwhip[- ]pan\b|\brack focus\b|\btracking shot\b|\bdrone (?:shot|flight)"
     r"|\bcrane (?:up|down|shot)\b|\bfly-?(?:over|through|past)\b|\bstatic (?:frame|shot|camera)\b|\blocked[- ]off\b|\barc (?:shot|around|round)\b"
     r"|\borbit(?:ing)? (?:shot|around)\b|\bpan (?:left|right|across)\b|\bdolly (?:in|out|left|right|zoom)\b|\btravelling shot\b", "a camera move"),
    ("camera-rig", r"^(?:an? )?(?:hand-?held(?: camera| shot)?|tripod|monopod|gimbal|shoulder[- ](?:rig|mounted)|stabilised \w+|on a tripod)$", "a camera rig"),
    ("pose", r"^(?:crouched|curled up|slumped|sprawled|hunched|poised|standing|seated|sitting|kneeling|lying|leaning|crouching|reclining|posed|posing)\b(?! on (?:one leg|an? |the ))|\b(?:hands?|arms?) (?:(?:on|behind|in) (?:\w+ )?(?:hips?|chest|back|pockets?)|folded|crossed)|\barms (?:folded|crossed)\b|\bthree-quarter turn\b|\bin profile\b|\bpose$", "a pose"),
    ("camera-angle", r"^pov$|\bangle(?: shot| view)?$|\b(?:eye|ground|waist|hip|knee|water|street)[- ]level\b|\b(?:bird|worm)['’]?s[- ]eye\b|^(?:shot |seen |viewed )?from "
     r"(?:directly |straight |high |far |just )?(?:above|below|behind|overhead|underneath|the (?:side|front|back|ground|air|floor))\b|^(?:an? |the )?(?:\w+ )?(?:top[- ]down|"
     r"isometric|aerial|axonometric|pov|first[- ]person)(?: (?:view|shot|angle|perspective))?$|\b(?:three[- ]quarter|front|side|rear|profile|plan) (?:view|shot|angle|perspective)$"
     r"|^(?:looking|shot) (?:\w+ )?(?:straight )?(?:down|up)\b|\bpoint of view\b|\bseen from\b|\bfrom (?:an? |the )?(?:\w+[- ])?(?:low|high|dutch|steep|oblique|pool|bottom|top|foot) ?"
     r"(?:angle|viewpoint|floor|of)?\b|\b(?:flat|knolled) lay\b|^(?:directly )?overhead(?: (?:view|shot|angle))?$", "an angle of view"),
    ("exposure", r"\bfrozen mid-\w+|\bf ?/ ?\d|\b1/\d+ ?(?:s|sec|second)?\b|\biso ?\d|\b(?:long|double|multiple|short|bracketed|under|over) ?-?exposure\b|\bexposed\b|\bshutter\b|\baperture\b"
     r"|\bframes per second\b|\b\d+ ?fps\b|\b(?:frozen|freez\w+|stopped) motion\b|\bmotion blur\b|\bhigh[- ]speed photo\w*", "exposure"),
    ("lens", r"\b\d{1,4}(?:[-–]\d{1,4})? ?mm\b|\b(?:lens|lenses)$|\bfish-?eye\b|\banamorphic\b|\btelephoto\b|\b(?:shot|taken|filmed) (?:on|with|through) an? .*\b(?:lens|glass)\b"
     r"|\bmacro lens\b|\btilt-shift lens\b|\bpinhole\b|\bwide[- ]angle\b", "a lens"),
    ("focus", r"\bdepth of field\b|\bbackground (?:\w+ )?(?:blurred|blurry|soft|out of focus|melt\w* .*|dissolv\w* .*|fall\w* away)$|\bfocus[- ]stack\w*|\bbokeh\b|\b(?:in|out of|soft|sharp|deep|selective|shallow|crisp|pin-sharp|hyper|macro|tack-sharp) ?-?focus\w*|\bfocus(?:ed)? on\b|"
     r"\b(?:blurr?(?:ed|y)?|soft|out-of-focus|defocused) background\b|\bbackground blur\b|\btilt-shift blur\b|^(?:tack[- ]|pin[- ])?sharp\b|^crisp\b|\bmacro (?:detail|focus)\b", "focus"),
    ("film-look", r"\b(?:film|sensor) grain\b|\b(?:film|camcorder|analogu?e|vintage|retro|medium[- ]format|video ?tape|tape|scanned|home[- ]movie|point-and-shoot)[- ]look\b|\bcamcorder\b|\bfine grain\b|\bgrainy$|\bgrainy (?:film|photo\w*|black|colou?r|image|footage|monochrome|print|16|35)|\b(?:slide|negative|instant|reversal|colour|color|black-and-white|b&w|35 ?mm|16 ?mm|expired) film\b|"
     r"\bfilm (?:stock|look|negative)\b|\b(?:sepia|faded|vintage|old|antique|tintype|daguerreotype|instant|black[- ]and[- ]white|monochrome) (?:\w+ )?(?:photo\w*|print|snapshot)\b|^(?:old |faded )?colou?r print\b"
     r"|\bscratches\b|\blight leaks?\b|\bvhs\b|\bshot on (?:\w+ )*film\b|\bsuper[- ]8\b", "a film look"),
    ("colour-grade", r"\b(?:colou?r )?grad(?:e|ed|ing)$|\bdesaturated\b|\b(?:bleach\w*|teal and orange|cross-processed)\b|\b(?:green|blue|warm|cold|cool|magenta|sepia) (?:tint|cast)\b|\bsaturated colou?rs\b.*\bbright\b|"
     r"^bright saturated\b|\bhigh contrast\b|\blow contrast\b|\bcrushed blacks\b|\bmuted contrast\b", "a colour grade"),
    ("medium", r"^(?:an? )?(?:loose |soft |delicate |black |chinese )?ink (?:wash|painting|and wash|drawing)$|^(?:an? )?(?:realistic |colou?r |real )?(?:photo|photograph)$|\bstained[- ]glass(?: window)?$|\b(?:digital|oil|matte|acrylic) (?:painting|art)$", "a medium"),
    ("technique", r"\b(?:block|screen|hand|letterpress)[- ](?:printed|coloured|carved)\b|\bink (?:lines|shadows|outlines)$|^smudged\b|\bwet-in-wet\b|\bdry[- ]brush\b|\b(?:layered )?cut paper\b|\b(?:paper )?cut-?outs?\b|\b(?:paper )layers$|\blayered paper\b|\b(?:ink|watercolou?r) (?:wash|bleeds|splatter)\b|\bpalette[- ]knife\b|\bflat (?:bold )?(?:shapes|colour|inks)$|\b(?:geometric|organic|bold|simple|flat|angular|rounded|cut) (?:\w+ )?shapes$", "a technique"),
    ("genre", r"\b(?:campaign|advert|advertisement|commercial)$|^(?:an? )?(?!realistic|colou?r|digital|black|real|old|vintage|faded|film|instant|tilt)[\w-]+(?: [\w-]+)? (?:photography|photo)$|\b(?:tabletop|wedding|reportage)(?: \w+)? (?:photo|photograph|shot)$|\b(?:nature|wildlife|music|tv) (?:documentary|video|film)$|^documentary$|\bconcept art$|\b(?:product|advertising|commercial|lifestyle|beauty|hero|campaign|astro|drone|concert|car|automotive|jewellery|jewelry|interior|real[- ]estate|portrait|press|street|food|wildlife|fashion|documentary|architectural|catalogue|catalog|news|sports|travel|macro|editorial|studio|environmental|landscape|still[- ]life|wedding|underwater|packshot|nature)"
     r"[ -](?:photo\w*|portrait\w*|shot|still|picture|editorial|photography)$|\bcinematic still\b|\b(?:film|movie) still$|\bstill life$|\bfashion editorial$|\beditorial$|\bpack ?shot$|\bmug ?shot$", "a kind of picture"),
    ("pattern", r"\b(?:seamless|repeat(?:ing)?|tileable|all-over)?\s*(?:pattern|tile|wallpaper design)$|\bherringbone\b|\bhoundstooth\b|\btartan\b|\bgingham\b", "a pattern"),
    ("badge-shape", r"^(?:an? )?(?:round|circular|oval) (?:badge|emblem|seal)$|^(?:an? )?(?:shield|hexagon\w*|round|oval|circular|square|triang\w*|diamond)[- ]?shaped?$|\b(?:badge|shield|pennant|emblem shape|roundel|crest|hexagon)$|^(?:in )?an? (?:round|circular|oval|square|upright oval) (?:badge|frame|seal)", "a shape"),
    ("composition", r"^cent(?:red|ered)\b|\bcomposition\b|\bevenly (?:spaced|scattered|spread|lit)\b|\bcent(?:red|ered) (?:on|in)\b|\b(?:fill\w*|in|occup\w+) the (?:lower|upper|left|right|bottom|top|whole)(?: (?:half|third|quarter|corner|of))?\b|\b(?:empty|open) (?:sky|water|space|air)\b|\b(?:room|space) for (?:\w+ )?(?:text|copy|headline|title|lettering|a \w+)\b|\bsymmetr\w+|\brule of thirds\b|\b(?:dead |off-?)?cent(?:red?|er(?:ed)?)$|\bframing\b|\bframed by\b|\b(?:negative|empty|clear|copy|blank) space\b|^(?:\w+ )?horizon(?: line)?$|\bhorizon (?:in|at|near|on) the\b|\b(?:leading|vertical|horizontal|converging|diagonal|radiating) lines\b|\bdiagonals?\b"
     r"|\bedge of the frame\b|\bin the foreground\b|\bfor scale\b|\bgolden ratio\b|\boff-cent(?:re|er)\b|\bfill\w* (?:the|half|most|two|three).*\bframe\b|\bcrop$|\bgenerous margins\b|\btriangular\b|\bvertical format\b", "a composition"),
    ("lettering", r"\b(?:lettering|letters|capitals|typeface|typography|font|script|serifs?|sans[- ]serif|calligraphy|signwriting)\b", "lettering"),
    ("background", r"^(?:set |seen |isolated |shot )?against an? (?:[\w-]+ ){0,3}(?:wall|sky|curtain|hedge|paper|cloth|fabric|brick|concrete|void|gradient|tiles?|sheet)$|^out[- ]of[- ]focus \w+$|\b(?:background|backdrop|seamless|cyclorama)\b(?: behind)?$|^(?:on|against|over) an? (?:\w+[- ]?){0,2}(?:ground|backdrop|background)$|\b(?:off-white|white|black|dark|pale|cream|grey|coloured) ground$|\b(?:hedgerow|wall|trees|curtain) behind$", "a background"),
    ("era", r"^(?:in |from |circa |the |early |late |mid[- ]?)*(?:1[0-9]|20)\d\ds?$|\bcentury$|^(?:late |early |high )?(?:victorian|georgian|edwardian|regency|medieval|renaissance|baroque|tudor|bronze age|iron age|belle époque|interwar|postwar|post-war)(?: era| age| times| period)?$|\b(?:era|epoch)$", "an era"),
    ("hour", r"^(?:\w+ ){0,3}(?:golden|blue|magic) hour(?: \w+){0,2}$|^(?:(?:just |shortly |long )?(?:at|in|on|before|after|towards?|by|around|late|early|mid)[- ]?)*(?:the )?(?:(?:late|early|first|last|mid|dead of|deep|summer|winter|autumn|spring|sunday|monday|friday|saturday|\w+day)[- ]?)*"
     r"(?:dawn|dusk|sunrise|sunset|noon|midday|midnight|morning|afternoon|evening|night|nightfall|twilight|daybreak|moonrise|first light|low tide|high tide|small hours)(?: in (?:\w+))?$|\bo['’]clock$|\b\w+ in the (?:morning|afternoon|evening)$|^(?:at |around |about )?\d{1,2}(?::\d\d)? ?(?:a\.?m|p\.?m)\.?$", "a time of day"),
    ("music", r"\bmusic\b|\bsoundtrack\b|^(?:an? )?(?:(?:lone|solo|sparse|slow|soft|upright|distant|single|quiet|muted|gentle|swelling|driving|accelerating|low|plucked|bowed|faint|brass) )*"
     r"(?:piano|cello|accordion|violin|guitar|drums?|orchestra|waltz|jazz|strings|choir|flute|harp|band|synth\w*|organ|percussion|clarinet|trumpet|banjo|fiddle)(?: (?:plays?|playing|score|solo|from|far) .*|$)|^a (?:slow|quick|sad) (?:waltz|march|tune|song)", "music"),
    ("voice", r"\b(?:voice(?:over)?|accent)$|^(?:in an? )?(?:\w+ )?(?:whisper|murmur|drawl|shout|monotone)$|^(?:softly|quietly|hoarsely|loudly|gently|whispering|under (?:his|her|their) breath)$|^(?:low|hoarse|soft|bright|calm|flat|warm|gruff|clipped)(?:,? and \w+)$", "a voice"),
    ("sound-effect", r"^(?:the )?sounds? (?:of|:)|^sfx\b|^sound:", "a sound"),
    ("ambience", r"^(?:distant |far-off )?(?:gulls|seagulls|birds|songbirds|crickets|cicadas|frogs|crows|rooks|dogs|owls|bees|insects|voices|children|leaves|engines|sirens|horns) (?:cry|call|sing|chirp|bark|hoot|hum|buzz|laugh|shout|wail|blare|whisper|drone|murmur)\w*\b|^ambien(?:ce|t sound)\b|^around:|^background noise\b|\bhum of\b|\bmurmur of\b", "sound around"),
    ("mood", r"\b(?:mood|atmosphere|feeling|vibe|ambiance)$|^(?:an? )?(?:sense|air|feeling) of\b", "a mood"),
    ("wardrobe", r"\bwrapped in\b|^(?:wearing|dressed in|clad in|in uniform)\b", "clothes"),
    ("expression", r"\b(?:smil(?:e|es|ing)|laugh(?:ing)?|crying|grin\w*|frown\w*|squint\w*|scowl\w*|eyes (?:closed|shut|wide|half-closed|downcast)|closed eyes|clenched jaw|raised eyebrows?|expression|gaze|staring (?:into|at) the (?:lens|camera))$", "an expression"),
    ("visual-effect", r"\b(?:dust motes|motes of dust|sparks|embers|drifting (?:particles|ash|petals|dust)|floating (?:particles|ash|petals|dust)|confetti|bubbles rising|steam rising|rising steam|shavings curling|smoke (?:curl|rise|ris|drift)\w*)\b", "something in the air"),
    ("palette", r"\b(?:palette|colou?rs?|tones?|hues?|colou?r scheme|pastels|earth tones)$|\bmonochrom(?:e|atic)$|\b(?:duotone|sepia tones|greyscale|grayscale)$|\bgradient$|^in (?:\w+ )?(?:two|three|four|few) colou?rs\b", "colours"),
)  # fmt: skip
COMPILED = tuple((facet, regex(pattern), why) for facet, pattern, why in PATTERNS)

# Words of colour, and those that go with them: a part of nothing else is a palette.
COLOURS = _set("""blues greens reds browns greys grays ochres ambers pinks yellows golds whites blacks black white blue green red brown grey gray ochre amber pink
        yellow gold teal navy coral indigo cream rust umber sienna turquoise violet purple orange olive beige ivory crimson scarlet cobalt mauve
        lilac sage bone charcoal copper silver mustard burgundy maroon magenta cyan tan peach
    ochres crimson verdigris sepia teals rose sand lemon plum slate ink brick bottle emerald jade ultramarine chalk terracotta ruby sapphire tobacco moss walnut honey chestnut mahogany caramel chocolate coffee biscuit oatmeal wheat buff ecru taupe pewter aubergine""")
COLOUR_WORDS = _set("""and with on against one two deep pale dull dirty dark light bright warm cold cool muted soft dusty faded rich vivid washed-out inky smoky moss bottle
    petrol steel storm lamp navy sky sea acid lime blood rust mint powder off a an accent accents only in of the touches touch wash mainly mostly
    saturated pastel neon electric hot royal baby forest dark light pure jet charcoal earthy burnt antique blush smoke splash splashes hints hint
    shades plus plenty single one""")

# What leads to the parts of a label or a key of JSON; the last word of a key counts.
LABELS: dict[str, str] = {
    "subject": "subject", "concept": "subject", "idea": "subject", "topic": "subject", "main": "subject", "lead": "subject", "character": "subject", "hero": "subject", "who": "subject", "description": "subject",
    "object": "subject", "product": "subject", "person": "subject", "vessel": "subject", "action": "action", "deed": "action", "activity": "action",
    "motion": "action", "setting": "setting", "place": "setting", "location": "setting", "scene": "setting", "environment": "setting", "where": "setting",
    "light": "lighting", "lighting": "lighting", "lights": "lighting", "illumination": "lighting", "weather": "weather", "time": "hour", "hour": "hour",
    "mood": "mood", "atmosphere": "mood", "tone": "mood", "palette": "palette", "colour": "palette", "colours": "palette", "color": "palette",
    "colors": "palette", "color_palette": "palette", "hues": "palette", "doing": "action", "does": "action", "actions": "action", "gesture": "pose", "wearing": "wardrobe", "wears": "wardrobe",
    "attire": "wardrobe", "dress": "wardrobe", "clothed": "wardrobe", "backdrop": "background", "surroundings": "setting", "venue": "setting", "season": "hour", "time_of_day": "hour", "timeofday": "hour", "when": "hour",
    "year": "era", "decade": "era", "perspective": "camera-angle", "viewpoint": "camera-angle", "dof": "focus", "depth": "focus", "shutter": "exposure", "aperture": "exposure",
    "layout": "composition", "props": "subject", "emotion": "mood", "vibe": "mood", "feeling": "mood", "feel": "mood", "face": "expression", "narration": "speech", "voiceover": "speech",
    "soundscape": "ambience", "background_sound": "ambience", "noise": "ambience", "soundtrack": "music", "speed": "pacing", "tempo": "pacing", "finish": "finish", "font": "lettering", "typography": "lettering",
    "medium": "medium", "kind": "medium", "style": "design-style", "technique": "technique", "texture": "material",
    "material": "material", "materials": "material", "camera": "lens", "optics": "lens", "lens": "lens", "angle": "camera-angle", "view": "camera-angle", "shot": "shot-size", "size": "shot-size",
    "framing": "composition", "composition": "composition", "movement": "camera-move", "move": "camera-move", "camera_move": "camera-move", "focus": "focus",
    "background": "background", "wardrobe": "wardrobe", "clothing": "wardrobe", "clothes": "wardrobe", "costume": "wardrobe", "outfit": "wardrobe",
    "expression": "expression", "pose": "pose", "era": "era", "period": "era", "ambience": "ambience", "ambient": "ambience", "audio": "ambience",
    "sound": "sound-effect", "sfx": "sound-effect", "effect": "sound-effect", "effects": "visual-effect", "music": "music", "score": "music",
    "line": "speech", "dialogue": "speech", "speech": "speech", "says": "speech", "text": "speech", "lettering": "lettering", "voice": "voice",
    "pacing": "pacing", "pace": "pacing", "transition": "transition", "grade": "colour-grade", "film": "film-look", "genre": "genre",
    "exposure": "exposure", "rig": "camera-rig", "detail": "detail", "details": "detail",
}  # fmt: skip
NEGATIVE_LABELS = _set("not never negative avoid exclude without unwanted leave_out leave-out negative_prompt negativeprompt dont")
PARAMETER_KEYS = _set("""seed aspect aspect_ratio ratio duration seconds length fps rate frames steps width height size_px quality count pictures
    resolution format cfg closeness strength model version loop""")  # fmt: skip

SAYING = regex(
    r"\b(?:says?|said|whispers?|shouts?|asks?|answers?|replies|mutters?|calls?(?: out)?|reading|reads|lettered|titled)\b", re.I
)
# What asks for a picture and is no part of it.
OPENING = regex(
    r"(?:(?:please|can you|could you|i|we|(?:would|['’]d) like|want(?:ed)?|need|make|give|show|create|draw|generate|film|paint|render|imagine|me|us|to see|to have|now|just|an?|the|one"
    r"|picture|image|clip|video|scene|short|showing|depicting|featuring|of)\b[\s:,]*)+",
    re.I,
)
KINDS = frozenset(
    "medium genre design-style pattern shot-size camera-angle camera-move film-look lettering camera-rig transition".split()
)  # what may be "of" something
