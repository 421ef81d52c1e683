"""Films, measured: python -m benchmarks.films [FILMS [CHANGED]].

1. Clips: the packing of FILMS (500) small random films against every way to pack them, tried one by
  one.
2. CHANGED (2000) random films whose clips were sent, one line made longer: which clips are made
  again, and whether each of them had to be.
3. A film of 300 shots from list to prompts, against the time of one prompt.
"""

import sys
from random import Random
from time import process_time

from syntagma.app.film.film_prompts import Film, FilmFile, FilmPrompts, film_knowledge
from syntagma.app.workspace.workspace import Workspace
from syntagma.core.film.clips import packed
from syntagma.core.film.film_plan import Plan, Sent, key_of, plan, spoken_in
from syntagma.core.film.shot_list import ShotList, read_shots
from syntagma.core.film.wording import Cast
from tests.core.test_film import random_film, tried

WORDS = (
    "the tide has left a boat on the sand and nobody will say whose it was before noon or after so"
    " we wait for the bell".split()
)
PEOPLE = ("purser", "pilot", "keeper")


def against_every_way(films: int) -> int:
    """How many of the packings are not the cheapest."""
    wrong = 0
    for seed in range(films):
        needs, rules = random_film(Random(1000 + seed))
        found = packed(needs, rules)
        wrong += (round(found.money, 5), found.splits, round(found.dead, 4)) != tried(needs, rules)
    return wrong


def random_list(random: Random) -> list[tuple[int, dict[str, str]]]:
    rows = []
    for row in range(random.randint(4, 14)):
        who = random.choice(PEOPLE)
        sentences = [
            " ".join(random.choices(WORDS, k=random.randint(2, 9))).capitalize() + "."
            for _ in range(random.choice([0, 1, 1, 2, 5]))
        ]
        rows.append(
            (
                row + 2,
                {
                    "scene": str(1 + row // random.randint(3, 6)),
                    "shot": str(row + 1),
                    "seconds": random.choice(["", "2", "3.5", "6", "14"]),
                    "who": who,
                    "size": random.choice(["wide shot", "medium shot", "close-up"]),
                    "action": random.choice(["", "waiting", "counting"]),
                    "setting": "quay",
                    "line": f"{who.upper()}: {' '.join(sentences)}" if sentences else "",
                    "continuous": random.choice(["", "", "", "yes"]),
                    "first frame": random.choice(["", "", "", "", "standing"]),
                    "transition": random.choice(["", "", "", "slow dissolve"]),
                },
            )
        )
    return rows


def sent_of(made: Plan, shots: ShotList, cast: Cast) -> list[Sent]:
    where = {shot.name: i for i, shot in enumerate(shots.shots)}
    found = []
    for planned in made.clips:
        parts = []
        for part, view in zip(planned.clip.parts, planned.views, strict=True):
            said = spoken_in(
                view.shot, made.timings[where[view.shot.name]], part.start, part.stop, cast
            )
            parts.append((view.shot.name, key_of(view.shot, cast), said, (part.start, part.stop)))
        found.append(Sent(planned.clip.seconds, tuple(parts)))
    return found


def changed_films(films: int, workspace: Workspace) -> tuple[int, int, int]:
    """(Clips that were sent, those made again since they hold the change, those made again that do
    not hold it).
    """
    knowledge, cast, formula = film_knowledge(), Cast({}), workspace.formula("film-shot")[0]
    sent_count = held_count = wrong = 0
    for seed in range(films):
        random = Random(seed)
        rows = random_list(random)
        profile = workspace.model(random.choice(["whimbrel-motion", "godwit-motion"]))
        headings = list(rows[0][1])
        before = read_shots(headings, rows, "list", PEOPLE)
        speaking = [shot for shot in before.shots if shot.lines]
        if before.mistakes or not speaking:
            continue
        made = plan(before, profile, cast, knowledge, lambda shot: formula)
        shot = random.choice(speaking)
        cells = next(cells for row, cells in rows if row == shot.row)
        cells["line"] += " " + " ".join(random.choices(WORDS, k=12)).capitalize() + "."
        after = read_shots(headings, rows, "list", PEOPLE)
        sent = sent_of(made, before, cast)
        again = plan(after, profile, cast, knowledge, lambda shot: formula, sent)
        clips = {planned.name: [view.shot.name for view in planned.views] for planned in made.clips}
        kept = {planned.name for planned in again.clips if planned.clip.pinned}
        without = [name for name, shots in clips.items() if shot.name not in shots]
        sent_count += len(clips)
        held_count += len(clips) - len(without)
        wrong += len(set(without) - kept)
    return sent_count, held_count, wrong


def large_film(workspace: Workspace, shots: int = 300) -> tuple[float, float]:
    """Seconds of processor time: the film's prompts, and one prompt alone (the middle of its shots,
    made by itself).
    """
    rows = [
        (
            n + 2,
            {
                "scene": str(n // 10 + 1),
                "shot": str(n % 10 + 1),
                "size": ("wide shot", "medium shot", "close-up")[n % 3],
                "who": ("purser", "pilot")[n % 2],
                "action": "PURSER counts the tickets." if n % 2 else "checking a tide board",
                "setting": "ticket office",
                "line": "" if n % 3 else "Nine minutes to slack water.",
            },
        )
        for n in range(shots)
    ]
    found = []
    for count in (shots, 1):
        read = read_shots(list(rows[0][1]), rows[:count], "list", PEOPLE)
        began = process_time()
        board = FilmPrompts(
            Film(workspace, read, FilmFile()),
            workspace.model("whimbrel-motion"),
            workspace.model("curlew-still"),
        )
        board.records()
        found.append(process_time() - began)
    return found[0], found[1]


def main() -> None:
    films, changed = (int(word) for word in (*sys.argv[1:], "500", "2000")[:2])
    workspace = Workspace.load()
    print(
        f"{films} small films: {against_every_way(films)} packings that are not the cheapest of"
        " every way"
    )
    sent, held, wrong = changed_films(changed, workspace)
    print(
        f"{changed} films, one line longer: of {sent} clips that were sent {held} hold the change;"
        f" {wrong} others were made anew"
    )
    large_film(workspace, 2)
    whole, one = large_film(workspace)
    print(f"300 shots: {whole:.2f} s of processor time, {whole / one:.0f} times one shot by itself")


if __name__ == "__main__":
    main()
