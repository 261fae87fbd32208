"""Edits of connections: what is typed, what is refused, and who is heard after it."""

import pytest

from tests.conftest import Workbench
from zarfwright.core.connections import Connection
from zarfwright.core.errors import JobError


def connection(bench, key):
    return bench.show.thing(key, Connection)[1]


def test_all_universes_land_as_they_are_numbered_and_art_nets_first_on_one():
    bench = Workbench()
    desk = connection(bench, bench.made("add connection"))
    assert (desk.name, desk.first, desk.last, desk.lands) == ("sACN 1", 1, 63999, 1)
    node = connection(bench, bench.made("add connection", protocol="Art-Net", universes="4-7"))
    assert (node.name, node.first, node.last, node.lands) == ("Art-Net 1", 4, 7, 5)


@pytest.mark.parametrize(
    ("text", "range_"), [("231-240", (231, 240)), ("231 to 240", (231, 240)), ("7", (7, 7)), ("", (1, 63999))]
)
def test_a_range_is_typed_as_people_write_it(text, range_):
    bench = Workbench()
    desk = connection(bench, bench.made("add connection", universes=text))
    assert (desk.first, desk.last) == range_


@pytest.mark.parametrize(
    ("args", "field"),
    [
        ({"universes": "9 to 3"}, "universes"),
        ({"universes": "0-4"}, "universes"),
        ({"universes": "the lot"}, "universes"),
        ({"universes": "5", "lands": "0"}, "lands"),
        ({"universes": "5", "lands": "64000"}, "lands"),
        ({"address": "10.0.0.300"}, "address"),
        ({"name": "DESK"}, "name"),
    ],
)
def test_what_is_no_connection_is_refused_at_its_field(args, field):
    bench = Workbench()
    bench.made("add connection", name="Desk")
    with pytest.raises(JobError) as wrong:
        bench.do("add connection", **args)
    assert wrong.value.field == field


def test_another_protocol_counts_its_universes_from_its_own_first():
    bench = Workbench()
    key = bench.made("add connection", universes="1-4", lands="9")
    bench.do("set connection", id=key, protocol="Art-Net")
    after = connection(bench, key)
    assert (after.first, after.last, after.lands) == (0, 3, 9)
    with pytest.raises(JobError, match="so already"):
        bench.do("set connection", id=key, protocol="Art-Net")


def test_one_alone_is_heard_until_it_is_gone():
    bench = Workbench()
    key = bench.made("add connection", name="Desk")
    assert bench.do("hear only", id=key).sentence == "Hear only Desk"
    assert bench.show.settings.only_connection == key
    assert bench.do("set connection", id=key, listen=False).sentence == "Silence Desk"
    bench.do("hear only", id=None)
    with pytest.raises(JobError):
        bench.do("hear only", id=None)
