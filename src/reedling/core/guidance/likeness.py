"""Which parts of the catalogue somebody may have meant by what they typed.

Spaces, dashes, capitals, accents, the order of words and one wrong letter in a word do not matter. Written for
the standard library alone: it also runs on the phone.
"""

from __future__ import annotations

import math
import re
import unicodedata
from collections import Counter
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from reedling.core.guidance.catalogue import Part

MOST_SHOWN = 3
"""Parts that are offered for what was typed."""
AT_LEAST = 0.4
"""Below this likeness a part is not offered."""
FORGIVING_FROM = 4
"""From so many letters on, one wrong letter in a word does not matter: shorter words are too easily others."""
_ONE_WRONG = 0.9
_BEGINNING = 0.7


@dataclass(frozen=True, slots=True, kw_only=True)
class MeantPart:
    """A part that may have been meant: ``likeness`` from 0 to 1, and ``why`` in words."""

    part: str
    name: str
    likeness: float
    why: str


@dataclass(frozen=True, slots=True)
class PartNames:
    """The names of the catalogue's parts by their words, to be asked again and again.

    ``weights`` say how much a word tells: the fewer parts have it, the more.
    """

    parts: Mapping[str, Part]
    words: Mapping[str, tuple[str, ...]]
    weights: Mapping[str, float] = field(default_factory=dict)

    @classmethod
    def of(cls, parts: Iterable[Part]) -> PartNames:
        """The names of these parts."""
        by_code = {part.code: part for part in parts}
        words = {code: tuple(words_of(part.name)) for code, part in by_code.items()}
        n_with = Counter(word for own in words.values() for word in set(own))
        n_all = len(by_code)
        weights = {word: math.log((n_all + 1) / n) + 0.5 for word, n in n_with.items()}
        return cls(by_code, words, weights)

    def weight(self, word: str) -> float:
        """How much a word tells; one that no part has tells as much as the rarest."""
        return self.weights.get(word, math.log(len(self.parts) + 1) + 0.5)


def meant_parts(text: str, names: PartNames, *, most: int = MOST_SHOWN) -> tuple[MeantPart, ...]:
    """The parts that may have been meant by a text, likeliest first; none where nothing is like it."""
    typed = tuple(words_of(text))
    if not typed:
        return ()
    found = [likely for code in names.parts if (likely := _compared(typed, code, names)) is not None]
    found.sort(key=lambda likely: (-likely.likeness, likely.name, likely.part))
    return tuple(found[:most])


def words_of(text: str) -> Iterator[str]:
    """The words of a text, without capitals, accents, and signs between them; a number is a word of its own.

    >>> list(words_of("Hydraulic-Oil ISO32, blaß")), list(words_of("Ø12 O-ring"))
    (['hydraulic', 'oil', 'iso', '32', 'blass'], ['ø', '12', 'o', 'ring'])
    """
    plain = "".join(c for c in unicodedata.normalize("NFKD", text.casefold()) if not unicodedata.combining(c))
    yield from re.findall(r"[^\W\d_]+|\d+", plain)


def one_apart(one: str, other: str) -> bool:
    """Whether one letter was put in, left out, or mistaken, or two neighbours changed places, or nothing at all.

    The optimal string alignment distance of the two is at most 1 (Boytsov, "Indexing methods for approximate
    dictionary searching", 2011, section 2).

    >>> one_apart("valve", "vlave"), one_apart("seal", "seals"), one_apart("seal", "sole")
    (True, True, False)
    """
    if abs(len(one) - len(other)) > 1:
        return False
    start = next((i for i, (a, b) in enumerate(zip(one, other, strict=False)) if a != b), None)
    if start is None:
        return True
    a, b = one[start:], other[start:]
    if len(a) == len(b):
        return a[1:] == b[1:] or (a[:2] == b[1::-1] and a[2:] == b[2:])
    return a[1:] == b if len(a) > len(b) else a == b[1:]


def _compared(typed: Sequence[str], code: str, names: PartNames) -> MeantPart | None:
    part, own = names.parts[code], names.words[code]
    squeezed = "".join(typed)
    if squeezed == "".join(words_of(code)):
        return MeantPart(part=code, name=part.name, likeness=1.0, why="its code")
    if any(squeezed == "".join(words_of(spelling)) for spelling in part.spellings):
        return MeantPart(part=code, name=part.name, likeness=1.0, why="typed so before, and confirmed")
    whole = "".join(own)
    if squeezed == whole:
        return MeantPart(part=code, name=part.name, likeness=1.0, why="its name")
    near = _ONE_WRONG if len(whole) >= FORGIVING_FROM and one_apart(squeezed, whole) else 0.0
    meetings = _meetings(typed, own)
    score = max(near, _score(typed, own, meetings, names))
    if score < AT_LEAST:
        return None
    return MeantPart(part=code, name=part.name, likeness=score, why=_why(typed, own, meetings, near=near > 0))


@dataclass(frozen=True, slots=True)
class _Meeting:
    """Words typed and words of a name that stand for each other, from ``at`` on, and how sure that is."""

    typed: tuple[int, ...]
    own: tuple[int, ...]
    likeness: float


def _meetings(typed: Sequence[str], own: Sequence[str]) -> list[_Meeting]:
    """Which words stand for each other: the surest pairs first, each word once."""
    pairs = [
        _Meeting(at, to, likeness)
        for at, word in _runs(typed)
        for to, meant in _runs(own)
        if (len(at) == 1 or len(to) == 1) and (likeness := _word_likeness(word, meant)) > 0
    ]
    pairs.sort(key=lambda m: (-m.likeness, -len(m.typed) - len(m.own), m.typed, m.own))
    used_typed: set[int] = set()
    used_own: set[int] = set()
    out = []
    for pair in pairs:
        if used_typed.isdisjoint(pair.typed) and used_own.isdisjoint(pair.own):
            used_typed.update(pair.typed)
            used_own.update(pair.own)
            out.append(pair)
    return out


def _runs(words: Sequence[str]) -> Iterator[tuple[tuple[int, ...], str]]:
    """Each word, and each two neighbours written as one."""
    for i, word in enumerate(words):
        yield (i,), word
        if i + 1 < len(words):
            yield (i, i + 1), word + words[i + 1]


def _word_likeness(word: str, meant: str) -> float:
    if word == meant:
        return 1.0
    if word.isdigit() or meant.isdigit():
        return 0.0
    if min(len(word), len(meant)) >= FORGIVING_FROM and one_apart(word, meant):
        return _ONE_WRONG
    if len(word) >= FORGIVING_FROM - 1 and meant.startswith(word):
        return _BEGINNING
    return 0.0


def _score(typed: Sequence[str], own: Sequence[str], meetings: Sequence[_Meeting], names: PartNames) -> float:
    """What the two have in common, by weight, out of what both have: from 0 to 1 (Dice's coefficient)."""
    worth = [names.weight(word) for word in own]
    met_typed = {i for m in meetings for i in m.typed}
    common = sum(m.likeness * sum(worth[i] for i in m.own) for m in meetings)
    strange = sum(names.weight(word) for i, word in enumerate(typed) if i not in met_typed)
    met = sum(sum(worth[i] for i in m.own) for m in meetings)
    return 2 * common / (met + strange + sum(worth)) if worth else 0.0


def _why(typed: Sequence[str], own: Sequence[str], meetings: Sequence[_Meeting], *, near: bool) -> str:
    met_typed = {i for m in meetings for i in m.typed}
    met_own = {i for m in meetings for i in m.own}
    said = [
        f"“{_joined(typed, m.typed)}” taken for “{_joined(own, m.own)}”"
        for m in sorted(meetings, key=lambda m: m.typed)
        if m.likeness < 1
    ]
    if near and len(met_own) < len(own):
        return "one letter apart"
    if len(met_own) == len(own) and len(met_typed) == len(typed):
        places = [m.own[0] for m in sorted(meetings, key=lambda m: m.typed)]
        same = "the same words" if places == sorted(places) else "the same words in another order"
        return "; ".join([same, *said]) if not said or len(own) > 1 else said[0]
    exact = [_joined(own, m.own) for m in sorted(meetings, key=lambda m: m.own) if m.likeness == 1]
    if exact:
        said.insert(0, "has " + ", ".join(f"“{word}”" for word in exact))
    strange = [word for i, word in enumerate(typed) if i not in met_typed]
    if strange:
        said.append("not " + ", ".join(f"“{word}”" for word in strange))
    return "; ".join(said)


def _joined(words: Sequence[str], at: Sequence[int]) -> str:
    return " ".join(words[i] for i in at)
