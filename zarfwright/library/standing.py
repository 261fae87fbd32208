"""What stands or hangs still, of the invented makers: battens, conventionals, a scanner, a laser, a hazer."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from zarfwright.core.lasers.light import LaserBeam, Line, balanced, chromaticity_of, flux_lm
from zarfwright.core.optics.web import Web
from zarfwright.core.types.model import (
    MIRROR_DOWN_DEG,
    BeamSource,
    Channel,
    ChannelFunction,
    Emitter,
    FixtureType,
    Geometry,
    LaserSource,
    Mode,
    Model,
    leaning,
    shifted,
)
from zarfwright.formats.ies import write_ies
from zarfwright.library.parts import (
    COLOURS,
    EMBER,
    GOBOS,
    QUILLBACK,
    RGBW,
    gobo_images,
    plain,
    shutter,
    wheel_channel,
)

TEAL_CELLS = 12


def teal() -> FixtureType:
    """An LED batten of twelve cells, each red, green, blue and white by itself."""
    source = BeamSource("Wash", "LED", 850.0, 6500.0, 18.0, 32.0, 0.03, 18.0)
    body = Model("Trough", 1.0, 0.09, 0.12, "Cube")
    pitch = 0.96 / TEAL_CELLS
    lenses = tuple(
        Geometry(f"Cell {i + 1}", "Beam", None, shifted(round((i + 0.5) * pitch - 0.48, 6), 0.0, -0.065), source)
        for i in range(TEAL_CELLS)
    )
    tree = Geometry("Body", "Geometry", "Trough", shifted(0, 0, -0.12), children=lenses)
    channels = [plain("Dimmer", "Body", (1,), 0.0, 1.0), shutter("Body", 2)]
    for cell in range(TEAL_CELLS):
        for k, (letter, emitter) in enumerate(zip("RGBW", RGBW, strict=True)):
            attribute = f"ColorAdd_{letter}"
            function = ChannelFunction(f"{attribute} 1", attribute, 0, (0.0, 1.0), 0, emitter=emitter.name)
            channels.append(Channel(f"Cell {cell + 1}", (3 + 4 * cell + k,), (function,)))
    return FixtureType(
        "Teal", EMBER, "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1A04", (tree,),
        (Mode("Cells", "Body", tuple(channels)),), (body,), (), RGBW,
        description="LED batten of the demo show; no such lamp exists.", weight_kg=7.2, power_w=230.0,
    )  # fmt: skip


def bittern() -> FixtureType:
    """A Fresnel: a dimmer, and all else by hand."""
    beam = BeamSource("Fresnel", "Halogen", 24_000.0, 3200.0, 28.0, 46.0, 0.10, 1000.0)
    body = Model("Lamp", 0.34, 0.32, 0.42, "Conventional")
    lens = Geometry("Lens", "Beam", None, shifted(0, 0, -0.2), beam)
    tree = Geometry("Body", "Geometry", "Lamp", shifted(0, 0, -0.32), children=(lens,))
    # Measured, as Fresnels are: a broad top, a long skirt, a little wider across than high.
    gamma, phi = np.radians(np.arange(0, 91, 2.5)), np.radians(np.arange(0, 361, 30.0))
    wide = gamma[None] / (1 + 0.08 * np.cos(2 * phi)[:, None])
    candela = 46_000 * (np.exp2(-((wide / np.radians(14)) ** 2.4)) + 0.012 * np.cos(gamma)[None] ** 6)
    web = Web(gamma, phi, np.clip(candela, 0, None))
    return FixtureType(
        "Bittern", EMBER, "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1A05", (tree,),
        (Mode("Dimmer", "Body", (plain("Dimmer", "Lens", (1,), 0.0, 1.0),)),), (body,),
        ies={"Lens": write_ies(web, "Bittern")}, webs={"Lens": web.info},
        description="Fresnel of the demo show; no such lamp exists.", weight_kg=8.0, power_w=1000.0,
    )  # fmt: skip


def wader() -> FixtureType:
    """A mirror scanner: it lies, its light leaves it towards -Y, and a mirror in front of it sends it down."""
    beam = BeamSource("Spot", "Discharge", 12_500.0, 6900.0, 12.5, 14.5, 0.06, 575.0)
    case, mirror = Model("Case", 0.28, 0.27, 0.78, "Scanner"), Model("Mirror", 0.16, 0.22, 0.03, "Undefined")
    lens = Geometry("Lens", "Beam", None, shifted(0, 0, -0.296), beam)
    tilting = Geometry("Mirror", "Axis", "Mirror", leaning(0, 0, 0, MIRROR_DOWN_DEG))
    panning = Geometry("Turret", "Axis", None, shifted(0, 0, -0.41), children=(tilting,))
    tree = Geometry("Body", "Geometry", "Case", leaning(0, 0, -0.2, -90), children=(panning, lens))

    def channels(size: int) -> tuple[Channel, ...]:
        pan, tilt = tuple(range(1, size + 1)), tuple(range(size + 1, 2 * size + 1))
        slot = 2 * size
        return (
            plain("Pan", "Turret", pan, -85.0, 85.0, fade_s=0.5, start_s=0.06),
            plain("Tilt", "Mirror", tilt, -35.0, 20.0, fade_s=0.35, start_s=0.05),
            plain("Dimmer", "Lens", (slot + 1,), 0.0, 1.0),
            shutter("Lens", slot + 2),
            wheel_channel("Color1", "Lens", slot + 3, COLOURS),
            wheel_channel("Gobo1", "Lens", slot + 4, GOBOS),
            plain("Iris", "Lens", (slot + 5,), 1.0, 0.1, 1.0),
        )

    modes = (Mode("Small", "Body", channels(1)), Mode("Fine", "Body", channels(2)))
    return FixtureType(
        "Wader", QUILLBACK, "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1A06", (tree,), modes, (case, mirror), (COLOURS, GOBOS),
        description="Mirror scanner of the demo show; no such lamp exists.", weight_kg=24.0, power_w=680.0,
        images=gobo_images("net_floats", "slipway", "shingle"),
    )  # fmt: skip


def curlew() -> FixtureType:
    """A conventional profile: a dimmer; lens, shutters and gel are set by hand."""
    beam = BeamSource("Spot", "Halogen", 8_200.0, 3200.0, 23.0, 26.0, 0.075, 750.0)
    body = Model("Lamp", 0.30, 0.28, 0.64, "Conventional")
    lens = Geometry("Lens", "Beam", None, shifted(0, 0, -0.32), beam)
    tree = Geometry("Body", "Geometry", "Lamp", shifted(0, 0, -0.40), children=(lens,))
    return FixtureType(
        "Curlew", EMBER, "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1A07", (tree,),
        (Mode("Dimmer", "Body", (plain("Dimmer", "Lens", (1,), 0.0, 1.0),)),), (body,),
        description="Conventional profile of the demo show; no such lamp exists.", weight_kg=7.8, power_w=750.0,
    )  # fmt: skip


LASERS = (("Red 638 nm", 638.0), ("Green 520 nm", 520.0), ("Blue 450 nm", 450.0))


def _laser_emitter(name: str, line: Line) -> Emitter:
    """One of the lasers in a head: its colour is its wavelength's, its luminance its share of the light."""
    lumens = flux_lm(LaserBeam((line,), 0.0, 0.0))
    return Emitter(name, replace(chromaticity_of(line.nm), luminance=round(lumens, 2)), dominant_nm=line.nm)


def stilt() -> FixtureType:
    """An RGB laser with mirrors: a figure where it takes a feed, else one still beam."""
    source = LaserSource(6.0, diameter_m=0.005, divergence_mrad=1.1, scan_across_deg=60.0, scan_up_deg=60.0)
    lines = balanced(source.output_w, [nm for _, nm in LASERS])
    flux = round(flux_lm(LaserBeam(lines, source.diameter_m, source.divergence_mrad)), 1)
    beam = BeamSource("Spot", "Laser", flux, 6500.0, 0.2, 0.2, 0.0025, 6.0, source)
    emitters = tuple(_laser_emitter(name, line) for (name, _), line in zip(LASERS, lines, strict=True))
    body = Model("Laser", 0.34, 0.30, 0.17, "Undefined")
    lens = Geometry("Lens", "Laser", None, shifted(0, 0, -0.085), beam)
    tree = Geometry("Body", "Geometry", "Laser", shifted(0, 0, -0.16), children=(lens,))
    channels = [plain("Dimmer", "Lens", (1,), 0.0, 1.0)]
    for k, (letter, emitter) in enumerate(zip("RGB", emitters, strict=True)):
        attribute = f"ColorAdd_{letter}"
        function = ChannelFunction(f"{attribute} 1", attribute, 0, (0.0, 1.0), 255, emitter=emitter.name)
        channels.append(Channel("Lens", (2 + k,), (function,)))
    return FixtureType(
        "Stilt", EMBER, "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1A08", (tree,), (Mode("Simple", "Body", tuple(channels)),),
        (body,), (), emitters, description="RGB laser of the demo show; no such lamp exists.", weight_kg=9.4,
        power_w=180.0,
    )  # fmt: skip


def grebe() -> FixtureType:
    """A hazer: it gives no light; its haze and fan are channels that the picture does not follow."""
    body = Model("Hazer", 0.46, 0.56, 0.34, "Undefined")
    tree = Geometry("Body", "Geometry", "Hazer", shifted(0, 0, -0.2))
    channels = (plain("Haze1", "Body", (1,), 0.0, 1.0), plain("Fan1", "Body", (2,), 0.0, 1.0))
    return FixtureType(
        "Grebe", EMBER, "5B6E1F0A-7C1D-4E0B-9A55-0E3B6E0C1A09", (tree,), (Mode("Standard", "Body", channels),), (body,),
        description="Hazer of the demo show; no such machine exists.", weight_kg=21.0, power_w=1300.0,
    )  # fmt: skip
