"""Pictures and scanned pages: their size where they say it, how they look, whether they bear a travel document's lines or a face."""

from __future__ import annotations

import contextlib
import io
from functools import lru_cache
from pathlib import Path
from typing import Any

import cv2
import imagehash
import numpy as np
from PIL import Image, ImageOps

from jolly_clerk.core.facts.reading import Box, Face, Look, Page, Zone
from jolly_clerk.core.say import say
from jolly_clerk.reading.zone import read_zone

Array = Any
MOST_PIXELS, MOST_PAGES, MOST_LOOKED = 300_000_000, 2000, 40
#: the longer side, in dots, at which a page is looked at, and at which lines of a travel document are looked for
LOOKED_AT, ZONE_AT = 1600, 2600
#: so much of each edge of a scan may be the rim of the scanner; a row with fewer dark dots has nothing but specks
RIM, SPECKS = 0.012, 6
#: codes are looked for by two detectors in pictures of so many dots, one after the other: each overlooks some few at each size
CODES_AT = (
    (cv2.QRCodeDetectorAruco, 640),
    (cv2.QRCodeDetectorAruco, 900),
    (cv2.QRCodeDetector, 900),
    (cv2.QRCodeDetector, 1300),
)
#: a head so high in a picture, as a share of it, leaves no room for the lines of a travel document
PORTRAIT = 0.5
#: machine-readable lines are looked for on so many pages of a file
MOST_ZONE_PAGES = 4
#: resolutions that programs and telephones write without having measured anything, where the picture has more dots than a screen
MADE_UP, SCREEN = (72, 96), 1700
#: less of a page than this bears ink: blank
BLANK = 0.0006
#: a picture is sharp if the steepest edges rise by so much of its contrast from dot to dot
SHARP = 0.18
MM = 25.4

cv2.setNumThreads(1)


def read_picture(content: bytes, base: dict[str, Any]) -> dict[str, Any]:
    """What a picture file is: the parts of a reading."""
    Image.MAX_IMAGE_PIXELS = MOST_PIXELS
    with Image.open(io.BytesIO(content)) as image:
        count = getattr(image, "n_frames", 1)
        bounds = (
            (say("Of {count} pages the first {most} were read.", count=count, most=MOST_PAGES),) if count > MOST_PAGES else ()
        )
        pages, zones, face, camera, made = list[Page](), list[Zone](), None, False, ""
        for n in range(min(count, MOST_PAGES)):
            image.seek(n)
            exif = image.getexif()
            if n == 0:
                image.load()
                camera, made = bool(exif.get(0x010F) or exif.get(0x0110)), _instant(str(exif.get(0x0132, "")))
            width, height = image.size
            if exif.get(0x0112) in (5, 6, 7, 8):
                width, height = height, width
            dpi = _dpi(image, camera)
            page = Page(
                no=n + 1,
                width_mm=round(width / dpi * MM, 1) if dpi else 0,
                height_mm=round(height / dpi * MM, 1) if dpi else 0,
                content="scan",
                pixels=(width, height),
            )
            if n < MOST_LOOKED:
                grey = grey_of(image)
                page = looked_at(page, grey, round(dpi))
                if n == 0 and page.content != "blank":
                    face = face_in(grey)
                portrait = face is not None and face.count == 1 and face.height >= PORTRAIT
                if n < MOST_ZONE_PAGES and page.content != "blank" and not portrait:
                    zones += [zone for zone in (read_zone(_within(grey, ZONE_AT), n + 1),) if zone]
            pages.append(page)
    scans = "waiting" if any(p.content == "scan" for p in pages) else ""
    return {"pages": tuple(pages), "zones": tuple(zones), "face": face, "bounds": bounds, "made": made, "scans": scans}


def grey_of(image: Image.Image) -> Array:
    """A picture as it is seen, in grey; what is transparent is white."""
    image = ImageOps.exif_transpose(image)
    longer = max(image.size)
    if longer > 2 * ZONE_AT:
        image = (
            image.reduce(max(1, longer // (2 * ZONE_AT)) + 1)
            if image.mode in ("L", "RGB")
            else image.resize((max(1, image.width * 2 * ZONE_AT // longer), max(1, image.height * 2 * ZONE_AT // longer)))
        )
    if image.mode in ("RGBA", "LA", "PA") or "transparency" in image.info:
        image = image.convert("RGBA")
        ground = Image.new("RGBA", image.size, "white")
        image = Image.alpha_composite(ground, image)
    if image.mode.startswith("I") or image.mode == "F":
        dots = np.asarray(image, dtype=np.float32)
        return (255 * dots / max(1.0, float(dots.max()))).astype(np.uint8)
    return np.asarray(image.convert("L"))


def _dpi(image: Image.Image, camera: bool) -> float:
    """Dots an inch as the picture says them; 0 where it does not, or where nothing was measured."""
    said = image.info.get("dpi")
    try:
        dpi = float(said[0]) if said else 0.0
    except (TypeError, ValueError, ZeroDivisionError):
        return 0.0
    if not 20 <= dpi <= 4800 or (round(dpi) in MADE_UP and (camera or max(image.size) > SCREEN)):
        return 0.0
    return dpi


def _instant(said: str) -> str:
    """``2026:11:27 10:15:00`` as ``2026-11-27 10:15``."""
    return f"{said[:10].replace(':', '-')} {said[11:16]}" if len(said) >= 16 and said[4:5] == ":" else ""


def _within(grey: Array, longer: int) -> Array:
    scale = longer / max(grey.shape)
    return cv2.resize(grey, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA) if scale < 1 else grey


def looked_at(page: Page, grey: Array, dpi: int) -> Page:
    """The page with how it looks, and blank if nothing stands on it."""
    small = _within(grey, LOOKED_AT)
    bits = bits_of(grey)
    if _blank(small):
        return page.model_copy(update={"content": "blank", "bits": bits})
    look = Look(dpi=dpi, skew=_skew(small), sharp=_sharp(small))
    return page.model_copy(update={"look": look, "bits": bits, "code": code_on(small), "ink": ink_on(small)})


def ink_on(grey: Array) -> Box | None:
    """The box around all that is dark on a scan, specks and the dark rim of a scanner aside."""
    ground = cv2.blur(grey, (151, 151)).astype(np.int16)
    dark = (ground - grey > 40).astype(np.uint8)
    rim = max(2, round(min(grey.shape) * RIM))
    dark[:rim], dark[-rim:], dark[:, :rim], dark[:, -rim:] = 0, 0, 0, 0
    dark = cv2.morphologyEx(dark, cv2.MORPH_OPEN, np.ones((2, 2), np.uint8))
    down, across = dark.sum(1), dark.sum(0)
    rows, columns = np.nonzero(down > SPECKS)[0], np.nonzero(across > SPECKS)[0]
    if not len(rows) or not len(columns):
        return None
    high, wide = grey.shape
    shares = (columns[0] / wide, rows[0] / high, (columns[-1] + 1) / wide, (rows[-1] + 1) / high)
    return tuple(round(float(v), 4) for v in shares)  # type: ignore[return-value]


def code_on(grey: Array) -> str:
    """What a large printed code on a sheet says; empty without one."""
    for finds, longer in CODES_AT:
        with contextlib.suppress(cv2.error):
            said, _, _ = finds().detectAndDecode(_within(grey, longer))
            if said:
                return str(said)[:80]
    return ""


def bits_of(grey: Array) -> str:
    """How a page looks in hexadecimal digits: 256 bits of a perceptual hash of its shapes, then how light each of 4 × 4 fields is (0 to
    255, two digits each)."""
    small = _within(grey, 512)
    light = cv2.resize(small, (4, 4), interpolation=cv2.INTER_AREA)
    return f"{imagehash.phash(Image.fromarray(small), hash_size=16)}{light.tobytes().hex()}"


def _blank(grey: Array) -> bool:
    """True if next to nothing differs from the ground: a white sheet, a black one, one with some dust on it."""
    high, wide = grey.shape
    inner = grey[high // 25 : high - high // 25, wide // 25 : wide - wide // 25]
    inner = cv2.GaussianBlur(inner, (5, 5), 0)
    ground = cv2.blur(inner, (151, 151))
    differs = np.abs(inner.astype(np.int16) - ground) > 28
    return bool(differs.mean() < BLANK)


def _sharp(grey: Array) -> bool:
    dots = grey.astype(np.float32)
    across, down = cv2.Sobel(dots, cv2.CV_32F, 1, 0, ksize=3) / 8, cv2.Sobel(dots, cv2.CV_32F, 0, 1, ksize=3) / 8
    steep = float(np.percentile(np.hypot(across, down), 99.97))
    return steep > SHARP * max(60.0, float(dots.max() - dots.min()))


def _skew(grey: Array) -> float:
    """How far lines of writing are off the level, in degrees clockwise, within 10; 0 where there are none."""
    small = _within(grey, 700)
    dark = cv2.adaptiveThreshold(small, 1, cv2.ADAPTIVE_THRESH_MEAN_C, cv2.THRESH_BINARY_INV, 25, 15).astype(np.float32)
    if dark.mean() < 0.003:
        return 0.0
    high, wide = dark.shape

    def level(angle: float) -> float:
        turn = cv2.getRotationMatrix2D((wide / 2, high / 2), angle, 1)
        rows = cv2.warpAffine(dark, turn, (wide, high)).sum(axis=1)
        return float(((rows[1:] - rows[:-1]) ** 2).sum())

    flat = level(0.0)
    worth = {angle: level(angle) for angle in np.arange(-10, 10.1, 1.0)}
    best = max(worth, key=lambda angle: worth[angle])
    fine = {angle: level(angle) for angle in np.arange(best - 0.75, best + 0.76, 0.25)}
    best = max(fine, key=lambda angle: fine[angle])
    return round(float(best), 1) if fine[best] > 1.15 * flat else 0.0


@lru_cache(maxsize=4)
def _cascade(name: str) -> Any:
    return cv2.CascadeClassifier(str(Path(cv2.__file__).parent / "data" / f"haarcascade_frontalface_{name}.xml"))


def _faces(grey: Array) -> list[tuple[int, ...]]:
    """The faces, the largest first: looked for in the picture with its contrast spread, as a whole and part by part, until one is found."""
    high, wide = grey.shape
    soft = cv2.GaussianBlur(grey, (0, 0), 1.5)
    for spread in (cv2.equalizeHist(soft), cv2.createCLAHE(3.0, (8, 8)).apply(soft)):
        for name in ("alt2", "default"):
            found = _cascade(name).detectMultiScale(spread, 1.08, 4, minSize=(max(30, wide // 9), max(30, high // 9)))
            if len(found):
                return sorted((tuple(int(v) for v in f) for f in found), key=lambda f: -f[2] * f[3])
    return []


#: the head, from chin to crown, is so much higher than what the cascade takes for the face
HEAD = 1.32


def face_in(grey: Array) -> Face:
    """The faces of a picture; of a page of writing there are none."""
    small = _within(grey, 640)
    high, wide = small.shape
    faces = _faces(small)
    if not faces:
        return Face(count=0, sharp=_sharp(small))
    x, y, across, down = faces[0]
    count = 1 + sum(f[2] * f[3] > 0.12 * across * down and not _within_box(f, faces[0]) for f in faces[1:])
    # beside the head, above the shoulders
    tall = max(8, y + down // 2)
    sides = [small[2:tall, 2 : max(4, int(x - 0.18 * across))], small[2:tall, min(wide - 4, int(x + 1.18 * across)) : wide - 2]]
    dots = np.concatenate([side.ravel() for side in sides]).astype(np.float32)
    part = _within(grey, 1000)
    scale = part.shape[1] / wide
    inner = part[int(y * scale) : int((y + down) * scale), int(x * scale) : int((x + across) * scale)]
    steep = cv2.Laplacian(cv2.resize(inner, (200, 200), interpolation=cv2.INTER_AREA), cv2.CV_32F)
    return Face(
        count=count,
        height=round(min(1.0, HEAD * down / high), 3),
        box=(round(x / wide, 4), round(y / high, 4), round((x + across) / wide, 4), round((y + down) / high, 4)),
        ground=round(float(np.median(dots)) / 255, 3) if dots.size else 0.0,
        even=round(max(0.0, 1 - 4 * float(dots.std()) / 255), 3) if dots.size else 0.0,
        sharp=bool(steep.std() > 5.0),
    )


def _within_box(inner: tuple[int, ...], outer: tuple[int, ...]) -> bool:
    x, y = inner[0] + inner[2] / 2, inner[1] + inner[3] / 2
    return outer[0] < x < outer[0] + outer[2] and outer[1] < y < outer[1] + outer[3]
