"""What can be told of a photo without knowing what is on it: whether it is blurred, dark, or the same one again.

Standard library only: a phone tells it at once, before the photo is sent.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from itertools import pairwise, repeat
from operator import add, mul, sub
from typing import Literal

WHOLE = (68, 64)
"""Width and height, in pixels, of the small grey picture that light and sameness are told from."""
CENTRE_OF = 640
"""The longer side, in pixels, to which a photo is brought before its centre is looked at."""
CENTRE = 120
"""The side, in pixels, of that centre."""
BLURRED = 0.62
"""From this blur on, writing of a plate's size is no longer read: a blur of 3 pixels in 640 and more."""
DARK = 40.0
"""Below this mean grey, of 255, little can be made out."""
SAME_BITS = 10
"""Fingerprints of 256 bits that differ in no more than this are of the same picture."""
_REACH = 5
"""A picture is blurred on purpose over so many pixels to either side."""
_BLURRED_OVER = 2 * _REACH + 1

PhotoDoubt = Literal["blurred", "dark", "the same again"]


@dataclass(frozen=True, slots=True, kw_only=True)
class PhotoLook:
    """``blur`` is 0 for a sharp picture and 1 for one without any detail, nothing where no edge is to be seen;
    ``light`` the mean grey, 0 to 255; ``fingerprint`` 256 bits in hexadecimal, alike for pictures that are alike."""

    blur: float | None
    light: float
    fingerprint: str


def look_at_photo(whole: Sequence[int], centre: Sequence[int]) -> PhotoLook:
    """Look at a photo in two grey pictures of it, row by row, 0 to 255.

    Parameters
    ----------
    whole : the whole photo at :data:`WHOLE` pixels
    centre : its middle :data:`CENTRE` by :data:`CENTRE` pixels, once its longer side has :data:`CENTRE_OF`

    Raises
    ------
    ValueError
        Where either has another number of pixels.
    """
    width, height = WHOLE
    if len(whole) != width * height or len(centre) != CENTRE * CENTRE:
        raise ValueError(f"{len(whole)} and {len(centre)} pixels are not those of the two pictures")
    return PhotoLook(
        blur=blur_of(centre, CENTRE), light=sum(whole) / len(whole), fingerprint=_fingerprint(whole)
    )


_WORDS: Mapping[PhotoDoubt, str] = {
    "blurred": "It is blurred.",
    "dark": "It is dark.",
    "the same again": "It is the same picture as another of this order.",
}


def doubts_in_words(doubts: Sequence[PhotoDoubt]) -> str:
    """What is to be doubted of a photo, as a person reads it; empty where nothing is.

    >>> doubts_in_words(("dark", "the same again")), doubts_in_words(())
    ('It is dark. It is the same picture as another of this order.', '')
    """
    return " ".join(_WORDS[doubt] for doubt in doubts)


def photo_doubts(look: PhotoLook, *, is_same: bool) -> tuple[PhotoDoubt, ...]:
    """What is to be doubted of a photo; ``is_same`` where :func:`same_photo` finds it among others of its order."""
    out: list[PhotoDoubt] = []
    if look.light < DARK:
        out.append("dark")
    elif look.blur is not None and look.blur >= BLURRED:
        out.append("blurred")
    if is_same:
        out.append("the same again")
    return tuple(out)


def same_photo(look: PhotoLook, others: Mapping[str, str]) -> str | None:
    """Which of other photos is the same picture, the likest; none where none is, or where nothing is to be seen."""
    if look.blur is None:
        return None
    apart = {name: _bits_apart(look.fingerprint, other) for name, other in others.items()}
    likest = min(apart, key=lambda name: apart[name], default=None)
    return likest if likest is not None and apart[likest] <= SAME_BITS else None


def blur_of(grey: Sequence[int], side: int) -> float | None:
    """How blurred a square grey picture is, 0 to 1, by how much of its detail a further blur takes away.

    Nothing where it has no detail at all.

    References
    ----------
    .. [1] Crété, F., Dolmiere, T., Ladret, P. and Nicolas, M. (2007). The blur effect: perception and estimation with a
       new no-reference perceptual blur metric. Proc. SPIE 6492.
    """
    rows = [grey[i * side : (i + 1) * side] for i in range(side)]
    columns = [grey[i::side] for i in range(side)]
    found = [_lost_by_blurring(lines) for lines in (columns, rows)]
    return max((one for one in found if one is not None), default=None)


def _lost_by_blurring(lines: Sequence[Sequence[int]]) -> float | None:
    """The share of detail along lines that is left when they are blurred; what is left of little was blurred before.

    Whole numbers throughout, and no loop over pixels: a phone works it out while the technician looks at the photo.
    """
    # Each line is smoothed with its neighbours, 1 to 2 to 1, so that grain does not count as detail.
    with_next = [list(map(add, a, b)) for a, b in pairwise(lines[1:])]
    detail = left = 0
    for smooth in (list(map(add, a, b)) for a, b in pairwise(with_next)):
        sharp = list(map(mul, map(abs, map(sub, smooth[3:], smooth[1:-2])), repeat(_BLURRED_OVER)))
        detail += sum(sharp)
        left += sum(map(min, sharp, _slopes_once_blurred(smooth)))
    return left / detail if detail > 0 else None


def _slopes_once_blurred(line: Sequence[int]) -> Iterable[int]:
    """How steep the sums over so many pixels to either side are at each pixel but the outermost, the line mirrored at
    its ends."""
    mirrored = [*line[:_REACH][::-1], *line, *line[: -_REACH - 1 : -1]]
    # The sum at i + 1 less that at i - 1: what comes in at one end less what goes out at the other.
    pairs = list(map(add, mirrored, mirrored[1:]))
    return map(abs, map(sub, pairs[2 * _REACH + 2 :], pairs[1:]))


def _fingerprint(whole: Sequence[int]) -> str:
    """Whether each of 16 x 16 places is lighter than the one to its right, in blocks of 4 x 4 pixels."""
    width, height = WHOLE
    blocks = [
        [
            sum(sum(whole[(y + dy) * width + x : (y + dy) * width + x + 4]) for dy in range(4))
            for x in range(0, width, 4)
        ]
        for y in range(0, height, 4)
    ]
    bits = "".join("1" if a > b else "0" for row in blocks for a, b in pairwise(row))
    return f"{int(bits, 2):064x}"


def _bits_apart(one: str, other: str) -> int:
    return (int(one, 16) ^ int(other, 16)).bit_count()
