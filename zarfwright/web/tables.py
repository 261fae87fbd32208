"""Tables that the front end has a copy of (frontend/tables.json): the kinds of things, and the fields of a frame."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from zarfwright.core.edits.fields import FIELDS
from zarfwright.core.kinds import KINDS
from zarfwright.core.picture import FIELDS as FRAME_FIELDS


def tables() -> dict[str, Any]:
    """What frontend/tables.json holds."""
    return {"kinds": kinds(), "frame_fields": FRAME_FIELDS}


def kinds() -> dict[str, dict[str, Any]]:
    """Every kind by name: its traits, and its fields with what can be chosen for them."""
    return {
        name: {
            **{trait.name: getattr(kind, trait.name) for trait in fields(kind) if trait.name != "body"},
            "fields": {field: list(found.choices) for field, found in FIELDS.get(name, {}).items()},
        }
        for name, kind in KINDS.items()
    }
