"""Seeded 24-megapixel pictures with the statistics of photographs: 1/f structure, edges, grain."""

from __future__ import annotations

from pathlib import Path

import cv2
import numpy as np
import simplejpeg

WIDTH, HEIGHT = 6000, 4000


def photo_like(seed: int) -> bytes:
    """One JPEG, quality 90, 4:2:0, about 7 MB; the same seed gives the same picture."""
    random = np.random.default_rng(seed)
    made = np.full((HEIGHT, WIDTH, 3), 118, np.float32)
    for cells, strength in ((6, 46), (24, 26), (96, 16), (384, 10), (1500, 6)):
        shape = (max(2, cells * HEIGHT // WIDTH), cells)
        grey = random.normal(0, strength, (*shape, 1)) + random.normal(0, strength / 4, (*shape, 3))
        made += cv2.resize(grey.astype(np.float32), (WIDTH, HEIGHT), interpolation=cv2.INTER_CUBIC)
    for _ in range(60):  # hard edges, as of things
        x, y, radius = random.integers(0, WIDTH), random.integers(0, HEIGHT), random.integers(40, 700)
        tone = random.normal(0, 40, 3)
        mask = np.zeros((HEIGHT, WIDTH), np.uint8)
        cv2.circle(mask, (int(x), int(y)), int(radius), 1, -1)
        made[mask > 0] += tone.astype(np.float32)
    grain = random.normal(0, 3, (HEIGHT, WIDTH, 1)).astype(np.float32)
    pixels = np.clip(made + grain, 0, 255).astype(np.uint8)
    return bytes(simplejpeg.encode_jpeg(pixels, quality=90, colorspace="RGB", colorsubsampling="420"))


def write_pictures(folder: Path, count: int) -> list[Path]:
    """Write `count` pictures into `folder`."""
    paths = []
    for seed in range(count):
        path = folder / f"bench-{seed:02}.jpg"
        path.write_bytes(photo_like(seed))
        paths.append(path)
    return paths


def write_huge(folder: Path) -> Path:
    """One picture of 200 megapixels."""
    tile = simplejpeg.decode_jpeg(photo_like(7), "RGB")[:3056, :4080]
    rows = np.concatenate([tile, tile[:, ::-1]] * 2, axis=1)
    pixels = np.ascontiguousarray(np.concatenate([rows, rows[::-1]] * 2, axis=0))
    path = folder / "bench-huge.jpg"
    path.write_bytes(simplejpeg.encode_jpeg(pixels, quality=85, colorspace="RGB", colorsubsampling="420"))
    return path


def write_small(folder: Path, count: int) -> list[Path]:
    """Small pictures, each another part of a large one."""
    whole = simplejpeg.decode_jpeg(photo_like(8), "RGB")
    paths = []
    for number in range(count):
        part = np.ascontiguousarray(whole[number * 100 : number * 100 + 800, number * 150 : number * 150 + 1200])
        path = folder / f"small-{number:02}.jpg"
        path.write_bytes(simplejpeg.encode_jpeg(part, quality=88, colorspace="RGB"))
        paths.append(path)
    return paths
