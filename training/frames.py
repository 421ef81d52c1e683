"""Trains what tells the words round a wish from the wish, from training/frames.txt: python -m
training.frames [--folds N [--show]].
"""

import argparse
import json
import random
import re
from collections import Counter
from collections.abc import Iterator, Sequence
from pathlib import Path

from syntagma.app.reading import FRAME_WORDS, FRAMES_FILE
from syntagma.core.editing.frame_words import MOST, FramePlace, Frames, choices, places, words_of
from syntagma.core.reading.weights import Scorer
from training.marked_prompts import HERE
from training.maxent import fit_choices

FILE = Path(__file__).with_name("frames.txt")
THINGS = 4  # with so many things each beginning and end of a wish is tried
OFTEN = 2  # lines from which on a word is one that frames are often made of
SEED, PRIOR = 7, 0.5
Marked = tuple[str, list[tuple[int, int]]]  # a wish, and the stretches that are its frame
Group = tuple[list[list[str]], int]  # the choices at a place, and the right one


def unbraced(line: str) -> Marked:
    """A wish, and where its frame stands: what was in braces."""
    text, stretches = "", []
    for n, piece in enumerate(re.split(r"[{}]", line)):
        if n % 2:
            stretches.append((len(text), len(text) + len(piece)))
        text += piece
    return text, stretches


def wishes(lines: Sequence[str], prompts: Sequence[str], rnd: random.Random) -> list[Marked]:
    """The wishes of lines of the file: as they are; a beginning (>), an end (<), what asks for more
    (+) and what is reported before (@) with several things; a framed one with other things and
    other ends, too; and `prompts` that are all picture.
    """
    plain = [line for line in lines if line[0] not in "><+@"]
    things = [
        line for line in plain if "{" not in line and re.match(r"(?:an?|two|three|my|the) ", line)
    ]
    begun = [
        re.match(r"\{[^{}]*\}", line)[0]
        for line in plain
        if re.match(r"\{[^{}]*\} (?:an?|two|three|the|my) [^{}]*$", line)
    ]
    things += [
        text[:1].lower() + text[1:]
        for text in prompts
        if re.match(r"(?:An?|Two|Three|The|My) ", text) and len(text) < 90
    ]
    bare = [
        text
        for text in prompts
        if not re.match(r"(?:An?|The|I|We|It|He|She|They|There|In|On|At) ", text, re.I)
        and len(text) < 110
    ]
    ends = [line[2:] for line in lines if line.startswith("< ")]
    found = [*plain, *prompts]
    for line in lines:
        for thing in rnd.sample(things, THINGS):
            if line.startswith("> "):
                found.append(f"{{{line[2:]}}} {thing}")
                if line[-1] == ":" or rnd.random() < 0.2:
                    found.append(f"{{{line[2:]}}} {rnd.choice(bare)}")
            elif line.startswith("< "):
                found.append(
                    f"{thing.rstrip('.')}{{{line[2:]}}}"
                    if line[2] == ","
                    else f"{thing}{rnd.choice([' ', ', ', '. ', '! '])}{{{line[2:]}}}"
                )
            elif line.startswith("+ "):
                found.append(
                    f"{thing.rstrip('.')}, {{{line[2:]}}} {rnd.choice(things).rstrip('.')}"
                )
    openers = [
        line[2:]
        for line in lines
        if line.startswith("> ")
        and re.match(
            r"(?:can|could|would|i|i'd|please|what|how|so|make|draw|need|want|show|we|looking|any) ?",  # noqa: E501
            line[2:],
        )
    ]
    for line in lines:
        for thing in rnd.sample(things, THINGS) if line[0] == "@" else ():
            opener = rnd.choice(openers)
            found.append(
                f"{{{line[2:]}}}"
                f" {{{opener[:1].upper() + opener[1:] if line[-1] == '.' and rnd.random() < 0.6 else opener}}}"  # noqa: E501
                f" {thing}"
            )
    for frame in begun:
        found += [f"{frame} {thing}" for thing in rnd.sample(things, 2)]
        found.append(f"{frame} {rnd.choice(things).rstrip('.')} {{{rnd.choice(ends)}}}")
    return [unbraced(line) for line in found]


def all_picture(lines: Sequence[str]) -> list[str]:
    """The marked prompts of one line that are not among the lines."""
    known = {_said(unbraced(line)[0]) for line in lines}
    texts = [
        json.loads(line)["text"]
        for path in sorted(HERE.glob("*.jsonl"))
        for line in path.read_text("utf-8").splitlines()
    ]
    return [
        text
        for text in texts
        if _said(text) not in known and len(words_of(text)) <= MOST and "\n" not in text
    ]


def often(lines: Sequence[str]) -> frozenset[str]:
    """The words that are in the frames of several lines."""
    counts = Counter(
        word
        for line in lines
        for word in {word.text for piece in _frames(line) for word in words_of(piece)}
    )
    return frozenset(
        word for word, number in counts.items() if number >= OFTEN and word[0].isalnum()
    )


def _frames(line: str) -> list[str]:
    return [line[2:]] if line[0] in "><+@" else re.findall(r"\{([^{}]*)\}", line)


def _said(text: str) -> tuple[str, ...]:
    """The words of a text, without its marks."""
    return tuple(word.text for word in words_of(text) if word.text[0].isalnum())


def groups_of(marked: Marked, known: frozenset[str]) -> Iterator[Group]:
    """The choices at each place of a wish, and the right one."""
    text, stretches = marked
    words = words_of(text)
    framed = {
        n
        for n, word in enumerate(words)
        if any(start <= word.start < stop for start, stop in stretches)
    }
    for place in places(words):
        if place.begin in framed and place.begin - 1 in framed and place.begin:
            continue  # within the frame before it
        right = _length(place, framed, len(words))
        offered = list(choices(words, place, known))
        if offered[right : right + 1] and offered[right]:
            kept = [n for n, one in enumerate(offered) if one]
            yield [offered[n] for n in kept], kept.index(right)


def _length(place: FramePlace, framed: set[int], many: int) -> int:
    """How many words of a frame stand at a place."""
    step = -1 if place.closing else 1
    at = place.begin - 1 if place.closing else place.begin
    count = 0
    while 0 <= at < many and at in framed:
        count, at = count + 1, at + step
    return count


def trained(marked: Sequence[Marked], known: frozenset[str], prior: float = PRIOR) -> Frames:
    """The weights of features of a choice."""
    groups = [group for one in marked for group in groups_of(one, known)]
    return Frames(
        Scorer.of(
            ("frame",),
            fit_choices(
                [choices for choices, _ in groups], [right for _, right in groups], 2, prior
            ),
        ),
        known,
    )


def right(marked: Marked, frames: Frames) -> bool:
    """Is the frame of a wish found as it was marked, its marks apart?"""

    def picture(stretches: Sequence[tuple[int, int]]) -> list[str]:
        return [
            word.text
            for word in words_of(marked[0])
            if word.text[0].isalnum()
            and not any(start <= word.start < stop for start, stop in stretches)
        ]

    return picture(frames.found(marked[0])) == picture(marked[1])


def left_out(lines: Sequence[str], prompts: Sequence[str], folds: int, show: bool) -> None:
    """Print how many frames are found in lines and prompts that were not learned from."""
    counts: Counter[tuple[str, bool]] = Counter()
    for fold in range(folds):
        kept, kept_prompts = (
            [line for n, line in enumerate(every) if n % folds != fold]
            for every in (lines, prompts)
        )
        frames = trained(wishes(kept, kept_prompts, random.Random(SEED)), often(kept))
        tested = [
            ("line", unbraced(line)) for line in lines[fold::folds] if line[0] not in "><+@"
        ] + [("marked prompt", (text, [])) for text in prompts[fold::folds]]
        for kind, (text, stretches) in tested:
            found = right((text, stretches), frames)
            counts["framed line" if stretches else kind, found] += 1
            if show and not found:
                print(
                    f"  {text}\n    is:  {[text[a:b] for a, b in frames.found(text)]}\n    was:"
                    f" {[text[a:b] for a, b in stretches]}"
                )
    for kind in sorted({kind for kind, _ in counts}):
        print(f"{kind}: {counts[kind, True]} of {counts[kind, True] + counts[kind, False]}")


def main() -> None:
    parser = argparse.ArgumentParser(prog="python -m training.frames", description=__doc__)
    parser.add_argument(
        "--folds",
        type=int,
        default=0,
        help="leave each N-th line out in turn: how often is its frame found?",
    )
    parser.add_argument("--show", action="store_true", help="show what was not found")
    asked = parser.parse_args()
    lines = [
        line for line in FILE.read_text("utf-8").splitlines() if line and not line.startswith("#")
    ]
    prompts = all_picture(lines)
    if asked.folds:
        left_out(lines, prompts, asked.folds, asked.show)
        return
    made = wishes(lines, prompts, random.Random(SEED))
    frames = trained(made, often(lines))
    FRAMES_FILE.write_bytes(frames.scorer.to_bytes())
    FRAME_WORDS.write_text("".join(f"{word}\n" for word in sorted(frames.known)), "utf-8")
    print(f"{FRAMES_FILE.name}: {FRAMES_FILE.stat().st_size:,} bytes from {len(made):,} wishes")


if __name__ == "__main__":
    main()
