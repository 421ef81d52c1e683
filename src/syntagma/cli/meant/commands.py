"""The command and the verb of a call that is set right."""

from collections.abc import Sequence

from syntagma.cli.commands import COMMANDS, OLD, module_of
from syntagma.cli.known import KnownNames, like
from syntagma.cli.meant import words as say
from syntagma.cli.meant.calls import Lost, lost


def command_mended(words: list[str], known: KnownNames) -> list[str]:
    """The words with a command that there is, and a verb where the noun has such. Raises Lost."""
    if not words:
        raise Lost
    if words[0] in ("help", "--help", "-h"):
        if not words[1:] or words[1] in COMMANDS:
            raise Lost
        return ["help", like(words[1], COMMANDS) or lost()]
    name = words[0]
    if " " in name.strip() and name not in COMMANDS:
        return ["compose", "--from", *words]
    for n in (2, 1):
        if (old := " ".join(words[:n])) in OLD and len(words) >= n:
            words = [*OLD[old].split(), *words[n:]]
            break
    name = words[0]
    if name not in COMMANDS:
        words = _another(words, known)
    return _verb(words)


def _another(words: list[str], known: KnownNames) -> list[str]:
    """Words whose first is not a command: a wish, or a command by another name."""
    name, rest = words[0], words[1:]
    plain = [word for word in rest if not word.startswith("-")]
    if name in say.WISH:
        if plain[:1] and (plain[0] in known.formulas or "=" in plain[-1]):
            return ["compose", *rest]
        return _wish(rest)
    if name in say.COMMANDS:
        return [*say.COMMANDS[name].split(), *rest]
    near = name[:-1] if name.endswith("s") and name[:-1] in COMMANDS else like(name, COMMANDS)
    if near and not (len(plain) > 1 and plain == rest and "=" not in " ".join(rest) and near not in (name[:-1], name + "s") and _prose(words)):
        return [near, *rest]
    if plain and _prose(words):
        return _wish(words)
    return [near, *rest] if near else lost()


def _prose(words: Sequence[str]) -> bool:
    """Do the words before the options read like a sentence?"""
    small = frozenset("a an the in on at of with and under over by near to from".split())
    first = [word for word in words if not word.startswith("-")]
    return bool(small & {word.lower() for word in first}) and not any("=" in word for word in first)


def _wish(words: Sequence[str]) -> list[str]:
    """The words up to the first option as a wish."""
    end = next((n for n, word in enumerate(words) if word.startswith("-")), len(words))
    text = " ".join(words[:end]).strip()
    return ["compose", "--from", text, *words[end:]] if text else lost()


def _verb(words: list[str]) -> list[str]:
    """The words with a verb that their noun has: mistyped, or by another name."""
    verbs = getattr(module_of(words[0]), "VERBS", {})
    if not verbs or len(words) < 2 or words[1] in verbs or words[1].startswith("-"):
        return words
    word = words[1].lower()
    other = say.VERBS.get(word)
    if other is not None and (not other or other in verbs):
        return [words[0], *([other] if other else []), *words[2:]]
    for said in (say.VERBS[near] for near in [like(word, say.VERBS)] if near and len(word) > 3):
        if said and said in verbs and len(words) > 2:
            near = like(word, verbs)
            return [words[0], near or said, *words[2:]]
    near = like(word, verbs) if len(words) > 2 else ""
    return [words[0], near, *words[2:]] if near and near != word and (near not in say.DECIDING or near[:2] == word[:2]) else words
