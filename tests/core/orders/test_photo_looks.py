"""What is told of a photo, against a reference library and on its real photographs (scikit-image and its images)."""

from __future__ import annotations

import io
from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
import skimage.data
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image, ImageEnhance, ImageFilter
from skimage.measure import blur_effect

from reedling.core.orders.photo_looks import (
    BLURRED,
    CENTRE,
    CENTRE_OF,
    SAME_BITS,
    WHOLE,
    PhotoLook,
    blur_of,
    look_at_photo,
    photo_doubts,
    same_photo,
)
from reedling.services.shared.inspecting import look_of
from tests.examples import examples

PHOTOS = Path(skimage.data.__file__).parent
SHARP = (
    "astronaut.png",
    "brick.png",
    "chelsea.png",
    "coffee.png",
    "coins.png",
    "grass.png",
    "gravel.png",
    "ihc.png",
    "motorcycle_left.png",
    "page.png",
    "rocket.jpg",
)
"""Photographs in focus and by daylight that the library ships; ``clock_motion.png`` is one that was moved."""


def photo(name: str) -> Image.Image:
    with Image.open(PHOTOS / name) as opened:
        return opened.convert("RGB")


def taken(image: Image.Image, quality: int = 85) -> bytes:
    """The photo as a phone sends it."""
    out = io.BytesIO()
    image.save(out, "JPEG", quality=quality)
    return out.getvalue()


def look(image: Image.Image, quality: int = 85) -> PhotoLook:
    return look_of(taken(image, quality))


@settings(max_examples=examples(40), deadline=None)
@given(st.integers(0, 2**32 - 1), st.integers(24, 60), st.floats(0, 4))
def test_the_blur_is_that_of_the_reference_library(seed: int, side: int, sigma: float) -> None:
    """``skimage.measure.blur_effect``, the metric of Crété and others (2007)."""
    rng = np.random.default_rng(seed)
    noise = Image.fromarray(rng.integers(0, 256, (side, side), dtype=np.uint8))
    grey = np.asarray(noise.filter(ImageFilter.GaussianBlur(sigma)))
    found = blur_of(grey.ravel().tolist(), side)
    expected = float(blur_effect(grey.astype(float), h_size=11))  # type: ignore[no-untyped-call]
    assert found is None if np.isnan(expected) else found == pytest.approx(expected, abs=1e-9)


def test_photos_in_focus_and_by_daylight_are_not_doubted() -> None:
    for name in SHARP:
        assert photo_doubts(look(photo(name)), is_same=False) == (), name


def test_a_blur_of_three_pixels_in_640_is_told_and_so_is_a_photo_that_was_moved() -> None:
    for name in SHARP:
        image = photo(name)
        blurred = image.filter(ImageFilter.GaussianBlur(3.2 * max(image.size) / CENTRE_OF))
        assert photo_doubts(look(blurred), is_same=False) == ("blurred",), name
    assert photo_doubts(look(photo("clock_motion.png")), is_same=False) == ("blurred",)


def test_a_photo_in_the_dark_is_told_once() -> None:
    for name in SHARP:
        dark = ImageEnhance.Brightness(photo(name)).enhance(0.15)
        assert photo_doubts(look(dark), is_same=False) == ("dark",), name
    assert photo_doubts(look(photo("hubble_deep_field.jpg")), is_same=False) == ("dark",)


def test_the_same_photo_is_known_again_and_no_other_is_taken_for_it() -> None:
    looks = {name: look(photo(name)) for name in SHARP}
    prints = {name: found.fingerprint for name, found in looks.items()}
    for name in SHARP:
        image = photo(name)
        others = {other: bits for other, bits in prints.items() if other != name}
        assert same_photo(looks[name], others) is None, name
        again = (
            look(image, quality=40),
            look(image.resize((image.width * 3 // 4, image.height * 3 // 4))),
            look(ImageEnhance.Brightness(image).enhance(0.9)),
        )
        for other in again:
            assert same_photo(other, prints) == name
            assert photo_doubts(other, is_same=same_photo(other, prints) is not None) == ("the same again",)


def test_where_nothing_is_to_be_seen_nothing_is_said_of_focus_or_sameness() -> None:
    plain = look(Image.new("RGB", (800, 600), (180, 180, 180)))
    assert plain.blur is None
    assert same_photo(plain, {"other": plain.fingerprint}) is None
    assert photo_doubts(plain, is_same=False) == ()


def test_a_narrow_or_tiny_photo_is_looked_at_too() -> None:
    for size in ((2_000, 90), (12, 9), (1, 1), (40, 4_000)):
        found = look(photo("coffee.png").resize(size))
        assert found.blur is None or 0 <= found.blur <= 1
        assert len(found.fingerprint) == 64


def test_a_photo_is_looked_at_as_it_is_held() -> None:
    """The camera's note of how it was held (Exif 2.32, orientation) is heeded."""
    upright, exif = photo("chelsea.png"), Image.Exif()
    exif[0x0112] = 6
    out = io.BytesIO()
    upright.rotate(90, expand=True).save(out, "JPEG", quality=95, exif=exif)
    assert same_photo(look_of(out.getvalue()), {"upright": look(upright).fingerprint}) == "upright"


@settings(max_examples=examples(15), deadline=None)
@given(st.integers(0, 2**32 - 1))
def test_a_fingerprint_says_which_of_two_neighbours_is_lighter(seed: int) -> None:
    rng = np.random.default_rng(seed)
    whole = rng.integers(0, 256, (WHOLE[1], WHOLE[0]))
    found = look_at_photo(whole.ravel().tolist(), [0] * CENTRE * CENTRE)
    blocks = whole.reshape(16, 4, 17, 4).sum(axis=(1, 3))
    bits = "".join("01"[int(a > b)] for row in blocks for a, b in pairwise(row))
    assert found.fingerprint == f"{int(bits, 2):064x}"
    assert found.light == pytest.approx(whole.mean())


def test_pictures_of_another_size_are_refused() -> None:
    with pytest.raises(ValueError, match="pixels"):
        look_at_photo([0] * 10, [0] * CENTRE * CENTRE)


def test_the_bounds_are_where_sharp_and_blurred_photos_part() -> None:
    sharp = [look(photo(name)).blur or 0 for name in SHARP]
    assert max(sharp) < BLURRED - 0.1
    assert SAME_BITS < 256 / 8
