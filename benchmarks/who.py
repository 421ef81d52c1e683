"""Who does what in the situations that ship: how often they say she or he, old or young, that
somebody lives with a disability, and where in the world they are. `python -m benchmarks.who
[--show]` prints it; docs/reference/situations.md tells it.
"""

import re
import sys
from collections import Counter

from syntagma.app.workspace.workspace import Workspace

SIGNS = {
    "she": (
        r"she|her|hers|woman|women|girls?|grandmothers?|mothers?|brides?|aunts?|queen|widow|daughters?|sisters?|seamstress|midwife|ballerina|witch|shepherdess|giantess|princess|goose"
        r" girl|dancer of eighty"
    ),
    "he": (
        r"he|his|him|man|men|boys?|grandfathers?|fathers?|groom|uncles?|king|widower|sons?|brothers?|fisherman|friar|knight|gentleman|schoolboy"
    ),
    "a child": (
        r"child(?:ren)?|boys?|girls?|schoolchildren|schoolboy|baby|twins|toddler|of nine|of"
        r" ten|apprentice|pupil"
    ),
    "old": r"old|of sixty|of seventy|of eighty|grand(?:mother|father)s?|retired|white curls",
    "a disability": r"deaf|blind|wheelchair|cane|one leg|prosthetic|signing|left hand and playing",
    "beyond Europe and North America": (
        r"banyan|rice|tuk-tuk|bazaar|dhow|camel|sushi|monastery|tea (?:slope|picker)|salt"
        r" worker|samba|gaucho|llama|reindeer|jollof|injera|pho|ramen|dumplings?|rickshaw|cobra|pearl|kite"  # noqa: E501
        r" maker|mask maker|medieval street|monsoon|well digger|dry"
        r" village|temple|lagoon|mango|chillies|tacos|bao|kelp|tango|steppe|mango|sari|mahjong|coral|breadfruit|stilt|bonsai|paper"  # noqa: E501
        r" screens|cocoa|vanilla|palm|clay oven|kiln|cricket|noodle|cable car|fog"
        r" catcher|calligrapher|motorcycle taxi|phone mender|tea seller|masked wrestler|rooftop"
        r" pigeon|caravan|puppet barge|salt pans|white pans"
    ),
}
PEOPLE = ("subject",)


def said(one) -> str:
    """All that a situation says."""
    parts = [
        one.lead,
        *(
            text
            for moment in one.moments
            for text in (*moment.words.values(), moment.then, *moment.details, *moment.framings)
        ),
    ]
    return " ".join(parts).lower()


def main() -> None:
    people = [
        one
        for one in Workspace.load().every_situation()
        if one.facet in PEOPLE and not one.lead.startswith("#")
    ]
    found: dict[str, list[str]] = {
        name: [one.name for one in people if re.search(rf"\b(?:{pattern})\b", said(one))]
        for name, pattern in SIGNS.items()
    }
    print(f"{len(people)} situations of people")
    for name, names in found.items():
        print(f"{name:<34} {len(names):>4}  {len(names) / len(people):>5.0%}")
    leads = Counter(
        (
            "she"
            if re.search(rf"\b(?:{SIGNS['she']})\b", one.lead)
            else "he"
            if re.search(rf"\b(?:{SIGNS['he']})\b", one.lead)
            else "either"
        )
        for one in people
    )
    print(
        f"{'by the one whom they are of':<34}"
        f" {', '.join(f'{name} {number}' for name, number in sorted(leads.items()))}"
    )
    if "--show" in sys.argv:
        for name, names in found.items():
            print(f"\n{name}\n  " + "\n  ".join(names))


if __name__ == "__main__":
    main()
