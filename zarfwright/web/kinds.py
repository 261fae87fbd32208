"""The table of kinds as the front end has it (frontend/kinds.json): what each is, and the fields that can be typed."""

from __future__ import annotations

from dataclasses import fields
from typing import Any

from zarfwright.core.edits.fields import FIELDS
from zarfwright.core.kinds import KINDS


def kinds_document() -> dict[str, dict[str, Any]]:
    """Every kind by name: its traits, and its fields with what can be chosen for them."""
    return {
        name: {
            **{trait.name: getattr(kind, trait.name) for trait in fields(kind) if trait.name != "body"},
            "fields": {field: list(found.choices) for field, found in FIELDS.get(name, {}).items()},
        }
        for name, kind in KINDS.items()
    }
