"""What watchers are told: strips of all universes, what was touched, who wins each slot."""

import base64
import json

from sacn.messages.universe_discovery import UniverseDiscoveryPacket as Discovery

from tests.links.test_artnet import dmx
from tests.links.test_engine import ARTNET, SACN, connect, hear
from zarfwright.core.connections import Connection
from zarfwright.links.live.engine import Engine
from zarfwright.links.live.monitor import Monitor


def watching():
    engine = Engine(clock=lambda: 0.0)
    connect(engine, Connection("desk", "sACN"), Connection("bar", "Art-Net", first=0, last=3, lands=1))
    return engine, Monitor(engine)


def look(monitor, universe, now):
    return json.loads(monitor.look({universe}, now)[universe])


def test_what_is_touched_is_told_and_looked_for_anew_when_asked():
    engine, monitor = watching()
    hear(engine, 2, [0, 0, 0])
    first = look(monitor, None, 0.0)
    assert (first["universes"], first["moved"], first["settling"]) == ([2], [], True)
    hear(engine, 2, [0, 99, 0], sequence=1)
    told = look(monitor, None, 4.0)
    assert told["moved"] == [[2, 2, 0.0, 0, 99]]
    assert not told["settling"]
    assert base64.b64decode(told["strips"])[:2] == bytes([99, 0])
    monitor.begin_anew()
    hear(engine, 2, [0, 0, 0], sequence=2)
    look(monitor, None, 5.0)
    hear(engine, 2, [0, 7, 0], sequence=3)
    again = look(monitor, None, 5.2)
    assert (again["moved"], again["usual"]) == ([], 1)
    # Who asked can tell what is still of before.
    assert (first["began"], told["began"], again["began"]) == (0.0, 0.0, 5.0)


def test_who_wins_is_told_stretch_by_stretch():
    engine, monitor = watching()
    assert look(monitor, 1, 0.0)["winners"] == [[512, -1]]
    hear(engine, 1, [10] * 100, name="Quay")
    alone = look(monitor, 1, 0.1)
    assert ([one["name"] for one in alone["sources"]], alone["winners"]) == (["Quay"], [[512, 0]])
    engine.packet(ARTNET, bytes(dmx(universe=0, levels=[5] * 50 + [20] * 50)), "127.0.0.7", 0.0)
    both = look(monitor, 1, 0.2)
    assert [(one["protocol"], one["priority"]) for one in both["sources"]] == [("sACN", 100), ("Art-Net", 100)]
    assert both["winners"][:2] == [[50, 0], [100, 1]]


def test_each_watcher_is_told_of_the_universe_it_watches():
    engine, monitor = watching()
    hear(engine, 1, [1])
    hear(engine, 2, [2], name="Spare")
    told = {one: json.loads(text) for one, text in monitor.look({1, 2, None}, 0.0).items()}
    assert {one: [source["name"] for source in of["sources"]] for one, of in told.items()} == {
        1: ["Desk"], 2: ["Spare"], None: [],
    }  # fmt: skip
    assert told[1]["universes"] == told[None]["universes"] == [1, 2]


def test_what_a_source_says_it_sends_is_told_as_stretches_with_all_its_pages():
    engine, _ = watching()
    for page, universes in enumerate(((1, 2, 3, 7), (8, 20))):
        data = bytearray(Discovery(cid=tuple(b"q" * 16), sourceName="Quay", universes=universes).getBytes())
        data[118], data[119] = page, 1
        engine.packet(SACN, bytes(data), "127.0.0.7", 0.0)
    (told,) = engine.status(0.1)["offered"]
    assert (told["name"], told["address"], told["on"]) == ("Quay", "127.0.0.7", "127.0.0.1")
    assert told["universes"] == [(1, 3), (7, 8), (20, 20)]
