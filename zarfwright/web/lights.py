"""Light as numbers: lux at a place, where beams land, and the gobo images."""

from __future__ import annotations

from typing import Any

import numpy as np
from flask import Response, abort
from flask_openapi3 import APIBlueprint

from zarfwright.core.errors import JobError
from zarfwright.core.lighting import Rig, caster_of, rig_of
from zarfwright.core.optics.colour import LUMINANCE
from zarfwright.core.optics.gate import Mask
from zarfwright.core.optics.photometry import Beams, illuminance, landing
from zarfwright.core.optics.web import Web
from zarfwright.core.raycast import Caster
from zarfwright.core.space import unit
from zarfwright.formats.findings import FormatError
from zarfwright.formats.ies import read_ies
from zarfwright.formats.pictures import gobo_mask
from zarfwright.web.desk import Desk
from zarfwright.web.models import KeyPath, Landings, LuxAnswer, LuxQuestion, Problem, ShowPath
from zarfwright.web.shows import json_response, require_show

NOT_SOLID = {"show", "layer", "drawing", "type", "draft", "look", "viewpoint", "fixture"}


class Lights:
    """The open show's rig and rays, kept until what they are made of changes."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self._rig: tuple[Any, Rig] | None = None
        self._caster: tuple[Any, Caster] | None = None
        self._masks: dict[str, Mask | None] = {}
        self._webs: dict[str, Web] = {}

    def mask(self, key: str) -> Mask | None:
        """A gobo image as a mask, by its key; None where no type of the show has it, or it is no picture."""
        if key not in self._masks and key in self.desk.draft_images:
            self._masks[key] = gobo_mask(self.desk.draft_images[key], "the image")
        if key not in self._masks:
            for fixture_type in self.desk.show.types.values():
                name = next((name for name, its in fixture_type.image_keys.items() if its == key), None)
                if name is not None:
                    try:
                        self._masks[key] = gobo_mask(fixture_type.images[name], name)
                    except FormatError:
                        self._masks[key] = None
                    break
        return self._masks.get(key)

    def web(self, key: str) -> Web | None:
        """A photometric web by its key; None where no type of the show has it."""
        if key not in self._webs and key in self.desk.draft_webs:
            self._webs[key] = read_ies(self.desk.draft_webs[key], "the photometry")[0]
        if key not in self._webs:
            for fixture_type in self.desk.show.types.values():
                name = next((name for name, its in fixture_type.webs.items() if its.key == key), None)
                if name is not None:
                    self._webs[key] = read_ies(fixture_type.ies[name], name)[0]
        return self._webs.get(key)

    def rig(self) -> Rig:
        """The rig as it hangs now."""
        show = self.desk.show
        made_of = tuple(
            (item.id, item.rev) for item in show.items.values() if item.kind in ("fixture", "type", "truss")
        )
        if self._rig is None or self._rig[0] != made_of:
            self._rig = (made_of, rig_of(show))
        return self._rig[1]

    def caster(self) -> Caster:
        """Rays through the site as it stands now."""
        show = self.desk.show
        # What is hidden is no more in the way of light than it is in the picture.
        items = [item for item in show.items.values() if item.kind not in NOT_SOLID and not show.hidden(item)]
        made_of = tuple((item.id, item.rev) for item in items)
        if self._caster is None or self._caster[0] != made_of:
            self._caster = (made_of, caster_of(items))
        return self._caster[1]

    def beams(self) -> tuple[Beams, Rig]:
        """The beams as they are driven now."""
        with self.desk.lock:
            rig = self.rig()
            values = self.desk.live.values() if self.desk.live is not None else {}
        masks = {key: mask for key in rig.table.gobos if (mask := self.mask(key)) is not None}
        webs = {key: web for key in rig.table.webs if (web := self.web(key)) is not None}
        return rig.beams(values, masks, webs), rig


def _for_ever(data: bytes) -> Response:
    made = Response(data, mimetype="application/octet-stream")
    made.headers["Cache-Control"] = "public, max-age=31536000, immutable"
    return made


def blueprint(desk: Desk | None) -> APIBlueprint:
    api = APIBlueprint("lights", __name__, abp_responses={400: Problem, 404: Problem})
    lights = Lights(desk) if desk is not None else None

    @api.post("/api/shows/<show>/lux", responses={200: LuxAnswer})
    def lux(path: ShowPath, body: LuxQuestion) -> Response:
        """How much light of the show falls on a face, with everything in its way; haze and bounce are not in it."""
        require_show(desk, path.show)
        assert lights is not None
        point, normal = np.array([body.point]), unit(np.array([body.normal]))
        if not (np.all(np.isfinite(point)) and np.any(normal)):
            raise JobError("That is no place on a face: point at a surface.", "point")
        beams, _ = lights.beams()
        rgb = illuminance(beams, point, normal, lights.caster())[0]
        return json_response({"lux": float(rgb @ LUMINANCE), "rgb": rgb.tolist()})

    @api.get("/api/shows/<show>/landings", responses={200: Landings})
    def landings(path: ShowPath) -> Response:
        """Where the axis of each lit beam lands, how far, how wide and how bright."""
        require_show(desk, path.show)
        assert lights is not None
        beams, rig = lights.beams()
        found = []
        for i in beams.lit():
            at = landing(beams, int(i), lights.caster())
            if at is not None:
                key, fixture = rig.rig.keys[i], rig.rig.fixtures[i]
                found.append({"key": key, "fixture": fixture, "point": at.point, "thing": at.thing, "away_m": at.away_m,
                              "across_m": at.across_m, "lux": at.lux})  # fmt: skip
        return json_response(found)

    @api.get("/api/gobos/<key>")
    def gobo(path: KeyPath) -> Response:
        """A gobo image as 256 x 256 bytes of transmission, rows from the top. Never changes under its key."""
        mask = lights.mask(path.key) if lights is not None else None
        if mask is None:
            abort(404, "No type of this show has that gobo image: load the page again.")
        return _for_ever(mask.tobytes())

    @api.get("/api/webs/<key>")
    def web(path: KeyPath) -> Response:
        """A photometric web as 128 x 64 shares of its peak (f32): core/optics/web.py says of which directions."""
        found = lights.web(path.key) if lights is not None else None
        if found is None:
            abort(404, "No type of this show has that photometric web: load the page again.")
        return _for_ever(found.table.astype("<f4").tobytes())

    return api
