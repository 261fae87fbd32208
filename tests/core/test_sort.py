"""What sort of lamp a type is, and the words for what its channels do."""

import pytest

from zarfwright.core.types.bodies import body_parts
from zarfwright.core.types.shop.build import build
from zarfwright.core.types.shop.draft import MOVING
from zarfwright.core.types.shop.starters import starter
from zarfwright.core.types.sort import sort_of, words_of
from zarfwright.core.types.words import called
from zarfwright.formats.gdtf.attributes import all_attributes
from zarfwright.library import shipped


@pytest.mark.parametrize(
    ("name", "sort", "words"),
    [
        ("Heron", "LED moving head, profile", "spot mover"), ("Dunlin", "LED moving head, wash", "wash mover"),
        ("Plover", "moving head, beam", "narrow"), ("Teal", "LED batten", "strip bar led"),
        ("Bittern", "Fresnel", "conventional"), ("Wader", "scanner, profile", "mirror"), ("Stilt", "laser", "laser"),
        ("Grebe", "hazer", "fog smoke"), ("Cyc", "cyc", "cyclorama"), ("Flood", "flood", "wide"),
        ("PC", "PC", "convex"),
        ("Par", "par", "can"), ("RGBW par", "LED par", "led"), ("Panel of 16", "LED panel", "blinder"),
        ("Par with scroller", "par, colour changer", "scroller"),
    ],
)  # fmt: skip
def test_a_type_is_known_by_its_sort(name, sort, words):
    found = next(one for one in shipped().values() if one.name == name)
    assert sort_of(found) == sort
    assert set(words.split()) <= set(words_of(found).lower().split())


@pytest.mark.parametrize("kind", ["cyc", "flood", "par", "PC", "profile", "Fresnel", *MOVING])
def test_each_kind_of_lamp_has_a_body_of_its_own(kind):
    def shape(other):
        made = build(starter(other))
        return [part.mesh.vertices.round(3).tolist() for part in body_parts(made, made.modes[0].name)]

    own = shape(kind)
    low = min(min(v) for part in own for v in part)
    assert own
    assert low > -3
    for other in ("cyc", "flood", "par", "PC"):
        assert other == kind or shape(other) != own


def test_every_attribute_of_the_standard_has_words_of_its_own():
    names = all_attributes()
    words = [called(name) for name in names]
    assert len(set(words)) == len(names)
    for name, said in zip(names, words, strict=True):
        assert "_" not in said, name
        assert said == said.strip()
        assert "color" not in said.lower(), name
    assert called("Gobo1PosRotate") == "gobo rotation"
    assert called("ColorAdd_GC") == "sea green light"
    assert called("Shutter2StrobePulseOpen") == "second shutter pulse, opening"
    assert called("MakersOwn_Thing2") == "makers own thing 2"
