"""Pictures for the made-up world: a seat face from above, drawn, never taken."""

from __future__ import annotations

import random
from io import BytesIO

from PIL import Image, ImageDraw, ImageFilter

_WIDTH, _HEIGHT = 960, 720


def drawn_photo(seed: int) -> bytes:
    """Return a JPEG of a machined face with a bore and four stud holes; marks and stains differ by seed."""
    chance = random.Random(seed)  # noqa: S311 — a picture, not a secret
    image = Image.new("RGB", (_WIDTH, _HEIGHT), (70, 76, 80))
    draw = ImageDraw.Draw(image)
    draw.rounded_rectangle((90, 60, _WIDTH - 90, _HEIGHT - 60), 60, fill=(139, 146, 150))
    for y in range(64, _HEIGHT - 64, 5):
        shade = chance.randrange(128, 156)
        draw.line((100, y, _WIDTH - 100, y), fill=(shade, shade + 5, shade + 8), width=2)
    draw.ellipse((290, 170, 670, 550), fill=(38, 42, 45), outline=(190, 196, 198), width=10)
    for x, y in ((190, 150), (770, 150), (190, 570), (770, 570)):
        draw.ellipse((x - 46, y - 46, x + 46, y + 46), fill=(30, 33, 35), outline=(200, 205, 206), width=6)
    for _ in range(7):
        x, y, r = chance.randrange(120, 840), chance.randrange(90, 620), chance.randrange(8, 40)
        draw.ellipse((x, y, x + 2 * r, y + r), fill=(104, 92, 74))
    out = BytesIO()
    image.filter(ImageFilter.GaussianBlur(1.2)).save(out, "JPEG", quality=85)
    return out.getvalue()
