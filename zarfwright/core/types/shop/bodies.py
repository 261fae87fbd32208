"""The geometry of each kind of body, from the few numbers of a draft."""

from __future__ import annotations

from dataclasses import replace

from zarfwright.core.types.model import MIRROR_DOWN_DEG, BeamSource, Geometry, Model, leaning, shifted
from zarfwright.core.types.shop.draft import CONVENTIONAL, MOVING, Draft

EDGES: dict[str, str] = {
    "profile": "Spot", "Fresnel": "Fresnel", "PC": "PC", "par": "Wash", "flood": "Wash", "cyc": "Wash",
    "LED batten": "Wash", "LED panel": "Wash", "effect": "Wash", "laser": "Spot", "hazer": "None",
    "mirror scanner": "Spot", "barrel mirror": "Spot",
}  # fmt: skip
"""GDTF's BeamType by kind of lamp: it decides the edge. Moving heads are of either sort."""
SCROLLER_DEPTH_M = 0.06


def beam_of(draft: Draft) -> BeamSource:
    """The beam with the edge that its kind has."""
    kind = EDGES.get(draft.kind)
    return replace(draft.beam, kind=kind) if kind is not None else draft.beam


def _lenses(draft: Draft, below_m: float) -> tuple[Geometry, ...]:
    beam = beam_of(draft)
    sort = "Laser" if draft.kind == "laser" else "Beam"
    if len(draft.lenses) == 1:
        return (Geometry("Lens", sort, None, shifted(0, 0, -below_m), beam),)
    flux = beam.flux_lm / max(len(draft.lenses), 1)
    each = replace(beam, flux_lm=flux, power_w=beam.power_w / max(len(draft.lenses), 1))
    return tuple(
        Geometry(name, sort, None, shifted(round(x, 6), round(y, 6), -below_m), each)
        for name, (x, y) in zip(draft.lenses, draft.body.cells, strict=True)
    )


def _moving(draft: Draft) -> tuple[Geometry, tuple[Model, ...]]:
    b = draft.body
    base = Model("Base", b.length_m, b.width_m, b.height_m * 0.26, "Base")
    yoke = Model("Yoke", b.length_m, b.width_m * 0.5, b.height_m * 0.48, "Yoke")
    head = Model("Head", b.length_m * 0.8, b.width_m, b.height_m * 0.62, "Head")
    drop = b.height_m * 0.36
    tilting = Geometry("Head", "Axis", "Head", shifted(0, 0, -drop), children=_lenses(draft, head.height_m / 2))
    panning = Geometry("Yoke", "Axis", "Yoke", shifted(0, 0, -base.height_m / 2), children=(tilting,))
    body = Geometry("Body", "Geometry", "Base", shifted(0, 0, -base.height_m / 2), children=(panning,))
    return body, (base, yoke, head)


def _scanner(draft: Draft) -> tuple[Geometry, tuple[Model, ...]]:
    """A scanner lies: its light leaves it towards -Y, and a mirror in front of it sends it down."""
    b = draft.body
    out, down = b.height_m * 0.53, b.length_m * 0.6
    across = min(b.length_m, b.width_m) * 0.6
    case = Model("Case", b.length_m, b.width_m, b.height_m, "Scanner")
    mirror = Model("Mirror", across, across * 1.4, 0.03, "Undefined")
    tilting = Geometry("Head", "Axis", mirror.name, leaning(0, 0, 0, MIRROR_DOWN_DEG))
    turning: tuple[Geometry, ...] = (tilting,)
    models: tuple[Model, ...] = (case, mirror)
    if draft.kind == "barrel mirror":
        depth = b.height_m * 0.1
        models = (*models, Model("Drum", across * 1.5, across * 1.5, depth, "Cylinder"))
        turning = (tilting, Geometry("Drum", "Geometry", "Drum", shifted(0, 0, out - b.height_m * 0.38 - depth / 2)))
    panning = Geometry("Yoke", "Axis", None, shifted(0, 0, -out), children=turning)
    lenses = _lenses(draft, b.height_m * 0.38)
    body = Geometry("Body", "Geometry", "Case", leaning(0, 0, -down, -90), children=(panning, *lenses))
    return body, models


def _standing(draft: Draft) -> tuple[Geometry, tuple[Model, ...]]:
    """What does not turn: conventionals, battens, panels, lasers, hazers."""
    b = draft.body
    primitive = "Conventional" if draft.kind in CONVENTIONAL else "Cube"
    name = {"laser": "Laser", "hazer": "Hazer", "flood": "Flood", "cyc": "Cyc"}.get(draft.kind, "Lamp")
    if name != "Lamp":
        primitive = "Undefined"
    models = [Model(name, b.length_m, b.width_m, b.height_m, primitive)]
    below = () if draft.kind == "hazer" else _lenses(draft, b.height_m / 2)
    if b.scroller:
        models.append(Model("Scroller", b.length_m * 1.1, b.width_m * 1.1, SCROLLER_DEPTH_M, "Undefined"))
        place = shifted(0, 0, -b.height_m / 2 - SCROLLER_DEPTH_M)
        # The changer hangs on the lens: what it does to the light is its channels' to say.
        below = (*below, Geometry("Scroller", "FilterColor", "Scroller", place))
    return Geometry("Body", "Geometry", name, shifted(0, 0, -b.height_m * 0.6), children=below), tuple(models)


def geometry_of(draft: Draft) -> tuple[Geometry, tuple[Model, ...]]:
    """The tree and the models of a draft's body."""
    if draft.kind in MOVING:
        return _moving(draft) if draft.kind == "moving head" else _scanner(draft)
    return _standing(draft)


def grid(rows: int, columns: int, pitch_m: float) -> tuple[tuple[float, float], ...]:
    """Places of rows x columns lenses about the middle, row by row from the top, each from stage right to left."""
    return tuple(
        (round((c - (columns - 1) / 2) * pitch_m, 6), round(((rows - 1) / 2 - r) * pitch_m, 6))
        for r in range(rows)
        for c in range(columns)
    )
