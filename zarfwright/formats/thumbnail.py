"""A small picture of a body, drawn from its triangles: for lists, without a browser's help."""

from __future__ import annotations

import io
from collections.abc import Sequence

import numpy as np
from PIL import Image, ImageDraw

from zarfwright.core.mesh import Mesh

SIZE_PX = (128, 128)
OVER = 3
LIGHT = np.array([0.35, -0.75, 0.55])
INK, METAL = np.array([22.0, 30.0, 34.0]), np.array([196.0, 205.0, 208.0])


def body_picture(meshes: Sequence[Mesh]) -> bytes:
    """A PNG with a clear ground, from three quarters in front and a little above; `meshes` in one frame."""
    turn, lean = np.radians(-32.0), np.radians(14.0)
    across = np.array([np.cos(turn), np.sin(turn), 0.0])
    away = np.array([-np.sin(turn) * np.cos(lean), np.cos(turn) * np.cos(lean), -np.sin(lean)])
    up = np.cross(across, away)
    corners = np.concatenate([mesh.vertices[mesh.triangles].astype(float) for mesh in meshes])
    flat = np.stack([corners @ across, corners @ up], axis=-1)
    low, high = flat.reshape(-1, 2).min(axis=0), flat.reshape(-1, 2).max(axis=0)
    width, height = SIZE_PX[0] * OVER, SIZE_PX[1] * OVER
    scale = 0.9 * min(width, height) / max(float((high - low).max()), 1e-6)
    middle = (low + high) / 2
    x = (flat[..., 0] - middle[0]) * scale + width / 2
    y = height / 2 - (flat[..., 1] - middle[1]) * scale
    normal = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
    normal /= np.maximum(np.linalg.norm(normal, axis=1, keepdims=True), 1e-12)
    facing = normal @ away < 0
    shade = 0.18 + 0.82 * np.clip(normal @ (LIGHT / np.linalg.norm(LIGHT)), 0, 1)
    image = Image.new("RGBA", (width, height), (0, 0, 0, 0))
    pen = ImageDraw.Draw(image)
    # The furthest first.
    for i in np.argsort(-(corners @ away).mean(axis=1)):
        if facing[i]:
            colour = INK + (METAL - INK) * shade[i]
            points = [(float(x[i, k]), float(y[i, k])) for k in range(3)]
            pen.polygon(points, fill=(int(colour[0]), int(colour[1]), int(colour[2]), 255))
    out = io.BytesIO()
    image.resize(SIZE_PX, Image.Resampling.BOX).save(out, "PNG")
    return out.getvalue()
