"""Photographs of houses that never stood: drawn, one scene for each caption."""

from __future__ import annotations

import io
from functools import lru_cache
from random import Random

from PIL import Image, ImageDraw

SIZE = (360, 240)
CAPTIONS = ("front", "kitchen", "living room", "yard")
_SIDING = ((214, 205, 188), (150, 170, 162), (178, 140, 120), (120, 140, 160), (196, 180, 140), (165, 165, 170))
_ROOFS = ((88, 70, 62), (70, 76, 82), (110, 84, 70))
_SKIES = ((196, 214, 222), (210, 216, 214), (178, 200, 218))
SCENES = 24
"""How many different houses there are to draw: photographs repeat, as a world this small may."""


def _house(draw: ImageDraw.ImageDraw, rng: Random) -> None:
    draw.rectangle((0, 0, 360, 170), fill=rng.choice(_SKIES))
    draw.rectangle((0, 165, 360, 240), fill=(126, 146, 104))
    wall, roof = rng.choice(_SIDING), rng.choice(_ROOFS)
    left, top, floors = rng.randrange(60, 110), rng.randrange(84, 104), rng.choice((1, 2))
    right = left + rng.randrange(140, 190)
    top -= 34 * (floors - 1)
    draw.rectangle((left, top, right, 190), fill=wall, outline=(70, 66, 60))
    draw.polygon([(left - 14, top), ((left + right) // 2, top - rng.randrange(34, 58)), (right + 14, top)], fill=roof, outline=(60, 52, 48))
    for floor in range(floors):
        for window in range(3):
            x, y = left + 16 + window * ((right - left - 20) // 3), top + 18 + floor * 44
            if not (floor == floors - 1 and window == 1):
                draw.rectangle((x, y, x + 26, y + 28), fill=(226, 232, 230), outline=(60, 60, 60))
    door = (left + right) // 2 - 12
    draw.rectangle((door, 150, door + 26, 190), fill=rng.choice(((90, 40, 44), (30, 70, 66), (70, 60, 40))))
    draw.ellipse((right + 24, 110, right + 84, 176), fill=(92, 122, 84))
    draw.rectangle((right + 50, 170, right + 57, 196), fill=(92, 74, 56))


def _room(draw: ImageDraw.ImageDraw, rng: Random, caption: str) -> None:
    wall = rng.choice(_SIDING)
    draw.rectangle((0, 0, 360, 160), fill=tuple(min(255, part + 24) for part in wall))
    draw.rectangle((0, 160, 360, 240), fill=(150, 118, 86))
    draw.rectangle((230, 30, 310, 104), fill=(222, 232, 236), outline=(90, 84, 76))
    if caption == "kitchen":
        draw.rectangle((20, 112, 200, 186), fill=(236, 232, 224), outline=(110, 104, 96))
        for place in range(4):
            draw.line((20 + place * 45, 112, 20 + place * 45, 186), fill=(110, 104, 96))
        draw.rectangle((20, 24, 200, 70), fill=(206, 196, 180), outline=(110, 104, 96))
    else:
        draw.rounded_rectangle((40, 120, 200, 190), 12, fill=rng.choice(((96, 112, 120), (130, 96, 84), (104, 118, 96))))
        draw.rectangle((210, 176, 280, 190), fill=(96, 74, 54))


def _yard(draw: ImageDraw.ImageDraw, rng: Random) -> None:
    draw.rectangle((0, 0, 360, 120), fill=rng.choice(_SKIES))
    draw.rectangle((0, 120, 360, 240), fill=(134, 154, 108))
    for place in range(12):
        draw.rectangle((place * 32, 96, place * 32 + 22, 140), fill=(176, 160, 136), outline=(120, 108, 92))
    for _ in range(rng.randrange(2, 5)):
        x, y = rng.randrange(20, 320), rng.randrange(60, 110)
        draw.ellipse((x, y - 40, x + 50, y + 20), fill=(90, 118, 80))


@lru_cache(maxsize=SCENES * len(CAPTIONS))
def picture(scene: int, caption: str) -> bytes:
    """Return one of the drawn photographs as PNG."""
    rng = Random(f"{scene} {caption}")
    image = Image.new("RGB", SIZE)
    draw = ImageDraw.Draw(image)
    if caption == "front":
        _house(draw, rng)
    elif caption == "yard":
        _yard(draw, rng)
    else:
        _room(draw, rng, caption)
    out = io.BytesIO()
    image.quantize(32).save(out, "PNG", optimize=False)
    return out.getvalue()
