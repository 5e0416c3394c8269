"""A frame rendered in tiles and put together: where a whole one does not fit into the memory of a machine.

Each tile is a part of the picture with a start of its own, so the scene is read once for each.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from itertools import pairwise

import numpy as np

from hasty_reel.errors import RendererFault
from hasty_reel.farm.job import FrameJob
from hasty_reel.farm.renderers.protocol import RenderedFrame, Renderer
from hasty_reel.pictures.frame import Picture
from hasty_reel.work import CancelToken, Progress, part_of


def tile_crops(width: int, height: int, side: int) -> list[tuple[int, int, int, int]]:
    """Return the parts of a picture, row by row: left, top, width, height; as even as can be.

    Parameters
    ----------
    width, height : of the picture, in pixels
    side : tiles across and down; at most one a pixel
    """
    across, down = min(side, width), min(side, height)
    xs, ys = [width * k // across for k in range(across + 1)], [height * k // down for k in range(down + 1)]
    return [(x0, y0, x1 - x0, y1 - y0) for y0, y1 in pairwise(ys) for x0, x1 in pairwise(xs)]


def in_tiles(renderer: Renderer) -> Renderer:
    """Return a renderer that renders each frame in the tiles of its recipe, and puts them together.

    Parameters
    ----------
    renderer : renders each tile
    """

    def _render(
        job: FrameJob, progress: Progress, cancel: CancelToken | None, show: Callable[[np.ndarray], None] | None
    ) -> RenderedFrame:  # fmt: skip
        left, top, width, height = job.crop or (0, 0, job.width, job.height)
        crops = tile_crops(width, height, job.recipe.tiles)
        share = None if job.cap is None else job.cap / len(crops)
        rgb = np.zeros((height, width, 3), np.float32)
        guides: dict[str, np.ndarray] = {}
        made = []
        for k, crop in enumerate(crops):
            x, y, w, h = crop
            one = renderer(replace(job, crop=(left + x, top + y, w, h), cap=share), part_of(progress, k, len(crops)), cancel, None)
            if one.picture.rgb.shape[:2] != (h, w):
                got = f"{one.picture.width}x{one.picture.height}"
                raise RendererFault(f"Frame {job.frame}: a tile is {got}; expected {w}x{h} from a renderer whose command takes the crop.")
            rgb[y : y + h, x : x + w] = one.picture.rgb
            for name, plane in one.picture.guides.items():
                guides.setdefault(name, np.zeros((height, width), np.float32))[y : y + h, x : x + w] = plane
            if show is not None:
                show(rgb)
            made.append(one)
        return RenderedFrame(
            Picture(rgb, guides, {**made[0].picture.attributes, "hr:recipe": job.hash}),
            sum(m.load_seconds for m in made),
            sum(m.sample_seconds for m in made),
            sum(m.cache_seconds for m in made),
            float(np.average([m.samples for m in made], weights=[w * h for _, _, w, h in crops])),
            max(m.memory_bytes for m in made),
            "".join(m.messages for m in made),
            max(m.cache_bytes for m in made),
            caches_made=sum(m.caches_made for m in made),
        )

    return _render
