"""Edits that begin a site: pieces of scenery out of the library, whole venues out of a few numbers."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

from zarfwright.core.edits.base import (
    Arguments,
    Around,
    Call,
    Edit,
    NewId,
    added,
    changed,
    coordinate,
    free_name,
    length,
    made,
    within,
)
from zarfwright.core.errors import JobError
from zarfwright.core.kinds import OF_BODY, Body
from zarfwright.core.mesh import MeshFile
from zarfwright.core.show import Show
from zarfwright.core.site.pieces import SIZES
from zarfwright.core.site.simplify import deviation, with_triangles
from zarfwright.core.site.starters import USUAL, starter
from zarfwright.core.site.things import Finish, MeshPiece, Piece
from zarfwright.core.units import parse_angle_deg, parse_count


class AddPiece(Arguments):
    """A piece of scenery; empty sizes are as usual for it."""

    name: str = ""
    piece: str = "flat"
    width: str = ""
    depth: str = ""
    height: str = ""
    x: str = "0"
    y: str = "0"
    z: str = "0"
    turn: str = "0"
    count: str = "3"
    fullness: str = "0.5"
    finish: Finish = "black"


def add_piece(show: Show, args: AddPiece, new_id: NewId) -> Edit:
    if args.piece not in SIZES:
        raise JobError(f"“{args.piece}” is no piece of scenery: choose one of {', '.join(SIZES)}.", "piece")
    usual = dict(zip(("width", "depth", "height"), SIZES[args.piece], strict=True))
    sizes = {
        side: length(show, getattr(args, side), side, 0.01, 200.0) if getattr(args, side).strip() else value
        for side, value in usual.items()
    }
    try:
        fullness = within(float(args.fullness.replace(",", ".")), "fullness", 0.0, 3.0)
    except ValueError as wrong:
        raise JobError(f"“{args.fullness}” is not a number.", "fullness") from wrong
    piece = Piece(
        name=free_name(show, "piece", args.name, args.piece.capitalize()),
        piece=args.piece,  # type: ignore[arg-type]
        position=(
            coordinate(show, args.x, "x", "x"),
            coordinate(show, args.y, "y", "y"),
            coordinate(show, args.z, "z", "z"),
        ),
        turn_deg=parse_angle_deg(args.turn),
        width_m=sizes["width"],
        depth_m=sizes["depth"],
        height_m=sizes["height"],
        count=parse_count(args.count, 1, 200),
        fullness=fullness,
        finish=args.finish,
    )
    items = added(show, "piece", [piece], new_id)
    return Edit((made(items[0]),), f"Add {piece.name}", (items[0].id,))


class AddMesh(Arguments):
    """A mesh of a file that is among the assets already."""

    name: str
    asset: str
    scale: float = 1.0
    up: Literal["y", "z"] = "z"
    x: str = "0"
    y: str = "0"
    z: str = "0"
    turn: str = "0"
    reflectance: float = 0.4


def needs_mesh(show: Show, args: AddMesh, around: Around) -> tuple[Show, AddMesh]:
    mesh = None if args.asset in show.meshes else around.mesh_in(args.asset)
    return (show if mesh is None else replace(show, meshes={**show.meshes, args.asset: mesh})), args


def add_mesh(show: Show, args: AddMesh, new_id: NewId) -> Edit:
    if args.asset not in show.meshes:
        raise JobError("The file of this mesh was not read: choose it again.", "asset")
    piece = MeshPiece(
        name=free_name(show, "mesh", args.name, "Mesh"),
        asset=args.asset,
        position=(
            coordinate(show, args.x, "x", "x"),
            coordinate(show, args.y, "y", "y"),
            coordinate(show, args.z, "z", "z"),
        ),
        turn_deg=parse_angle_deg(args.turn),
        scale=within(args.scale, "scale", 1e-6, 1e4),
        up=args.up,
        reflectance=within(args.reflectance, "reflectance", 0.0, 0.95),
    )
    items = added(show, "mesh", [piece], new_id)
    return Edit((made(items[0]),), f"Add {piece.name}", (items[0].id,))


class SimplifyMesh(Arguments):
    """Show a mesh with about so many triangles; empty: with all of them."""

    id: str
    triangles: str = ""


def _fewer(show: Show, args: SimplifyMesh) -> tuple[MeshPiece, MeshFile, int] | None:
    """The piece, its file and how many triangles it shall have; None: all of them. Raises JobError."""
    body = show.body(args.id, MeshPiece)
    file = show.meshes.get(body.asset)
    if file is None:
        raise JobError(f"The file of {body.name} is missing from the show: add it again.", "id")
    if not args.triangles.strip():
        return None
    wanted, whole = parse_count(args.triangles, 12, 2_000_000), len(file.whole.triangles)
    if wanted >= whole:
        raise JobError(f"{body.name} has {whole} triangles only: type fewer.", "triangles")
    return body, file, wanted


def fewer_of(file: MeshFile, triangles: int) -> tuple[MeshFile, float, float]:
    """A mesh file with about so many triangles, and how far its surface is off: mean and greatest, in its own unit."""
    made = with_triangles(file, triangles)
    return (made, *deviation(file.whole, made.whole))


def mesh_calls(show: Show, args: SimplifyMesh) -> list[Call]:
    """The simplifying itself."""
    found = _fewer(show, args)
    return [Call(fewer_of, (found[1], found[2]))] if found is not None else []


def with_fewer(show: Show, args: SimplifyMesh, answers: list[tuple[MeshFile, float, float]]) -> Show:
    """The show with the simpler mesh, so that it is not made again to be drawn."""
    found = _fewer(show, args)
    if found is None:
        return show
    body = replace(found[0], triangles=found[2])
    return replace(show, meshes={**show.meshes, body.drawn: answers[0][0]})


def simplify_mesh(show: Show, args: SimplifyMesh, _: NewId, answers: list[tuple[MeshFile, float, float]]) -> Edit:
    item, body = show.thing(args.id, MeshPiece)
    found = _fewer(show, args)
    if found is None:
        whole = len(show.meshes[body.asset].whole.triangles)
        after = replace(body, triangles=None)
        return Edit((changed(item, after),), f"Show {body.name} with all its {whole} triangles", (item.id,))
    (made, mean, most), whole = answers[0], len(found[1].whole.triangles)
    count = len(made.whole.triangles)
    off = f"{mean * body.scale * 1000:.1f} mm on average, {most * body.scale * 1000:.1f} mm at most"
    report = (f"{body.name} has {count} of {whole} triangles; its surface is off by {off}.",)
    change = changed(item, replace(body, triangles=found[2]))
    return Edit((change,), f"Simplify {body.name} to {count} triangles", (item.id,), report)


class SetReflectance(Arguments):
    """How much light a material of a mesh gives back; empty: as its file says."""

    id: str
    material: str
    reflectance: str = ""


def set_reflectance(show: Show, args: SetReflectance, _: NewId) -> Edit:
    item, body = show.thing(args.id, MeshPiece)
    file = show.meshes.get(body.asset)
    if file is None or args.material not in {part.material for part in file.parts}:
        raise JobError(f"{body.name} has no material “{args.material}”.", "material")
    others = {name: value for name, value in body.reflectances.items() if name != args.material}
    if not args.reflectance.strip():
        return Edit((changed(item, replace(body, reflectances=others)),), f"Set {args.material} as its file says")
    try:
        value = within(float(args.reflectance.replace(",", ".")), "reflectance", 0.0, 0.95)
    except ValueError as wrong:
        raise JobError(f"“{args.reflectance}” is not a number: type one from 0 to 0.95.", "reflectance") from wrong
    after = replace(body, reflectances={**others, args.material: value})
    return Edit((changed(item, after),), f"Let {args.material} of {body.name} give back {value:g}", (item.id,))


class StartSite(Arguments):
    """A complete simple venue of ordinary things; empty numbers are as usual for its kind."""

    kind: str
    width: str = ""
    depth: str = ""
    eave: str = ""
    ridge: str = ""
    stage_width: str = ""
    stage_depth: str = ""
    stage_height: str = ""


def start_site(show: Show, args: StartSite, new_id: NewId) -> Edit:
    if args.kind not in USUAL:
        raise JobError(f"“{args.kind}” is no starter: choose one of {', '.join(USUAL)}.", "kind")
    names = ("width", "depth", "eave", "ridge", "stage_width", "stage_depth", "stage_height")
    least = (4.0, 5.0, 2.4, 2.4, 2.0, 1.5, 0.0)
    values = [
        length(show, getattr(args, name), name, low, 400.0) if getattr(args, name).strip() else usual
        for name, low, usual in zip(names, least, USUAL[args.kind], strict=True)
    ]
    width, depth, eave, ridge, wide, deep, high = values
    if wide > width:
        raise JobError("The stage is wider than the room: type less.", "stage_width")
    if deep > depth * 0.7:
        raise JobError("The stage takes more than two thirds of the room: type less depth.", "stage_depth")
    bodies = starter(args.kind, (width, depth, eave, max(ridge, eave)), (wide, deep, high))
    by_kind: dict[str, list[Body]] = {}
    for body in bodies:
        by_kind.setdefault(OF_BODY[type(body)], []).append(body)
    new = [item for kind, some in by_kind.items() for item in added(show, kind, some, new_id)]
    return Edit(tuple(made(item) for item in new), f"Begin with a {args.kind}, {len(new)} things")
