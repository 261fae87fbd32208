"""What a show keeps that is neither site nor rig: its settings, layers and viewpoints."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from zarfwright.core.space import Vec


@dataclass(frozen=True)
class Settings:
    """What belongs to the show as a whole."""

    name: str = "Untitled show"
    venue: str = ""
    system: Literal["metric", "imperial"] = "metric"
    playing: str | None = None
    """The id of the look that drives what no console drives."""
    active_layer: str | None = None
    """The layer that new things land on; None: none."""
    running: str | None = None
    """The id of the running order that is played in place of a look."""
    look_first: bool = False
    """Whether the look or the running order has the say over a console that speaks; else the console has."""
    follow_console: bool = True
    only_connection: str | None = None
    """The id of the connection that alone is heard; None: all that are listened to."""
    laser_limit_w_m2: float = 25.0
    """Irradiance that nobody's eyes are to get of a resting laser beam: what the user sets, for planning."""
    laser_clear_m: float = 0.5
    """How far beams are to keep from eyes."""
    spare_console: bool = False
    """Whether room is left for a console on this machine: pictures are made less often, and take less of it."""
    consoles_on: str | None = None
    """The address of this machine on which consoles are looked for by name; None: nowhere."""
    haze_per_m: float = 0.015
    haze_uneven: float = 0.3
    """How much the haze drifts in clouds: 0 even, 1 from nothing to twice."""
    exposure_kind: Literal["eye", "camera"] = "eye"
    exposure_ev: float = 8.0
    """The eye's EV100, where it does not adapt by itself."""
    eye_adapts: bool = False
    exposure_locked: bool = False
    """Whether the eye's exposure stays when looks are recalled; else each brings the one that suits it."""
    iso: float = 800.0
    shutter_s: float = 0.02
    aperture: float = 2.8
    white_k: float = 4500.0
    """The colour temperature that is seen as white."""
    bloom: float = 1.0
    work_light_lx: float = 250.0
    """Even light to build by; no part of the show."""
    house_light_lx: float = 0.0
    """The house lights: warm, from above, over the audience as over the stage."""
    background_low: str = "#0b0d10"
    background_high: str = "#030406"
    """What is behind everything, at the horizon and above: sRGB of the shown picture."""
    shaft_gain: float = 1.0
    pool_gain: float = 1.0
    body_gain: float = 1.0
    """Shafts, pools and lenses against their true strength; other than 1 the picture is off scale."""


@dataclass(frozen=True)
class Layer:
    """A layer: what is on it can be hidden, locked and taken all at once."""

    name: str
    colour: str = "#8ca2a4"
    """sRGB, of its mark in lists and of its lines in plans."""
    shown: bool = True
    locked: bool = False
    """What is on a locked layer is not taken by a click or a box."""


@dataclass(frozen=True)
class Viewpoint:
    """A named place to look from."""

    name: str
    eye: Vec
    target: Vec
