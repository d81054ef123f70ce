"""A stand-in camera: draws a picture of a gauge, a plate or a lock instead of taking one."""

from __future__ import annotations

import io
import math
import random
from typing import Literal

from PIL import Image, ImageDraw, ImageFilter, ImageFont

WIDTH, HEIGHT = 640, 480
_INK, _PAPER, _STEEL, _BRASS = (35, 32, 29), (248, 246, 242), (77, 107, 132), (240, 180, 41)


Shot = Literal["well", "blurred", "dark"]
"""How a photo was taken."""


def take_picture(of: str, *, seed: int, shot: Shot = "well") -> bytes:
    """A JPEG that stands for a photo of the thing named; the same seed gives the same picture."""
    rng = random.Random(seed)
    shade = rng.randint(150, 205)
    image = Image.new("RGB", (WIDTH, HEIGHT), (shade, shade, shade - 12))
    draw = ImageDraw.Draw(image)
    for _ in range(140):
        x, y, length = rng.randint(0, WIDTH), rng.randint(0, HEIGHT), rng.randint(8, 60)
        tone = shade + rng.randint(-24, 18)
        draw.line((x, y, x + length, y + rng.randint(-4, 4)), fill=(tone, tone, tone - 10), width=2)
    words = of.lower()
    if any(w in words for w in ("gauge", "pressure", "meter", "reading")):
        _gauge(draw, rng)
    elif any(w in words for w in ("plate", "serial")):
        _plate(draw, rng)
    elif any(w in words for w in ("lock", "isolat")):
        _lock(draw)
    else:
        _housing(draw, rng)
    draw.rectangle((0, HEIGHT - 44, WIDTH, HEIGHT), fill=_INK)
    draw.text((16, HEIGHT - 34), f"stand-in camera: {of[:48]}", fill=_PAPER, font=ImageFont.load_default(20))
    if shot == "blurred":
        image = image.filter(ImageFilter.GaussianBlur(5))
    elif shot == "dark":
        image = image.point(lambda tone: tone * 0.12)
    out = io.BytesIO()
    image.save(out, "JPEG", quality=80)
    return out.getvalue()


def _gauge(draw: ImageDraw.ImageDraw, rng: random.Random) -> None:
    cx, cy, r = WIDTH // 2, 215, 150
    draw.ellipse((cx - r, cy - r, cx + r, cy + r), fill=_PAPER, outline=_INK, width=10)
    for i in range(11):
        angle = math.radians(225 - 27 * i)
        outer, inner = r - 18, r - 42
        ends = [(cx + math.cos(angle) * d, cy - math.sin(angle) * d) for d in (inner, outer)]
        draw.line(ends, fill=_INK, width=4)
    angle = math.radians(225 - 270 * rng.uniform(0.3, 0.7))
    draw.line((cx, cy, cx + math.cos(angle) * 105, cy - math.sin(angle) * 105), fill=(158, 43, 60), width=8)
    draw.ellipse((cx - 12, cy - 12, cx + 12, cy + 12), fill=_INK)


def _plate(draw: ImageDraw.ImageDraw, rng: random.Random) -> None:
    draw.rounded_rectangle((110, 110, 530, 330), 12, fill=(205, 208, 210), outline=_INK, width=5)
    font = ImageFont.load_default(26)
    for i, label in enumerate(("TYPE", "SERIAL", "kW", "V")):
        value = "".join(rng.choice("0123456789") for _ in range(6 if i == 1 else 3))
        draw.text((140, 135 + 46 * i), f"{label}  {value}", fill=_INK, font=font)


def _lock(draw: ImageDraw.ImageDraw) -> None:
    draw.arc((240, 70, 400, 250), 180, 360, fill=_STEEL, width=26)
    draw.rounded_rectangle((215, 160, 425, 350), 16, fill=_BRASS, outline=_INK, width=6)
    draw.ellipse((300, 225, 340, 265), fill=_INK)
    draw.rectangle((313, 250, 327, 310), fill=_INK)


def _housing(draw: ImageDraw.ImageDraw, rng: random.Random) -> None:
    draw.rounded_rectangle((120, 90, 520, 370), 24, fill=_STEEL, outline=_INK, width=6)
    for i in range(6):
        draw.line((150, 140 + i * 38, 490, 140 + i * 38), fill=_INK, width=5)
    for x, y in ((150, 115), (490, 115), (150, 345), (490, 345)):
        draw.ellipse((x - 10, y - 10, x + 10, y + 10), fill=_BRASS if rng.random() < 0.3 else _INK)
